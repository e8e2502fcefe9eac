"""What a stage's findings as a whole were made from."""

from __future__ import annotations

from .db import now, one, rows


def get(crossing: int, stage: str) -> str:
    """The stamp of a stage, "" when it never came to its end."""
    return str(one("SELECT made_from FROM stamp WHERE crossing_id = ? AND stage = ?", crossing, stage) or "")


def put(crossing: int, stage: str, made_from: str) -> None:
    """Note what a stage's findings were made from (within the caller's transaction)."""
    rows("INSERT OR REPLACE INTO stamp VALUES (?, ?, ?, ?)", crossing, stage, made_from, now())
