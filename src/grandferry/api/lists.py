"""Lists, tables and logs that somebody hands over: uploaded, weighed, taken."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from grandferry.core.errors import FerryError
from grandferry.core.survey.spellings import Line
from grandferry.store import jobs
from grandferry.store.db import connection
from grandferry.store.survey import given
from grandferry.work.survey import ownerlists, sheets
from grandferry.work.survey.access import check_leave

from .common import Queued, ThatCrossing, ThatSide
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}/lists", tags=["survey"])
UPLOAD_CAP = 20_000_000_000
SHOWN = 500


class ListRow(BaseModel):
    """A list taken: ``type`` list, log or analytics; ``report`` says how its lines were read."""

    id: int
    name: str
    type: str
    at: str
    by: str
    report: dict[str, int]
    from_plan: bool
    addresses: int
    visits: int


class Looked(BaseModel):
    """A file handed over: ``form`` log, archive (WARC), table, lines or decisions (a table given out here);
    ``address``, ``visits`` and ``title`` are the columns they seem to stand in (-1: none)."""

    token: str
    form: Literal["log", "archive", "table", "lines", "decisions"]
    columns: list[str]
    rows: list[list[str]]
    address: int
    visits: int
    title: int


class TableIn(BaseModel):
    """A file handed over, and the columns (from 0) of its addresses, visits and titles (-1: none)."""

    token: str = Field(max_length=20)
    form: Literal["table", "lines"]
    address: int = 0
    visits: int = -1
    title: int = -1


class Taking(TableIn):
    """``without``: numbers of doubtful lines that a person said are the same as others."""

    name: str = Field(min_length=1, max_length=200)
    without: list[int] = Field([], max_length=20_000)


class LogTaking(BaseModel):
    """``own``: addresses and ranges of machines whose visits do not count."""

    token: str = Field(max_length=20)
    name: str = Field(min_length=1, max_length=200)
    own: list[str] = Field([], max_length=200)


class ArchiveTaking(BaseModel):
    token: str = Field(max_length=20)


class LineRow(BaseModel):
    number: int
    text: str
    url: str
    of: int
    why: str


class Weighed(BaseModel):
    """A list against what is known; of each sort of line the first 500, and how many there are."""

    lines: int
    counts: dict[str, int]
    visits: int
    new: list[LineRow]
    repeats: list[LineRow]
    doubtful: list[LineRow]
    repaired: list[LineRow]
    outside: list[LineRow]
    bad: list[LineRow]


class Taken(BaseModel):
    report: dict[str, Any]


class Brought(BaseModel):
    token: str = Field(max_length=20)


class AlteredRow(BaseModel):
    """A row that says something new: ``was`` and ``says`` are decision, new address and why. ``meanwhile``: it was
    decided anew here since the table was given out."""

    number: int
    address: str
    was: list[str]
    says: list[str]
    meanwhile: bool


class BadRow(BaseModel):
    number: int
    address: str
    why: str


class BroughtBack(BaseModel):
    """A table of decisions against what is decided now; of each sort of row the first 500, and how many there are."""

    rows: int
    same: int
    altered: list[AlteredRow]
    bad: list[BadRow]
    counts: dict[str, int]


class BroughtTaking(Brought):
    """``over``: numbers of rows to take although they were decided anew here meanwhile."""

    over: list[int] = Field([], max_length=20_000)


@router.get("")
def lists(side: ThatSide) -> list[ListRow]:
    return [ListRow(**row._asdict()) for row in given.lists(side)]


@router.put(
    "/file",
    openapi_extra={
        "requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}
    },
)
async def upload(crossing: ThatCrossing, request: Request) -> Looked:
    """Hand over a file as the body of the request, of any size; nothing is taken yet."""

    def begin() -> Any:
        with connection():
            return ownerlists.new_place()

    path = await run_in_threadpool(begin)
    size = 0
    with path.open("wb") as handle:
        async for chunk in request.stream():
            size += len(chunk)
            if size > UPLOAD_CAP:
                path.unlink(missing_ok=True)
                raise FerryError("The file is larger than 20 GB.")
            handle.write(chunk)
    found = await run_in_threadpool(ownerlists.looked_at, path)
    return Looked(
        token=found.token,
        form=found.form,
        columns=found.columns,
        rows=found.rows,
        address=found.address,
        visits=found.visits,  # type: ignore[arg-type]
        title=found.title,
    )


@router.post("/weigh")
def weigh(wanted: TableIn, side: ThatSide) -> Weighed:
    """Read a list or table and hold it against what is known; nothing is taken yet."""
    path = ownerlists.place(wanted.token)
    found, _ = ownerlists.weigh(side, path, wanted.form, wanted.address, wanted.visits, wanted.title)
    read = found.read
    sorts = {"new": found.new, "repeats": read.repeats, "doubtful": read.doubtful, "repaired": read.repaired}
    sorts |= {"outside": read.outside, "bad": read.bad}
    return Weighed(
        lines=read.lines,
        counts={"distinct": len(read.kept), **{name: len(lines) for name, lines in sorts.items()}},
        visits=found.visits,
        **{name: [_row(line) for line in lines[:SHOWN]] for name, lines in sorts.items()},  # type: ignore[arg-type]
    )


def _row(line: Line) -> LineRow:
    return LineRow(number=line.number, text=line.text[:2000], url=line.url, of=line.of, why=line.why)


@router.post("/take")
def take(wanted: Taking, side: ThatSide, by: Who) -> Taken:
    """Take a list or table; what it names is fetched when the survey goes on."""
    path = ownerlists.place(wanted.token)
    return Taken(
        report=ownerlists.take(
            side, path, wanted.name, wanted.form, wanted.address, wanted.visits, wanted.without, by, wanted.title
        )
    )


@router.post("/decisions/weigh")
def weigh_decisions(wanted: Brought, crossing: ThatCrossing) -> BroughtBack:
    """Hold a table of decisions brought back against what is decided now; nothing is taken yet."""
    read = sheets.read_decisions(crossing.id, ownerlists.place(wanted.token))
    meanwhile = sum(row.meanwhile for row in read.altered)
    return BroughtBack(
        rows=read.rows,
        same=read.same,
        altered=[
            AlteredRow(
                number=row.number, address=row.address, was=list(row.was), says=list(row.says), meanwhile=row.meanwhile
            )
            for row in sorted(read.altered, key=lambda row: not row.meanwhile)[:SHOWN]
        ],
        bad=[BadRow(number=number, address=address[:2000], why=why) for number, address, why in read.bad[:SHOWN]],
        counts={"altered": len(read.altered), "meanwhile": meanwhile, "bad": len(read.bad)},
    )


@router.post("/decisions/take")
def take_decisions(wanted: BroughtTaking, crossing: ThatCrossing, by: Who) -> Taken:
    """Take the altered rows; the redirect map is made anew by its own job."""
    number, text = sheets.take_decisions(crossing.id, ownerlists.place(wanted.token), wanted.over, by)
    return Taken(report={"rows": number, "text": text})


@router.post("/log", status_code=202)
def take_log(wanted: LogTaking, crossing: ThatCrossing, by: Who) -> Queued:
    """Read an access log in a job of its own."""
    ownerlists.place(wanted.token)
    ownerlists.check_machines(wanted.own)
    params = {"file": wanted.token, "name": wanted.name, "own": wanted.own, "by": by}
    return Queued(job=jobs.ask_job("log", crossing.id, params))


@router.post("/archive", status_code=202)
def take_archive(wanted: ArchiveTaking, side: ThatSide) -> Queued:
    """Build the survey of a side from an archive; the site itself is not asked."""
    ownerlists.place(wanted.token)
    check_leave(side.crossing)
    return Queued(job=jobs.ask_job("survey", side.crossing, {"archive": wanted.token, "side": side.name}))


@router.delete("/{number:int}")
def forget(number: int, side: ThatSide) -> list[ListRow]:
    """Forget a list; addresses that only it named stay."""
    given.drop(side.crossing, number)
    return [ListRow(**row._asdict()) for row in given.lists(side)]
