"""Bringing a plan into the workspace, and running its stages one after the other as jobs."""

from __future__ import annotations

import hashlib
import json
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple

from pydantic import ValidationError

from grandferry.core.errors import FerryError, PlanError
from grandferry.core.made import made_from
from grandferry.core.plan import Plan
from grandferry.ports.planfolder import PlanFolder, read_plan
from grandferry.ports.sources.serverlog import LogCount, count_visits, log_lines
from grandferry.store import changes, crossings, given, jobs, stamps
from grandferry.store.db import transaction
from grandferry.store.schema import Crossing

from .due import STAGES, is_due, nothing

# (job kind, its counters while it runs)
Watcher = Callable[[str, dict[str, Any]], None]


class StageFailed(FerryError):
    """A stage ended without being done; the text says why."""


def bring_in(path: Path) -> tuple[Crossing, PlanFolder]:
    """Read a plan and make its decisions, and the visits of its logs, those of the crossing of its name (made
    when new). Gives the crossing and the plan as read. Raises PlanError.
    """
    content = read_plan(path)
    sources = _logs(content, path)
    found = crossings.crossing_named(content.plan.name) or crossings.make_crossing(content.plan.name)
    host = content.plan.old.start.partition("://")[2].partition("/")[0]
    mark = made_from(1, host, {name: source.mark for name, source in sources.items()})
    counted = {} if stamps.get(found.id, "logs") == mark else {name: source.count() for name, source in sources.items()}
    for name, count in counted.items():
        if count.lines and count.unreadable == count.lines:
            raise PlanError(f"“{name}” holds no line in Combined Log Format.", hint="Is it an access log?")
    _set_plan(found.id, content)
    if stamps.get(found.id, "logs") != mark:
        with transaction():
            given.drop_of_plan(found.id)
            for name, count in counted.items():
                number = given.add(found.id, name, "log", report=count.report(), from_plan=True)
                given.add_visits(number, [(host, target, visits) for target, visits in count.visits.items()])
            stamps.put(found.id, "logs", mark)
    return found, content


def _set_plan(crossing: int, content: PlanFolder) -> None:
    """Make a plan's decisions those of a crossing, as a change that can be taken back; none when they are so already.
    What was set by hand here and is not named in the plan stays."""
    pairs = crossings.load_pairs(crossing)
    text = f"plan “{content.plan.name}” brought in"
    try:
        same = crossings.load_plan(crossing) == content.plan and pairs == content.pairs
    except crossings.NotThere:  # a new crossing
        crossings.save_plan(crossing, content.plan, content.pairs)
        same = True
    if not same:
        drop = [pair.old for pair in pairs]
        changes.change_all(crossing, content.plan, None, content.pairs, drop, "", text, content.edits)
    elif content.edits:
        changes.change_edits(crossing, content.edits, [], "", text)


class _Log(NamedTuple):
    """An access log of a plan: what tells it from another one of its name, and how to count it."""

    mark: str
    count: Callable[[], LogCount]


def _logs(content: PlanFolder, path: Path) -> dict[str, _Log]:
    """The plan's access logs by name. Raises PlanError for one that is not there."""
    logs: dict[str, _Log] = {}
    for name in content.plan.survey.logs:
        beside = path / name if path.is_dir() else None
        if beside is not None and beside.is_file():
            with beside.open("rb") as file:
                mark = hashlib.file_digest(file, "sha256").hexdigest()
            logs[name] = _Log(mark, partial(_count_file, beside))
        elif name in content.extra:
            lines = content.extra[name]
            logs[name] = _Log(hashlib.sha256(lines).hexdigest(), partial(count_visits, lines.splitlines()))
        else:
            raise PlanError(f"the access log “{name}” is not in the plan's folder.", file="plan.yaml")
    return logs


def _count_file(path: Path) -> LogCount:
    return count_visits(log_lines(path))


def run_job(kind: str, crossing: int, params: dict[str, Any], watch: Watcher | None = None) -> dict[str, Any]:
    """Queue a job and wait for its end; a worker must be running. Raises StageFailed."""
    number = jobs.add_job(kind, crossing, params)
    while True:
        found = jobs.job(number)
        if watch is not None:
            watch(kind, json.loads(found.counters))
        if found.state in ("done", "failed", "stopped"):
            break
        time.sleep(0.1)
    if found.state != "done":
        raise StageFailed(found.error or f"{kind} was {found.state}.")
    return dict(json.loads(found.result))


def run_stages(
    crossing: int, content: PlanFolder, until: str, watch: Watcher | None = None, again: bool = False
) -> dict[str, Any]:
    """All stages up to ``until`` that have something to do; gives each one's result by its name. Stages the plan leaves
    out are passed over. ``again``: those that look at the outside (land, check) whether or not anything changed."""
    results: dict[str, Any] = {}
    for stage in STAGES[: STAGES.index(until) + 1]:
        if (stage == "land" and content.plan.land is None) or (stage == "check" and not content.plan.interim):
            continue
        if is_due(stage, crossing, content.plan) or (again and stage in ("land", "check")):
            results[stage] = run_job(stage, crossing, {}, watch)
        else:
            results[stage] = nothing(stage, crossing)
    return results


def survey_plan(
    start: str, *, manners: dict[str, Any], bounds: dict[str, Any], permission: str, aliases: list[str]
) -> Plan:
    """A plan that surveys one site and does nothing else; None among the settings stands for the default. Raises
    PlanError with a sentence on a bad setting."""
    old: dict[str, Any] = {"start": start, "aliases": aliases}
    if permission:
        old["permission"] = {"by": permission, "date": crossings.now()[:10]}
    data = {
        "format": 1,
        "name": start,
        "old": old,
        "manners": {name: value for name, value in manners.items() if value is not None},
        "survey": {name: value for name, value in bounds.items() if value is not None},
    }
    try:
        return Plan.model_validate(data)
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        raise PlanError(f"{where}: {first['msg'].removeprefix('Value error, ')}.") from None
