"""Sort, Lift, Refit, Route and Land: what each has found so far."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel

from grandferry.store import crossings, lift, lists, refit, sort
from grandferry.store.crossings import NotThere
from grandferry.work.maps import map_text

from .common import Limit, Offset, ThatCrossing, Window

router = APIRouter(prefix="/crossings/{crossing}")


class KindRow(BaseModel):
    name: str
    label: str
    pages: int


class DoubleFit(BaseModel):
    """A page that fits more kinds than the one which has it."""

    key: str
    kind: str
    also: list[str]


class KindsOut(BaseModel):
    kinds: list[KindRow]
    unsorted: list[str]
    double: list[DoubleFit]


class ItemRow(BaseModel):
    id: int
    kind: str
    key: str
    title: str
    new_path: str
    note: str
    fields: dict[str, Any]


class FieldRow(BaseModel):
    """One field: the machine's half (lifted) and the person's (edited)."""

    field: str
    lifted: Any
    locator: int
    state: str
    note: str
    edited: Any
    edited_by: str
    edited_at: str
    conflict: bool


class RefitTotals(BaseModel):
    bodies: int
    words: int
    in_blocks: int
    in_islands: int
    unaccounted: int
    worst: list[dict[str, Any]]


class RoundRow(BaseModel):
    id: int
    base: str
    started: str
    ended: str
    counts: dict[str, int]


class VerdictRow(BaseModel):
    address: int
    key: str
    verdict: str
    status: int
    hops: list[tuple[int, str]]
    final: str


class LandingRow(BaseModel):
    id: int
    target: str
    dry: bool
    started: str
    ended: str
    counts: dict[str, Any]


@router.get("/kinds", tags=["sort"])
def kinds(crossing: ThatCrossing) -> KindsOut:
    """The kinds with their page counts, and what no rule or more than one rule catches."""
    counts = sort.kind_counts(crossing.id)
    plan = crossings.load_plan(crossing.id)
    return KindsOut(
        kinds=[KindRow(name=k.name, label=k.label or k.name, pages=counts.get(k.name, 0)) for k in plan.kinds],
        unsorted=sort.unsorted_pages(crossing.id),
        double=[DoubleFit(**row) for row in sort.double_fits(crossing.id)],
    )


@router.get("/coverage", tags=["lift"])
def coverage(crossing: ThatCrossing) -> dict[str, dict[str, dict[str, int]]]:
    """Items by kind, field and state."""
    return lift.coverage(crossing.id)


@router.get("/items", tags=["lift"])
def items(crossing: ThatCrossing, offset: Offset = 0, limit: Limit = 100, kind: str | None = None) -> Window[ItemRow]:
    found = [item for item in lift.items(crossing.id) if kind is None or item["kind"] == kind]
    return Window[ItemRow](total=len(found), offset=offset, rows=[ItemRow(**i) for i in found[offset : offset + limit]])


@router.get("/items/{item}", tags=["lift"])
def item(crossing: ThatCrossing, item: int) -> list[FieldRow]:
    """All fields of one item, lifted and edited."""
    if not any(found["id"] == item for found in lift.items(crossing.id)):
        raise NotThere(f"There is no item {item} in this crossing.")
    rows = lists.item_fields(item)
    for row in rows:
        for half in ("lifted", "edited"):
            row[half] = json.loads(row[half]) if row[half] is not None else None
    return [FieldRow(**row) for row in rows]


@router.get("/refit", tags=["refit"])
def refit_totals(crossing: ThatCrossing) -> RefitTotals:
    """Where the words of all bodies' pages went, and the pages that lost most."""
    return RefitTotals(**refit.totals(crossing.id), worst=refit.worst(crossing.id))


@router.get("/redirects/{server}", tags=["route"], response_class=PlainTextResponse)
def redirects(crossing: ThatCrossing, server: str) -> str:
    """The redirect map written for a server."""
    return map_text(crossing.id, server)


@router.get("/rounds", tags=["route"])
def rounds(crossing: ThatCrossing) -> list[RoundRow]:
    return [RoundRow(**{**row, "counts": json.loads(row["counts"])}) for row in lists.round_rows(crossing.id)]


@router.get("/rounds/{round}/verdicts", tags=["route"])
def verdicts(
    crossing: ThatCrossing,
    round: int,
    verdict: Annotated[str, Query(max_length=40)] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[VerdictRow]:
    """What a round found, address by address."""
    if not any(row["id"] == round for row in lists.round_rows(crossing.id)):
        raise NotThere(f"There is no round {round} in this crossing.")
    total, found = lists.verdict_rows(round, verdict, offset, limit)
    return Window[VerdictRow](
        total=total, offset=offset, rows=[VerdictRow(**{**row, "hops": json.loads(row["hops"])}) for row in found]
    )


@router.get("/landings", tags=["land"])
def landings(crossing: ThatCrossing) -> list[LandingRow]:
    return [LandingRow(**{**row, "counts": json.loads(row["counts"])}) for row in lists.landing_rows(crossing.id)]
