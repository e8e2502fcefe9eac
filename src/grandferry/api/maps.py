"""The redirect map as files for servers: looked at, taken, handed over."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel

from grandferry.work.names import file_name
from grandferry.work.route.evidence import note_written
from grandferry.work.route.maps import SAID, map_files, map_zip, servers

from .common import ThatCrossing, binary
from .route import RuleRow, rules

LEFT_OUT = 200

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["route"])


class MapFileRow(BaseModel):
    name: str
    bytes: int
    lines: int


class LeftOut(BaseModel):
    """A line that a server cannot answer as the map says, and why."""

    old: str
    why: str


class MapAbout(BaseModel):
    """The map as a server's files. ``lines``: of the map; ``spelled``: how many of them stand for rules that the server
    cannot compute; ``changed``: the day of its last change; ``left_out``: the first of the lines that it cannot answer
    at all."""

    files: list[MapFileRow]
    lines: int
    spelled: int
    changed: str
    bounds: list[str]
    left_out: list[LeftOut]
    left_out_count: int


@router.get("/redirects", tags=["route"])
def redirect_servers(crossing: ThatCrossing) -> list[str]:
    """The servers and tables the map can be written for."""
    return servers()


@router.get("/redirects/{server}", response_class=PlainTextResponse)
def redirects(
    crossing: ThatCrossing,
    server: str,
    file: Annotated[str, Query(max_length=80, description="one of its files; all, one after the other, without")] = "",
    most: Annotated[int, Query(ge=1, le=10_000_000, description="so many lines from the top")] = 10_000_000,
) -> str:
    """The redirect map written for a server, as text."""
    return map_files(crossing.id, server).text(file, most)


@router.get("/redirects/{server}/about")
def redirects_about(crossing: ThatCrossing, server: str) -> MapAbout:
    """The files of the map for a server, and what that server cannot do of it."""
    made = map_files(crossing.id, server)
    return MapAbout(
        files=[
            MapFileRow(name=name, bytes=len(content), lines=content.count(b"\n"))
            for name, content in made.files.items()
        ],
        lines=made.lines,
        spelled=made.spelled,
        changed=made.changed,
        bounds=[SAID[bound] for bound in made.bounds],
        left_out=[LeftOut(old=one.line.old, why=SAID[one.why]) for one in made.left_out[:LEFT_OUT]],
        left_out_count=len(made.left_out),
    )


@router.get("/redirects/{server}/files", response_class=Response, responses=binary("application/zip"))
def redirects_files(crossing: ThatCrossing, server: str) -> Response:
    """The files of the map for a server, as a zip."""
    name = f"{file_name(crossing.name)}-{file_name(server)}.zip"
    held = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(map_zip(crossing.id, server), media_type="application/zip", headers=held)


@router.post("/redirects/{server}/handed")
def handed(crossing: ThatCrossing, server: str) -> list[RuleRow]:
    """Note that the map was handed over for this server; the rules' states after it."""
    map_files(crossing.id, server)
    note_written(crossing.id, server)
    return rules(crossing)
