"""Changes over the values of many items, looked at before they are made; the history of an item's values; in what two
plans differ."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.lift.bulk import Bulk
from grandferry.store import changes, compared, lift
from grandferry.work.lift import bulk

from .common import Limit, Offset, ThatCrossing, Window
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["lift"])


class BulkIn(BaseModel):
    """A change over the items of a kind; ``search``: only those whose key or title holds it."""

    kind: str = Field(max_length=60)
    change: Bulk
    search: str = Field("", max_length=300)


class BeforeAfter(BaseModel):
    """A value of an item before and after, or why it stays as it is."""

    item: int
    address: int
    key: str
    title: str
    field: str
    before: Any
    after: Any
    problem: str


class LookedOut(BaseModel):
    """What a change would do: ``changed`` of ``of`` items, some of them; of how many it cannot be done, by why."""

    of: int
    changed: int
    shown: list[BeforeAfter]
    problems: dict[str, int]
    failing: list[BeforeAfter]


class ChangedOut(BaseModel):
    changed: int
    text: str


class Spelling(BaseModel):
    value: str
    items: int


class HistoryRow(BaseModel):
    """A change of one value by hand: when, by whom, the change that it was part of, what was set before."""

    change: int
    at: str
    by: str
    text: str
    field: str
    before: Any
    undone: bool


def _rows(shown: list[bulk.Shown]) -> list[BeforeAfter]:
    return [
        BeforeAfter(
            item=one.item,
            address=one.address,
            key=one.key,
            title=one.title,
            field=one.change.field,
            before=one.change.before,
            after=one.change.after,
            problem=one.change.problem,
        )
        for one in shown
    ]


@router.post("/bulk/try")
def try_bulk(wanted: BulkIn, crossing: ThatCrossing) -> LookedOut:
    """What a change would do; nothing is changed."""
    found = bulk.look(crossing.id, wanted.kind, wanted.change, wanted.search)
    return LookedOut(
        of=found.of,
        changed=found.changed,
        shown=_rows(found.shown),
        problems=dict(found.problems),
        failing=_rows(found.failing),
    )


@router.post("/bulk")
def make_bulk(wanted: BulkIn, crossing: ThatCrossing, by: Who) -> ChangedOut:
    """Make a change over many items, as one that can be taken back."""
    changed, text = bulk.make(crossing.id, wanted.kind, wanted.change, wanted.search, by)
    return ChangedOut(changed=changed, text=text)


@router.get("/kinds/{kind}/fields/{field}/spellings")
def spellings(crossing: ThatCrossing, kind: str, field: str) -> list[list[Spelling]]:
    """Near-equal spellings among the values of a field, each group the most used first."""
    return [
        [Spelling(value=value, items=items) for value, items in near.values]
        for near in bulk.spellings(crossing.id, kind, field)
    ]


@router.get("/items/{item:int}/history")
def history(crossing: ThatCrossing, item: int) -> list[HistoryRow]:
    """What was changed by hand of an item's values, the newest first."""
    key = lift.item_row(crossing.id, item).key
    return [HistoryRow(**row._asdict()) for row in changes.of_value(crossing.id, key)]


class DifferenceOut(BaseModel):
    """In what two plans differ over a page: a field's value before and after, or with ``field`` "" how many words only
    one of them carries, and the first of these."""

    address: int
    key: str
    title: str
    kind_before: str
    kind_after: str
    field: str
    before: Any
    after: Any
    only_before: int
    only_after: int


@router.get("/differences")
def differences(
    crossing: ThatCrossing, field: str | None = None, offset: Offset = 0, limit: Limit = 100
) -> Window[DifferenceOut]:
    """The differences that the newest comparison found, in the order of the pages."""
    total, found = compared.window(crossing.id, field, offset, limit)
    return Window(total=total, offset=offset, rows=[DifferenceOut(**row._asdict()) for row in found])
