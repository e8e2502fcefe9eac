"""Files by their content: what they are, where they are shown, what is wrong with them; small pictures of them."""

from __future__ import annotations

import io
import warnings
from typing import Annotated

from fastapi import APIRouter, Query, Response
from PIL import Image
from pydantic import BaseModel

from grandferry.core.because import sentence
from grandferry.core.errors import NotThere
from grandferry.core.filetypes import FileFamily
from grandferry.store import bodies, media
from grandferry.store.crossings import load_plan
from grandferry.store.media import MediaFile, Only

from .common import Limit, Offset, Search, ThatCrossing, binary

router = APIRouter(prefix="/crossings/{crossing:int}/media", tags=["media"])
USES = 300  # places that are named
SMALL = 320  # pixels of a small picture, at the most
LARGEST = 40_000_000  # pixels of one that is made small


class MediaRow(BaseModel):
    """A file; ``says``: why it is set aside, or what holds it up."""

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
    """A file, its addresses, and where it is shown or linked."""

    file: MediaRow
    sources: list[SourceRow]
    uses: list[UseRow]
    uses_all: int


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
    home = load_plan(crossing.id).side("old").host
    total, found, counts = media.window(crossing.id, home, family, only, order, search, offset, limit)
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
    file = media.file_of(crossing.id, load_plan(crossing.id).side("old").host, address)
    if file is None:
        raise NotThere(f"There is no file of the address {address} in this crossing.")
    sources = media.sources(crossing.id, address)
    total, uses = media.uses(crossing.id, [one.id for one in sources], USES)
    return MediaDetail(
        file=_row(file),
        sources=[SourceRow(**one._asdict()) for one in sources],
        uses=[UseRow(**one._asdict()) for one in uses],
        uses_all=total,
    )


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
