"""Records of files that were handed over, joined to the pages of the old site by their addresses."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.records.record import PUBLIC

from .db import Part, many, now, one, rows, typed

# what a record (``r``) says could be read by everybody
IS_PUBLIC = f"lower(trim(r.state)) IN ({', '.join(repr(state) for state in sorted(PUBLIC))})"
# the page of a record (``r``) is captured
_CAPTURED = (
    "EXISTS (SELECT 1 FROM address a WHERE a.crossing_id = r.crossing_id AND a.side = 'old' AND a.key = r.key AND "
    "r.key != '' AND a.type = 'page' AND a.status = 200 AND a.capture IS NOT NULL)"
)


class NewRecord(NamedTuple):
    """A record as it is kept: the key of its address ("" for none), its kind and state, all that it says and a hash of
    that, the key of its own page."""

    key: str
    kind: str
    state: str
    data: str
    hash: str
    page: str


def add(crossing: int, source: str, found: list[NewRecord]) -> None:
    """Keep further records of a file."""
    many(
        "INSERT INTO record (crossing_id, source, key, kind, state, data, hash, page) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [(crossing, source, *record) for record in found],
    )


def drop(crossing: int, source: str) -> int:
    """Forget the records of a file; gives how many there were."""
    number = int(one("SELECT count(*) FROM record WHERE crossing_id = ? AND source = ?", crossing, source))
    rows("DELETE FROM record WHERE crossing_id = ? AND source = ?", crossing, source)
    return number


class Source(NamedTuple):
    """A file: its records, those with an address on the old site, those whose page is captured, and those with a page
    of their own."""

    source: str
    records: int
    addressed: int
    joined: int
    own: int


def sources(crossing: int) -> list[Source]:
    return [
        Source(*row)
        for row in rows(
            f"SELECT r.source, count(*), sum(r.key != ''), sum({_CAPTURED}), sum(EXISTS (SELECT 1 FROM "
            "address a WHERE a.crossing_id = r.crossing_id AND a.side = 'record' AND a.key = r.page)) FROM record r "
            "WHERE r.crossing_id = ? GROUP BY r.source ORDER BY r.source",
            crossing,
        )
    ]


def of_keys(crossing: int) -> dict[str, tuple[dict[str, Any], str]]:
    """Key of a page -> what the records of that address say, and a hash of it. Where several files speak of one
    address, what a later one says stands beside what the earlier ones say, and over it. The own page of a record has
    that one alone."""
    found: dict[str, tuple[dict[str, Any], str]] = {}
    for key, page, data, hashed in rows(
        "SELECT key, page, data, hash FROM record WHERE crossing_id = ? ORDER BY id", crossing
    ):
        said = json.loads(data)
        found[page] = (said, hashed)
        if key:
            had, before = found.get(key, ({}, ""))
            found[key] = (_over(had, said), before + hashed)
    return found


def of_key(crossing: int, key: str) -> dict[str, Any] | None:
    """What the records of the key of a page say, None where there is none."""
    made: dict[str, Any] = {}
    where = "crossing_id = ? AND (key = ? OR page = ?)"
    for (data,) in rows(f"SELECT data FROM record WHERE {where} ORDER BY id", crossing, key, key):
        made = _over(made, json.loads(data))
    return made or None


def _over(had: dict[str, Any], more: dict[str, Any]) -> dict[str, Any]:
    made = dict(had)
    for name, value in more.items():
        if isinstance(value, dict) and isinstance(made.get(name), dict):
            made[name] = {**made[name], **value}
        elif value not in ("", [], {}, 0, None) or name not in made:
            made[name] = value
    return made


class Lone(NamedTuple):
    """A record whose page has to be made: all that it says (JSON), a hash of that, and the key of the page."""

    page: str
    data: str
    hash: str


def lone(crossing: int) -> list[Lone]:
    """The records of which no page is captured, and whose own page is not made yet, or says something else."""
    return typed(
        Lone,
        f"SELECT r.page, r.data, r.hash FROM record r WHERE r.crossing_id = ? AND r.page != '' AND NOT {_CAPTURED} AND "
        "NOT EXISTS (SELECT 1 FROM address p JOIN capture c ON c.id = p.capture WHERE p.crossing_id = r.crossing_id "
        "AND p.side = 'record' AND p.key = r.page AND json_extract(c.headers, '$.record') = r.hash) ORDER BY r.id",
        crossing,
    )


def drop_pages(crossing: int) -> None:
    """Take away the pages of records that are there no more, or whose page is captured by now."""
    rows(
        "DELETE FROM address WHERE crossing_id = ? AND side = 'record' AND key NOT IN (SELECT r.page FROM record r "
        f"WHERE r.crossing_id = ? AND NOT {_CAPTURED})",
        crossing,
        crossing,
    )


class NewPage(NamedTuple):
    """The page made of a record: its key, the URL by which its links are read, its title, its answer's headers (JSON)
    with the hash of the record, the hash of its body and that one's bytes."""

    key: str
    url: str
    title: str
    headers: str
    body: str
    bytes: int


