"""What a survey met and kept out: by host and reason, one by one, and who links to it."""

from __future__ import annotations

import json
from typing import NamedTuple

from grandferry.core.keptout import KeptOut
from grandferry.core.side import Side

from ..db import Part, one, rows, typed

_MEASURING = ("analytic", "metric", "/stat", "track", "pixel", "beacon", "/tag", "counter", "measure")
_SHARING = ("share", "follow", "/intent/", "/post?", "/submit?")


def _names(words: tuple[str, ...]) -> str:
    return "(" + " OR ".join(f"s.url LIKE '%{word}%'" for word in words) + ")"


# what an address kept out is to the page, as far as its element and its name tell
WHAT = (
    f"CASE WHEN s.how IN ('script', 'img', 'iframe') AND {_names(_MEASURING)} THEN 'measuring tag' "
    "WHEN s.how = 'script' THEN 'script' WHEN s.how IN ('iframe', 'embed', 'object', 'frame') THEN 'embed' "
    f"WHEN s.how IN ('a', 'area') AND s.reason = '{KeptOut.OTHER_HOST}' AND {_names(_SHARING)} THEN 'share or follow "
    "link' "
    "WHEN s.how IN ('img', 'srcset', 'background', 'meta') OR s.how LIKE 'lazy%' THEN 'picture' "
    "WHEN s.how IN ('link', 'css', 'css import') THEN 'style or font' WHEN s.how IN ('a', 'area') THEN 'link' ELSE "
    "'other' END"
)


class Group(NamedTuple):
    """How many addresses of a host are kept out for one reason, and how many of them are files."""

    host: str
    reason: str
    count: int
    files: int


def groups(side: Side) -> list[Group]:
    return typed(
        Group,
        "SELECT host, reason, count(*), sum(wants_file) FROM shut_out WHERE crossing_id = ? AND side = ? GROUP BY "
        "1, 2 ORDER BY 3 DESC, 1, 2",
        *side,
    )


def _those(side: Side, host: str, reason: str, search: str) -> Part:
    part = Part("shut_out s WHERE s.crossing_id = ? AND s.side = ?", *side).like(search, "s.url")
    return part.any_of("s.host", [host] if host else []).any_of("s.reason", [reason] if reason else [])


def sorts(side: Side, host: str = "", reason: str = "", search: str = "") -> list[Sort]:
    """The sorts of what is kept out, narrowed as in ``window``."""
    part = _those(side, host, reason, search)
    return typed(Sort, f"SELECT {WHAT}, count(*), max(pages) FROM {part.sql} GROUP BY 1 ORDER BY 2 DESC", *part.values)


class Kept(NamedTuple):
    """An address kept out: what it is to the page, how many pages name it, and the first of them (0 and "" when it was
    met elsewhere)."""

    id: int
    url: str
    host: str
    reason: str
    what: str
    wants_file: bool
    pages: int
    source: int
    source_key: str
    how: str


def window(
    side: Side, host: str, reason: str, search: str, offset: int, limit: int, what: str = "", order: str = "url"
) -> tuple[int, list[Kept]]:
    """(total, rows) of what is kept out for a reason ("" any) on a host ("" any), or is of a sort. ``order``: url or
    -pages."""
    part = _those(side, host, reason, search).any_of(WHAT, [what] if what else [])
    total = one(f"SELECT count(*) FROM {part.sql}", *part.values)
    by = "s.pages DESC, s.url" if order == "-pages" else "s.url"
    into = (
        "SELECT o.source_id FROM out_reference o WHERE o.target_id = s.id UNION ALL SELECT r.source_id FROM reference "
        "r JOIN address k ON k.id = r.target_id WHERE k.crossing_id = s.crossing_id AND k.side = s.side AND k.url = "
        "s.url LIMIT 1"
    )
    found = rows(
        f"SELECT t.*, a.key FROM (SELECT s.id, s.url, s.host, s.reason, {WHAT}, s.wants_file, s.pages, s.how, "
        f"({into}) AS source FROM {part.sql} ORDER BY {by} LIMIT ? OFFSET ?) t LEFT JOIN address a ON a.id = t.source",
        *part.values,
        limit,
        offset,
    )
    made = [
        Kept(id_, url, at, why, kind, bool(file), pages, source or 0, key or "", how)
        for id_, url, at, why, kind, file, pages, how, source, key in found
    ]
    return total, made


def urls(side: Side, host: str, reason: str, ids: list[int]) -> list[str]:
    """The addresses kept out for a reason on a host, or of them only those with these ids."""
    part = Part(
        "SELECT url FROM shut_out WHERE crossing_id = ? AND side = ? AND host = ? AND reason = ?", *side, host, reason
    )
    if ids:
        part = part.and_("id IN (SELECT value FROM json_each(?))", json.dumps(ids))
    return [row[0] for row in rows(part.sql + " ORDER BY url", *part.values)]


class Out(NamedTuple):
    """An address that is kept out, and why."""

    url: str
    reason: KeptOut
    wants_file: bool
    depth: int


class Asked(NamedTuple):
    """An address that is not kept out."""

    url: str
    wants_file: bool
    depth: int
    state: str


class Sort(NamedTuple):
    """A sort of thing that is kept out: how many addresses, and the most pages that one of them stands on."""

    what: str
    addresses: int
    pages: int


def all_of(side: Side) -> list[Out]:
    """Everything kept out."""
    return [
        Out(url, KeptOut(reason), bool(file), depth)
        for url, reason, file, depth in rows(
            "SELECT url, reason, wants_file, depth FROM shut_out WHERE crossing_id = ? AND side = ?", *side
        )
    ]


def asked(side: Side) -> list[Asked]:
    """Every address of a side that is not kept out."""
    return [
        Asked(url, bool(file), depth, state)
        for url, file, depth, state in rows(
            "SELECT url, wants_file, depth, state FROM address WHERE crossing_id = ? AND side = ? AND state != "
            "'shut out'",
            *side,
        )
    ]


def known(side: Side) -> list[str]:
    """Every address of a side that was ever met, fetched or kept out."""
    found = rows(
        "SELECT url FROM address WHERE crossing_id = ? AND side = ? UNION ALL SELECT url FROM shut_out WHERE "
        "crossing_id = ? AND side = ?",
        *side,
        *side,
    )
    return [row[0] for row in found]


def spellings(side: Side) -> list[str]:
    """Every other way in which an address was written."""
    return [
        row[0]
        for row in rows(
            "SELECT s.url FROM spelling s JOIN address a ON a.id = s.address_id WHERE a.crossing_id = ? AND a.side = ?",
            *side,
        )
    ]
