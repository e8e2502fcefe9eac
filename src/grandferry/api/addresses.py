"""Addresses: in windows, as files, one by one, by folder; what is decided over many of them at once."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, Literal

from fastapi import APIRouter, BackgroundTasks, Depends, Query, Request
from fastapi.responses import FileResponse, PlainTextResponse
from pydantic import BaseModel, Field
from starlette.background import BackgroundTask

from grandferry.core.because import sentence
from grandferry.core.errors import NotThere
from grandferry.core.side import SIDES, Side
from grandferry.store import bodies, crossings, route
from grandferry.store.db import connection
from grandferry.store.lists import details, windows
from grandferry.work.names import file_name, safe_cell
from grandferry.work.refit.preview import capture_texts
from grandferry.work.route.acts import act_over
from grandferry.work.survey.bounds import capture_through_browser
from grandferry.work.survey.offline import copy_name
from grandferry.work.survey.offline import folder as copies
from grandferry.work.survey.report import write_addresses
from grandferry.work.survey.sheets import write_decisions

from .common import Limit, Offset, Position, Queued, Sentence, ThatCrossing, ThatSide, Window
from .plan import Who
from .signing import sign

router = APIRouter(tags=["survey"], prefix="/crossings/{crossing:int}")


class AddressRow(BaseModel):
    id: int
    url: str
    key: str
    state: str
    reason: str
    status: int
    type: str
    mime: str
    target: str
    title: str
    words: int
    bytes: int
    depth: int
    visits: int
    in_links: int
    decision: str
    decision_target: str
    decision_origin: str
    decision_reason: Sentence
    verdict: str
    fate: str
    proven: bool
    why: Sentence
    counted: bool
    outside: str
    kind: str
    also: str
    change: str
    what: str
    language: str
    heading: str
    headings: int
    description: str
    links_out: int
    pictures: int
    no_alt: int
    forms: int
    embeds: int
    indexing: str
    encoding: str
    seconds: float
    found_by: str
    odd: str


class LikeRow(BaseModel):
    """An address alike to another: ``type`` same, near or spelling; ``why`` in words."""

    id: int
    key: str
    title: str
    type: str
    why: str


class LinkRow(BaseModel):
    id: int
    url: str
    how: str
    words: str


class CaptureRow(BaseModel):
    """``rendered``: a browser built the page as well; ``body`` names its content, so that two captures can be told
    apart."""

    id: int
    at: str
    status: int
    bytes: int
    encoding: str
    doubtful: str
    rendered: bool
    body: str


class AddressDetail(AddressRow):
    ways: list[str]
    alike: list[LikeRow]
    spellings: list[str]
    facts: dict[str, Any] | None
    findings: list[str]
    links_in: list[LinkRow]
    links_out: list[LinkRow]
    captures: list[CaptureRow]
    preview: str


class Choice(BaseModel):
    value: str
    count: int


class Branch(BaseModel):
    """A folder (its name ends with / or ?), a host, or with an empty name the pages of the folder itself."""

    name: str
    addresses: int
    counted: int
    unaccounted: int


class Act(BaseModel):
    """What to do with addresses: those by id, or all that match the filters but for those left out."""

    what: Literal["retire", "move", "stay", "aside", "accept", "ask", "holder"]
    to: str = Field("", max_length=2000)
    reason: str = Field("", max_length=2000)
    ids: list[int] = Field([], max_length=20_000)
    filters: dict[str, list[str]] = {}
    search: str = Field("", max_length=200)
    below: str = Field("", max_length=2000)
    without: list[int] = Field([], max_length=20_000)

    def chosen(self) -> windows.Selection:
        return windows.Selection(self.filters, self.search, self.below, tuple(self.ids), tuple(self.without))


class Acted(BaseModel):
    addresses: int
    text: str


class CaptureTexts(BaseModel):
    earlier: str
    later: str


class FolderCount(BaseModel):
    folder: str
    fate: str
    proven: bool
    count: int


def selection(request: Request) -> windows.Selection:
    """The filters of a list out of its query: every filter may be given more than once (any of its values)."""
    query = request.query_params
    return windows.Selection(
        {name: query.getlist(name) for name in windows.CHOICES if name in query},
        query.get("search", "")[:200],
        query.get("below", "")[:2000],
    )


Selected = Annotated[windows.Selection, Depends(selection)]
Order = Annotated[str, Query(max_length=40, description="a column, with “-” before it for descending")]
FILTERS: dict[str, Any] = {
    "openapi_extra": {
        "parameters": [
            {"name": name, "in": "query", "required": False, "schema": {"type": "array", "items": {"type": "string"}}}
            for name in (*windows.CHOICES,)
        ]
        + [
            {"name": name, "in": "query", "required": False, "schema": {"type": "string"}}
            for name in ("search", "below")
        ]
    }
}


def warm(side: Side) -> None:
    """Make ready, behind an answer, what the next ones will ask for."""
    with connection():
        windows.warm(side)


@router.get("/addresses", **FILTERS)
def addresses(
    side: ThatSide,
    chosen: Selected,
    behind: BackgroundTasks,
    offset: Offset = 0,
    limit: Limit = 100,
    order: Order = "key",
) -> Window[AddressRow]:
    """A window of the addresses of a side that match all filters."""
    total, found = windows.window(side, chosen, order, offset, limit)
    behind.add_task(warm, side)
    return Window[AddressRow](total=total, offset=offset, rows=[AddressRow(**row._asdict()) for row in found])


@router.get("/addresses/position", **FILTERS)
def position(side: ThatSide, chosen: Selected, address: int, order: Order = "key") -> Position:
    """Where one address stands in a list, -1 when it is not in it."""
    return Position(position=windows.position(side, chosen, order, address))


@router.get("/addresses/choices", **FILTERS)
def choices(side: ThatSide, chosen: Selected, name: Annotated[str, Query(max_length=40)]) -> list[Choice]:
    """The values of one filter with the number of addresses each would show."""
    return [Choice(value=value, count=count) for value, count in windows.choices(side, chosen, name)]


@router.get("/addresses/text", response_class=PlainTextResponse, **FILTERS)
def as_text(
    side: ThatSide,
    chosen: Selected,
    order: Order = "key",
    columns: Annotated[str, Query(max_length=400)] = "status,key,title,fate",
    most: Annotated[int, Query(ge=1, le=100_000)] = 100_000,
) -> str:
    """The addresses of a list as tab-separated text, first line the columns' names."""
    names = [name for name in columns.split(",") if name in details.COLUMNS]
    ids = windows.ordered(side, chosen, order)[:most].tolist()
    lines = ["\t".join(names)]
    for row in windows.by_ids(ids):
        row = row._replace(why=sentence(row.why), decision_reason=sentence(row.decision_reason))
        lines.append("\t".join(str(safe_cell(" ".join(str(getattr(row, name)).split()))) for name in names))
    return "\n".join(lines) + "\n"


