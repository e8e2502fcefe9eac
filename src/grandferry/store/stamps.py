"""What a stage's findings as a whole were made from, and the data that such stamps rest on."""

from __future__ import annotations

import hashlib

from .db import now, one, rows


def get(crossing: int, stage: str) -> str:
    """The stamp of a stage, "" when it never came to its end."""
    return str(one("SELECT made_from FROM stamp WHERE crossing_id = ? AND stage = ?", crossing, stage) or "")


def put(crossing: int, stage: str, made_from: str) -> None:
    """Note what a stage's findings were made from (within the caller's transaction)."""
    rows("INSERT OR REPLACE INTO stamp VALUES (?, ?, ?, ?)", crossing, stage, made_from, now())


def since(crossing: int, stage: str) -> str:
    """When the stamp of a stage was put, "" when it never was."""
    return str(one("SELECT at FROM stamp WHERE crossing_id = ? AND stage = ?", crossing, stage) or "")


def keep_steps(crossing: int) -> None:
    """Forget the clean-up steps that no body rests on any more (``made_from`` of a refit ends with their hash)."""
    rows(
        "DELETE FROM stamp WHERE crossing_id = ? AND stage LIKE 'steps %' AND substr(stage, 7) NOT IN (SELECT "
        "substr(r.made_from, instr(r.made_from, ' ') + 1) FROM refit r JOIN item i ON i.id = r.item_id WHERE "
        "i.crossing_id = ?)",
        crossing,
        crossing,
    )


_DECISIONS = (
    "SELECT key, decision, decision_target, decision_reason || CASE decision_status WHEN 301 THEN '' ELSE "
    "decision_status END FROM address WHERE crossing_id = ? AND counted = 1 "
    "ORDER BY id"
)


def _digest(crossing: int, *questions: str) -> str:
    found = hashlib.blake2b(digest_size=10)
    for question in questions:
        for row in rows(question, crossing):
            found.update(repr(row).encode("utf-8", "surrogatepass"))
    return found.hexdigest()


def decisions(crossing: int) -> str:
    """One hash over what is decided of every address."""
    return _digest(crossing, _DECISIONS)


def to_land(crossing: int) -> str:
    """One hash over all that a landing sends: items with their fields and bodies as they stand, files, the map."""
    return _digest(
        crossing,
        "SELECT id, kind, key, title, new_path, made_from FROM item WHERE crossing_id = ? ORDER BY id",
        "SELECT r.item_id, r.field, r.blocks FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ? "
        "ORDER BY 1, 2",
        "SELECT old, field, block, act, value FROM edit WHERE crossing_id = ? ORDER BY 1, 2, 3, 4",
        "SELECT body, name, mime, new_path, alt FROM file WHERE crossing_id = ? ORDER BY id",
        _DECISIONS,
        "SELECT file, content FROM said WHERE crossing_id = ? ORDER BY file",
    )
