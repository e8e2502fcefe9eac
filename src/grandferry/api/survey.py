"""The survey: its runs and what each changed, soundings, what will go over how."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.core.survey.systems import SYSTEMS
from grandferry.store.lists import waits
from grandferry.store.survey import runs, sounded
from grandferry.work.survey import fitness

from .common import Limit, Offset, ThatCrossing, ThatSide, Window

router = APIRouter(tags=["survey"], prefix="/crossings/{crossing:int}")


class RunRow(BaseModel):
    """One survey: the addresses by what a later one found changed; ``ended`` is "" while some still wait, ``stopped``
    then says why when it does not go on."""

    number: int
    started: str
    ended: str
    stopped: str
    changes: dict[str, int]
    waiting: int


class ChangeRow(BaseModel):
    """``change``: added, changed, gone, back or no answer; ``what``: text, title, links, files, markup, content,
    answer."""

    address: int
    key: str
    title: str
    change: str
    what: list[str]


class PageName(BaseModel):
    address: int
    key: str


@router.get("/runs")
def survey_runs(side: ThatSide) -> list[RunRow]:
    """All surveys of a side, the first one first."""
    waiting = waits.waiting(side)
    found = runs.runs(side)
    return [RunRow(**row._asdict(), waiting=waiting if row is found[-1] else 0) for row in found]


@router.get("/runs/{number:int}/changes")
def changes(side: ThatSide, number: int, offset: Offset = 0, limit: Limit = 100) -> Window[ChangeRow]:
    """What one survey found different from the one before it."""
    total, found = runs.changed(side, number, offset, limit)
    return Window[ChangeRow](total=total, offset=offset, rows=[ChangeRow(**row._asdict()) for row in found])


class Preset(BaseModel):
    """A content system that starting rules are known for: what they leave out, and the parameters they drop."""

    name: str
    exclude: list[str]
    drop: list[str]


class FitnessRow(BaseModel):
    """``verdict``: by itself, in part, by hand. ``one_by_one``: somebody decides about each
    of them; ``pages`` hold it ``times`` times, the first of which are named."""

    name: str
    verdict: str
    says: str
    one_by_one: bool
    pages: int
    times: int
    examples: list[PageName]


class Fitness(BaseModel):
    """What will go over how; ``never`` is said once, and is no page's fault."""

    matters: list[FitnessRow]
    never: list[str]


@router.get("/fitness")
def fitness_report(side: ThatSide) -> Fitness:
    """What of the captured pages goes over by itself, in part or by hand, on which pages; and what never does."""
    matters = []
    for found in fitness.fitness(side):
        examples = [PageName(address=address, key=key) for address, key in found.examples]
        matters.append(
            FitnessRow(
                name=found.name,
                verdict=found.verdict,
                says=found.says,
                one_by_one=found.one_by_one,
                pages=found.pages,
                times=found.times,
                examples=examples,
            )
        )
    return Fitness(matters=matters, never=list(fitness.NEVER))


@router.get("/presets")
def presets(crossing: ThatCrossing) -> list[Preset]:
    """The content systems that starting rules are known for."""
    return [Preset(name=s.name, exclude=list(s.exclude), drop=list(s.drop)) for s in SYSTEMS]


@router.get("/soundings")
def soundings(side: ThatSide) -> dict[str, Any]:
    return sounded.soundings(side)
