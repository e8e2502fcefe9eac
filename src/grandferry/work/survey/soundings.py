"""Soundings: what can be found out about a site from a handful of requests, before its survey. Nothing of it enters the
account, so a trial leaves the survey's counts as they are."""

from __future__ import annotations

import asyncio
import time
from collections import deque
from collections.abc import AsyncIterator, Awaitable, Callable
from dataclasses import asdict, dataclass
from typing import Any

from grandferry.core.address import MADE_UP, Address, Scope, normal, www
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import looks_like_file
from grandferry.core.survey.facts import Facts
from grandferry.core.survey.fingerprint import apart
from grandferry.core.survey.glance import Glance, glance
from grandferry.core.survey.refusals import SIGN_IN, refusal
from grandferry.core.survey.robots import Robots
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.systems import Guess, guess
from grandferry.net.fetch import Fetched, Fetcher
from grandferry.net.manners import Polite
from grandferry.ports.sources.sitemap import Sitemap, read_sitemap
from grandferry.store.survey import sounded
from grandferry.work.jobs.context import Context, access_of
from grandferry.work.survey.access import verdict
from grandferry.work.survey.reading import is_html

SITEMAPS = 50  # looked into for the estimate
HOPS = 5
SAME = 4  # bits in which two pages may differ and still be one
SAME_NAMED = 12  # … that have one title and the same headings: times and counters differ at every request


@dataclass(slots=True)
class TrialPage:
    """One page of the trial."""

    url: str
    status: int
    title: str
    words: int
    links: int
    bytes: int
    seconds: float
    encoding: str
    note: str


def look(got: Fetched) -> Glance | None:
    """What an answer's page says at a glance, None when it is no page that can be read."""
    if got.error or not is_html(got.mime, got.body):
        return None
    try:
        return glance(decode(got.body, got.header("content-type")).text)
    except FerryError:
        return None


def guesses_of(got: Fetched) -> list[Guess]:
    """What systems may have made the page of an answer."""
    seen = look(got)
    if seen is None:
        return []
    return guess(seen.facts.generator, decode(got.body, got.header("content-type")).text[:400_000], got.headers)


def start_says(got: Fetched, key: str, problem: str = "") -> dict[str, Any]:
    """What the answer of the start address (``key``) says of the site; ``problem``: why access was refused."""
    decoded = decode(got.body, got.header("content-type"))
    seen = look(got)
    facts = seen.facts if seen else None
    guesses = guesses_of(got)
    login = problem if got.status in (401, 403) else ""
    if seen is not None and facts is not None and not login:
        why = refusal(key, facts.title, facts.headings, seen.seen, facts.words, seen.asks_password)
        login = "the start page asks to sign in" if why == SIGN_IN else why
    return {
        "status": got.status,
        "title": facts.title if facts else "",
        "language": facts.language if facts else "",
        "encoding": decoded.encoding,
        "encoding decided by": decoded.how,
        "encoding doubtful": decoded.doubtful,
        "words": facts.words if facts else 0,
        "generator": facts.generator if facts else "",
        "server": got.header("server"),
        "needs scripts": facts.built_by_scripts if facts else False,
        "login": login,
        "systems": [asdict(g) for g in guesses],
    }


def error_page(made_up: Fetched) -> tuple[str, str]:
    """What tells a site's error page when an address that cannot exist is answered with 200: its fingerprint and the
    hash of its words; ("", "") when such an address is rightly refused."""
    seen = look(made_up) if made_up.status == 200 else None
    return (seen.facts.near, seen.facts.words_hash) if seen else ("", "")


def robots_say(robots: Robots, agent: str, start: Address) -> dict[str, Any]:
    """What a robots.txt says to us, for the soundings."""
    return {
        "delay": robots.delay(agent),
        "sitemaps": robots.sitemaps,
        "rules": sum(len(group.rules) for group in robots.groups),
        "start allowed": robots.allows(agent, start.key),
    }


