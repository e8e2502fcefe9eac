"""Kinds: what is in them, what no rule catches, and what a rule would catch while it is written."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.plan import SortRule
from grandferry.store import crossings, sort
from grandferry.work.lift.tries import try_rules

from .common import Fates, ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["sort"])


class KindRow(BaseModel):
    """A kind as it is worked with. ``of``: the plan's kind it is of, of which there is one a language."""

    name: str
    label: str
    pages: int
    of: str
    makes_items: bool


class KindsOut(BaseModel):
    """The kinds; pages by the language they declare; all pages; those in a kind; those that fit more kinds than the one
    which has them."""

    kinds: list[KindRow]
    languages: dict[str, int]
    pages: int
    sorted: int
    double: int


class RulesIn(BaseModel):
    rules: list[SortRule] = Field(min_length=1, max_length=50)


class RulesCount(BaseModel):
    """Pages caught of all; of those that had to be looked into, how many were; whose pages they are now ("":
    nobody's)."""

    pages: int
    of: int
    looked: int
    to_look: int
    now: dict[str, int]
    examples: list[str]


@router.get("/kinds")
def kinds(crossing: ThatCrossing, fate: Fates) -> KindsOut:
    """The kinds with their page counts, and how many pages no rule or more than one rule catches; by
    fate, only the counts by kind are narrowed."""
    counts = sort.kind_counts(crossing.id, fate)
    plan = crossings.load_plan(crossing.id)
    return KindsOut(
        kinds=[
            KindRow(
                name=made.name,
                label=made.label or made.name,
                pages=counts.get(made.name, 0),
                of=kind.name,
                makes_items=made.items == "one",
            )
            for kind in plan.kinds
            for made in kind.by_language()
        ],
        languages=sort.languages(crossing.id),
        pages=sort.page_count(crossing.id),
        sorted=sort.sorted_count(crossing.id),
        double=sort.double_count(crossing.id),
    )


@router.post("/kinds/try")
def try_(wanted: RulesIn, crossing: ThatCrossing) -> RulesCount:
    """How many pages these rules would catch, without a run."""
    found = try_rules(crossing.id, wanted.rules)
    return RulesCount(
        pages=found.pages,
        of=found.of,
        looked=found.looked,
        to_look=found.to_look,
        now=dict(found.now or {}),
        examples=found.examples or [],
    )
