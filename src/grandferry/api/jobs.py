"""Jobs and the event stream."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import AsyncIterator
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Depends, Header, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from grandferry import __version__
from grandferry.core.errors import FerryError
from grandferry.core.jobs import JOBS, NAMES, STARTED_BY_HAND, Finding, Stage
from grandferry.core.side import SideName
from grandferry.store import crossings, jobs
from grandferry.store.db import connection
from grandferry.store.schema import Job
from grandferry.work.survey.access import check_leave

from .common import Limit, Opened, ThatCrossing, opened

router = APIRouter(tags=["jobs"])
STREAM_SECONDS = 0.25
PING_SECONDS = 5.0  # a named event, so that a page can tell a silent stream from a dead one


class JobIn(BaseModel):
    """A piece of work to queue. ``against`` is the host of a check, which asks only what is not proven there where
    ``failed`` says so; ``dry``, ``trial`` (an old key) and ``over`` (what a person changed in the folder is written
    over) are for landing; ``only`` (an address) lifts, refits or surveys that page alone; ``all`` sorts, lifts or
    refits everything, not only what is behind; ``again`` asks every address anew in a survey that has ended; ``pages``
    are read in a trial that keeps nothing (sound); ``side``: which site is surveyed, sounded or copied."""

    crossing: int
    kind: Literal[STARTED_BY_HAND]  # type: ignore[valid-type]
    dry: bool = False
    trial: str = ""
    over: bool = False
    against: str = ""
    failed: bool = False
    only: int = 0
    all: bool = False
    again: bool = False
    side: SideName = "old"
    pages: int = Field(0, ge=0, le=50)


class JobKindOut(BaseModel):
    """A kind of work: what it is called, the stage it belongs to, what it changes; whether a person starts it as it
    is, and whether it is of one of the two sites."""

    name: Literal[NAMES]  # type: ignore[valid-type]
    doing: str
    stage: Stage
    changes: list[Finding]
    by_hand: bool
    sided: bool


class JobOut(BaseModel):
    id: int
    crossing: int | None
    kind: Literal[NAMES]  # type: ignore[valid-type]
    doing: str
    pauses: bool
    stage: Stage
    side: SideName
    state: Literal["queued", "running", "done", "failed", "stopped"]
    counters: dict[str, Any]
    result: dict[str, Any]
    error: str
    wish: str
    created: str
    started: str
    ended: str


def _out(job: Job) -> JobOut:
    kind = JOBS[job.kind]
    side = json.loads(job.params).get("side", "old")
    return JobOut(
        id=job.id,
        crossing=job.crossing_id,
        kind=job.kind,
        doing=f"{kind.doing} of the new site" if kind.sided and side == "new" else kind.doing,
        pauses=kind.pauses,
        stage=kind.stage,
        side=side,
        state=job.state,
        counters=json.loads(job.counters),
        result=json.loads(job.result),
        error=job.error,
        wish=job.wish,
        created=job.created,
        started=job.started,
        ended=job.ended,
    )


class LogLine(BaseModel):
    id: int
    job: int | None
    at: str
    kind: str
    text: str


@router.post("/jobs", status_code=202)
def new_job(wanted: JobIn, _: Annotated[None, Depends(opened)]) -> JobOut:
    """Queue a job for the worker; the same one waiting already is given instead of a second."""
    crossings.crossing(wanted.crossing)
    if wanted.kind == "survey":
        check_leave(wanted.crossing)
    if JOBS[wanted.kind].sided:
        crossings.load_plan(wanted.crossing).side(wanted.side)  # a sentence at once, where nobody said where it is
    given = wanted.model_dump(exclude={"crossing", "kind"}, exclude_defaults=True)
    return _out(jobs.job(jobs.ask_job(wanted.kind, wanted.crossing, given)))


@router.get("/jobs/kinds", dependencies=[Opened])
def kinds() -> list[JobKindOut]:
    """Every kind of work there is."""
    return [
        JobKindOut(
            name=k.name,
            doing=k.doing,
            stage=k.stage,
            changes=sorted(k.changes),
            by_hand=k.by_hand,
            sided=k.sided,
        )
        for k in JOBS.values()
    ]


@router.get("/jobs", dependencies=[Opened])
def list_jobs(crossing: int | None = None) -> list[JobOut]:
    """The latest hundred jobs, newest first."""
    return [_out(job) for job in jobs.latest(crossing, 100)]


class Health(BaseModel):
    """Whether the worker is at its post: the seconds since a running job's last heartbeat, and how often one was
    replaced."""

    running: int
    queued: int
    silent_seconds: float
    version: str


@router.get("/health", dependencies=[Opened])
def health() -> Health:
    """How the work goes."""
    found = jobs.posts()
    return Health(
        running=found.running,
        queued=found.queued,
        silent_seconds=max(0.0, time.time() - found.heartbeat) if found.heartbeat else 0.0,
        version=__version__,
    )


@router.get("/crossings/{crossing:int}/log")
def log(
    crossing: ThatCrossing, before: int = 0, limit: Limit = 100, kind: Annotated[str, Query(max_length=20)] = ""
) -> list[LogLine]:
    """The crossing's log, newest first; ``before`` an event's number for what came earlier."""
    return [LogLine(**row._asdict()) for row in jobs.log_lines(crossing.id, before, limit, kind)]


@router.get("/jobs/{job:int}", dependencies=[Opened])
def one_job(job: int) -> JobOut:
    return _out(jobs.job(job))


@router.post("/jobs/{job:int}/stop", dependencies=[Opened])
def stop_job(job: int) -> JobOut:
    """Ask a job to stop; what it has done so far stays."""
    jobs.job(job)
    jobs.wish(job, "stop")
    return _out(jobs.job(job))


@router.post("/jobs/{job:int}/pause", dependencies=[Opened])
def pause_job(job: int) -> JobOut:
    """Ask a survey to pause: nothing new is asked, what is on its way is taken in, and it holds over a restart."""
    return _wished(job, "pause")


@router.post("/jobs/{job:int}/go-on", dependencies=[Opened])
def resume_job(job: int) -> JobOut:
    """Let a paused survey go on."""
    return _wished(job, "")


def _wished(job: int, what: str) -> JobOut:
    if not JOBS[jobs.job(job).kind].pauses:
        raise FerryError("Only a survey can pause.", "Other work can be stopped, and started again.")
    jobs.wish(job, what)
    return _out(jobs.job(job))


def _since(last: int, crossing: int | None) -> list[tuple[int, str, str]]:
    with connection():
        return [
            (
                e.id,
                e.kind,
                json.dumps(
                    {"crossing": e.crossing, "job": e.job, "at": e.at, "text": e.text, "data": json.loads(e.data)}
                ),
            )
            for e in jobs.events_after(last, crossing)
        ]


def _newest() -> int:
    with connection():
        return jobs.newest_event()


async def _stream(last: int, crossing: int | None) -> AsyncIterator[str]:
    alive = time.monotonic()
    yield f"retry: 1000\nid: {last}\nevent: hello\ndata: {{}}\n\n"
    while True:
        found = await run_in_threadpool(_since, last, crossing)
        for id_, kind, data in found:
            last = id_
            yield f"id: {id_}\nevent: {kind}\ndata: {data}\n\n"
        if found:
            alive = time.monotonic()
        elif time.monotonic() - alive > PING_SECONDS:
            alive = time.monotonic()
            yield "event: ping\ndata: 0\n\n"
        await asyncio.sleep(STREAM_SECONDS)


@router.get("/events", response_class=StreamingResponse, responses={200: {"content": {"text/event-stream": {}}}})
async def events(
    crossing: int | None = None,
    after: Annotated[int | None, Query(ge=0)] = None,
    last_event_id: Annotated[str, Header()] = "",
) -> StreamingResponse:
    """Progress and log lines as Server-Sent Events, from ``Last-Event-ID`` (or ``after``) on, else from now."""
    if last_event_id.isdigit():
        last = int(last_event_id)
    else:
        last = after if after is not None else await run_in_threadpool(_newest)
    return StreamingResponse(
        _stream(last, crossing),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"},
    )