# the forms in which a list or a copy is given out, and what they are on the way
MEDIA_TYPES = {
    "csv": "text/csv",
    "json": "application/json",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    "warc.gz": "application/warc",
    "zip": "application/zip",
}


def given(*forms: str) -> dict[int | str, dict[str, Any]]:
    """What the description of the API says of an answer that is a file."""
    binary = {"type": "string", "format": "binary"}
    records = {"type": "array", "items": {"type": "object"}}
    return {200: {"content": {MEDIA_TYPES[f]: {"schema": records if f == "json" else binary} for f in forms}}}


def as_given(name: str, form: str, write: Callable[[Path], object]) -> FileResponse:
    """A file that is made for one answer alone, under this name."""
    folder = Path(tempfile.mkdtemp(prefix="out-", dir=bodies.temporary()))
    out = folder / name
    try:
        write(out)
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    return FileResponse(
        out,
        media_type=MEDIA_TYPES[form],
        filename=out.name,
        background=BackgroundTask(shutil.rmtree, folder, ignore_errors=True),
    )


@router.get("/addresses/file/{form}", response_class=FileResponse, responses=given("csv", "json", "xlsx", "warc.gz"))
def as_file(side: ThatSide, form: Literal["csv", "json", "xlsx", "warc.gz"]) -> FileResponse:
    """All addresses as a file (CSV, JSON, XLSX), or all captures as an archive (WARC 1.1, packed)."""
    name = f"{file_name(crossings.crossing(side.crossing).name)}-{side.name}.{form}"
    return as_given(name, form, lambda out: write_addresses(side, out))


