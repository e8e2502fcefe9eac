"""Records of files handed over: what a file holds, taken into a crossing for fields to read from."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.errors import NotThere
from grandferry.core.kinds import KindPlan
from grandferry.core.records.page import kind_of_records
from grandferry.core.records.record import Found, Wanted
from grandferry.store import records
from grandferry.work.records.read import write_records
from grandferry.work.records.take import forget_records, take_records
from grandferry.work.survey.ownerlists import place

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}/records", tags=["lift"])
SHOWN = 100  # authors
LOOKED_AT = 100  # records for the fields of a kind of them


class RecordsIn(BaseModel):
    """A file handed over, and which of its records are meant: of these kinds, states and authors (all, where none is
    named), published from one day to another."""

    token: str = Field(max_length=20)
    name: str = Field(min_length=1, max_length=200)
    kinds: list[str] = Field([], max_length=500)
    states: list[str] = Field([], max_length=100)
    authors: list[str] = Field([], max_length=1000)
    since: str = Field("", pattern=r"^(?:\d{4}-\d\d-\d\d)?$")
    until: str = Field("", pattern=r"^(?:\d{4}-\d\d-\d\d)?$")
    columns: dict[str, str] = Field({}, description="column or name -> what it says of a record, or a field")

    @property
    def wanted(self) -> Wanted:
        return Wanted(self.kinds, self.states, self.authors, self.since, self.until)


class FoundOut(BaseModel):
    """What the records that are meant are. ``damaged``: where the file breaks off ("" where it does not)."""

    records: int
    kinds: dict[str, dict[str, int]]
    authors: dict[str, int]
    terms: dict[str, int]
    first: str
    last: str
    comments: int
    files: int
    doubles: int
    without_address: int
    damaged: str


class TakenOut(FoundOut):
    """``joined``: records of pages that are captured; ``elsewhere``: with an address on another host; ``own``: without
    a captured page; ``unknown``: public, at an address of the old site that no survey has met."""

    joined: int
    elsewhere: int
    own: int
    unknown: int


class SourceRow(BaseModel):
    """A file that records were taken from: how many, with an address on the old site, of a captured page, with a page
    made of the record."""

    source: str
    records: int
    addressed: int
    joined: int
    own: int


def _out(found: Found, damaged: str) -> dict[str, object]:
    return found.as_json() | {"authors": dict(found.authors.most_common(SHOWN)), "damaged": damaged}


@router.get("")
def sources(crossing: ThatCrossing) -> list[SourceRow]:
    """The files that records were taken from."""
    return [SourceRow(**row._asdict()) for row in records.sources(crossing.id)]


@router.post("/look")
def look(wanted: RecordsIn, crossing: ThatCrossing) -> FoundOut:
    """What the records of a file are; nothing is taken."""
    found, damaged = write_records(place(wanted.token), wanted.wanted, None, wanted.columns)
    return FoundOut.model_validate(_out(found, damaged))


@router.post("")
def take(wanted: RecordsIn, crossing: ThatCrossing) -> TakenOut:
    """Take the records that are meant, in the place of those that a file of this name gave before."""
    taken = take_records(crossing.id, place(wanted.token), wanted.name, wanted.wanted, wanted.columns)
    more = {name: getattr(taken, name) for name in ("joined", "elsewhere", "own", "unknown")}
    return TakenOut.model_validate(_out(taken.found, taken.damaged) | more)


class AloneRow(BaseModel):
    """Records of a kind in a state of which no page is captured; how many of them are in a content type."""

    kind: str
    state: str
    records: int
    sorted: int


class OfRecordsIn(BaseModel):
    """Records of a kind in some states, and the name of the content type that is made of them."""

    name: str = Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=40)
    kind: str = Field(max_length=200)
    states: list[str] = Field(min_length=1, max_length=100)


@router.get("/alone")
def alone(crossing: ThatCrossing) -> list[AloneRow]:
    """Records of which no page is captured, by kind and state."""
    return [AloneRow(**row._asdict()) for row in records.alone(crossing.id)]


@router.post("/kind")
def kind_of(wanted: OfRecordsIn, crossing: ThatCrossing) -> KindPlan:
    """A content type for such records with the fields that they fill; nothing is changed."""
    said = records.said(crossing.id, wanted.kind, wanted.states, LOOKED_AT)
    if not said:
        raise NotThere(f"There is no record “{wanted.kind}” in that state without a captured page.")
    return kind_of_records(wanted.name, wanted.kind, wanted.states, said)


@router.delete("")
def forget(crossing: ThatCrossing, source: str) -> list[SourceRow]:
    """Forget the records of a file."""
    forget_records(crossing.id, source)
    return sources(crossing)
