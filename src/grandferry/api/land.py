"""Landings and what each did with every thing."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field
from starlette.background import BackgroundTask

from grandferry.core.errors import NotThere
from grandferry.core.land.back import Why, reason
from grandferry.core.land.profile import PROFILES, Profile
from grandferry.core.mapping import Mapped
from grandferry.store import land
from grandferry.work.land.back import look, take_in
from grandferry.work.land.mapping import look as look_at
from grandferry.work.land.places import Lack, file_of_item, landed, packed
from grandferry.work.names import file_name

from .common import Fates, Limit, Offset, Search, ThatCrossing, binary
from .plan import Who

ROWS = 500  # that are shown

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["land"])


class LandingRow(BaseModel):
    id: int
    target: str
    dry: bool
    started: str
    ended: str
    counts: dict[str, Any]


class ThingRow(BaseModel):
    """A file, item or redirect of a landing: created, changed, same or refused (with the reason)."""

    type: str
    key: str
    title: str
    place: str
    state: str
    reason: str


class Things(BaseModel):
    total: int
    offset: int
    rows: list[ThingRow]
    states: dict[str, int]


@router.get("/landings")
def landings(crossing: ThatCrossing) -> list[LandingRow]:
    return [LandingRow(**{**row._asdict(), "counts": json.loads(row.counts)}) for row in land.landing_rows(crossing.id)]


class LackRow(BaseModel):
    what: Lack
    of: str


class FileShown(BaseModel):
    """The file that an item would be in a folder, and what it lacks: what, and what that is said of."""

    file: str
    text: str
    lacks: list[LackRow]


class FolderRow(BaseModel):
    """The folder that a crossing lands in: where it lies, how many files are in it, why it cannot be read."""

    place: str
    files: int
    fault: str


@router.get("/profiles")
def profiles(crossing: ThatCrossing) -> list[Profile]:
    """The ready profiles of folders of Markdown, the first of them what counts where a plan says nothing."""
    return list(PROFILES.values())


@router.get("/landing-file")
def landing_file(crossing: ThatCrossing, item: Annotated[str, Query(max_length=4000)]) -> FileShown:
    """What would be written of an item (by its old key) to the folder that the plan lands in."""
    made = file_of_item(crossing.id, item)
    return FileShown(file=made.file, text=made.text, lacks=[LackRow(what=what, of=of) for what, of in made.lacks])


@router.get("/landed")
def landed_folder(crossing: ThatCrossing) -> FolderRow:
    return FolderRow(**landed(crossing.id)._asdict())


@router.get("/landed/file/zip", response_class=FileResponse, responses=binary("application/zip"))
def landed_archive(crossing: ThatCrossing) -> FileResponse:
    """The folder that the crossing landed in, as a zip."""
    path = packed(crossing.id)
    name = f"{file_name(crossing.name)}.zip"
    return FileResponse(path, media_type="application/zip", filename=name, background=BackgroundTask(path.unlink))


class OtherwiseRow(BaseModel):
    """What a file of an item says otherwise than it was written: ``name`` of the field, or the file's own key; of a
    body the block (by what it was and is now). What cannot be taken in has a ``why``; ``newer``: the crossing has
    changed since as well."""

    file: str
    key: str
    kind: str
    title: str
    newer: bool
    name: str
    ours: str
    theirs: str
    block: str
    why: Why | None
    reason: str


class FileFault(BaseModel):
    file: str
    says: str


class AlteredFiles(BaseModel):
    """Files that are not as they were written (``altered``), what they say otherwise (``total``, the first in
    ``rows``; ``fit`` can be taken in, ``newer`` only where it is named), those that say the same, are gone, or cannot
    be read."""

    place: str
    altered: int
    total: int
    fit: int
    newer: int
    rows: list[OtherwiseRow]
    same: int
    gone: int
    faults: list[FileFault]


class TakeIn(BaseModel):
    """``keys``: the items whose files are taken in, also where the crossing has changed since; without any those of all
    others."""

    keys: Annotated[list[str], Field(max_length=5000)] = []


class TakenIn(BaseModel):
    taken: int
    items: int
    left: int
    revision: int


@router.get("/landed/altered")
def altered(crossing: ThatCrossing) -> AlteredFiles:
    """What a person altered in the folder since it was written."""
    looked = look(crossing.id)
    fit = [one for one in looked.found if one.why is None]
    rows = [
        OtherwiseRow(
            file=one.file,
            key=one.key,
            kind=one.kind,
            title=one.title,
            newer=one.newer,
            name=one.name,
            ours=one.ours,
            theirs=one.theirs,
            block=one.block,
            why=one.why,
            reason=reason(one.why, one.about) if one.why else "",
        )
        for one in looked.found[:ROWS]
    ]
    return AlteredFiles(
        place=looked.place,
        altered=looked.altered,
        total=len(looked.found),
        fit=sum(not one.newer for one in fit),
        newer=sum(one.newer for one in fit),
        rows=rows,
        same=len(looked.same),
        gone=len(looked.gone),
        faults=[FileFault(file=file, says=says) for file, says in looked.faults[:ROWS]],
    )


@router.post("/landed/altered")
def take_altered(wanted: TakeIn, crossing: ThatCrossing, by: Who) -> TakenIn:
    """Take it in as set by hand, as one change that can be taken back."""
    return TakenIn(**take_in(crossing.id, by, look(crossing.id), wanted.keys)._asdict())


class LookIn(BaseModel):
    kind: str
    rules: Annotated[list[Mapped], Field(max_length=100)]


class Misfit(BaseModel):
    """A value that does not fit what the target's field holds, and why."""

    key: str
    says: str
    why: str


class LookOut(BaseModel):
    """What a field of the target gets: filled of so many items; marks lost (construct -> how many) in ``losing`` of
    them; values that do not fit its type and stay away, the first of them."""

    of: int
    filled: int
    losing: int
    lost: dict[str, int]
    misfits: int
    examples: list[Misfit]


@router.post("/mapping/look")
def look_at_mapping(crossing: ThatCrossing, wanted: LookIn) -> list[LookOut]:
    """What each rule of a mapping would make of the items of a kind, before it is saved."""
    return [
        LookOut(
            of=one.of,
            filled=one.filled,
            losing=one.losing,
            lost=dict(one.lost.most_common()),
            misfits=one.misfits,
            examples=[Misfit(key=key, says=says, why=why) for key, says, why in one.examples],
        )
        for one in look_at(crossing.id, wanted.kind, wanted.rules)
    ]


@router.get("/landings/{landing:int}/things")
def things(
    crossing: ThatCrossing,
    landing: int,
    fate: Fates,
    type_: Annotated[str, Query(alias="type", max_length=20)] = "",
    state: Annotated[str, Query(max_length=20)] = "",
    search: Search = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Things:
    if not any(row.id == landing for row in land.landing_rows(crossing.id)):
        raise NotThere(f"There is no landing {landing} in this crossing.")
    total, found, states = land.landing_window(crossing.id, landing, type_, state, search, fate, offset, limit)
    return Things(total=total, offset=offset, rows=[ThingRow(**row._asdict()) for row in found], states=states)