async def walk_sitemaps(
    ask: Callable[[Address], Awaitable[Fetched]], scope: Scope, named: list[str], start: Address, most: int
) -> AsyncIterator[tuple[Address, Fetched | None, Sitemap]]:
    """All sitemaps of a site, those that indexes name included: from robots.txt, else the usual place. The answer is
    None when a named one cannot be had; its fault says why."""
    queue = deque(named or [f"{start.scheme}://{start.host}/sitemap.xml"])
    seen: set[str] = set()
    while queue and len(seen) < most:
        address = scope.normal(queue.popleft(), str(start))
        if address is None or str(address) in seen:
            continue
        if not scope.gives_pages(address.host) and address.host not in scope.file_hosts:
            continue
        seen.add(str(address))
        got = await ask(address)
        if got.status != 200 or got.error:
            if named:
                yield address, None, Sitemap((), (), got.error or f"answers {got.status}")
            continue
        sitemap = read_sitemap(got.path.read_bytes() if got.path else got.body)
        queue.extend(sitemap.sitemaps)
        yield address, got, sitemap


class Soundings:
    def __init__(self, context: Context, fetcher: Fetcher):
        here = context.plan.side(context.side.name)
        self.context = context
        self.manners = here.manners
        self.scope = scope_of(here)
        start = normal(here.start)
        assert start is not None
        self.start: Address = start
        self.fetcher = fetcher
        self.polite = Polite(fetcher, here.manners, here.scheme, context.log)
        self.done = 0

    async def ask(self, url: str, host: str) -> Fetched:
        await self.polite.wait(host)
        got = await self.fetcher.get(url, whole=60)
        self.done += 1
        self.context.progress(done=self.done)
        return got

    async def all(self, pages: int) -> dict[str, Any]:
        """Every sounding by name. Raises FerryError when the start address gives nothing to sound."""
        host = self.start.host
        got = await self.ask(str(self.start), host)
        problem = verdict(got, host, set())
        if problem and got.status not in (401, 403):
            raise FerryError(problem)
        found: dict[str, Any] = {"start": start_says(got, self.start.key, problem)}
        robots = await self.polite.robots(host)
        found["robots"] = robots_say(robots, self.manners.agent, self.start)
        found["variants"] = await self._variants(got)
        made_up = await self.ask(f"{self.start.scheme}://{host}{MADE_UP}", host)
        found["made-up address"] = {"status": made_up.status, "error": made_up.error}
        count, sitemaps = await self._sitemaps(found["robots"]["sitemaps"])
        found["sitemaps"] = sitemaps
        trial = await self._trial(got, pages)
        found["trial"] = [asdict(page) for page in trial]
        found["estimate"] = self._estimate(count, got, trial)
        return found

    async def _variants(self, first: Fetched) -> list[dict[str, Any]]:
        """The start under the other scheme, and with and without www: what each says, and whether it is the same
        page."""
        host, _, port = self.start.host.partition(":")
        names = [host, www(host)]
        schemes = ("https", "http") if not port else (self.start.scheme,)
        at = f":{port}" if port else ""
        mine = look(first)
        found = []
        for scheme in schemes:
            for name in names:
                if (scheme, name) == (self.start.scheme, host):
                    continue
                url = f"{scheme}://{name}{at}{self.start.key}"
                got = await self.ask(url, self.start.host)  # one server by other names: it waits as for its own
                found.append({"url": url, **self._same(got, url, mine)})
        return found

    def _same(self, got: Fetched, url: str, mine: Glance | None) -> dict[str, Any]:
        if got.error:
            return {"status": got.status, "says": f"no answer: {got.error}", "same": False}
        target = normal(got.header("location"), url) if 300 <= got.status < 400 else None
        if target is not None:
            here = (target.host, target.path) == (self.start.host, self.start.path)
            return {"status": got.status, "says": f"redirects to {target}", "same": here}
        seen = look(got)
        same = bool(seen and mine and _one_page(seen.facts, mine.facts))
        return {"status": got.status, "says": "the same page" if same else "another page", "same": same}

    async def _sitemaps(self, named: list[str]) -> tuple[int, list[dict[str, Any]]]:
        async def ask(address: Address) -> Fetched:
            return await self.ask(str(address), address.host)

        found = []
        async for address, got, sitemap in walk_sitemaps(ask, self.scope, named, self.start, SITEMAPS):
            found.append(
                {
                    "url": str(address),
                    "pages": len(sitemap.pages),
                    "parts": len(sitemap.sitemaps),
                    "fault": sitemap.fault,
                }
            )
            if got is not None and got.path is not None:
                got.path.unlink(missing_ok=True)
        return sum(int(row["pages"]) for row in found), found

    async def _trial(self, first: Fetched, most: int) -> list[TrialPage]:
        """The first pages as the survey would read them; nothing of them is kept."""
        queue: deque[Address] = deque([self.start])
        seen = {str(self.start)}
        made: list[TrialPage] = []
        while queue and len(made) < most:
            at = queue.popleft()
            if not await self.polite.may(at.host, at.key):
                continue
            got = first if at == self.start else await self.ask(str(at), at.host)
            page = look(got)
            encoding = decode(got.body, got.header("content-type")) if page else None
            note = got.error or (f"redirects to {got.header('location')}" if 300 <= got.status < 400 else "")
            if page is not None:
                facts = page.facts
                why = refusal(at.key, facts.title, facts.headings, page.seen, facts.words, page.asks_password)
                note = note or why or ("content may be built in the browser" if facts.built_by_scripts else "")
                for link in page.links:
                    address = self.scope.normal(link.raw.strip(), str(at))
                    if address is None or link.wants_file or looks_like_file(address.path) or str(address) in seen:
                        continue
                    if not self.scope.shut_out(address, is_file=False):
                        seen.add(str(address))
                        queue.append(address)
            made.append(
                TrialPage(
                    str(at),
                    got.status,
                    page.facts.title if page else "",
                    page.facts.words if page else 0,
                    page.facts.links if page else 0,
                    got.size,
                    round(got.seconds, 3),
                    encoding.encoding if encoding else "",
                    note or (encoding.doubtful if encoding else ""),
                )
            )
        self.known = len(seen)
        return made

    def _estimate(self, in_sitemaps: int, first: Fetched, trial: list[TrialPage]) -> dict[str, Any]:
        """Pages at the least, seconds at these manners, and bytes of their markup; from sitemaps and the trial."""
        pages = max(in_sitemaps, self.known, 1)
        manners = self.manners
        answers = [page.seconds for page in trial] or [first.seconds]
        sizes = [page.bytes for page in trial] or [first.size]
        pause = max(manners.delay + manners.spread / 2, self.polite.pause_of(self.start.host))
        each = max(pause, sum(answers) / len(answers) / manners.at_once)
        return {
            "pages": pages,
            "from": "sitemaps" if in_sitemaps >= self.known else "links of the first pages",
            "seconds": round(pages * each),
            "bytes": round(pages * sum(sizes) / len(sizes)),
        }


