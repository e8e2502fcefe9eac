"""Manners towards each host: its robots.txt, the delay between requests, further tries, slowing down when asked."""

from __future__ import annotations

import asyncio
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime

from grandferry.core.address import normal
from grandferry.core.plan import Manners
from grandferry.core.retry import retry_after
from grandferry.core.survey.refusals import TURNS_AWAY
from grandferry.core.survey.robots import SIZE_CAP, Robots, parse_robots

from .fetch import Fetched, Fetcher

TRIES = 3
ALONE = "left alone"  # the kind of an answer that was not asked for
BACKOFF = 0.5  # seconds
LONGEST = 600.0  # seconds that one address may take, over all tries
ROBOTS_HOPS = 5  # RFC 9309 section 2.3.1.2
SHUT = "User-agent: *\nDisallow: /"
# so many in a row, and a host is left alone: being too quick is told sooner than a folder that is closed to us
REFUSALS = {401: 60, 403: 60, 407: 10, 429: 10, 503: 10}
ASK_FOR_A_KEY = (401, 407)
# what answers 200 and still is a refusal: so many checks of the visitor, or the same page whatever was asked, in a row
TURNED, ALIKE = 20, 40
WARY = 8  # … and after so many the host is asked more slowly
AT_THE_END = 20  # refusals in a row, or pages alike, with which a survey ends: as likely a ban as the site's own answer
BEGUN = 2  # pages had before, without which they are the site's own answer
STEP = 0.5  # seconds added between two requests at a time, and
SLOWEST = 30.0  # … at the most
CALMER = 20  # answers after which a slowed host is trusted a little more


@dataclass(slots=True)
class _Host:
    robots: Robots | None = None
    next: float = 0.0
    delay: float = 0.0
    slowed: float = 0.0
    good: int = 0  # answers since the last refusal
    refused: int = 0  # refusals in a row
    banned: int = 0  # … that do not ask for a key
    turned: int = 0  # answers in a row that checked the visitor, or held nothing
    alike: int = 0  # pages in a row with the same bytes
    last: str = ""  # the hash of the last page
    others: int = 0  # pages with content, each another than the one before
    wall: str = ""  # that of the page it gave whatever was asked, when it is left alone for that
    alone: bool = False
    asked: asyncio.Lock = field(default_factory=asyncio.Lock)


