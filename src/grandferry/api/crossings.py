"""Crossings, their plans and their accounts."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends
from pydantic import BaseModel, Field

from grandferry.core.plan import Plan
from grandferry.core.route.fate import FATES
from grandferry.store import crossings
from grandferry.work.survey.opening import ask_many as ask_all
from grandferry.work.survey.opening import ask_one, many_crossings

from .common import Opened, ThatCrossing, opened
from .plan import Who

router = APIRouter(tags=["crossings"])


class FateCount(BaseModel):
    fate: str
    planned: int
    proven: int


class CrossingOut(BaseModel):
    id: int
    name: str
    created: str
    addresses: int
    account: list[FateCount]


class CrossingIn(BaseModel):
    """A new crossing: its name and the old site's start address."""

    name: str = Field(min_length=1, max_length=200)
    start: str = Field(min_length=1, max_length=2000)


class StartOut(BaseModel):
    """A start address as asked: where it ended, how it was repaired, what it says of itself."""

    address: str
    repaired: str
    hops: list[str]
    status: int
    title: str
    generator: str
    encoding: str
    kind: str  # "", or what keeps it from being a start: unreachable, wants a login, not there, goes in a circle
    fault: str  # the same in a sentence


class StartIn(BaseModel):
    address: str = Field(min_length=1, max_length=2000)


class ManyIn(BaseModel):
    addresses: list[str] = Field(min_length=1, max_length=1000)


class VerdictOut(BaseModel):
    """``kind``: good, repaired, redirected, a repeat, unreadable, unreachable, wants a login, not there, goes in a
    circle."""

    given: str
    kind: str
    says: str
    address: str
    title: str
    good: bool


class NewAddress(BaseModel):
    address: str = Field(min_length=1, max_length=2000)
    title: str = Field("", max_length=500)


class ManyNew(BaseModel):
    addresses: list[NewAddress] = Field(min_length=1, max_length=1000)


def _account(number: int) -> list[FateCount]:
    found = crossings.account_of(number)
    return [FateCount(fate=f, **found.get(f, {"planned": 0, "proven": 0})) for f in FATES]


def _out(found: crossings.Crossing) -> CrossingOut:
    return CrossingOut(
        id=found.id,
        name=found.name,
        created=found.created,
        addresses=crossings.counted(found.id),
        account=_account(found.id),
    )


@router.get("/crossings", dependencies=[Opened])
def list_crossings() -> list[CrossingOut]:
    """All crossings of the workspace with their accounts."""
    return [_out(c) for c in crossings.crossings()]


@router.post("/crossings", status_code=201)
def new_crossing(wanted: CrossingIn, _: Annotated[None, Depends(opened)]) -> CrossingOut:
    """Make a crossing with a plan that names only its start."""
    plan = Plan.model_validate({"format": 1, "name": wanted.name, "old": {"start": wanted.start}})
    made = crossings.make_crossing(wanted.name)
    crossings.save_plan(made.id, plan, [])
    return _out(made)


@router.post("/start")
def ask_start(wanted: StartIn) -> StartOut:
    """Ask a start address at once; what keeps it from being one is said, and is no error."""
    found, kind, fault = ask_one(wanted.address)
    return StartOut(
        address=str(found.address),
        repaired=found.repaired,
        hops=list(found.hops),
        status=found.status,
        title=found.title,
        generator=found.generator,
        encoding=found.encoding,
        kind=kind,
        fault=fault,
    )


@router.post("/start/many")
def ask_many(wanted: ManyIn) -> list[VerdictOut]:
    """Ask many addresses, and give each its verdict."""
    return [
        VerdictOut(given=v.given, kind=v.kind, says=v.says, address=v.address, title=v.title, good=v.good)
        for v in ask_all(wanted.addresses)
    ]


@router.post("/crossings/many", status_code=201)
def new_crossings(wanted: ManyNew, by: Who, _: Annotated[None, Depends(opened)]) -> list[CrossingOut]:
    """A crossing for each site among some addresses: the first of a site is its start, the others its first list."""
    return [_out(made) for made in many_crossings([(a.address, a.title) for a in wanted.addresses], by)]


@router.get("/crossings/{crossing:int}")
def one_crossing(found: ThatCrossing) -> CrossingOut:
    return _out(found)


@router.get("/crossings/{crossing:int}/account")
def account(found: ThatCrossing) -> list[FateCount]:
    """Counts by fate, planned and proven; they add up to the number of old addresses."""
    return _account(found.id)
