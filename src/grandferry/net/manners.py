"""Manners towards each host: its robots.txt, the delay between requests, further tries, slowing down when asked."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from grandferry.core.address import normal
from grandferry.core.plan import Manners
from grandferry.core.survey.robots import SIZE_CAP, Robots, parse_robots

from .fetch import Fetched, Fetcher

TRIES = 3
BACKOFF = 0.5  # seconds
LONGEST_PAUSE = 120.0  # seconds that a Retry-After is heeded for
ROBOTS_HOPS = 5  # RFC 9309 section 2.3.1.2
SHUT = "User-agent: *\nDisallow: /"


@dataclass(slots=True)
class _Host:
    robots: Robots | None = None
    next: float = 0.0
    delay: float = 0.0
    slowed: float = 0.0
    asked: asyncio.Lock = field(default_factory=asyncio.Lock)


class Polite:
    """A fetcher with manners. ``scheme`` is that of the old site; ``say`` takes lines for the log."""

    def __init__(self, fetcher: Fetcher, manners: Manners, scheme: str, say: Callable[[str], None]):
        self._fetcher = fetcher
        self._manners = manners
        self._scheme = scheme
        self._say = say
        self._hosts: dict[str, _Host] = {}

    def _host(self, host: str) -> _Host:
        return self._hosts.setdefault(host, _Host(delay=self._manners.delay))

    async def robots(self, host: str) -> Robots:
        """The host's robots.txt, asked once. 4xx allows everything, 5xx and silence forbid it (RFC 9309 section
        2.3.1); a host without any connection is left to the pages themselves, which say so one by one."""
        state = self._host(host)
        async with state.asked:
            if state.robots is None:
                got = await self._robots_answer(host)
                if 200 <= got.status < 300 and not got.error:
                    state.robots = parse_robots(got.body[:SIZE_CAP].decode("utf-8", "replace"))
                elif got.status >= 500 or (got.error and not got.status and got.kind != "unreachable"):
                    state.robots = parse_robots(SHUT)
                    self._say(f"robots.txt of {host} gives no answer, so the host is left alone (RFC 9309).")
                else:
                    state.robots = Robots()
                if self._manners.robots == "obey":
                    state.delay = max(state.delay, state.robots.delay(self._manners.agent))
        return state.robots

    async def _robots_answer(self, host: str) -> Fetched:
        url = f"{self._scheme}://{host}/robots.txt"
        got = await self._fetcher.get(url, whole=60)
        for _ in range(ROBOTS_HOPS):
            target = normal(got.header("location"), got.url) if 300 <= got.status < 400 else None
            if target is None or target.host != host:
                break
            got = await self._fetcher.get(str(target), whole=60)
        return got

    async def may(self, host: str, key: str) -> bool:
        """Whether the site's rules (or the owner's word) let ``key`` be fetched."""
        robots = await self.robots(host)
        return self._manners.robots != "obey" or robots.allows(self._manners.agent, key)

    async def wait(self, host: str) -> None:
        """Keep the delay between two requests to a host."""
        state = self._host(host)
        pause = state.delay + state.slowed
        if pause <= 0:
            return
        moment = time.monotonic()
        at = max(moment, state.next)
        state.next = at + pause
        if at > moment:
            await asyncio.sleep(at - moment)

    async def get(self, url: str, host: str) -> Fetched:
        """Fetch with a few more tries where that may help. 429 and 503 make every later request to the host slower."""
        state = self._host(host)
        for attempt in range(1, TRIES + 1):
            await self.wait(host)
            got = await self._fetcher.get(url)
            if attempt == TRIES:
                break
            if got.status in (429, 503):
                after = got.header("retry-after")
                pause = min(float(after), LONGEST_PAUSE) if after.isdigit() else BACKOFF * 2**attempt
                state.slowed = min(state.slowed + 0.5, 30.0)
                state.next = max(state.next, time.monotonic() + pause)
                self._say(f"{host} answers {got.status}: waiting {pause:g} s and going slower from now on.")
                await asyncio.sleep(pause)
            elif got.kind in ("unreachable", "slow") or (got.kind == "broken" and not got.status):
                await asyncio.sleep(BACKOFF * attempt)
            else:
                break
        return got
