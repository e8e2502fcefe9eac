"""Bringing a plan into the workspace, and running its stages one after the other as jobs."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from grandferry.core.errors import FerryError, PlanError
from grandferry.core.plan import Plan
from grandferry.ports.planfolder import PlanFolder, read_plan
from grandferry.ports.sources.serverlog import LogCount, count_visits, log_lines
from grandferry.store import crossings, given, jobs
from grandferry.store.db import transaction
from grandferry.store.schema import Crossing

STAGES = ("survey", "sort", "lift", "refit", "route", "land", "check")
# (job kind, its counters while it runs)
Watcher = Callable[[str, dict[str, Any]], None]


class StageFailed(FerryError):
    """A stage ended without being done; the text says why."""


def bring_in(path: Path) -> tuple[Crossing, PlanFolder]:
    """Read a plan and make its decisions, and the visits of its logs, those of the crossing of its name (made
    when new). Gives the crossing and the plan as read. Raises PlanError.
    """
    content = read_plan(path)
    logs = _logs(content, path)
    found = crossings.crossing_named(content.plan.name) or crossings.make_crossing(content.plan.name)
    crossings.save_plan(found.id, content.plan, content.pairs)
    host = content.plan.old.start.partition("://")[2].partition("/")[0]
    with transaction():
        given.drop_of_plan(found.id)
        for name, count in logs.items():
            number = given.add(found.id, name, "log", report=count.report(), from_plan=True)
            given.add_visits(number, [(host, target, visits) for target, visits in count.visits.items()])
    return found, content


def _logs(content: PlanFolder, path: Path) -> dict[str, LogCount]:
    """The plan's access logs, counted."""
    counted: dict[str, LogCount] = {}
    for name in content.plan.survey.logs:
        beside = path / name if path.is_dir() else None
        if beside is not None and beside.is_file():
            counted[name] = count_visits(log_lines(beside))
        elif name in content.extra:
            counted[name] = count_visits(content.extra[name].splitlines())
        else:
            raise PlanError(f"the access log “{name}” is not in the plan's folder.", file="plan.yaml")
        if counted[name].lines and counted[name].unreadable == counted[name].lines:
            raise PlanError(f"“{name}” holds no line in Combined Log Format.", hint="Is it an access log?")
    return counted


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


def run_stages(crossing: int, content: PlanFolder, until: str, watch: Watcher | None = None) -> dict[str, Any]:
    """All stages up to ``until``; gives each one's result by its name. Stages the plan leaves out are passed over."""
    results: dict[str, Any] = {}
    for stage in STAGES[: STAGES.index(until) + 1]:
        if stage == "land" and content.plan.land is None:
            continue
        if stage == "check" and not content.plan.interim:
            continue
        params: dict[str, Any] = {}
        if stage == "lift" and content.edits:
            params = {"edits": [edit.model_dump(mode="json") for edit in content.edits]}
        results[stage] = run_job(stage, crossing, params, watch)
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
