"""Files by their content: what they are, where they are shown, what is wrong with them; small pictures of them."""

from __future__ import annotations

import io
import warnings
from typing import Annotated

from fastapi import APIRouter, Query, Response
from PIL import Image
from pydantic import BaseModel, Field

from grandferry.core.because import sentence
from grandferry.core.errors import NotThere
from grandferry.core.filetypes import FileFamily
from grandferry.core.media.said import FileSaid, written_as
from grandferry.store import bodies, media
from grandferry.store.crossings import load_plan
from grandferry.store.media import MediaFile, Only
from grandferry.work.media.standing import as_kept, say_of, standing

from .common import Limit, Offset, Search, ThatCrossing, binary
from .plan import Revision, Who

router = APIRouter(prefix="/crossings/{crossing:int}/media", tags=["media"])
USES = 300  # places that are named
SMALL = 320  # pixels of a small picture, at the most
LARGEST = 40_000_000  # pixels of one that is made small


class MediaRow(BaseModel):
    """A file; ``says``: why it is set aside, or what holds it up; ``unsuited``: why it does not suit its role;
    ``decided``: a person said something of it."""

    id: int
    url: str
    name: str
    mime: str
    bytes: int
    width: int
    height: int
    fault: str
    sources: int
    pages: int
    shown: int
    mute: int
    new_path: str
    fate: str
    says: str
    elsewhere: bool
    becomes: str
    role: str
    unsuited: str
    decided: bool


class MediaWindow(BaseModel):
    """Files in a window; how many there are of each that can be asked for, and of each family."""

    total: int
    offset: int
    rows: list[MediaRow]
    counts: dict[str, int]
    families: dict[str, int]


class UseRow(BaseModel):
    page: int
    key: str
    title: str
    how: str
    words: str


class SourceRow(BaseModel):
    id: int
    url: str


class MediaDetail(BaseModel):
    """A file, its addresses, where it is shown or linked, and what a person says of it."""

    file: MediaRow
    said: FileSaid
    sources: list[SourceRow]
    uses: list[UseRow]
    uses_all: int


class Say(BaseModel):
    """What is said of some files from now on; what is None stays as it was. ``text``: what was done, in words."""

    files: list[int] = Field(min_length=1, max_length=5000)
    role: str | None = None
    alt: str | None = None
    over: bool | None = None
    name: str | None = None
    focus: str | None = None
    poster: str | None = None
    aside: str | None = None
    same: bool | None = None
    text: str = Field("", max_length=300)


class MissingRow(BaseModel):
    """A file that could not be had, and why."""

    id: int
    url: str
    status: int
    problem: str
    pages: int


def _row(row: MediaFile) -> MediaRow:
    told = {k: v for k, v in row._asdict().items() if k not in ("body", "reason")}
    return MediaRow(**told, says=sentence(row.reason))


@router.get("")
def files(
    crossing: ThatCrossing,
    family: FileFamily | None = None,
    only: Only = "",
    order: Annotated[str, Query(pattern="^(url|bytes|pixels|pages)$")] = "url",
    search: Search = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> MediaWindow:
    """Files of the old site, each once whatever its addresses."""
    plan = load_plan(crossing.id)
    home, stands = plan.side("old").host, as_kept(standing(crossing.id, plan))
    total, found, counts = media.window(crossing.id, home, family, only, order, search, offset, limit, stands)
    said = [_row(one) for one in found]
    families = {str(name): number for name, number in media.families(crossing.id, home).items()}
    return MediaWindow(total=total, offset=offset, rows=said, counts=counts, families=families)


@router.get("/missing")
def missing(crossing: ThatCrossing) -> list[MissingRow]:
    """Files that pages show or link, and that could not be had. A survey of that address alone asks again."""
    return [
        MissingRow(
            **{**row._asdict(), "problem": "an HTML page came instead" if row.problem == "page" else row.problem}
        )
        for row in media.missing(crossing.id)
    ]


@router.get("/{address:int}")
def one_file(crossing: ThatCrossing, address: int) -> MediaDetail:
    """A file by the number of one of its addresses."""
    plan = load_plan(crossing.id)
    stands = standing(crossing.id, plan)
    file = media.file_of(crossing.id, plan.side("old").host, address, as_kept(stands))
    if file is None:
        raise NotThere(f"There is no file of the address {address} in this crossing.")
    sources = media.sources(crossing.id, address)
    total, uses = media.uses(crossing.id, [one.id for one in sources], USES)
    mine = stands[file.body].said if file.body in stands else None
    return MediaDetail(
        file=_row(file),
        said=mine or FileSaid(file=written_as(file.url, plan.side("old").origin)),
        sources=[SourceRow(**one._asdict()) for one in sources],
        uses=[UseRow(**one._asdict()) for one in uses],
        uses_all=total,
    )


@router.post("/said")
def say(wanted: Say, crossing: ThatCrossing, by: Who) -> Revision:
    """Say something of files (each by the number of one of its addresses), as one change that can be taken back."""
    given = wanted.model_dump(exclude={"files", "text"}, exclude_none=True)
    return Revision(revision=say_of(crossing.id, wanted.files, given, by, wanted.text))


@router.get("/{address:int}/small", response_class=Response, responses=binary("image/png"))
def small(crossing: ThatCrossing, address: int) -> Response:
    """A picture made small, as PNG: none of the old site's bytes are given on."""
    found = media.body_of(crossing.id, address)
    if found is None:
        raise NotThere(f"There is no file of the address {address} in this crossing.")
    try:
        with warnings.catch_warnings(), bodies.opened(found) as stream, Image.open(stream) as picture:
            warnings.simplefilter("ignore")
            if picture.width * picture.height > LARGEST:
                raise NotThere("The picture is too large to be made small.")
            picture.draft("RGB", (SMALL, SMALL))
            picture.thumbnail((SMALL, SMALL))
            out = io.BytesIO()
            picture.convert("RGBA").save(out, "PNG")
    except (OSError, SyntaxError, ValueError, EOFError, OverflowError, Image.DecompressionBombError):
        raise NotThere("The picture cannot be read.") from None
    keep = {"Cache-Control": "private, max-age=3600"}
    return Response(out.getvalue(), media_type="image/png", headers=keep)
