"""The new shore as a tree of addresses: looked at place by place, parts of it moved."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from grandferry.store import route
from grandferry.work.route import shore

from .common import Limit, Offset, Search, ThatCrossing, Window
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}/shore", tags=["route"])
SHOWN = 200
Place = Annotated[str, Query(max_length=4000, description="a path without a slash at its end; the root without any")]


class ShoreRow(BaseModel):
    """A place of the new shore: the address that stands there ("" for none), its title, how many stand below it."""

    path: str
    here: str
    title: str
    below: int


class LeadingRow(BaseModel):
    """An old address that leads to a place; ``origin``: what decided it."""

    id: int
    key: str
    fate: str
    origin: str
    visits: int


class ShorePlace(BaseModel):
    """What stands at a place, and the old addresses that lead to it or below it (the first of ``leading``)."""

    path: str
    here: str
    title: str
    below: int
    leading: int
    visits: int
    rows: list[LeadingRow]


class MoveIn(BaseModel):
    """``rule``: with the rule that says the same of all old addresses like these, where there is one."""

    path: str = Field(max_length=4000)
    to: str = Field(max_length=2000)
    rule: bool = False


class MovedRow(BaseModel):
    old: str
    was: str
    becomes: str


class MovedSaid(BaseModel):
    """Something the plan says of many addresses, before and afterwards; ``of``: of what."""

    of: str
    was: str
    becomes: str


class MoveRule(BaseModel):
    """A rule behind a move, and how many of its addresses it settles."""

    old: str
    new: str
    settles: int


class MovingOut(BaseModel):
    """What moving a place comes to: the old addresses whose new one changes (the first of ``total``), what the plan
    says of many at once, how many are set by hand for it, on how many places of old pages they are linked."""

    path: str
    to: str
    total: int
    rows: list[MovedRow]
    said: list[MovedSaid]
    pairs: int
    rule: MoveRule | None
    links: int
    text: str


def _out(moving: shore.Moving, text: str = "") -> MovingOut:
    rule = moving.rule
    return MovingOut(
        path=moving.move.was,
        to=moving.move.to,
        total=len(moving.rows),
        rows=[MovedRow(**row._asdict()) for row in moving.rows[:SHOWN]],
        said=[MovedSaid(**one._asdict()) for one in moving.said],
        pairs=moving.pairs,
        rule=MoveRule(old=rule.old, new=rule.new, settles=moving.settles) if rule is not None else None,
        links=moving.links,
        text=text,
    )


@router.get("")
def places(
    crossing: ThatCrossing, under: Place = "", search: Search = "", offset: Offset = 0, limit: Limit = 200
) -> Window[ShoreRow]:
    """What lies one step below a place; or, of the whole shore, the addresses that have a text in them or in their
    titles."""
    there = shore.shore(crossing.id)
    if search:
        text = search.casefold()
        found = [path for path in there.paths if text in f"{path} {there.titles[path]}".casefold()]
        rows = [(path, path, 0) for path in found]
    else:
        rows = [tuple(one) for one in there.under(under)]
    return Window(
        total=len(rows),
        offset=offset,
        rows=[
            ShoreRow(path=path, here=here, title=there.titles.get(here, ""), below=below)
            for path, here, below in rows[offset : offset + limit]
        ],
    )


@router.get("/place")
def place(crossing: ThatCrossing, path: Place) -> ShorePlace:
    """What stands at a place of the new shore, and what leads there."""
    there = shore.shore(crossing.id)
    within = there.within(path)
    here = next((one for one in within if one.partition("?")[0].rstrip("/") == path.rstrip("/")), "")
    known = {*within}
    leading = [row for row in route.decided(crossing.id) if row.target in known]
    return ShorePlace(
        path=path,
        here=here,
        title=there.titles.get(here, ""),
        below=len(within) - bool(here),
        leading=len(leading),
        visits=sum(row.visits for row in leading),
        rows=[
            LeadingRow(id=row.address, key=row.key, fate=row.fate, origin=row.origin, visits=row.visits)
            for row in leading[:SHOWN]
        ],
    )


@router.post("/look")
def look(wanted: MoveIn, crossing: ThatCrossing) -> MovingOut:
    """What moving a place to another would come to; nothing is changed."""
    return _out(shore.look(crossing.id, wanted.path, wanted.to))


@router.post("/move")
def move(wanted: MoveIn, crossing: ThatCrossing, by: Who) -> MovingOut:
    """Move a place with all that lies below it, as one change that can be taken back."""
    return _out(*shore.move(crossing.id, wanted.path, wanted.to, wanted.rule, by))
