"""Landings and what each did with every thing."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel

from grandferry.core.errors import NotThere
from grandferry.store import land

from .common import Fates, Limit, Offset, Search, ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["land"])


class LandingRow(BaseModel):
    id: int
    target: str
    dry: bool
    started: str
    ended: str
    counts: dict[str, Any]


class ThingRow(BaseModel):
    """A file, item or redirect of a landing: created, changed, same or refused (with the reason)."""

    type: str
    key: str
    title: str
    place: str
    state: str
    reason: str


class Things(BaseModel):
    total: int
    offset: int
    rows: list[ThingRow]
    states: dict[str, int]


@router.get("/landings")
def landings(crossing: ThatCrossing) -> list[LandingRow]:
    return [LandingRow(**{**row._asdict(), "counts": json.loads(row.counts)}) for row in land.landing_rows(crossing.id)]


@router.get("/landings/{landing:int}/things")
def things(
    crossing: ThatCrossing,
    landing: int,
    fate: Fates,
    type_: Annotated[str, Query(alias="type", max_length=20)] = "",
    state: Annotated[str, Query(max_length=20)] = "",
    search: Search = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Things:
    if not any(row.id == landing for row in land.landing_rows(crossing.id)):
        raise NotThere(f"There is no landing {landing} in this crossing.")
    total, found, states = land.landing_window(crossing.id, landing, type_, state, search, fate, offset, limit)
    return Things(total=total, offset=offset, rows=[ThingRow(**row._asdict()) for row in found], states=states)
