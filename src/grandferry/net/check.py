"""Asking a host for one old address and following every hop to its end."""

from __future__ import annotations

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


async def follow(fetcher: Fetcher, base: str, key: str) -> Trail:
    """The trail of ``key`` on the host of ``base`` (the host swapped, path and query as they are).

    A redirect that leaves the host is noted but not followed.
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
                hops.append(Hop(200, ""))  # elsewhere: taken on trust, the place itself is what was planned
                return Trail(tuple(hops))
            seen.add(str(following))
            at = following
            continue
        hops.append(Hop(got.status, ""))
        title, heading = _speaks_of(got)
        return Trail(tuple(hops), "", title, heading, fingerprint(got))


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
