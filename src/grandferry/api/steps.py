"""Clean-up steps tried before they are saved."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.kinds import Step
from grandferry.work.refit.tries import try_step

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}/steps", tags=["refit"])


class StepTrial(BaseModel):
    """A step to try: at the end, or in the place of the one ``at`` (from 0) in the plan; on the body of an ``item``, or
    (0) on the first on which it finds something."""

    step: Step
    at: int | None = Field(None, ge=0)
    item: int = Field(0, ge=0)


class DiffLine(BaseModel):
    """``sign``: "-" goes, "+" comes, "" stands around it, "…" for a gap."""

    sign: str
    text: str


class StepTried(BaseModel):
    """What a step changes in the Markdown of one body, and how many words it takes there."""

    item: int
    field: str
    key: str
    finds: bool
    words: int
    lines: list[DiffLine]
    more: bool
    looked: int


@router.post("/tried")
def step_tried(wanted: StepTrial, crossing: ThatCrossing) -> StepTried:
    """Try a step on one body; nothing is saved."""
    made = try_step(crossing.id, wanted.step, wanted.at, wanted.item)
    return StepTried(**made._asdict() | {"lines": [DiffLine(**line._asdict()) for line in made.lines]})