@router.get("/decisions/file/{form}", response_class=FileResponse, responses=given("csv", "xlsx"))
def decisions_as_file(crossing: ThatCrossing, form: Literal["csv", "xlsx"]) -> FileResponse:
    """What is decided of every address as a table to alter and bring back."""
    name = f"{file_name(crossing.name)}-decisions.{form}"
    return as_given(name, form, lambda out: write_decisions(crossing.id, out))


@router.get("/copies/{name}", response_class=FileResponse, responses=given("zip"))
def offline_copy(crossing: ThatCrossing, name: str) -> FileResponse:
    """An offline copy that a job has made (its result names it)."""
    path = copies() / name
    ours = any(name.endswith(copy_name("", Side(crossing.id, side))) for side in SIDES)
    if not ours or path.parent != copies() or not path.is_file():
        raise NotThere("That copy is not here any more.", "Make it again.")
    return FileResponse(path, media_type=MEDIA_TYPES["zip"], filename=name)


@router.post("/addresses/act")
def act(wanted: Act, crossing: ThatCrossing, by: Who) -> Acted:
    """Decide over all chosen addresses at once: retire them, lead them to one new address or to the pages that hold
    them (``holder``), let them stay, set them
    aside, accept their landing pages as they are, or ask the owner (``reason``), leading them ``to`` for now."""
    number, text = act_over(crossing.id, wanted.chosen(), wanted.what, wanted.to, wanted.reason, by)
    return Acted(addresses=number, text=text)


@router.get("/tree")
def tree(side: ThatSide, host: str = "", below: str = "/") -> list[Branch]:
    """The folders right below a path of a host, with their counts; without a host, the hosts."""
    return [Branch(**row._asdict()) for row in windows.branches(side, host, below)]


@router.get("/addresses/{address:int}")
def address(crossing: ThatCrossing, address: int) -> AddressDetail:
    """One address with its facts and links."""
    found = details.address(crossing.id, address)
    row = found.row
    return AddressDetail(
        **row._asdict()
        | {
            "ways": found.ways,
            "spellings": found.spellings,
            "alike": [LikeRow(**like._asdict()) for like in found.alike],
            "facts": found.facts,
            "findings": found.findings,
            "links_in": [LinkRow(**link._asdict()) for link in found.links_in],
            "links_out": [LinkRow(**link._asdict()) for link in found.links_out],
            "captures": [CaptureRow(**capture._asdict()) for capture in found.captures],
            "preview": sign("page", crossing.id, address) if found.captures and row.type == "page" else "",
        }
    )


@router.get("/addresses/{address:int}/difference")
def difference(crossing: ThatCrossing, address: int, earlier: int, later: int) -> CaptureTexts:
    """The visible words of two captures of an address, to be compared."""
    one, other = capture_texts(crossing.id, address, earlier, later)
    return CaptureTexts(earlier=one, later=other)


@router.post("/addresses/{address:int}/browser", status_code=202)
def through_browser(crossing: ThatCrossing, address: int, by: Who) -> Queued:
    """Capture one page through a browser: now, and whenever it is surveyed from here on."""
    return Queued(job=capture_through_browser(crossing.id, address, by))


@router.get("/folders")
def folders(crossing: ThatCrossing) -> list[FolderCount]:
    """The account by first folder."""
    return [FolderCount(**row._asdict()) for row in route.folders(crossing.id)]
