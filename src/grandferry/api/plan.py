"""What a person decided in a crossing: read, changed with a revision, taken back."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Any, Literal
from urllib.parse import unquote

from fastapi import APIRouter, Depends, Header, Query, Request, Response
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from grandferry.core.errors import FerryError
from grandferry.core.plan import Pair, Plan
from grandferry.core.plancheck import check_plan
from grandferry.core.proposed import as_decided
from grandferry.core.route.pasted import read_lines
from grandferry.core.route.redirects import host_of
from grandferry.store import changes, crossings
from grandferry.store.db import connection
from grandferry.work.names import file_name
from grandferry.work.plan import sharing
from grandferry.work.plan.leave import entered

from .common import Limit, Offset, ThatCrossing, Window

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["plan"])


def _who(name: Annotated[str, Header(alias="X-Ferry-Name", max_length=400)] = "") -> str:
    """The name a person gave in this browser (percent-encoded in the header), "" when none was given."""
    return unquote(name)[:100]


Who = Annotated[str, Depends(_who)]


class PlanDocument(BaseModel):
    """The plan with its revision; pairs come in windows of their own. ``our_hosts``: of the old site, and where the new
    one grows and will be; what leads to any other leaves for it."""

    plan: Plan
    revision: int
    our_hosts: list[str] = []


class PlanChange(BaseModel):
    """A plan as it should be now, the revision it was made from, and what was done, in words."""

    plan: Plan
    revision: int
    text: str = Field("plan changed", max_length=300)


class PairRow(Pair):
    """A pair with the fate of its old address, when that is in the account."""

    fate: str | None
    proven: bool
    verdict: str | None


class PairsChange(BaseModel):
    """Pairs to set (each in the place of the one with its old address) and old addresses whose pair goes."""

    set: list[Pair] = Field([], max_length=20_000)
    drop: list[str] = Field([], max_length=20_000)
    text: str = Field("pairs changed", max_length=300)


class PairsText(BaseModel):
    """Pairs as they are pasted: old and new, one pair a line."""

    lines: str = Field(max_length=4_000_000)


class RefusedLine(BaseModel):
    """A line that holds no pair, and why."""

    line: int
    text: str
    reason: str


class PairsTaken(BaseModel):
    """How many pairs were set (``cut``: of those that named a host of ours, and lead to its path by now), the hosts of
    others that some of them lead to, with how many, and the lines that were not."""

    set: int
    cut: int
    leave: dict[str, int]
    refused: list[RefusedLine]
    revision: int


class Revision(BaseModel):
    revision: int


class ChangeRow(BaseModel):
    id: int
    at: str
    by: str
    text: str
    undone: bool
    of_plan: bool


Part = Literal["bounds", "kinds", "steps", "rules", "target", "pairs", "edits", "media", "files"]


class TakenOver(BaseModel):
    text: str


class Undone(BaseModel):
    text: str
    revision: int


def _document(crossing: int) -> PlanDocument:
    plan = crossings.load_plan(crossing)
    return PlanDocument(plan=plan, revision=changes.revision(crossing), our_hosts=sorted(plan.our_hosts))


@router.get("/plan")
def plan(crossing: ThatCrossing) -> PlanDocument:
    return _document(crossing.id)


@router.put("/plan")
def set_plan(wanted: PlanChange, crossing: ThatCrossing, by: Who) -> PlanDocument:
    """Set the plan. Refused (409) when it was changed by another since the revision given."""
    check_plan(wanted.plan)
    before = crossings.load_plan(crossing.id)
    named = as_decided(entered(wanted.plan, before.old.permission, by), before)
    changes.change_plan(crossing.id, named, wanted.revision, by, wanted.text)
    return _document(crossing.id)


_ZIP: dict[int | str, dict[str, Any]] = {
    200: {"content": {"application/zip": {"schema": {"type": "string", "format": "binary"}}}}
}


@router.get("/plan/file", response_class=Response, responses=_ZIP)
def plan_file(crossing: ThatCrossing) -> Response:
    """The plan as a file to keep or share: the zip of its folder (plan.yaml, pairs.csv, edits.jsonl)."""
    name = f"{file_name(crossing.name)}-plan.zip"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(sharing.packed(crossing.id), media_type="application/zip", headers=headers)


@router.put(
    "/plan/file",
    openapi_extra={
        "requestBody": {"content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}}
    },
)
async def take_parts(
    crossing: ThatCrossing, by: Who, request: Request, part: Annotated[list[Part], Query(min_length=1)]
) -> TakenOver:
    """Set some parts of the plan to those of a plan file (the zip, or plan.yaml alone)."""
    content = bytearray()
    async for chunk in request.stream():
        content += chunk
        if len(content) > sharing.MOST:
            raise FerryError("The file is larger than a plan can be.")

    def work() -> TakenOver:
        with connection():
            return TakenOver(text=sharing.take_parts(crossing.id, bytes(content), list(part), by))

    return await run_in_threadpool(work)


@router.get("/pairs")
def pairs(
    crossing: ThatCrossing, search: Annotated[str, Query(max_length=200)] = "", offset: Offset = 0, limit: Limit = 100
) -> Window[PairRow]:
    total, found = changes.pair_window(crossing.id, search, offset, limit)
    return Window[PairRow](total=total, offset=offset, rows=[PairRow(**row._asdict()) for row in found])


@router.post("/pairs")
def set_pairs(wanted: PairsChange, crossing: ThatCrossing, by: Who) -> Revision:
    """Set and drop pairs as one change."""
    pairs = crossings.load_plan(crossing.id).cut([pair.kept() for pair in wanted.set])
    return Revision(revision=changes.change_pairs(crossing.id, pairs, wanted.drop, by, wanted.text))


@router.post("/pairs/lines")
def set_lines(wanted: PairsText, crossing: ThatCrossing, by: Who) -> PairsTaken:
    """Set the pairs of a text as one change; a line that cannot be read is left out, and said."""
    found = list(read_lines(wanted.lines, crossings.load_plan(crossing.id).our_hosts))
    if not found:
        raise FerryError("There is no pair in this.", "Write an old and a new address a line.")
    pairs = [line.pair for line in found if line.pair is not None]
    revision = changes.revision(crossing.id)
    if pairs:
        text = f"{len(pairs):,} {'pair' if len(pairs) == 1 else 'pairs'} set"
        revision = changes.change_pairs(crossing.id, pairs, [], by, text)
    refused = [RefusedLine(line=r.number, text=r.text, reason=r.refusal) for r in found if r.pair is None]
    leave = Counter(host for pair in pairs if (host := host_of(pair.new)))
    return PairsTaken(
        set=len(pairs), cut=sum(r.cut for r in found), leave=dict(leave), refused=refused, revision=revision
    )


@router.get("/changes")
def list_changes(crossing: ThatCrossing) -> list[ChangeRow]:
    """The latest changes of the plan and its pairs, newest first."""
    return [ChangeRow(**row._asdict()) for row in changes.changes(crossing.id)]


@router.post("/undo")
def undo(crossing: ThatCrossing, by: Who) -> Undone:
    """Take back the newest change that is not taken back yet."""
    return Undone(text=changes.undo(crossing.id, by), revision=changes.revision(crossing.id))
