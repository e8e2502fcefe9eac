"""Questions to the owner of the old site: listed, answered, given out as a sheet and brought back."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from grandferry.store import route
from grandferry.work.names import file_name
from grandferry.work.route import asking
from grandferry.work.survey import ownerlists

from .addresses import Acted, as_given, given
from .common import Limit, Offset, Search, ThatCrossing, Window
from .lists import BadRow, Brought
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}/questions", tags=["route"])
SHOWN = 200


class QuestionRow(BaseModel):
    """An old address that the owner is, or was, asked about. ``address``: 0 when it is not in the account any more;
    ``origin`` and ``target``: what decides over it now, and where it leads."""

    address: int
    key: str
    title: str
    visits: int
    asked: str
    until: str
    fate: str
    proven: bool
    origin: str
    target: str
    answer: str
    by: str
    at: str


class QuestionCounts(BaseModel):
    """``provisional``: addresses that lead somewhere only until the owner answers."""

    open: int
    answered: int
    provisional: int


class AnswerIn(BaseModel):
    """What the owner says of some addresses; ``who``: the name of who says it."""

    keys: list[str] = Field(min_length=1, max_length=20_000)
    answer: Literal["stays", "moved", "retired", "set aside"]
    to: str = Field("", max_length=2000)
    why: str = Field("", max_length=500)
    who: str = Field("", max_length=100)


class Withdrawn(BaseModel):
    keys: list[str] = Field(min_length=1, max_length=20_000)


class SheetReturned(BaseModel):
    """A sheet that came back: rows taken, rows without an answer, and (the first of) those that could not be taken."""

    answered: int
    empty: int
    refused: int
    bad: list[BadRow]


@router.get("")
def questions(
    crossing: ThatCrossing,
    search: Search = "",
    state: Annotated[str, Query(pattern="^(open|answered|)$")] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[QuestionRow]:
    """Questions, the open ones first, the most visited first."""
    wanted = search.lower()
    found = [
        one
        for one in asking.questions(crossing.id)
        if (not state or (state == "answered") == bool(one.answer))
        and (not wanted or wanted in f"{one.key}\n{one.title}\n{one.asked}\n{one.answer}".lower())
    ]
    rows = [QuestionRow(**one._asdict()) for one in found[offset : offset + limit]]
    return Window[QuestionRow](total=len(found), offset=offset, rows=rows)


@router.get("/counts")
def counts(crossing: ThatCrossing) -> QuestionCounts:
    """How many are open, answered, and lead on only for now."""
    found = asking.questions(crossing.id)
    answered = sum(bool(one.answer) for one in found)
    return QuestionCounts(open=len(found) - answered, answered=answered, provisional=route.provisional(crossing.id))


@router.post("/answer")
def answer(wanted: AnswerIn, crossing: ThatCrossing, by: Who) -> Acted:
    """Put the owner's answer in the place of what was led to for now."""
    to, why, who = wanted.to.strip(), wanted.why.strip(), wanted.who.strip()
    answers = [asking.Answer(key, wanted.answer, to, why, who) for key in wanted.keys]
    number, text = asking.answer(crossing.id, answers, by)
    return Acted(addresses=number, text=text)


@router.post("/withdraw")
def withdraw(wanted: Withdrawn, crossing: ThatCrossing, by: Who) -> Acted:
    """Take questions back; what answers have decided stays."""
    number, text = asking.withdraw(crossing.id, wanted.keys, by)
    return Acted(addresses=number, text=text)


@router.get("/file/{form}", response_class=FileResponse, responses=given("csv", "xlsx"))
def as_sheet(crossing: ThatCrossing, form: Literal["csv", "xlsx"]) -> FileResponse:
    """The open questions as a sheet to send to the owner."""
    name = f"{file_name(crossing.name)}-questions.{form}"
    return as_given(name, form, lambda out: asking.write_questions(crossing.id, out))


@router.post("/sheet")
def sheet(wanted: Brought, crossing: ThatCrossing, by: Who) -> SheetReturned:
    """Take the answers of a sheet that was handed over; rows that cannot be taken are told and change nothing."""
    path = ownerlists.place(wanted.token)
    read = asking.read_questions(crossing.id, path, by)
    path.unlink(missing_ok=True)
    return SheetReturned(
        answered=read.answered,
        empty=read.empty,
        refused=len(read.bad),
        bad=[BadRow(number=number, address=address[:2000], why=why) for number, address, why in read.bad[:SHOWN]],
    )
