"""The walk of a survey: take what waits, ask for it, read the answers, and write them down a batch at a time."""

from __future__ import annotations

import asyncio
import contextlib
import time
from dataclasses import dataclass, field

from grandferry.core.address import Address
from grandferry.core.survey.refusals import EMPTY
from grandferry.net.fetch import Fetched
from grandferry.net.manners import ALONE, REFUSALS, Polite
from grandferry.store.survey import runs, sounded
from grandferry.store.survey.met import Waiting
from grandferry.work.jobs.context import Context
from grandferry.work.survey.archive import ArchivePolite
from grandferry.work.survey.building import Building
from grandferry.work.survey.frontier import Frontier
from grandferry.work.survey.onepage import OnePage
from grandferry.work.survey.reader import AnswerReader
from grandferry.work.survey.reading import Reading
from grandferry.work.survey.soundings import start_says
from grandferry.work.survey.spool import Spool
from grandferry.work.survey.takein import Answered, Taker, conditions
from grandferry.work.survey.twice import Twice

FLUSH_ROWS = 96  # answers taken in at once
FLUSH_SECONDS = 0.1
AHEAD = 16  # times as many addresses as are asked at once may be under way: asked, read, not yet written down
HELD_BYTES = 64_000_000  # of answers under way


@dataclass(kw_only=True)
class Walk:
    """One walk over what waits in ``frontier``. All database work happens in this process; reading pages happens in a
    child."""

    context: Context
    start: Address
    at_once: int
    cap: int  # pages
    only: bool  # one address is asked, whatever the cap
    frontier: Frontier
    polite: Polite | ArchivePolite
    building: Building | None
    reader: AnswerReader
    taker: Taker
    twice: Twice
    spool: Spool
    had: dict[str, tuple[int, Fetched]]  # answers that are there already, and where they are spooled
    pending: list[Answered] = field(default_factory=list)
    left: list[Waiting] = field(default_factory=list)  # of hosts that are left alone; they wait for another run
    fetched: int = 0
    paused: bool = False
    walking: int = 0  # addresses asked, and not yet answered and read
    on_pages: int = 0  # of them, those that are no files
    held: int = 0  # bytes of answers that are not yet written down

    def __post_init__(self) -> None:
        self.pages = self.frontier.pages
        self.flushed = time.monotonic()
        number = self.at_once * AHEAD if self.at_once >= 4 else self.at_once
        self.walkers, self.enough = number, min(number, FLUSH_ROWS)
        self.full = asyncio.Event()  # all walkers wait for what they have to be written down
        self.written = asyncio.Event()
        self.shown = False  # the start answered with a page of its own
        again = self.frontier.run > 1 and not self.only
        if again and isinstance(self.polite, Polite):
            self.one_page: OnePage | None = OnePage(self.context.side, self.start, self.polite, self.at_once)
        else:
            self.one_page = None

    async def already(self, url: str, got: Fetched) -> None:
        """Take an answer had in the soundings as the address's capture, so that it is not asked for again."""
        waiting = self.frontier.take(url)
        if waiting is not None:
            await self.keep(waiting, got, runs.before(waiting.id) if waiting.again else None)
        elif got.path is not None:
            got.path.unlink(missing_ok=True)

    async def go(self) -> None:
        """Walkers take addresses from the queue until none is left. Each holds on to what it fetched until that is
        written down. More of them than may ask at once, so that some ask while others wait."""
        walkers = [asyncio.create_task(self._walker()) for _ in range(self.walkers)]
        try:
            while self.walking or self.pending or self._has_more() or await self._settle():
                if self.context.paused != self.paused:
                    self.paused = self.context.paused
                    self.context.log("Paused; what is on its way is still taken in." if self.paused else "Goes on.")
                with contextlib.suppress(TimeoutError):
                    await asyncio.wait_for(self.full.wait(), FLUSH_SECONDS)
                self.full.clear()
                for walker in walkers:
                    if walker.done():
                        walker.result()
                self.flush(force=not self.walking or len(self.pending) >= self.enough)
                self._show(len(self.frontier) + self.walking)
        finally:
            for walker in walkers:
                walker.cancel()
            await asyncio.gather(*walkers, return_exceptions=True)
        self._show(len(self.frontier), force=True)

    async def _walker(self) -> None:
        while True:
            hold = self.context.paused or self.held > HELD_BYTES
            waiting = None if hold else self.frontier.next(pages=self._may_go_on())
            if waiting is not None:
                self.walking += 1
                self.on_pages += not waiting.wants_file
                try:
                    await self._one(waiting)
                finally:
                    self.walking -= 1
                    self.on_pages -= not waiting.wants_file
                if not self.walking or len(self.pending) >= self.enough:
                    self.full.set()
            await self.written.wait()  # of the batch that what was fetched will be written down in

    def _show(self, waiting: int, force: bool = False) -> None:
        self.context.progress(
            force=force,
            paused=int(self.paused),
            done=self.fetched,
            all=len(self.frontier.ids),
            waiting=waiting,
            failed=self.taker.failed,
        )

    def _may_go_on(self) -> bool:
        """Whether another page may be asked for: those on their way count, so that the cap is kept exactly."""
        return self.only or self.pages + self.on_pages < self.cap

    def _has_more(self) -> bool:
        return bool(self.frontier.files) or (bool(self.frontier.queue) and self._may_go_on())

    async def _one(self, waiting: Waiting) -> None:
        if not await self.polite.may(waiting.host, waiting.key):
            alone = Fetched(waiting.url, kind="robots", error="Left alone by robots.txt.")
            self.pending.append(Answered(waiting, alone, None, None))
            return
        if self.polite.left_alone(waiting.host):
            self.left.append(waiting)
            return
        before = runs.before(waiting.id) if waiting.again else None
        spooled, had = self.had.pop(waiting.url, (0, None))
        if had is None and self.building is not None:
            had = self.building.had(waiting.url)
        asked = None if self._to_build(waiting, before) else conditions(before)
        got = had or await self.polite.get(waiting.url, waiting.host, asked)
        if got.kind == ALONE:
            self.left.append(waiting)
            return
        if had is None and self.building is not None:
            self.building.share(got)
        if got.status and not spooled and not isinstance(self.polite, ArchivePolite):
            spooled = self.spool.keep(got)
        await self.keep(waiting, got, before, spooled)

    def _to_build(self, waiting: Waiting, before: runs.Before | None) -> bool:
        """Whether a page that was captured is to be captured through a browser now, and was not before."""
        named = self.building is not None and self.building.wants(waiting.key)
        return named and before is not None and not before.rendered

    async def keep(self, waiting: Waiting, got: Fetched, before: runs.Before | None, spooled: int = 0) -> None:
        """Read an answer, and take it in with the next batch."""
        self.fetched += 1
        self.held += len(got.body)
        if waiting.url == str(self.start) and got.status and got.status != 304:
            with self.context.writing():
                known = sounded.soundings(self.context.side).get("start") or {}
                sounded.sound(self.context.side, "start", known | start_says(got, self.start.key))
        reading: Reading | None = None
        same = before is not None and (got.status == 304 or (got.status == before.status and got.digest == before.body))
        if same and not self._to_build(waiting, before):
            got.status = 304  # whatever the server calls it
            if got.path is not None:
                got.path.unlink(missing_ok=True)
                got.path = None
        elif got.status and not got.error and (got.body or got.path):
            if 300 <= got.status < 400 or got.status in REFUSALS:
                pass  # bodies of redirects and refusals are nobody's content
            elif got.path is not None:
                reading = Reading("file", got.digest)
            else:
                reading = await self.reader.read(got, self.twice.earlier(got, before))
                if reading.steady and not self._to_build(waiting, before):
                    self.twice.steady += 1
                    got.status, reading = 304, None  # what it says is what it said
                elif self.building is not None and got.status == 200 and reading.type == "page":
                    reading = await self.building.as_built(waiting.key, got, reading)
        await self._take_in(Answered(waiting, got, reading, before, spooled))

    async def _take_in(self, one: Answered) -> None:
        """Have an answer written down with the next batch, when it is not held."""
        got, reading, host = one.got, one.reading, one.waiting.host
        if got.status == 304:
            self.polite.unchanged(host)
            self.shown = self.shown or one.waiting.url == str(self.start)
        elif got.status == 200 and (reading is None or reading.type == "page"):
            self.pages += 1
            if one.waiting.url == str(self.start):
                self.shown = reading is not None and not self.taker.is_error_page(one)
            if not self._its_own(one):
                refused = reading.refusal if reading is not None else EMPTY
                self.polite.showed(host, refused, reading.digest if reading is not None else "")
        if self.one_page is None:
            self.pending.append(one)
            return
        free = await self.one_page.heed(one)
        self.pending += free
        self.held += sum(len(other.got.body) for other in free) - len(got.body)

    def _its_own(self, one: Answered) -> bool:
        """Whether an answer is the site's own, however often in a row it comes: what it gives for what is not there,
        or what was found to be."""
        if self.shown and self.taker.is_error_page(one):
            return True
        return self.one_page is not None and self.one_page.minds(one)

    async def _settle(self) -> bool:
        """Find out about what is still held; whether some of it is to be taken in, and may lead further."""
        if self.one_page is None:
            return False
        free = await self.one_page.settle()
        self.pending += free
        self.held += sum(len(one.got.body) for one in free)
        return bool(free)

    def not_had(self) -> list[Waiting]:
        """The addresses that wait for another run, since their host turns us away."""
        return [*self.left, *(self.one_page.left if self.one_page is not None else ())]

    def flush(self, force: bool = False) -> None:
        """Take in what was fetched, when there is enough of it or it has waited long enough."""
        moment = time.monotonic()
        if self.pending and (force or len(self.pending) >= FLUSH_ROWS or moment - self.flushed > FLUSH_SECONDS):
            batch, self.pending = self.pending, []
            self.flushed = moment
            self.taker.take(batch)
            self.held -= sum(len(one.got.body) for one in batch)
            self.spool.done([one.spooled for one in batch if one.spooled])
        written, self.written = self.written, asyncio.Event()
        written.set()