class Polite:
    """A fetcher with manners. ``scheme`` is that of the old site; ``say`` takes lines for the log."""

    def __init__(self, fetcher: Fetcher, manners: Manners, scheme: str, say: Callable[[str], None]):
        self._fetcher = fetcher
        self._manners = manners
        self._scheme = scheme
        self._say = say
        self._hosts: dict[str, _Host] = {}
        self._chance = random.Random()
        self._bytes_free = 0.0  # the moment at which the bytes fetched so far are paid for

    def _host(self, host: str) -> _Host:
        known = self._hosts.get(host)
        if known is None:
            known = self._hosts[host] = _Host(delay=self._manners.delay)
        return known

    async def robots(self, host: str) -> Robots:
        """The host's robots.txt, asked once. 4xx allows everything, 5xx and silence forbid it (RFC 9309 section
        2.3.1); a host without any connection is left to the pages themselves, which say so one by one."""
        state = self._host(host)
        async with state.asked:
            if state.robots is None:
                await self.wait(host)
                got = await self._robots_answer(host)
                if 200 <= got.status < 300 and not got.error:
                    state.robots = parse_robots(got.body.decode("utf-8", "replace"))
                elif got.status >= 500 or (got.error and not got.status and got.kind not in ("unreachable", "refused")):
                    state.robots = parse_robots(SHUT)
                    self._say(f"robots.txt of {host} gives no answer, so the host is left alone (RFC 9309).")
                else:
                    state.robots = Robots()
                if self._manners.robots == "obey":
                    longer = state.robots.delay(self._manners.agent) - state.delay
                    if longer > 0:
                        state.delay += longer
                        state.next += longer
        return state.robots

    async def _robots_answer(self, host: str) -> Fetched:
        url = f"{self._scheme}://{host}/robots.txt"
        got = await self._fetcher.get(url, whole=60, first=SIZE_CAP)
        for _ in range(ROBOTS_HOPS):
            target = normal(got.header("location"), got.url) if 300 <= got.status < 400 else None
            if target is None or target.host != host:
                break
            got = await self._fetcher.get(str(target), whole=60, first=SIZE_CAP)
        return got

    async def may(self, host: str, key: str) -> bool:
        """Whether the site's rules (or the owner's word) let ``key`` be fetched."""
        robots = self._host(host).robots or await self.robots(host)
        return self._manners.robots != "obey" or robots.allows(self._manners.agent, key)

    async def wait(self, host: str) -> None:
        """Keep the delay between two requests to a host."""
        state = self._host(host)
        moment = time.monotonic()
        at = max(moment, self._bytes_free)
        pause = state.delay + state.slowed
        if pause > 0 or state.next > at:
            if self._manners.spread:
                pause += self._chance.uniform(0, self._manners.spread)
            at = max(at, state.next)
            state.next = at + pause
        if at > moment:
            await asyncio.sleep(at - moment)

    def pause_of(self, host: str) -> float:
        """Seconds between two requests to a host, as its robots.txt and its refusals have made them."""
        state = self._host(host)
        return state.delay + state.slowed

    def left_alone(self, host: str) -> bool:
        """Whether a host has refused so often in a row that it is not asked again in this run."""
        return self._host(host).alone

    def walls(self) -> dict[str, str]:
        """The hosts that turn us away, each with the hash of the page that it gives whatever is asked, or "": those
        left alone, and those that gave pages at first and to the end nothing but refusals."""
        found = {}
        for host, state in self._hosts.items():
            wall = state.wall or (state.last if state.alike >= AT_THE_END else "")
            to_the_end = max(state.banned, state.alike, state.turned) >= AT_THE_END
            if state.alone or (to_the_end and state.others - bool(wall) >= BEGUN):
                found[host] = wall
        return found

    def _heed(self, host: str, state: _Host, got: Fetched) -> None:
        """Go slower after a refusal for being too quick, less slow again after a while; notice a host that only
        refuses."""
        if self._manners.bytes_per_second:
            begun = max(time.monotonic(), self._bytes_free)
            self._bytes_free = begun + got.size / self._manners.bytes_per_second
        if got.status in REFUSALS:
            state.good = 0
            state.refused += 1
            state.banned = 0 if got.status in ASK_FOR_A_KEY else state.banned + 1
            if state.refused % WARY == 0 and got.status not in (429, 503):
                self._slow(host, state, f"refused {state.refused} times in a row (last {got.status})")
            if state.refused >= REFUSALS[got.status] and not state.alone:
                state.alone = True
                self._say(
                    f"{host} refused {state.refused} times in a row (last {got.status}), so it is left alone in this "
                    "run."
                )
        elif got.status:
            state.refused = state.banned = 0
            state.good += 1
            if state.slowed and state.good % CALMER == 0:
                state.slowed = 0.0 if state.slowed < 0.1 else state.slowed / 2

    def _slow(self, host: str, state: _Host, why: str) -> None:
        state.good = 0
        state.slowed = min(state.slowed + STEP, SLOWEST)
        self._say(f"{host} {why}: going slower from now on.")

    def showed(self, host: str, refusal: str, digest: str) -> None:
        """Heed what an answer with 200 turned out to be: ``refusal`` why it is no content ("" when it is), ``digest``
        that of its body. A host that turns us away in this manner is asked more slowly, then left alone."""
        state = self._host(host)
        if not refusal and digest != state.last:  # content, as nearly all is
            state.turned = state.alike = 0
            state.others += 1
            state.last = digest
            return
        state.turned = state.turned + 1 if refusal in TURNS_AWAY else 0
        state.alike = state.alike + 1 if digest == state.last else 0
        state.last = digest
        for number, most, what in (
            (state.turned, TURNED, "checked the visitor instead of answering"),
            (state.alike, ALIKE, "gave the same page whatever was asked"),
        ):
            if number and number % WARY == 0 and number < most:
                self._slow(host, state, f"{what}, {number} times in a row")
            if number >= most and not state.alone:
                state.alone = True
                state.wall = digest if most == ALIKE else ""
                self._say(f"{host} {what}, {number} times in a row, so it is left alone in this run.")

    def unchanged(self, host: str) -> None:
        """Heed that a host answered with what it had answered in an earlier survey."""
        state = self._host(host)
        state.turned = state.alike = 0
        state.others += 1
        state.last = ""

    def walled(self, host: str, digest: str, number: int) -> None:
        """Leave a host alone that gives the page with this hash whatever is asked, so many times."""
        state = self._host(host)
        state.alone, state.wall = True, digest
        self._say(f"{host} gave the same page whatever was asked, {number} times, so it is left alone in this run.")

    async def get(self, url: str, host: str, headers: dict[str, str] | None = None) -> Fetched:
        """Fetch with a few more tries where that may help. 429 and 503 make every later request to the host slower."""
        state = self._host(host)
        left = LONGEST
        for attempt in range(1, TRIES + 1):
            await self.wait(host)
            if state.alone:  # it has been since this was begun
                return Fetched(url, kind=ALONE, error=f"{host} is left alone in this run.")
            got = await self._fetcher.get(url, headers=headers, whole=left)
            left -= got.seconds
            if self._manners.at_once == 1:  # one after the other: the wait begins when the answer is there
                state.next = max(state.next, time.monotonic() + state.delay + state.slowed)
            self._heed(host, state, got)
            if got.status in (429, 503):
                pause = retry_after(got.header("retry-after"), BACKOFF * 2**attempt, datetime.now(UTC))
                state.slowed = min(state.slowed + STEP, SLOWEST)
                state.next = max(state.next, time.monotonic() + pause)
                self._say(f"{host} answers {got.status}: waiting {pause:.3g} s and going slower from now on.")
            if attempt == TRIES or left < 1 or self.left_alone(host):
                break
            if got.status in (429, 503):
                continue  # ``wait`` keeps the pause, for all who ask this host
            if got.kind in ("unreachable", "slow") or (got.kind == "broken" and not got.status):
                await asyncio.sleep(BACKOFF * attempt)
            else:
                break
        return got
