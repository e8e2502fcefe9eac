"""The survey as a job: what is asked before the walk, the walk, and what it comes to; resumed where it ended."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections import Counter
from collections.abc import AsyncIterator
from typing import Any

from grandferry.core.address import MADE_UP, Address, Scope, normal
from grandferry.core.errors import AddressError, FerryError
from grandferry.core.filetypes import looks_like_file
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.systems import recognised
from grandferry.net.fetch import Fetched, Fetcher
from grandferry.net.manners import REFUSALS, Polite
from grandferry.store import bodies, changes, secrets, stamps
from grandferry.store.db import unchecked
from grandferry.store.survey import given, met, runs, sounded, surveyed
from grandferry.work.jobs.context import Context, Stopped, access_of
from grandferry.work.records.pages import settle
from grandferry.work.rounds.stamping import survey_stamp
from grandferry.work.survey import closing, ownerlists
from grandferry.work.survey.access import CLOSED, verdict
from grandferry.work.survey.archive import Archive, ArchivePolite
from grandferry.work.survey.bounds import to_change
from grandferry.work.survey.building import Building
from grandferry.work.survey.frontier import Frontier
from grandferry.work.survey.reader import AnswerReader
from grandferry.work.survey.soundings import error_page, guesses_of, robots_say, walk_sitemaps
from grandferry.work.survey.spool import Spool
from grandferry.work.survey.takein import Taker
from grandferry.work.survey.twice import Twice, chosen
from grandferry.work.survey.walk import Walk

SITEMAP_CAP = 1000


class Survey:
    """One run."""

    def __init__(self, context: Context):
        self.context = context
        self.side = context.side
        self.crossing = context.crossing
        self._go_by_plan()
        start = self.scope.normal(self.here.start)
        assert start is not None
        self.start = start
        self.archive = str(context.params.get("archive", ""))  # the token of an uploaded WARC file
        self.only = int(context.params.get("only") or 0)  # an address to ask alone, and anew
        with context.writing():
            again = bool(context.params.get("again"))
            self.number = runs.last_run(self.side) if self.only else runs.open_run(self.side, again)
        self._set_out()
        self.spool = Spool(bodies.temporary(), self.side, self.number)
        self.twice = Twice(self.side, self.number)
        self.building: Building | None = None
        self.had: dict[str, tuple[int, Fetched]] = {}  # answers that a worker before this one was given

    def _go_by_plan(self) -> None:
        self.here = self.context.plan.side(self.side.name)
        self.bounds, self.manners = self.here.survey, self.here.manners
        self.scope: Scope = scope_of(self.here)

    def _set_out(self) -> None:
        self.frontier = Frontier(self.side, self.scope, self.number, self.bounds.endless)
        self.taker = Taker(self.context, self.frontier, self.start.host)
        self.reader = AnswerReader(self.scope)

    async def run(self) -> dict[str, Any]:
        started = time.monotonic()
        try:
            async with self._source() as fetcher:
                self.fetcher = fetcher
                await self._recognise()
                if not self.archive and (self.bounds.browser or self.bounds.browser_where_needed):
                    self.building = Building(self.bounds, self.scope, self.polite, self.reader, self.context.log)
                self._begin()
                self.reader.start()
                if isinstance(fetcher, Archive):
                    with self.context.writing():
                        self.frontier.add([(url, looks_like_file(url), 0, "archive") for url in fetcher.urls])
                self._take_up()
                await self._knock()
                self.walk = self._new_walk()
                try:
                    await self._sound()
                    await self._ask_twice()
                    if self.manners.at_once < 4:  # else the first answers would wait for their reader, unwritten
                        await self.reader.warm()
                    await self.walk.go()
                except Stopped:
                    self.walk.flush(force=True)  # what is done so far stays, and is counted
                    raise
                self.walk.flush(force=True)
        except Stopped:
            closing.close(self.context, self.start)
            self.spool.rest()
            raise
        finally:
            self.reader.close()
            if self.building is not None:
                await self.building.close()
        turned = self._turned_away()
        closing.close(self.context, self.start)
        self.spool.close()
        with self.context.writing():
            if self.only:
                pass  # the survey stands as it stood
            elif turned or len(self.frontier):
                runs.stop_run(self.side, self.number, self._why_stopped(turned))
            else:
                runs.close_run(self.side, self.number)
        summary = surveyed.summary(self.side)
        summary["seconds"] = round(time.monotonic() - started, 3)
        summary["not_visited"] = len(self.frontier) + turned.total()
        summary["run"] = self.number
        self.context.log(_told(summary))
        if self.twice.steady:
            self.context.log(
                f"Pages that differ only in what changes at every request, and count as unchanged: "
                f"{self.twice.steady:,}."
            )
        if self.number > 1:
            summary["changes"] = runs.runs(self.side)[-1].changes
        if len(self.frontier):
            summary["stopped_at_cap"] = self.bounds.max_pages
            self.context.log(self._why_stopped(turned), "warning")
        if turned:
            summary["left_alone"] = dict(turned)
        return summary

    def _turned_away(self) -> Counter[str]:
        """What was not had of each host that is left alone; what it turned us away with waits to be asked again."""
        if self.only:
            return Counter()
        with self.context.writing():
            again = runs.ask_again(self.side, self.number, self.polite.walls(), REFUSALS, str(self.start))
        return Counter(again) + Counter(waiting.host for waiting in self.walk.not_had())

    def _why_stopped(self, turned: Counter[str]) -> str:
        if len(self.frontier):
            return (
                f"Stopped at the cap of {self.bounds.max_pages:,} pages; {len(self.frontier):,} known addresses "
                "not visited."
            )
        return f"Not had: {turned.total():,} known addresses; {', '.join(sorted(turned))} turned us away."

    @contextlib.asynccontextmanager
    async def _source(self) -> AsyncIterator[Fetcher | Archive]:
        """Where answers come from: the site itself, or an archive of it (``polite`` is set to what asks it)."""
        if self.archive:
            with Archive(ownerlists.place(self.archive), self.scope, bodies.temporary()) as archive:
                self.polite: Polite | ArchivePolite = ArchivePolite(archive)
                yield archive
            return
        async with Fetcher(
            agent=self.manners.agent,
            hosts=self.scope.hosts | self.scope.file_hosts | frozenset(self.scope.aliases),
            below=self.scope.below_host,
            at_once=self.manners.at_once,
            timeout=self.manners.timeout,
            page_cap=self.bounds.max_page_bytes,
            file_cap=self.bounds.max_file_bytes,
            spill=bodies.temporary(),
            secrets=access_of(self.crossing),
        ) as fetcher:
            self.polite = Polite(fetcher, self.manners, self.here.scheme, self.context.log)
            yield fetcher

    def _begin(self) -> None:
        with self.context.writing():
            self.frontier.heed_scope()
            self.frontier.add([(str(self.start), False, 0, "start")])
            visits: dict[int, int] = {}  # a log and an analytics table count the same people: the larger figure holds
            for type_ in ("list", "analytics", "log"):
                counted = self.frontier.enter_listed(type_, given.addresses(self.side, type_), self.start.scheme)
                visits.update({id_: max(n, visits.get(id_, 0)) for id_, n in counted.items()})
            met.set_visits(self.crossing, visits)
            if self.only:
                self.frontier.confine(self.only)

    def _take_up(self) -> None:
        """What a worker that was killed had been given and had not yet written down need not be asked for again."""
        waiting = {line.url for line in (*self.frontier.queue, *self.frontier.files)}
        for number, got in self.spool.left():
            if got.url in waiting and got.url not in self.had:
                self.had[got.url] = (number, got)
                continue
            self.spool.done([number])
            if got.path is not None:
                got.path.unlink(missing_ok=True)

    def _new_walk(self) -> Walk:
        return Walk(
            context=self.context,
            start=self.start,
            at_once=self.manners.at_once,
            cap=self.bounds.max_pages,
            only=bool(self.only),
            frontier=self.frontier,
            polite=self.polite,
            building=self.building,
            reader=self.reader,
            taker=self.taker,
            twice=self.twice,
            spool=self.spool,
            had=self.had,
        )

    # --- asked before the walk ----------------------------------------------------------------------

    async def _recognise(self) -> None:
        """Let the starting rules of the system hold that the start page shows, before anything else is asked: while
        nobody has chosen any, in a first survey. They are part of the plan from then on."""
        if self.number > 1 or self.only or self.archive or self.bounds.preset or self.frontier.ids:
            return
        if any(secret.host == self.start.host for secret in secrets.secrets(self.crossing)):
            return  # it is knocked at first
        if not await self.polite.may(self.start.host, self.start.key):
            return
        got = await self.polite.get(str(self.start), self.start.host)
        if not got.status:
            return
        self.had[str(self.start)] = (0, got)
        found = recognised(guesses_of(got))
        if found is None:
            return
        plan = to_change(self.side)
        plan.side(self.side.name).survey.preset = found.name
        text = f"starting rules for {found.name}, recognised by {', '.join(found.marks)}"
        changes.change_plan(self.crossing, plan, changes.revision(self.crossing), "survey", text[:300])
        self.context.log(f"{text[0].upper()}{text[1:]}. Another system can be chosen under Soundings.")
        self._go_by_plan()
        self._set_out()

    async def _knock(self) -> None:
        """Ask the start address before anything else. Raises FerryError when the access given does not open it: then no
        page is fetched at all."""
        if self.archive:
            return
        kinds: set[str] = {s.kind for s in secrets.secrets(self.crossing) if s.host == self.start.host}
        if not kinds or not await self.polite.may(self.start.host, self.start.key):
            return
        await self.polite.wait(self.start.host)
        got = await self.fetcher.get(str(self.start))
        problem = verdict(got, self.start.host, kinds) if got.status in CLOSED else ""
        if problem:
            raise FerryError(problem)
        if any(line.url == str(self.start) for line in (*self.frontier.queue, *self.frontier.files)):
            self.had[str(self.start)] = (0, got)  # held against its capture when it is known what changes anyway
        elif got.path is not None:
            got.path.unlink(missing_ok=True)

    async def _sound(self) -> None:
        """Robots, sitemaps and the answer to a made-up address; what is found goes to the soundings. A run that is
        taken up again has asked them already."""
        start = normal(self.here.start)
        assert start is not None
        known = sounded.soundings(self.side).get("made-up address", {})
        if known.get("run") == self.number:
            self.taker.error_page = (known["near"], known["words_hash"])
            return

        async def ask(address: Address) -> Fetched:
            await self.polite.wait(address.host)
            return await self.fetcher.get(str(address))

        robots = await self.polite.robots(start.host)
        sitemaps: list[dict[str, Any]] = []
        if self.bounds.sitemaps:
            async for address, got, sitemap in walk_sitemaps(ask, self.scope, robots.sitemaps, start, SITEMAP_CAP):
                sitemaps.append(
                    {
                        "url": str(address),
                        "pages": len(sitemap.pages),
                        "parts": len(sitemap.sitemaps),
                        "fault": sitemap.fault,
                    }
                )
                if got is None:
                    continue
                pages = [a for a in (self.scope.normal(p) for p in sitemap.pages) if a is not None]
                how = "robots" if str(address) in robots.sitemaps else "sitemap"
                with self.context.writing():
                    self.frontier.add([(str(a), looks_like_file(a.path), 0, "sitemap") for a in pages])
                    self.frontier.add([(str(address), True, 0, how)])
                await self.walk.already(str(address), got)
        made_up = await ask(Address(start.scheme, start.host, MADE_UP, ""))
        self.taker.error_page = error_page(made_up)
        with self.context.writing():
            sounded.sound(self.side, "sitemaps", sitemaps)
            sounded.sound(self.side, "robots", robots_say(robots, self.manners.agent, start))
            near, words = self.taker.error_page
            said = {
                "status": made_up.status,
                "error": made_up.error,
                "near": near,
                "words_hash": words,
                "run": self.number,
            }
            sounded.sound(self.side, "made-up address", said)
        rules = sum(len(group.rules) for group in robots.groups)
        named = sum(sitemap["pages"] for sitemap in sitemaps)
        self.context.log(
            f"Rules in robots.txt: {rules:,}. Sitemaps: {len(sitemaps):,}, addresses in them: {named:,}. "
            f"Between two requests: {self.polite.pause_of(start.host):g} s, at once: {self.manners.at_once}."
        )

    async def _ask_twice(self) -> None:
        """Find out what changes at every request, before anything is held against its capture."""
        if self.number == 1 or self.only or self.archive or self.twice.known():
            return
        built = self.building.wants if self.building is not None else lambda key: False
        answers = await self.twice.ask(chosen(self.frontier.queue, built), self.polite)
        with self.context.writing():
            sounded.sound(self.side, "changing", self.twice.told())
        for url, got in answers:
            await self.walk.already(url, got)


def _told(summary: dict[str, Any]) -> str:
    """What a survey has found, as a line of the log."""
    parts = [f"{summary[name]:,} {name}" for name in ("pages", "files", "redirects", "failed")]
    kept_out = sum(summary["shut_out"].values())
    return (
        f"{summary['addresses']:,} addresses in {summary['seconds']:,.0f} s: {', '.join(parts)}; {kept_out:,} kept out."
    )


def run(context: Context) -> dict[str, Any]:
    """The survey job. Raises FerryError when the start address gives no page and none was found otherwise; the survey
    can then be gone on with, and asks it anew."""
    with unchecked():  # addresses, captures and references are numbered by the walk
        summary = asyncio.run(Survey(context).run())
    side, here = context.side, context.plan.side(context.side.name)
    if side.name == "old" and not context.params.get("only"):
        with context.writing():
            stamps.put(context.crossing, "survey", survey_stamp(context.crossing, context.plan))
    if side.name == "old":
        settle(context.crossing, at_its_end=True)
    start = surveyed.address_by_url(side, str(scope_of(here).normal(here.start)))
    if start is None or summary["pages"]:
        return summary
    if start.state == "failed":
        problem = AddressError(f"The start address {start.url} gives no answer. {start.reason}")
    elif start.type == "refused":
        problem = AddressError(
            f"The start address {start.url} holds no content: {start.reason}.",
            "Give access under Scope & manners, or another start.",
        )
    else:
        return summary
    with context.writing():
        runs.begin_anew(side, summary["run"], start.id)
    raise problem


__all__ = ["Survey", "run"]
