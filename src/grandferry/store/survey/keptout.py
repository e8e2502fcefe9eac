"""What a survey met and kept out: by host and reason, one by one, and who links to it."""

from __future__ import annotations

import json
import re
from typing import NamedTuple

from grandferry.core.keptout import KeptOut
from grandferry.core.side import Side

from ..db import Part, one, rows, typed

_MEASURING = ("analytic", "metric", "/stat", "track", "pixel", "beacon", "/tag", "counter", "measure")
_SHARING = ("share", "follow", "/intent/", "/post?", "/submit?")
_PROFILE = ("/@", "/user/", "/channel/", "/company/", "/profile", "/people/", "/groups/")
_ALIKE = ("measuring tag", "script", "share or follow link")  # of which the query says for what page, not which it is


def _names(words: tuple[str, ...]) -> str:
    return "(" + " OR ".join(f"s.url LIKE '%{word}%'" for word in words) + ")"


def _own_names(side: Side) -> list[str]:
    """The words by which a site calls itself, in the title of its start page and its host: a profile elsewhere has one
    of them in its address."""
    told = rows("SELECT title, host FROM address WHERE crossing_id = ? AND side = ? ORDER BY depth, id LIMIT 1", *side)
    return [word for word in re.findall(r"[a-z0-9]+", " ".join(told[0]).lower() if told else "") if len(word) > 3]


def _what(pages: int, names: list[str]) -> str:
    """What an address kept out is to the page, as far as its element and its name tell; ``pages`` are captured, and the
    site is called by ``names``."""
    elsewhere = f"s.how IN ('a', 'area') AND s.reason = '{KeptOut.OTHER_HOST}'"
    path = "substr(s.url, instr(s.url, '://') + 3 + length(s.host))"
    named = f"length(rtrim({path}, '/')) > 1 AND {path} NOT LIKE '/%/%/_%' AND {path} NOT LIKE '%?%'"
    ours = " OR ".join(f"{path} LIKE '%{name}%'" for name in names) or "0"
    everywhere = f"(s.pages > 2 AND s.pages * 2 >= {int(pages)} AND ({ours}))"
    return (
        f"CASE WHEN s.how IN ('script', 'img', 'iframe', 'code') AND {_names(_MEASURING)} THEN 'measuring tag' "
        "WHEN s.how = 'script' OR (s.how = 'code' AND (s.url LIKE '%.js' OR s.url LIKE '%.js?%')) THEN 'script' "
        "WHEN s.how = 'code' THEN 'address in a script' "
        "WHEN s.how IN ('iframe', 'embed', 'object', 'frame') THEN 'embed' "
        f"WHEN {elsewhere} AND {_names(_SHARING)} THEN 'share or follow link' "
        f"WHEN {elsewhere} AND {named} AND ({everywhere} OR {_names(_PROFILE)}) THEN 'profile elsewhere' "
        "WHEN s.how IN ('img', 'srcset', 'background', 'meta') OR s.how LIKE 'lazy%' THEN 'picture' "
        "WHEN s.how IN ('link', 'css', 'css import') THEN 'style or font' WHEN s.how IN ('a', 'area') THEN 'link' WHEN "
        "s.how = '' AND EXISTS (SELECT 1 FROM address f WHERE f.crossing_id = s.crossing_id AND f.side = s.side AND "
        "f.target = s.url) THEN 'end of a redirect' ELSE 'other' END"
    )


def _sorted(side: Side, part: Part) -> Part:
    """What is kept out (``part``: of ``shut_out s``) with what it is, and the name under which it is one row."""
    pages = one("SELECT count(*) FROM address WHERE crossing_id = ? AND side = ? AND type = 'page'", *side)
    alike = ", ".join(f"'{what}'" for what in _ALIKE)
    return Part(
        f"(SELECT t.*, CASE WHEN t.what IN ({alike}) THEN substr(t.url, 1, instr(t.url || '?', '?') - 1) ELSE t.url "
        f"END AS name FROM (SELECT s.*, {_what(pages, _own_names(side))} AS what FROM {part.sql}) t) s WHERE 1",
        *part.values,
    )


class Group(NamedTuple):
    """How much of a host is kept out for one reason, and how many of it are files, as rows of ``window``."""

    host: str
    reason: str
    count: int
    files: int


def groups(side: Side) -> list[Group]:
    found = _sorted(side, _those(side, "", "", ""))
    return typed(
        Group,
        "SELECT host, reason, count(DISTINCT name), count(DISTINCT CASE WHEN wants_file THEN name END) FROM "
        f"{found.sql} GROUP BY 1, 2 ORDER BY 3 DESC, 1, 2",
        *found.values,
    )


