"""A change over the values of many items: looked at before, made as one change set."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field
from itertools import groupby
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.kinds import FieldPlan
from grandferry.core.lift.bulk import PLAIN, Bulk, Changed, Near, change, near_spellings, texts
from grandferry.core.plan import Edit
from grandferry.store import changes, crossings, lift
from grandferry.store.db import now

SHOWN = 3  # befores and afters
MOST = 50_000  # items in one change
PROBLEMS = 20


class Shown(NamedTuple):
    """An item with a value before and after."""

    item: int
    address: int
    key: str
    title: str
    change: Changed


@dataclass(slots=True)
class Looked:
    """What a change would do: items that it changes out of all of the kind; the first of them; those of which it cannot
    be done, by why, and the first of them."""

    of: int = 0
    changed: int = 0
    shown: list[Shown] = field(default_factory=list)
    problems: Counter[str] = field(default_factory=Counter)
    failing: list[Shown] = field(default_factory=list)


def look(crossing: int, kind: str, bulk: Bulk, search: str = "") -> Looked:
    """What a change would do. Raises NotThere, FerryError."""
    return _go(crossing, kind, bulk, search, None)


def make(crossing: int, kind: str, bulk: Bulk, search: str, by: str) -> tuple[int, str]:
    """Change the values; gives how many items, and the change in words. Raises FerryError where it changes nothing."""
    edits: list[Edit] = []
    looked = _go(crossing, kind, bulk, search, edits)
    if not edits:
        why = looked.problems.most_common(1)
        raise FerryError(
            "The change would alter no value, so nothing was done.",
            f"Of {why[0][1]:,} it cannot be done: {why[0][0]}." if why else "Look at what it is to find, and where.",
        )
    text = f"{_words(bulk)}: {looked.changed:,} of {looked.of:,} in {kind}"[:300]
    moment = now()
    made = [edit.model_copy(update={"by": by, "at": moment}) for edit in edits]
    changes.change_edits(crossing, made, [], by, text)
    return looked.changed, text


def spellings(crossing: int, kind: str, field_: str) -> list[Near]:
    """Near-equal spellings among the values of a field. Raises NotThere."""
    _fields(crossing, kind, [field_])
    held = lift.held_values(crossing, kind)
    return near_spellings(texts([row.value for row in held if row.field == field_]))


def _words(bulk: Bulk) -> str:
    return {
        "copy": f"{bulk.field} copied to {bulk.to}{' where that is empty' * bulk.empty}",
        "move": f"{bulk.field} moved to {bulk.to}{' where that is empty' * bulk.empty}",
        "fill": f"empty {bulk.field} filled with “{bulk.text[:60]}”",
        "replace": f"“{bulk.find[:60]}” replaced by “{bulk.text[:60]}” in {bulk.field}",
        "reshape": f"{bulk.field} reshaped ({'; '.join(one.line for one in bulk.treat)})",
        "map": f"{len(bulk.table):,} value{'s' * (len(bulk.table) != 1)} of {bulk.field} mapped",
    }[bulk.act]


def _fields(crossing: int, kind: str, names: list[str]) -> dict[str, FieldPlan]:
    found = next((one for one in crossings.load_plan(crossing).every_kind if one.name == kind), None)
    if found is None:
        raise NotThere(f"There is no kind “{kind}” in the plan.")
    fields = {one.name: one for one in found.fields}
    for name in names:
        if name not in fields:
            raise NotThere(f"The kind “{kind}” has no field “{name}”.", "Make the field first.")
        if fields[name].type not in PLAIN:
            raise FerryError(f"The field “{name}” is a body or a group; its values are not changed in one go.")
    return fields


def _go(crossing: int, kind: str, bulk: Bulk, search: str, edits: list[Edit] | None) -> Looked:
    fields = _fields(crossing, kind, [bulk.field, bulk.target])
    looked = Looked()
    for _, group in groupby(lift.held_values(crossing, kind, search), key=lambda row: row.item):
        rows = list(group)
        over = {row.field: row.over for row in rows}
        values: dict[str, Any] = {row.field: row.value for row in rows}
        looked.of += 1
        made = change(bulk, values, fields)
        shown = [Shown(rows[0].item, rows[0].address, rows[0].key, rows[0].title, one) for one in made]
        if bad := [one for one in shown if one.change.problem]:
            looked.problems[bad[0].change.problem] += 1
            looked.failing += bad[: max(0, PROBLEMS - len(looked.failing))]
        elif shown:
            looked.changed += 1
            looked.shown += shown[:1] if len(looked.shown) < SHOWN else []
            if edits is not None:
                edits += [
                    Edit(
                        old=one.key, field=one.change.field, value=one.change.after, over=over.get(one.change.field, "")
                    )
                    for one in shown
                ]
        if looked.changed > MOST:
            raise FerryError(f"More than {MOST:,} items would change in one go.", "Narrow it by a search.")
    return looked
