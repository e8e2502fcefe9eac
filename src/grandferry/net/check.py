"""Asking a host for one old address and following every hop to its end."""

from __future__ import annotations

import asyncio
import contextlib
import time

from grandferry.core.address import MADE_UP, Address, normal
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import PAGE_TYPES
from grandferry.core.route.judge import Hop, Trail
from grandferry.core.route.says import Says, file_says, page_says
from grandferry.core.survey.glance import glance

from .fetch import Fetched, Fetcher

HOPS = 10
LONGEST = 120.0  # seconds that one old address may take, over all its hops


class Elsewhere:
    """Asks other hosts whether the places that redirects lead to are there: each place once, one request at a time to a
    host and ``delay`` seconds apart, at most ``most`` to any. Nothing that such a host answers is followed further."""

    def __init__(self, fetcher: Fetcher, delay: float, most: int = 200):
        self._fetcher = fetcher
        self._delay = delay
        self._most = most
        self._asked: dict[str, asyncio.Task[Fetched | None]] = {}
        self._gates: dict[str, asyncio.Lock] = {}
        self._counts: dict[str, int] = {}

    async def get(self, address: Address) -> Fetched | None:
        """The answer of another host, None when it was not asked or gave none."""
        url = str(address)
        if url not in self._asked:
            self._asked[url] = asyncio.create_task(self._ask(address))
        return await self._asked[url]

    async def _ask(self, address: Address) -> Fetched | None:
        host = address.host
        self._counts[host] = self._counts.get(host, 0) + 1
        if self._counts[host] > self._most:
            return None
        async with self._gates.setdefault(host, asyncio.Lock()):
            got = await self._fetcher.get(str(address), whole=60)
            await asyncio.sleep(self._delay)
        return None if got.error and not got.status else got


async def follow(fetcher: Fetcher, base: str, key: str, elsewhere: Elsewhere | None = None) -> Trail:
    """The trail of ``key`` on the host of ``base`` (the host swapped, path and query as they are).

    A place on another host is asked through ``elsewhere``, and not followed beyond its own answer.
    """
    home = normal(base)
    assert home is not None
    at: Address = Address(home.scheme, home.host, *_split(key))
    hops: list[Hop] = []
    seen = {str(at)}
    until = time.monotonic() + LONGEST
    while True:
        got = await fetcher.get(str(at), whole=max(1.0, min(60.0, until - time.monotonic())))
        if got.error and not got.status:
            return Trail(tuple(hops), "failed")
        location = got.header("location")
        if got.status in (301, 302, 303, 307, 308) and location:
            following = normal(location, str(at))
            hops.append(Hop(got.status, str(following) if following else location))
            if following is None:
                return Trail(tuple(hops), "failed")
            if str(following) in seen or len(hops) > HOPS:
                return Trail(tuple(hops), "loop")
            if time.monotonic() > until:
                return Trail(tuple(hops), "failed")
            if following.host != home.host:
                return await _beyond(hops, following, elsewhere)
            seen.add(str(following))
            at = following
            continue
        hops.append(Hop(got.status, ""))
        return Trail(tuple(hops), "", says_of(got))


async def _beyond(hops: list[Hop], place: Address, elsewhere: Elsewhere | None) -> Trail:
    """The trail once it has left the checked host."""
    got = await elsewhere.get(place) if elsewhere is not None else None
    if got is None or got.status in (401, 403, 405, 429) or got.status >= 500:
        return Trail(tuple(hops), "elsewhere")
    if 300 <= got.status < 400:
        return Trail((*hops, Hop(got.status, got.header("location"))), "elsewhere")
    hops.append(Hop(got.status, ""))
    return Trail(tuple(hops), "", says_of(got))


def _split(key: str) -> tuple[str, str]:
    path, _, query = key.partition("?")
    return path, query


def says_of(got: Fetched) -> Says | None:
    """What an answer says, None when it is no 200."""
    if got.status != 200:
        return None
    if got.mime in PAGE_TYPES:
        with contextlib.suppress(FerryError):
            return page_says(glance(decode(got.body, got.header("content-type")).text))
    return file_says(got.mime, got.digest)


async def error_page(fetcher: Fetcher, base: str) -> Says | None:
    """What the host says at a made-up address, None when it rightly answers 404 or 410."""
    return says_of(await fetcher.get(base.rstrip("/") + MADE_UP, whole=60))
