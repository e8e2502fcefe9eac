"""Change sets: what a person decided before each change, so that any of them can be taken back."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.media.said import FileSaid
from grandferry.core.plan import Edit, Plan
from grandferry.core.plan import Pair as PairLine

from . import edits, said
from .crossings import PAIR_COLUMNS, plan_of, put_rows, write_parts
from .db import Part, many, now, one, rows, transaction, typed
from .schema import Change


class Conflict(FerryError):
    """What somebody wants to change has been changed by another in the meantime."""


def revision(crossing: int) -> int:
    """The number of the newest change of a crossing's decisions, 0 while there is none."""
    return int(one("SELECT coalesce(max(id), 0) FROM change WHERE crossing_id = ?", crossing))


def _check(crossing: int, known: int) -> None:
    if revision(crossing) != known:
        last = rows("SELECT text, by FROM change WHERE crossing_id = ? ORDER BY id DESC LIMIT 1", crossing)
        text, by = last[0] if last else ("", "")
        raise Conflict(
            f"The plan was changed elsewhere in the meantime ({text}{', ' + by if by else ''}).",
            "Your change was not saved. Load the plan as it is now, and make your change again.",
        )


def _plan_rows(crossing: int) -> list[list[Any]]:
    found = rows("SELECT part, position, name, content FROM plan_row WHERE crossing_id = ?", crossing)
    return [list(row) for row in found]


def _pair_row(crossing: int, old: str) -> list[Any] | None:
    found = rows(
        'SELECT position, old, new, status, "match", reason FROM pair WHERE crossing_id = ? AND old = ? LIMIT 1',
        crossing,
        old,
    )
    return list(found[0]) if found else None


def _note(crossing: int, by: str, text: str, before: dict[str, Any]) -> int:
    made = Change.create(crossing=crossing, at=now(), by=by, text=text, before=json.dumps(before, ensure_ascii=False))
    return int(made.id)


def change_plan(crossing: int, plan: Plan, known: int, by: str, text: str) -> int:
    """Set the plan (all but its pairs); gives the new revision. Raises Conflict when ``known`` is not the newest."""
    with transaction():
        _check(crossing, known)
        number = _note(crossing, by, text, {"plan": _plan_rows(crossing)})
        write_parts(crossing, plan)
        return number


def _set_pairs(crossing: int, lines: list[PairLine], drop: list[str]) -> dict[str, Any]:
    wanted = {line.old: line for line in lines}
    before = {old: _pair_row(crossing, old) for old in [*wanted, *drop]}
    many("DELETE FROM pair WHERE crossing_id = ? AND old = ?", [(crossing, old) for old in before])
    last = int(one("SELECT coalesce(max(position), -1) FROM pair WHERE crossing_id = ?", crossing))
    many(
        f"INSERT INTO pair ({PAIR_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?)",
        [
            (crossing, had[0] if (had := before[p.old]) else last + 1 + at, p.old, p.new, p.status, p.match, p.reason)
            for at, p in enumerate(wanted.values())
        ],
    )
    return before


def change_pairs(crossing: int, lines: list[PairLine], drop: list[str], by: str, text: str) -> int:
    """Set pairs (each in the place of the one with its old address) and drop others; gives the new revision."""
    with transaction():
        return _note(crossing, by, text, {"pairs": _set_pairs(crossing, lines, drop)})


def change_edits(crossing: int, wanted: list[Edit], drop: list[edits.Key], by: str, text: str) -> int:
    """Set what a person says over what was found, and take back other edits; gives the new revision."""
    with transaction():
        before = _set_edits(crossing, wanted, drop)
        return _note(crossing, by, text, {"edits": before}) if before else revision(crossing)


def _set_edits(crossing: int, wanted: list[Edit], drop: list[edits.Key]) -> list[list[Any]]:
    """Rows of what was there before: old, field, block, act, and the row or None."""
    rows_: dict[edits.Key, list[Any] | None] = {edits.key_of(edit): edits.as_row(edit) for edit in wanted}
    rows_ |= dict.fromkeys(drop)
    before: list[list[Any]] = []
    for key, row in rows_.items():
        had = edits.raw(crossing, key)
        if row is not None and had is not None and not row[1] and had[0] == row[0]:
            continue  # the same, which knows by now what it lies over
        if had != row:
            before.append([*key, had])
            edits.put_raw(crossing, key, row)
    return before


def change_files(crossing: int, wanted: list[FileSaid], drop: list[str], by: str, text: str) -> int:
    """Set what a person says of files (one that says nothing takes it back), and take back other lines; gives the new
    revision."""
    with transaction():
        before = _set_files(crossing, wanted, drop)
        return _note(crossing, by, text, {"files": before}) if before else revision(crossing)


def change_by_hand(crossing: int, wanted: list[Edit], files: list[FileSaid], by: str, text: str) -> int:
    """Set what a person says over what was found, and of files, as one change; gives the new revision."""
    with transaction():
        before = {"edits": _set_edits(crossing, wanted, []), "files": _set_files(crossing, files, [])}
        return _note(crossing, by, text, before) if any(before.values()) else revision(crossing)


def _set_files(crossing: int, wanted: list[FileSaid], drop: list[str]) -> dict[str, str | None]:
    """What was there before, by what the plan calls each file: JSON, or None."""
    rows_: dict[str, str | None] = {one.file: None if one.nothing else said.as_json(one) for one in wanted}
    rows_ |= dict.fromkeys(drop)
    before = {file: said.raw(crossing, file) for file in rows_}
    before = {file: had for file, had in before.items() if had != rows_[file]}
    said.put_raw(crossing, {file: rows_[file] for file in before})
    return before


