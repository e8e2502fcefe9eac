"""Records of landing: runs, and the ledger of what a target holds of ours."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from .db import Part, many, now, one, rows, typed
from .schema import Landing


def open_landing(crossing: int, target: str, dry: bool) -> int:
    return int(Landing.create(crossing=crossing, target=target, dry=dry, started=now()).id)


def close_landing(landing: int, counts: dict[str, Any]) -> None:
    rows("UPDATE landing SET ended = ?, counts = ? WHERE id = ?", now(), json.dumps(counts), landing)


def ledger(crossing: int, target: str) -> dict[tuple[str, str], tuple[str, str]]:
    """(type, key) -> (id at the target, hash of what was sent)."""
    return {
        (type_, key): (remote, sent)
        for type_, key, remote, sent in rows(
            "SELECT type, key, remote, sent FROM ledger WHERE crossing_id = ? AND target = ?", crossing, target
        )
    }


def enter(crossing: int, target: str, entries: list[tuple[str, str, str, str]]) -> None:
    """Rows (type, key, id at the target, hash)."""
    many(
        "INSERT OR REPLACE INTO ledger (crossing_id, target, type, key, remote, sent, at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(crossing, target, type_, key, remote, sent, now()) for type_, key, remote, sent in entries],
    )


def forget(crossing: int, target: str, type_: str, key: str) -> None:
    """A target holds a thing no more."""
    rows(
        "DELETE FROM ledger WHERE crossing_id = ? AND target = ? AND type = ? AND key = ?", crossing, target, type_, key
    )


def mark_carried(bodies: list[tuple[int]]) -> None:
    many("UPDATE file SET fate = 'carried' WHERE id = ?", bodies)


def tell(landing: int, told: list[tuple[str, ...]]) -> None:
    """Rows (type, key, title, place, state, reason) of what a landing did with each thing."""
    many(
        "INSERT OR REPLACE INTO landing_row (landing_id, type, key, title, place, state, reason) VALUES (?, ?, ?, ?, "
        "?, ?, ?)",
        [(landing, *row) for row in told],
    )


# items go by the old key, redirects by “match old key”, files by the hash of their body
_OF_FATE = (
    "CASE r.type WHEN 'file' THEN EXISTS (SELECT 1 FROM file f JOIN file_source s ON s.file_id = f.id "
    "JOIN address a ON a.id = s.address_id WHERE f.crossing_id = l.crossing_id AND f.body = r.key AND a.fate IN "
    "({marks})) ELSE EXISTS (SELECT 1 FROM address a WHERE a.crossing_id = l.crossing_id AND a.side = 'old' "
    "AND a.key = CASE r.type WHEN 'item' THEN r.key ELSE substr(r.key, instr(r.key, ' ') + 1) END AND a.fate IN "
    "({marks})) END"
)


class Thing(NamedTuple):
    """A file, item or redirect of a landing and what became of it: created, changed, same or refused."""

    type: str
    key: str
    title: str
    place: str
    state: str
    reason: str


def landing_window(
    crossing: int, landing: int, type_: str, state: str, search: str, fates: list[str], offset: int, limit: int
) -> tuple[int, list[Thing], dict[str, int]]:
    """(total, rows, counts by state) of what a landing did; "" for a filter that is not set. With fates, only items,
    files and single redirects of addresses that have one of them; the counts are of these as well."""
    told = Part("r.landing_id = ? AND l.crossing_id = ?", landing, crossing)
    if fates:
        marks = ",".join("?" * len(fates))
        told = told.and_(_OF_FATE.format(marks=marks), *fates, *fates)
    where = told.any_of("r.type", [type_] if type_ else []).any_of("r.state", [state] if state else [])
    where = where.like(search, "r.key", "r.title", "r.place")
    table = "landing_row r JOIN landing l ON l.id = r.landing_id"
    order = "CASE r.state WHEN 'refused' THEN 0 WHEN 'created' THEN 1 WHEN 'changed' THEN 2 ELSE 3 END, r.type, r.key"
    columns = ", ".join(f"r.{name}" for name in Thing._fields)
    found = typed(
        Thing,
        f"SELECT {columns} FROM {table} WHERE {where.sql} ORDER BY {order} LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    counts = dict(rows(f"SELECT r.state, count(*) FROM {table} WHERE {told.sql} GROUP BY 1", *told.values))
    return int(one(f"SELECT count(*) FROM {table} WHERE {where.sql}", *where.values)), found, counts


class LandingRow(NamedTuple):
    """A landing; ``dry``: only what it would do; ``counts``: its result as JSON."""

    id: int
    target: str
    dry: bool
    started: str
    ended: str
    counts: str


def landing_rows(crossing: int) -> list[LandingRow]:
    return typed(
        LandingRow,
        "SELECT id, target, dry, started, ended, counts FROM landing WHERE crossing_id = ? ORDER BY id",
        crossing,
    )