def _one_page(one: Facts, other: Facts) -> bool:
    if one.words_hash == other.words_hash:
        return True
    named = (one.title, one.headings) == (other.title, other.headings)
    return bool(one.near and other.near and apart(one.near, other.near) <= (SAME_NAMED if named else SAME))


async def _run(context: Context, pages: int) -> dict[str, Any]:
    here = context.plan.side(context.side.name)
    start = normal(here.start)
    assert start is not None
    names = {start.host, www(start.host), *here.site.aliases, *here.site.hosts, *here.site.file_hosts}
    async with Fetcher(
        agent=here.manners.agent,
        hosts=frozenset(names),
        timeout=here.manners.timeout,
        secrets=access_of(context.crossing),
    ) as fetcher:
        return await Soundings(context, fetcher).all(pages)


def run(context: Context) -> dict[str, Any]:
    """The job that takes soundings; params pages: how many pages the trial reads (0 to 50)."""
    began = time.monotonic()
    found = asyncio.run(_run(context, max(0, min(50, int(context.params.get("pages", 4))))))
    with context.writing():
        for name, content in found.items():
            sounded.sound(context.side, name, content)
    return {
        "pages": found["estimate"]["pages"],
        "trial": len(found["trial"]),
        "seconds": round(time.monotonic() - began, 1),
    }
