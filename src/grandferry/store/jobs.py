"""Jobs and their events: made by interfaces, taken up by workers, fenced by a lease number."""

from __future__ import annotations

import json
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import peewee

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.jobs import told

from .db import now, one, rows, transaction, typed, workspace_folder
from .schema import Event, Job

STALE = 10.0  # seconds without a heartbeat after which a job may be taken up by another worker
LEFT = "The program ended before this was done. Ask for it again: it goes on where it stood."
IDLE_TRIES = 8  # times a job may be taken up without any progress before it counts as failed


class Fenced(FerryError):
    """Another worker has taken this job up; this one must stop writing."""


def add_job(kind: str, crossing: int | None, params: dict[str, Any] | None = None) -> int:
    """Queue a job and give its number. Raises FerryError for a kind, or for something it is told, that nobody knows."""
    given = told(kind, params or {})
    with transaction():
        job = Job.create(kind=kind, crossing=crossing, params=json.dumps(given), created=now())
        add_event(crossing, job.id, "job", f"{kind} queued", {"state": "queued"})
        return job.id


def ask_job(kind: str, crossing: int, params: dict[str, Any]) -> int:
    """Queue a job, unless the same one waits already: it will see all that was decided until it starts."""
    waiting = one(
        "SELECT id FROM job WHERE crossing_id = ? AND kind = ? AND params = ? AND state = 'queued'",
        crossing,
        kind,
        json.dumps(told(kind, params)),
    )
    return int(waiting) if waiting else add_job(kind, crossing, params)


def job(number: int) -> Job:
    found = Job.get_or_none(Job.id == number)
    if found is None:
        raise NotThere(f"There is no job {number}.")
    return found


def add_event(crossing: int | None, job_: int | None, kind: str, text: str, data: dict[str, Any] | None = None) -> None:
    Event.insert(
        crossing=crossing, job=job_, at=now(), kind=kind, text=text, data=json.dumps(data or {}, ensure_ascii=False)
    ).execute()


def events_after(last: int, crossing: int | None = None, limit: int = 500) -> list[Event]:
    wanted = Event.id > last
    if crossing is not None:
        wanted &= Event.crossing == crossing
    return list(Event.select().where(wanted).order_by(Event.id).limit(limit))


class Line(NamedTuple):
    """A line of a crossing's log."""

    id: int
    job: int | None
    at: str
    kind: str
    text: str


def log_lines(crossing: int, before: int, limit: int, kind: str) -> list[Line]:
    """What happened in a crossing, newest first, progress aside; ``kind`` "" for all kinds."""
    return typed(
        Line,
        "SELECT id, job, at, kind, text FROM event WHERE crossing = ? AND kind != 'progress' AND (? = 0 OR id < ?) "
        "AND (? = '' OR kind = ?) ORDER BY id DESC LIMIT ?",
        crossing,
        before,
        before,
        kind,
        kind,
        limit,
    )


def last_end(crossing: int) -> int:
    """A number that grows whenever a job of a crossing ends."""
    return int(one("SELECT count(*) FROM job WHERE crossing_id = ? AND ended != ''", crossing))


def mark(crossing: int) -> tuple[int, int]:
    """The newest job of a crossing and how many have ended: other numbers as soon as one begins or ends."""
    newest, ended = rows(
        "SELECT coalesce(max(id), 0), count(nullif(ended, '')) FROM job WHERE crossing_id = ?", crossing
    )[0]
    return int(newest), int(ended)


def changed_since(crossing: int, kind: str) -> bool:
    """Whether anybody changed the plan since the last whole job of a kind was done, or there never was one."""
    done = one(
        "SELECT max(ended) FROM job WHERE crossing_id = ? AND kind = ? AND state = 'done' AND params = '{}'",
        crossing,
        kind,
    )
    return not done or bool(one("SELECT 1 FROM change WHERE crossing_id = ? AND at > ? LIMIT 1", crossing, done))


def is_running(crossing: int, kind: str) -> bool:
    """Whether a job of a kind runs in a crossing."""
    return bool(one("SELECT 1 FROM job WHERE crossing_id = ? AND kind = ? AND state = 'running'", crossing, kind))


class Posts(NamedTuple):
    """How many jobs run and wait, and the last sign of a running one (seconds of the epoch, 0 for none)."""

    running: int
    queued: int
    heartbeat: float


def posts() -> Posts:
    return Posts(
        *rows(
            "SELECT coalesce(sum(state = 'running'), 0), coalesce(sum(state = 'queued'), 0), "
            "coalesce(max(CASE state WHEN 'running' THEN heartbeat END), 0) FROM job"
        )[0]
    )


def latest(crossing: int | None, limit: int) -> list[Job]:
    """The latest jobs, of one crossing or of all, newest first."""
    wanted = Job.select().order_by(Job.id.desc()).limit(limit)
    return list(wanted.where(Job.crossing == crossing) if crossing is not None else wanted)


def newest_event() -> int:
    """The number of the last event, 0 when there is none."""
    return one("SELECT max(id) FROM event") or 0


