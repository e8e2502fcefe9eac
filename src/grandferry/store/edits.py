"""What a person set by hand over what was found: written with the plan, taken in with it, undone by it."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.plan import Edit

from .db import many, one, rows

Key = tuple[str, str, str, str]  # old key, field, block, act
_COLUMNS = "old, field, block, act, value, over, by, at"


def _edit(row: tuple[Any, ...]) -> Edit:
    old, field, block, act, value, over, by, at = row
    return Edit(old=old, field=field, block=block, act=act, value=json.loads(value), over=over, by=by, at=at)


def key_of(edit: Edit) -> Key:
    return edit.old, edit.field, edit.block, edit.act


def edits(crossing: int, old: str = "", field: str = "") -> list[Edit]:
    """All edits of a crossing in order of their keys, or those of one old key, or of one field of it."""
    return [
        _edit(row)
        for row in rows(
            f"SELECT {_COLUMNS} FROM edit WHERE crossing_id = ? AND (? = '' OR old = ?) AND (? = '' OR field = ?) "
            "ORDER BY old, field, block, act",
            crossing,
            old,
            old,
            field,
            field,
        )
    ]


def of_item(item: int, field: str) -> list[Edit]:
    """The edits of one field of an item."""
    return [
        _edit(row)
        for row in rows(
            f"SELECT {', '.join('e.' + name for name in _COLUMNS.split(', '))} FROM edit e JOIN item i ON "
            "i.crossing_id = e.crossing_id AND i.key = e.old WHERE i.id = ? AND i.place = -1 AND e.field = ?",
            item,
            field,
        )
    ]


def raw(crossing: int, key: Key) -> list[Any] | None:
    """An edit's row as it is kept in a change set: value (JSON), over, by, at; None when there is none."""
    found = rows(
        "SELECT value, over, by, at FROM edit WHERE crossing_id = ? AND old = ? AND field = ? AND block = ? AND act = "
        "?",
        crossing,
        *key,
    )
    return list(found[0]) if found else None


def put_raw(crossing: int, key: Key, row: list[Any] | None) -> None:
    """Set an edit to such a row, or take it away (within the caller's transaction)."""
    many(
        "DELETE FROM edit WHERE crossing_id = ? AND old = ? AND field = ? AND block = ? AND act = ?", [(crossing, *key)]
    )
    if row is not None:
        many(f"INSERT INTO edit (crossing_id, {_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)", [(crossing, *key, *row)])


def as_row(edit: Edit) -> list[Any]:
    return [json.dumps(edit.value, ensure_ascii=False), edit.over, edit.by, edit.at]


def adopt(crossing: int) -> int:
    """Edits that do not know what they lie over are laid over what is lifted now; gives how many."""
    where = "crossing_id = ? AND over = '' AND block = ''"
    source = (
        "(SELECT f.lifted_hash FROM item_field f JOIN item i ON i.id = f.item_id WHERE i.crossing_id = "
        "edit.crossing_id AND i.place = -1 AND i.key = edit.old AND f.field = edit.field)"
    )
    found = int(one(f"SELECT count(*) FROM edit WHERE {where} AND {source} != ''", crossing))
    rows(f"UPDATE edit SET over = {source} WHERE {where} AND {source} != ''", crossing)
    return found


def lies_over(crossing: int, old: str, field: str) -> str:
    """The hash of what is lifted for a field of an old key now, "" when nothing is."""
    found = one(
        "SELECT f.lifted_hash FROM item_field f JOIN item i ON i.id = f.item_id WHERE i.crossing_id = ? AND i.place = "
        "-1 AND i.key = ? AND f.field = ?",
        crossing,
        old,
        field,
    )
    return str(found or "")


class Laid(NamedTuple):
    """How an edit lies: its item (0: there is none) with its kind and page, and whether what is under it has
    changed."""

    edit: Edit
    item: int
    kind: str
    address: int
    conflict: bool


def laid(crossing: int) -> list[Laid]:
    """Every edit over a whole value, and those over blocks (whose conflicts show when the body is put together)."""
    names = ", ".join("e." + name for name in _COLUMNS.split(", "))
    return [
        Laid(_edit(row[:8]), row[8] or 0, row[9] or "", row[10] or 0, bool(row[11]))
        for row in rows(
            f"SELECT {names}, i.id, i.kind, (SELECT min(s.address_id) FROM item_source s WHERE s.item_id = i.id), "
            "e.block = '' AND e.over != '' AND f.lifted_hash IS NOT NULL AND e.over != f.lifted_hash FROM edit e LEFT "
            "JOIN item i ON i.crossing_id = e.crossing_id AND i.key = e.old AND i.place = -1 LEFT JOIN item_field f "
            "ON f.item_id = i.id AND f.field = e.field WHERE e.crossing_id = ? ORDER BY e.old, e.field, e.block, e.act",
            crossing,
        )
    ]
