"""The manifest: what waits in each stage, what to do next, and the evidence."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.core import standing
from grandferry.store.manifest import figures
from grandferry.work.rounds import behind

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing}", tags=["manifest"])


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


class Evidence(BaseModel):
    """Figures of what the machine checked: pairs of (done, all)."""

    addresses_proven: tuple[int, int]
    visits_covered: tuple[int, int]
    words_carried: tuple[int, int]
    links_carried: tuple[int, int]
    pictures_carried: tuple[int, int]
    documents_carried: tuple[int, int]
    frames_carried: tuple[int, int]
    anchors_carried: tuple[int, int]
    files_carried: tuple[int, int]
    items_landed: tuple[int, int]
    surveyed_at: str
    checked_at: str
    checked_host: str


class ManifestOut(BaseModel):
    waiting: Waiting
    next: list[NextStep]
    evidence: Evidence


@router.get("/manifest")
def manifest(crossing: ThatCrossing) -> ManifestOut:
    found = figures(crossing.id, behind.unsent(crossing.id))
    return ManifestOut(
        waiting=Waiting(**standing.waiting(found)),
        next=[
            NextStep(stage=step.stage, text=standing.said(step, found), settles=step.settles, of=step.of, to=step.to)
            for step in standing.next_steps(found)
        ],
        evidence=Evidence(**standing.evidence(found)._asdict()),
    )
