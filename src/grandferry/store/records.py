"""Records of files that were handed over, joined to the pages of the old site by their addresses."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from .db import many, one, rows


class NewRecord(NamedTuple):
    """A record as it is kept: the key of its address ("" for none), its kind and state, all that it says and a hash of
    that."""

    key: str
    kind: str
    state: str
    data: str
    hash: str


def add(crossing: int, source: str, found: list[NewRecord]) -> None:
    """Keep further records of a file."""
    many(
        "INSERT INTO record (crossing_id, source, key, kind, state, data, hash) VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(crossing, source, *record) for record in found],
    )


def drop(crossing: int, source: str) -> int:
    """Forget the records of a file; gives how many there were."""
    number = int(one("SELECT count(*) FROM record WHERE crossing_id = ? AND source = ?", crossing, source))
    rows("DELETE FROM record WHERE crossing_id = ? AND source = ?", crossing, source)
    return number


class Source(NamedTuple):
    """A file: its records, those with an address on the old site, and those whose page is captured."""

    source: str
    records: int
    addressed: int
    joined: int


def sources(crossing: int) -> list[Source]:
    return [
        Source(*row)
        for row in rows(
            "SELECT r.source, count(*), sum(r.key != ''), sum(EXISTS (SELECT 1 FROM address a WHERE a.crossing_id = "
            "r.crossing_id AND a.side = 'old' AND a.key = r.key AND a.type = 'page' AND a.status = 200)) FROM record r "
            "WHERE r.crossing_id = ? GROUP BY r.source ORDER BY r.source",
            crossing,
        )
    ]


def of_keys(crossing: int) -> dict[str, tuple[dict[str, Any], str]]:
    """old key -> what the records of that address say, and a hash of it. Where several files speak of one address, what
    a later one says stands beside what the earlier ones say, and over it."""
    found: dict[str, tuple[dict[str, Any], str]] = {}
    for key, data, hashed in rows(
        "SELECT key, data, hash FROM record WHERE crossing_id = ? AND key != '' ORDER BY id", crossing
    ):
        had, before = found.get(key, ({}, ""))
        found[key] = (_over(had, json.loads(data)), before + hashed)
    return found


def of_key(crossing: int, key: str) -> dict[str, Any] | None:
    """What the records of one old key say, None where there is none."""
    made: dict[str, Any] = {}
    for (data,) in rows("SELECT data FROM record WHERE crossing_id = ? AND key = ? ORDER BY id", crossing, key):
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