def claim() -> Job | None:
    """Take up the oldest queued job, or a running one whose worker has gone silent."""
    with transaction():
        found = (
            Job.select()
            .where((Job.state == "queued") | ((Job.state == "running") & (Job.heartbeat < time.time() - STALE)))
            .order_by(Job.id)
            .first()
        )
        if found is None:
            return None
        if found.state == "running" and found.idle_tries >= IDLE_TRIES:
            found.state = "failed"
            found.error = f"The worker died {IDLE_TRIES} times on this job, and got no further than before."
            found.ended = now()
            found.save()
            add_event(found.crossing_id, found.id, "job", found.error, {"state": "failed"})
            return None
        again = found.state == "running"
        found.idle_tries = found.idle_tries + 1 if again else 0
        found.state = "running"
        found.lease += 1
        found.heartbeat = time.time()
        found.started = found.started or now()
        found.save()
        add_event(
            found.crossing_id,
            found.id,
            "job",
            f"{found.kind} {'taken up again' if again else 'started'}",
            {"state": "running"},
        )
        return found


def worker_lock() -> Path:
    """The file that a worker holds locked while it lives: a workspace has one worker at a time."""
    return workspace_folder() / "worker.lock"


def sign_of_life() -> Path:
    """The file that a worker at work touches every few seconds, whatever its transactions hold back."""
    return workspace_folder() / "worker-alive"


def begun() -> list[int]:
    """The jobs that run, or did so when their worker ended."""
    return [number for (number,) in rows("SELECT id FROM job WHERE state = 'running' ORDER BY id")]


def release() -> None:
    """Make running jobs claimable at once: their worker is gone."""
    with transaction():
        Job.update(heartbeat=0).where(Job.state == "running").execute()


def end_left(numbers: list[int]) -> None:
    """Stop those of the jobs that still run: their worker is gone, and nobody waits for the rest."""
    _end_all((Job.state == "running") & Job.id.in_(numbers), "stopped", LEFT)


def fail_all(error: str) -> int:
    """End what waits and what runs, since nothing can work on it. Gives the number of jobs."""
    return _end_all(Job.state.in_(["queued", "running"]), "failed", error)


def _end_all(those: peewee.Expression, state: str, error: str) -> int:
    with transaction():
        found = list(Job.select().where(those))
        for one_ in found:
            Job.update(state=state, error=error, ended=now(), lease=Job.lease + 1).where(Job.id == one_.id).execute()
            add_event(one_.crossing_id, one_.id, "job", error, {"state": state})
    return len(found)


def beat(number: int, lease: int) -> str:
    """Renew a job's heartbeat; gives the wish (stop, pause) a person has set. Raises Fenced."""
    with transaction():
        changed = Job.update(heartbeat=time.time()).where((Job.id == number) & (Job.lease == lease)).execute()
        if not changed:
            raise Fenced(f"Job {number} was taken up by another worker.")
        return one("SELECT wish FROM job WHERE id = ?", number) or ""


@contextmanager
def fenced(number: int, lease: int) -> Iterator[None]:
    """A write transaction that holds only while this worker's lease does. Raises Fenced before any write."""
    with transaction():
        if one("SELECT lease FROM job WHERE id = ?", number) != lease:
            raise Fenced(f"Job {number} was taken up by another worker.")
        yield


def _gain(counters: dict[str, Any]) -> tuple[str, int]:
    """How far a job has come, in a measure that grows over all its tries: (of what, how far). A survey counts the
    addresses that wait no more, a job over a list what is left of it, any other what it has done."""
    done, all_, stage = (counters.get(name) for name in ("done", "all", "stage"))
    if all_ is not None and "waiting" in counters:
        return f"{stage} waiting", int(all_) - int(counters["waiting"])
    if all_ is not None and done is not None:
        return f"{stage} left", int(done) - int(all_)
    return f"{stage} done", int(done or counters.get("looked") or 0)


def note_progress(number: int, lease: int, counters: dict[str, Any]) -> None:
    with fenced(number, lease):
        reached = json.loads(one("SELECT reached FROM job WHERE id = ?", number) or "{}")
        of, gain = _gain(counters)
        changed: dict[str, Any] = {"counters": json.dumps(counters), "heartbeat": time.time()}
        if (
            of not in reached or gain > reached[of]
        ):  # further than any try before; its first steps alone are no progress
            changed |= {"idle_tries": 0, "reached": json.dumps(reached | {of: gain})}
        Job.update(**changed).where(Job.id == number).execute()
        found = one("SELECT crossing_id FROM job WHERE id = ?", number)
        add_event(found, number, "progress", "", counters)
        # progress lines of a job are only of use while it runs: keep the last few
        rows("DELETE FROM event WHERE job = ? AND kind = 'progress' AND id < (SELECT max(id) - 200 FROM event)", number)


def finish(number: int, lease: int, state: str, result: dict[str, Any] | None = None, error: str = "") -> None:
    """Close a job as done, failed or stopped."""
    with fenced(number, lease):
        Job.update(state=state, result=json.dumps(result or {}, ensure_ascii=False), error=error, ended=now()).where(
            Job.id == number
        ).execute()
        found = one("SELECT crossing_id FROM job WHERE id = ?", number)
        kind = one("SELECT kind FROM job WHERE id = ?", number)
        add_event(found, number, "job", error or f"{kind} {state}", {"state": state})


def wish(number: int, what: str) -> None:
    """Ask a job to stop or pause, or with "" to go on; a queued one is stopped at once."""
    with transaction():
        found = job(number)
        if found.state == "queued" and what == "stop":
            found.state, found.ended = "stopped", now()
        elif found.state == "queued" or found.state == "running":
            found.wish = what
        else:
            raise FerryError(f"Job {number} is {found.state} already.")
        found.save()