def add_pages(crossing: int, pages: list[NewPage]) -> None:
    """Keep the pages of some records, in the place of what they were before. One that leads its links from another
    address now is the same page."""
    many(
        "UPDATE address SET url = ? WHERE crossing_id = ? AND side = 'record' AND key = ?",
        [(page.url, crossing, page.key) for page in pages],
    )
    many(
        "INSERT INTO address (crossing_id, side, url, host, key, folder, wants_file, depth, state, reason, status, "
        "type, mime, target, title, words, bytes, visits, in_links, counted, decision, decision_target, "
        "decision_origin, decision_reason, verdict, judged, fate, proven, why, run, first_run, change) VALUES (?, "
        "'record', ?, '', ?, '', 0, 0, 'done', '', 200, 'page', 'text/html', '', ?, 0, ?, 0, 0, 0, '', '', '', '', "
        "'', '', '', 0, '', 0, 0, '') ON CONFLICT (crossing_id, side, url) DO UPDATE SET "
        "title = excluded.title, bytes = excluded.bytes",
        [(crossing, page.url, page.key, page.title, page.bytes) for page in pages],
    )
    at = "(SELECT id FROM address WHERE crossing_id = ? AND side = 'record' AND url = ?)"
    many(
        "INSERT INTO capture (crossing_id, address_id, at, status, headers, body, rendered, bytes, seconds, encoding, "
        f"doubtful) VALUES (?, {at}, ?, 200, ?, ?, '', ?, 0, 'utf-8', '')",
        [(crossing, crossing, page.url, now(), page.headers, page.body, page.bytes) for page in pages],
    )
    many(
        "UPDATE address SET capture = (SELECT max(c.id) FROM capture c WHERE c.address_id = address.id) WHERE "
        "crossing_id = ? AND side = 'record' AND url = ?",
        [(crossing, page.url) for page in pages],
    )


def unknown(crossing: int) -> int:
    """How many records of public pages lie at an address of the old site that no survey has met."""
    return int(
        one(
            f"SELECT count(*) FROM record r WHERE r.crossing_id = ? AND r.key != '' AND {IS_PUBLIC} AND NOT EXISTS "
            "(SELECT 1 FROM address a WHERE a.crossing_id = r.crossing_id AND a.side = 'old' AND a.key = r.key)",
            crossing,
        )
    )


class Alone(NamedTuple):
    """Records of a kind in a state of which no page is captured, and how many of them are in a content type."""

    kind: str
    state: str
    records: int
    sorted: int


def alone(crossing: int) -> list[Alone]:
    """The records with a page of their own, by kind and state."""
    return typed(
        Alone,
        "SELECT r.kind, r.state, count(*), sum(coalesce(s.kind, '') != '') FROM record r JOIN address a ON "
        "a.crossing_id = r.crossing_id AND a.side = 'record' AND a.key = r.page LEFT JOIN sorted s ON s.address_id = "
        "a.id WHERE r.crossing_id = ? GROUP BY 1, 2 ORDER BY 1, 2",
        crossing,
    )


def said(crossing: int, kind: str, states: list[str], most: int) -> list[dict[str, Any]]:
    """What some of the records with a page of their own say, spread over all of a kind in some states."""
    where = Part(
        "record r JOIN address a ON a.crossing_id = r.crossing_id AND a.side = 'record' AND a.key = r.page WHERE "
        "r.crossing_id = ? AND r.kind = ?",
        crossing,
        kind,
    ).any_of("r.state", states)
    total = int(one(f"SELECT count(*) FROM {where.sql}", *where.values))
    found = rows(
        f"SELECT data FROM (SELECT r.data AS data, row_number() OVER (ORDER BY r.id) AS n FROM {where.sql}) WHERE n % "
        "? = 0 LIMIT ?",
        *where.values,
        max(1, total // most),
        most,
    )
    return [json.loads(data) for (data,) in found]


def old_keys(crossing: int) -> dict[str, tuple[str, str]]:
    """Key of a record's own page -> (the key of its address on the old site, its state), of those that have one."""
    return {
        page: (key, state)
        for page, key, state in rows(
            "SELECT r.page, r.key, r.state FROM record r JOIN address a ON a.crossing_id = r.crossing_id AND a.side = "
            "'record' AND a.key = r.page WHERE r.crossing_id = ? AND r.key != ''",
            crossing,
        )
    }