def _those(side: Side, host: str, reason: str, search: str) -> Part:
    part = Part("shut_out s WHERE s.crossing_id = ? AND s.side = ?", *side).like(search, "s.url")
    return part.any_of("s.host", [host] if host else []).any_of("s.reason", [reason] if reason else [])


def sorts(side: Side, host: str = "", reason: str = "", search: str = "") -> list[Sort]:
    """The sorts of what is kept out, narrowed as in ``window``."""
    part = _sorted(side, _those(side, host, reason, search))
    return typed(
        Sort,
        "SELECT what, count(*), max(pages) FROM (SELECT what, sum(pages) AS pages FROM "
        f"{part.sql} GROUP BY reason, name) GROUP BY 1 ORDER BY 2 DESC, 1",
        *part.values,
    )


class Kept(NamedTuple):
    """What is kept out: what it is to the page, how many pages name it, and the first of them (0 and "" when it was met
    elsewhere). ``addresses``: of a script, a measuring tag and the like, the addresses that differ in their queries."""

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
    addresses: int


def window(
    side: Side, host: str, reason: str, search: str, offset: int, limit: int, what: str = "", order: str = "url"
) -> tuple[int, list[Kept]]:
    """(total, rows) of what is kept out for a reason ("" any) on a host ("" any), or is of a sort. ``order``: url or
    -pages."""
    part = _sorted(side, _those(side, host, reason, search)).any_of("s.what", [what] if what else [])
    total = one(f"SELECT count(*) FROM (SELECT 1 FROM {part.sql} GROUP BY s.reason, s.name)", *part.values)
    by = "sum(s.pages) DESC, s.name" if order == "-pages" else "s.name"
    into = (
        "SELECT o.source_id FROM out_reference o WHERE o.target_id IN (SELECT value FROM json_each(t.ids)) UNION ALL "
        "SELECT r.source_id FROM reference r JOIN address k ON k.id = r.target_id WHERE k.crossing_id = t.crossing_id "
        "AND k.side = t.side AND k.url = t.url UNION ALL SELECT f.id FROM address f WHERE t.how = '' AND "
        "f.crossing_id = t.crossing_id AND f.side = t.side AND f.target = t.url LIMIT 1"
    )
    on = (
        "CASE WHEN t.addresses = 1 THEN t.pages ELSE (SELECT count(DISTINCT o.source_id) FROM out_reference o WHERE "
        "o.target_id IN (SELECT value FROM json_each(t.ids))) END"
    )
    found = rows(
        "SELECT u.id, CASE WHEN u.addresses = 1 THEN u.url ELSE u.name END, u.host, u.reason, u.what, u.wants_file, "
        f"u.pages_on, u.source, a.key, u.how, u.addresses FROM (SELECT t.*, {on} AS pages_on, ({into}) AS source FROM "
        "(SELECT min(s.id) AS id, min(s.url) AS url, s.name, s.host, s.reason, s.what, max(s.wants_file) AS "
        "wants_file, sum(s.pages) AS pages, min(s.how) AS how, max(1, sum(s.pages > 0)) AS addresses, "
        "json_group_array(s.id) AS ids, "
        f"s.crossing_id, s.side FROM {part.sql} GROUP BY s.reason, s.name ORDER BY {by} LIMIT ? OFFSET ?) t) u LEFT "
        "JOIN address a ON a.id = u.source",
        *part.values,
        limit,
        offset,
    )
    made = [
        Kept(id_, url, at, why, kind, bool(file), pages, source or 0, key or "", how, number)
        for id_, url, at, why, kind, file, pages, source, key, how, number in found
    ]
    return total, made


def urls(side: Side, host: str, reason: str, ids: list[int]) -> list[str]:
    """The addresses kept out for a reason on a host, or of them only those of the rows of ``window`` with these ids."""
    part = _those(side, host, reason, "")
    if ids:
        part = _sorted(side, part)
        chosen = part.and_("s.id IN (SELECT value FROM json_each(?))", json.dumps(ids))
        names = [row[0] for row in rows(f"SELECT DISTINCT s.name FROM {chosen.sql}", *chosen.values)]
        part = part.and_("s.name IN (SELECT value FROM json_each(?))", json.dumps(names))
    return [row[0] for row in rows(f"SELECT s.url FROM {part.sql} ORDER BY 1", *part.values)]


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
