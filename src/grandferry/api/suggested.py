"""What old addresses have likely become: beside one, and of all that are open; and the rules behind it."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from grandferry.store import suggested
from grandferry.work.route.likely import likely
from grandferry.work.route.suggesting import accept, tables, take_rule

from .common import Limit, Offset, Search, ThatCrossing, Window
from .plan import Who

STEPS = (0.99, 0.95, 0.9, 0.8, 0.5, 0.0)  # how sure, for the counts

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["route"])


class LikelyRow(BaseModel):
    """A new address that an old one is likely to have become, how sure that is (0 to 1), and why."""

    new: str
    confidence: float
    reasons: list[str]


@router.get("/likely")
def likely_places(crossing: ThatCrossing, address: Annotated[str, Query(max_length=4000)]) -> list[LikelyRow]:
    """The new addresses that an old one (its key) is likely to have become, the best first."""
    return [
        LikelyRow(
            new=one.new,
            confidence=one.confidence,
            reasons=one.why,
        )
        for one in likely(crossing.id, address)
    ]


class SuggestedRow(BaseModel):
    """An open address with its likeliest new one, how sure that is, why, and the next best."""

    id: int
    key: str
    title: str
    visits: int
    new: str
    confidence: float
    reasons: list[str]
    others: list[LikelyRow]


class SuggestedWindow(Window[SuggestedRow]):
    """``counts``: how many are at least so sure as each of ``steps``."""

    steps: list[float]
    counts: list[int]


class SuggestedRuleRow(BaseModel):
    """A rule behind pairs: how many addresses it settles with how many visits (``settled``: the first of them), the
    pairs it disagrees with, those it would wrongly catch."""

    old: str
    new: str
    settles: int
    disagrees: list[str]
    catches: list[str]
    settled: list[str]
    visits: int


class SuggestedTableRow(BaseModel):
    """What no rule can say, taken together: how many open addresses of a shape have likely become addresses in one
    folder, which (the first of them, "old → new"), how sure the least sure of them is; ``leaves``: so many
    of the shape go elsewhere, or nowhere (``left``: the first)."""

    old: str
    new: str
    settles: int
    ids: list[int]
    pairs: list[str]
    least: float
    left: list[str]
    leaves: int
    visits: int


class SuggestedPairs(BaseModel):
    """Which are taken: those of ``ids``, else all that are at least so sure."""

    ids: Annotated[list[int], Field(max_length=5000)] = []
    at_least: Annotated[float, Field(ge=0.5, le=1)] = 0.9


class RuleTaking(BaseModel):
    """The suggested rule that is taken, by its old side."""

    old: str = Field(max_length=2000)


class RuleTaken(BaseModel):
    text: str
    revision: int


class SuggestedTaken(BaseModel):
    taken: int
    revision: int


@router.get("/suggested")
def suggested_pairs(
    crossing: ThatCrossing,
    at_least: Annotated[float, Query(ge=0, le=1)] = 0,
    search: Search = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> SuggestedWindow:
    """What open addresses have likely become, the surest first."""
    total, found = suggested.window(crossing.id, at_least, 1.0, search, offset, limit)
    return SuggestedWindow(
        total=total,
        offset=offset,
        rows=[
            SuggestedRow(
                **one._asdict()
                | {
                    "reasons": [f"{why}: {what}" if what else why for why, what in one.reasons],
                    "others": [LikelyRow(new=new, confidence=sure, reasons=[]) for new, sure in one.others],
                }
            )
            for one in found
        ],
        steps=list(STEPS),
        counts=suggested.counts(crossing.id, STEPS),
    )


@router.get("/suggested/rules")
def suggested_rules(crossing: ThatCrossing) -> list[SuggestedRuleRow]:
    """Rules behind what is decided and what is likely, in the order in which they have to stand."""
    return [SuggestedRuleRow(**one._asdict()) for one in suggested.rules(crossing.id)]


@router.get("/suggested/tables")
def suggested_tables(crossing: ThatCrossing) -> list[SuggestedTableRow]:
    """Tables behind what is likely, for what no rule says, the longest first."""
    return [SuggestedTableRow(**one._asdict()) for one in tables(crossing.id)]


@router.post("/suggested")
def take_suggested(wanted: SuggestedPairs, crossing: ThatCrossing, by: Who) -> SuggestedTaken:
    """Take suggestions as pairs, as one change that can be taken back; each pair says that it was suggested."""
    taken, revision = accept(crossing.id, by, wanted.at_least, wanted.ids)
    return SuggestedTaken(taken=taken, revision=revision)


@router.post("/suggested/rules")
def take_suggested_rule(wanted: RuleTaking, crossing: ThatCrossing, by: Who) -> RuleTaken:
    """Take a suggested rule, and before it a line for each address that has likely become something else, as one
    change that can be taken back."""
    text, revision = take_rule(crossing.id, wanted.old, by)
    return RuleTaken(text=text, revision=revision)
