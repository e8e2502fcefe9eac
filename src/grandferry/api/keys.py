"""Keys that stand in the code of captured pages: masked in all that goes over, unless a person lets one of them."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.core.survey.secrets import noted
from grandferry.store.crossings import load_plan
from grandferry.store.survey.captures import keys_noted

from .common import ThatSide

router = APIRouter(prefix="/crossings/{crossing:int}/keys", tags=["survey"])


class KeyRow(BaseModel):
    """A key by its name and masked value. ``mark``: by which the plan knows it, "" when the page was read by a version
    that noted none; ``address`` and ``key``: the first of the pages."""

    name: str
    shown: str
    mark: str
    carried: bool
    pages: int
    address: int
    key: str


@router.get("")
def keys(side: ThatSide) -> list[KeyRow]:
    """The keys in the code of the pages, those on most pages first."""
    carried = load_plan(side.crossing).carried_marks
    found = []
    for row in keys_noted(side):
        name, shown, mark = noted(row.line)
        one = {"name": name, "shown": shown, "mark": mark, "carried": mark in carried}
        found.append(KeyRow(**one, pages=row.pages, address=row.address, key=row.key))
    return found
