"""What is behind: findings that no longer agree with what they were made from, counted and listed."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from grandferry.core.made import Behind
from grandferry.work.rounds import behind

from .common import Limit, Offset, ThatCrossing, Window

router = APIRouter(prefix="/crossings/{crossing:int}/behind", tags=["manifest"])

# what is said of each reason
SAID: dict[Behind, str] = {
    Behind.NEW: "there is none yet",
    Behind.CHANGED: "its page or the plan has changed",
    Behind.OLDER: "made by an older version",
    Behind.GONE: "its page is of no kind any more",
}


class BehindCounts(BaseModel):
    """How many findings of each stage are behind, stages without any left out."""

    total: int
    stages: dict[str, int]


class BehindRow(BaseModel):
    """A finding that is behind: ``why`` is a code, ``said`` the sentence."""

    stage: str
    key: str
    field: str
    why: str
    said: str


@router.get("")
def counts(crossing: ThatCrossing) -> BehindCounts:
    """What one press, or ``grandferry run``, would bring up to date."""
    found = {stage.value: number for stage, number in behind.counts(crossing.id).items()}
    return BehindCounts(total=sum(found.values()), stages=found)


@router.get("/rows")
def rows(
    crossing: ThatCrossing,
    stage: Annotated[str, Query(max_length=20)] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[BehindRow]:
    """Every finding that is behind, in the order of the stages."""
    late = [one for one in behind.late(crossing.id) if not stage or one.stage == stage]
    shown = late[offset : offset + limit]
    return Window[BehindRow](
        total=len(late),
        offset=offset,
        rows=[
            BehindRow(stage=one.stage, key=one.key, field=one.field, why=one.why, said=SAID[one.why]) for one in shown
        ],
    )
