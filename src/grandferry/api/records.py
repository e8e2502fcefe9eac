"""Records of files handed over: what a file holds, taken into a crossing for fields to read from."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.records.record import Found, Wanted
from grandferry.store import records
from grandferry.work.records.read import write_records
from grandferry.work.records.take import take_records
from grandferry.work.survey.ownerlists import place

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}/records", tags=["lift"])
SHOWN = 100  # authors


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
    """``joined``: records of pages that are captured; ``elsewhere``: with an address on another host."""

    joined: int
    elsewhere: int


class SourceRow(BaseModel):
    """A file that records were taken from: how many, with an address on the old site, of a captured page."""

    source: str
    records: int
    addressed: int
    joined: int


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
    more = {"joined": taken.joined, "elsewhere": taken.elsewhere}
    return TakenOut.model_validate(_out(taken.found, taken.damaged) | more)


@router.delete("")
def forget(crossing: ThatCrossing, source: str) -> list[SourceRow]:
    """Forget the records of a file."""
    records.drop(crossing.id, source)
    return sources(crossing)
