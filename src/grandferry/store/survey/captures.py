"""What was captured, to be shown, compared, copied and weighed."""

from __future__ import annotations

from typing import NamedTuple

from grandferry.core.side import Side, SideName

from ..db import one, rows, typed

# of the page of an address ``a``: what is noted of keys in its code, JSON
KEYS_OF_PAGE = "coalesce((SELECT json_extract(p.facts, '$.secrets') FROM page_facts p WHERE p.address_id = a.id), '[]')"


class Captured(NamedTuple):
    """The latest capture of an address. ``body`` is a hash in the body store, ``headers`` JSON."""

    side: SideName
    url: str
    key: str
    type: str
    title: str
    mime: str
    body: str
    headers: str


def latest(crossing: int, address: int, raw: bool = False) -> Captured | None:
    """The latest capture with a body of an address: as a browser built it where one did, or ``raw`` as the server sent
    it. None when there is none."""
    found = rows(
        "SELECT CASE a.side WHEN 'record' THEN 'old' ELSE a.side END, a.url, a.key, a.type, a.title, a.mime, "
        f"c.{'body' if raw else 'content'}, c.headers FROM "
        "address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.id = ? AND c.body != ''",
        crossing,
        address,
    )
    return Captured(*found[0]) if found else None


def title(address: int) -> str:
    return str(one("SELECT title FROM address WHERE id = ?", address) or "")


def number(crossing: int, address: int, capture: int) -> tuple[str, str] | None:
    """(hash of its content, headers as JSON) of one capture of an address, None when it has no content."""
    found = rows(
        "SELECT content, headers FROM capture WHERE crossing_id = ? AND address_id = ? AND id = ? AND body != ''",
        crossing,
        address,
        capture,
    )
    return (found[0][0], found[0][1]) if found else None


def captured_at(side: Side, url: str) -> int | None:
    """The address of a side that was captured under a URL."""
    found = one(
        "SELECT id FROM address WHERE crossing_id = ? AND side = ? AND url = ? AND capture IS NOT NULL", *side, url
    )
    return int(found) if found else None


def count(side: Side) -> int:
    """How many addresses of a side are captured."""
    return int(one("SELECT count(*) FROM address WHERE crossing_id = ? AND side = ? AND capture IS NOT NULL", *side))


class Known(NamedTuple):
    """An address of a side with what is kept of it; ``body`` "" when nothing is, ``headers`` JSON."""

    url: str
    state: str
    status: int
    type: str
    target: str
    mime: str
    reason: str
    body: str
    headers: str


def known(side: Side) -> list[Known]:
    """Every address of a side, captured or not; what an error page holds is not kept."""
    found = rows(
        "SELECT a.url, a.state, a.status, a.type, a.target, a.mime, a.reason, CASE WHEN c.status < 400 THEN c.content "
        "ELSE '' END, coalesce(c.headers, '{}') FROM address a LEFT JOIN capture c ON c.id = a.capture WHERE "
        "a.crossing_id = ? AND a.side = ?",
        *side,
    )
    return [Known(*row) for row in found]


class PageSaid(NamedTuple):
    """What a captured page says of itself, as JSON; ``rendered``: a browser built it as well."""

    address: int
    key: str
    facts: str
    rendered: bool


class KeyNoted(NamedTuple):
    """A key in the code of pages: the line that notes it, on how many pages it stands, and the first of them."""

    line: str
    pages: int
    address: int
    key: str


def keys_noted(side: Side) -> list[KeyNoted]:
    """The keys in the code of a side's pages, those on most pages first."""
    return typed(
        KeyNoted,
        "SELECT e.value, count(*), min(a.id), a.key FROM page_facts f JOIN address a ON a.id = f.address_id, "
        "json_each(f.facts, '$.secrets') e WHERE a.crossing_id = ? AND a.side = ? GROUP BY e.value ORDER BY 2 DESC, 1",
        *side,
    )


def pages_said(side: Side) -> list[PageSaid]:
    """The facts of every captured page of a side that answered 200, in order of its key."""
    found = rows(
        "SELECT a.id, a.key, f.facts, coalesce((SELECT c.rendered != '' FROM capture c WHERE c.id = a.capture), 0) "
        "FROM page_facts f JOIN address a ON a.id = f.address_id WHERE a.crossing_id = ? AND a.side = ? AND a.type = "
        "'page' AND a.status = 200 ORDER BY a.key",
        *side,
    )
    return [PageSaid(address, key, facts, bool(rendered)) for address, key, facts, rendered in found]
