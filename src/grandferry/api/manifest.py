"""The manifest: what waits in each stage, what to do next, and the evidence."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.core import standing
from grandferry.store.manifest import figures
from grandferry.work.rounds import behind

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["manifest"])


class Waiting(BaseModel):
    """What waits for a person in each stage."""

    survey: int
    sort: int
    lift: int
    refit: int
    route: int
    land: int


class NextStep(BaseModel):
    """A thing to do: ``settles`` addresses, items or words (``of`` says which), and where it is done."""

    stage: str
    text: str
    settles: int
    of: str
    to: str


class ManifestOut(BaseModel):
    waiting: Waiting
    next: list[NextStep]
    evidence: standing.Evidence


@router.get("/manifest")
def manifest(crossing: ThatCrossing) -> ManifestOut:
    found = figures(crossing.id, behind.unsent(crossing.id))
    return ManifestOut(
        waiting=Waiting(**standing.waiting(found)),
        next=[
            NextStep(stage=step.stage, text=standing.said(step, found), settles=step.settles, of=step.of, to=step.to)
            for step in standing.next_steps(found)
        ],
        evidence=standing.evidence(found),
    )
