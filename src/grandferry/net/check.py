"""Asking a host for one old address and following every hop to its end."""

from __future__ import annotations

import asyncio
import hashlib

from grandferry.core.address import Address, normal
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import PAGE_TYPES
from grandferry.core.page import parse, text_of
from grandferry.core.route.judge import Hop, Trail
from grandferry.core.survey.glance import glance

from .fetch import Fetched, Fetcher

HOPS = 10


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
    while True:
        got = await fetcher.get(str(at), whole=60)
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
            if following.host != home.host:
                return await _beyond(hops, following, elsewhere)
            seen.add(str(following))
            at = following
            continue
        hops.append(Hop(got.status, ""))
        title, heading = _speaks_of(got)
        return Trail(tuple(hops), "", title, heading, fingerprint(got))


async def _beyond(hops: list[Hop], place: Address, elsewhere: Elsewhere | None) -> Trail:
    """The trail once it has left the checked host."""
    got = await elsewhere.get(place) if elsewhere is not None else None
    if got is None or got.status in (401, 403, 405, 429) or got.status >= 500:
        return Trail(tuple(hops), "elsewhere")
    if 300 <= got.status < 400:
        return Trail((*hops, Hop(got.status, got.header("location"))), "elsewhere")
    hops.append(Hop(got.status, ""))
    return Trail(tuple(hops), "", *_speaks_of(got), fingerprint(got))


def _split(key: str) -> tuple[str, str]:
    path, _, query = key.partition("?")
    return path, query


def _speaks_of(got: Fetched) -> tuple[str, str]:
    if got.status != 200 or got.mime not in PAGE_TYPES:
        return "", ""
    try:
        facts = glance(decode(got.body, got.header("content-type")).text).facts
    except FerryError:
        return "", ""
    return facts.title, facts.headings[0] if facts.headings else ""


def fingerprint(got: Fetched) -> str:
    """A hash of the words an answer shows (for recognising one error page behind many addresses)."""
    if got.mime not in PAGE_TYPES:
        return got.digest
    try:
        page = parse(decode(got.body, got.header("content-type")).text)
    except FerryError:
        return got.digest
    words = [w for w in text_of(page, page.body).split() if not any(c.isdigit() or c == "/" for c in w)]
    return hashlib.sha256(" ".join(words).encode()).hexdigest()


async def error_page(fetcher: Fetcher, base: str) -> str:
    """The fingerprint of what the host answers to a made-up address, "" when it rightly says 404 or 410."""
    got = await fetcher.get(base.rstrip("/") + "/ferry-made-up-0d9f/nothing-here", whole=60)
    return fingerprint(got) if got.status == 200 else ""
