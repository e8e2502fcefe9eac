"""Records of landing: runs, and the ledger of what a target holds of ours."""

from __future__ import annotations

import json
from typing import Any

from .crossings import now
from .db import many, rows
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