def change_all(
    crossing: int,
    plan: Plan,
    known: int | None,
    lines: list[PairLine],
    drop: list[str],
    by: str,
    text: str,
    wanted: list[Edit] | None = None,
    files: list[FileSaid] | None = None,
) -> int:
    """Set the plan, pairs, edits and what is said of files as one change; gives the new revision. Raises Conflict when
    ``known`` is given and not the newest."""
    with transaction():
        if known is not None:
            _check(crossing, known)
        before = {
            "plan": _plan_rows(crossing),
            "pairs": _set_pairs(crossing, lines, drop),
            "edits": _set_edits(crossing, wanted or [], []),
            "files": _set_files(crossing, files or [], []),
        }
        write_parts(crossing, plan)
        return _note(crossing, by, text, before)


class ChangeRow(NamedTuple):
    """A change of what people decided, and whether it was taken back; ``of_plan``: of more than pairs and edits."""

    id: int
    at: str
    by: str
    text: str
    undone: bool
    of_plan: bool


def changes(crossing: int, most: int = 50) -> list[ChangeRow]:
    """The newest changes first."""
    return typed(
        ChangeRow,
        "SELECT id, at, by, text, undone, substr(before, 1, 8) = '{\"plan\":' FROM change WHERE crossing_id = ? ORDER "
        "BY id DESC LIMIT ?",
        crossing,
        most,
    )


def plan_before(crossing: int, number: int) -> Plan:
    """The plan (all but its pairs) as it was before a change of it. Raises NotThere."""
    found = rows("SELECT before FROM change WHERE crossing_id = ? AND id = ?", crossing, number)
    before = json.loads(found[0][0]).get("plan") if found else None
    if before is None:
        raise NotThere(f"Change {number} of this crossing is no change of the plan.")
    name = str(one("SELECT name FROM crossing WHERE id = ?", crossing))
    return plan_of(name, [(part, content) for part, _, _, content in sorted(before, key=lambda row: (row[0], row[1]))])


class ValueChange(NamedTuple):
    """A change of one value by hand: the change it was part of, the field, what it was before (None where nothing was
    set by hand), and whether it was taken back."""

    change: int
    at: str
    by: str
    text: str
    field: str
    before: Any
    undone: bool


def of_value(crossing: int, old: str) -> list[ValueChange]:
    """The changes that touched values of one old key, the newest first."""
    found: list[ValueChange] = []
    for number, at, by, text, before, undone in rows(
        "SELECT id, at, by, text, before, undone FROM change WHERE crossing_id = ? AND instr(before, ?) > 0 ORDER BY "
        "id DESC",
        crossing,
        json.dumps(old, ensure_ascii=False),
    ):
        for key, field, _, _, row in json.loads(before).get("edits", []):
            if key == old:
                had = json.loads(row[0]) if row is not None else None
                found.append(ValueChange(number, at, by, text, field, had, bool(undone)))
    return found


def undo(crossing: int, by: str) -> str:
    """Take back the newest change that is not taken back; gives its text. Raises FerryError when there is none."""
    with transaction():
        found = rows(
            "SELECT id, text, before FROM change WHERE crossing_id = ? AND undone = 0 ORDER BY id DESC LIMIT 1",
            crossing,
        )
        if not found:
            raise FerryError("There is no change to take back.")
        number, text, before = found[0]
        data = json.loads(before)
        if "plan" in data:
            put_rows(crossing, data["plan"])
        for old, row in data.get("pairs", {}).items():
            rows("DELETE FROM pair WHERE crossing_id = ? AND old = ?", crossing, old)
            if row is not None:
                values = (crossing, *row, "")[:7]  # a change noted before pairs had reasons has none
                many(f"INSERT INTO pair ({PAIR_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?)", [values])
        said.put_raw(crossing, data.get("files", {}))
        for *key, row in data.get("edits", []):
            edits.put_raw(crossing, (key[0], key[1], key[2], key[3]), row)
        # a note of its own makes the revision grow; it is marked so that it is not taken back in turn
        made = _note(crossing, by, f"taken back: {text}", {})
        many("UPDATE change SET undone = 1 WHERE id = ?", [(number,), (made,)])
        return str(text)


class ListedPair(NamedTuple):
    """A pair and what became of its old address, where that is in the account."""

    old: str
    new: str
    status: int
    match: str
    reason: str
    fate: str | None
    proven: bool
    verdict: str | None


def pair_window(crossing: int, search: str, offset: int, limit: int) -> tuple[int, list[ListedPair]]:
    """(total, rows) of the crossing's pairs."""
    where = Part("p.crossing_id = ?", crossing).like(search, "p.old", "p.new")
    found = typed(
        ListedPair,
        'SELECT p.old, p.new, p.status, p."match", p.reason, a.fate, coalesce(a.proven, 0), a.verdict FROM '
        "pair p LEFT JOIN address a "
        f"ON a.crossing_id = p.crossing_id AND a.side = 'old' AND a.key = p.old AND a.counted = 1 WHERE {where.sql} "
        "ORDER BY p.position LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    return int(one(f"SELECT count(*) FROM pair p WHERE {where.sql}", *where.values)), found
