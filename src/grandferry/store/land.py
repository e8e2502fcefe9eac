"""Records of landing: runs, and the ledger of what a target holds of ours."""

from __future__ import annotations

import json
from typing import Any

from .crossings import now
from .db import many, named, one, rows
from .schema import Landing


def open_landing(crossing: int, target: str, dry: bool) -> int:
    return int(Landing.create(crossing=crossing, target=target, dry=dry, started=now()).id)


def close_landing(landing: int, counts: dict[str, Any]) -> None:
    rows("UPDATE landing SET ended = ?, counts = ? WHERE id = ?", now(), json.dumps(counts), landing)


def ledger(crossing: int, target: str) -> dict[tuple[str, str], tuple[str, str]]:
    """(sort, key) -> (id at the target, hash of what was sent)."""
    return {
        (sort, key): (remote, sent)
        for sort, key, remote, sent in rows(
            "SELECT sort, key, remote, sent FROM ledger WHERE crossing_id = ? AND target = ?", crossing, target
        )
    }


def enter(crossing: int, target: str, entries: list[tuple[str, str, str, str]]) -> None:
    """Rows (sort, key, id at the target, hash)."""
    many(
        "INSERT OR REPLACE INTO ledger (crossing_id, target, sort, key, remote, sent, at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(crossing, target, sort, key, remote, sent, now()) for sort, key, remote, sent in entries],
    )


def mark_carried(bodies: list[tuple[int]]) -> None:
    many("UPDATE file SET fate = 'carried' WHERE id = ?", bodies)


def tell(landing: int, told: list[tuple[str, ...]]) -> None:
    """Rows (sort, key, title, place, state, reason) of what a landing did with each thing."""
    many(
        "INSERT OR REPLACE INTO landing_row (landing_id, sort, key, title, place, state, reason) VALUES (?, ?, ?, ?, ?, ?, ?)",
        [(landing, *row) for row in told],
    )


def landing_window(
    crossing: int, landing: int, sort: str, state: str, search: str, offset: int, limit: int
) -> tuple[int, list[dict[str, Any]], dict[str, int]]:
    """(total, rows, counts by state) of what a landing did; "" for a filter that is not set."""
    where, values = "r.landing_id = ? AND l.crossing_id = ?", [landing, crossing]
    for column, wanted in (("sort", sort), ("state", state)):
        if wanted:
            where += f" AND r.{column} = ?"
            values.append(wanted)  # type: ignore[arg-type]
    if search:
        where += " AND (r.key LIKE ? OR r.title LIKE ? OR r.place LIKE ?)"
        values += [f"%{search}%"] * 3  # type: ignore[list-item]
    table = "landing_row r JOIN landing l ON l.id = r.landing_id"
    names = ("sort", "key", "title", "place", "state", "reason")
    order = "CASE r.state WHEN 'refused' THEN 0 WHEN 'created' THEN 1 WHEN 'changed' THEN 2 ELSE 3 END, r.sort, r.key"
    columns = ", ".join(f"r.{n}" for n in names)
    found = named(
        names, f"SELECT {columns} FROM {table} WHERE {where} ORDER BY {order} LIMIT ? OFFSET ?", *values, limit, offset
    )
    counts = dict(
        rows(
            f"SELECT r.state, count(*) FROM {table} WHERE r.landing_id = ? AND l.crossing_id = ? GROUP BY 1",
            landing,
            crossing,
        )
    )
    return int(one(f"SELECT count(*) FROM {table} WHERE {where}", *values)), found, counts
