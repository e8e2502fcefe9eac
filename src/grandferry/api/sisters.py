"""Files of other hosts: their account, host by host and one by one."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.core.because import sentence
from grandferry.core.route.sisters import SisterFate, sister_sentence
from grandferry.store import sisters
from grandferry.store.crossings import load_plan

from .common import Limit, Offset, ThatCrossing, Window

router = APIRouter(prefix="/crossings/{crossing:int}/sisters", tags=["route"])


class SisterHostRow(BaseModel):
    """Files of a host with one fate."""

    host: str
    fate: SisterFate
    count: int
    visits: int


class SisterFileRow(BaseModel):
    """A file of another host; ``says`` its fate in words."""

    id: int
    host: str
    key: str
    url: str
    mime: str
    bytes: int
    status: int
    in_links: int
    visits: int
    new_path: str
    fate: SisterFate
    says: str


@router.get("/hosts")
def hosts(crossing: ThatCrossing) -> list[SisterHostRow]:
    """The account of files on hosts other than the old site's own."""
    home = load_plan(crossing.id).side("old").host
    return [SisterHostRow(**row._asdict()) for row in sisters.hosts(crossing.id, home)]


@router.get("")
def files(
    crossing: ThatCrossing,
    host: str = "",
    fate: SisterFate | None = None,
    search: str = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[SisterFileRow]:
    home = load_plan(crossing.id).side("old").host
    total, found = sisters.window(crossing.id, home, host, fate or "", search, offset, limit)
    return Window(
        total=total,
        offset=offset,
        rows=[
            SisterFileRow(
                id=row.address,
                says=sister_sentence(
                    row.fate, row.host, row.new_path, sentence(row.aside) if row.aside else row.problem
                ),
                **{name: value for name, value in row._asdict().items() if name not in ("address", "aside", "problem")},
            )
            for row in found
        ],
    )
