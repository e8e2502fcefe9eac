"""Rounds: each against the one before, any two against each other, and what each address answered."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from grandferry.core.because import seen_sentence
from grandferry.core.errors import NotThere
from grandferry.core.route.fate import OF_CONTENT
from grandferry.store import rounds
from grandferry.store.crossings import load_plan
from grandferry.work.route.evidence import TURNS, compared, round_story

from .common import Limit, Offset, ThatCrossing, Window

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["route"])


class RoundRow(BaseModel):
    """A round against the one before: ``broke`` are newly broken, the first of them named in ``broken``."""

    id: int
    base: str
    started: str
    ended: str
    counts: dict[str, int]
    checked: int
    open: int
    before: int | None
    fixed_by: dict[str, int]
    broken: list[dict[str, str]]
    broke: int
    stays: int
    taken_over: int


class TurnRow(BaseModel):
    """What became of an address between two rounds (fixed, broken, still open, still proven)."""

    address: int
    key: str
    before: str
    now: str
    what: str
    by: str


class Turns(Window[TurnRow]):
    """``counts``: of all addresses that both rounds asked."""

    counts: dict[str, int]


class VerdictRow(BaseModel):
    address: int
    key: str
    verdict: str
    status: int
    hops: list[tuple[int, str]]
    final: str
    seen: str
    accepted: str


@router.get("/rounds")
def every_round(crossing: ThatCrossing) -> list[RoundRow]:
    """Every round against the one before it."""
    return [RoundRow(**{**row, "counts": json.loads(row["counts"])}) for row in round_story(crossing.id)]


@router.get("/rounds/{round:int}/against/{before:int}")
def against(
    crossing: ThatCrossing,
    round: int,
    before: int,
    what: Annotated[str, Query(max_length=20, description="only addresses of which this became")] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Turns:
    """Any two rounds: what was fixed by what, what broke, what is as it was."""
    turns = compared(crossing.id, round, before)
    found = [turn for turn in turns if what in ("", turn.what)]
    rows = [TurnRow(**asdict(turn)) for turn in found[offset : offset + limit]]
    number = Counter(turn.what for turn in turns)
    return Turns(total=len(found), offset=offset, rows=rows, counts={name: number[name] for name in TURNS})


@router.get("/rounds/{round:int}/verdicts")
def verdicts(
    crossing: ThatCrossing,
    round: int,
    verdict: Annotated[str, Query(max_length=40)] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[VerdictRow]:
    """What a round found, address by address."""
    if not any(row.id == round for row in rounds.round_rows(crossing.id)):
        raise NotThere(f"There is no round {round} in this crossing.")
    total, found = rounds.verdict_rows(round, verdict, offset, limit)
    accepted = load_plan(crossing.id).route.accepting()
    read = [
        VerdictRow(
            **row._asdict()
            | {
                "hops": json.loads(row.hops),
                "seen": seen_sentence(*row.seen.split("\t")) if row.seen else "",
                "accepted": accepted(row.key) if row.verdict in OF_CONTENT else "",
            }
        )
        for row in found
    ]
    return Window[VerdictRow](total=total, offset=offset, rows=read)
