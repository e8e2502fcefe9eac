"""Queueing a job and waiting for its end, and the plan of a survey that is nothing more."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from grandferry.core.errors import PlanError, StageFailed
from grandferry.core.plan import Plan
from grandferry.store import jobs
from grandferry.store.db import now

# (job kind, its counters while it runs)
Watcher = Callable[[str, dict[str, Any]], None]


def run_job(kind: str, crossing: int, params: dict[str, Any], watch: Watcher | None = None) -> dict[str, Any]:
    """Queue a job and wait for its end; a worker must be running. Raises StageFailed."""
    number = jobs.add_job(kind, crossing, params)
    while True:
        found = jobs.job(number)
        if watch is not None:
            watch(kind, json.loads(found.counters))
        if found.state in ("done", "failed", "stopped"):
            break
        time.sleep(0.03)
    if found.state != "done":
        raise StageFailed(found.error or f"{kind} was {found.state}.")
    return dict(json.loads(found.result))


def survey_plan(
    start: str, *, manners: dict[str, Any], bounds: dict[str, Any], permission: str, aliases: list[str]
) -> Plan:
    """A plan that surveys one site and does nothing else; None among the settings stands for the default. Raises
    PlanError with a sentence on a bad setting."""
    old: dict[str, Any] = {"start": start, "aliases": aliases}
    if permission:
        old["permission"] = {"by": permission, "date": now()[:10]}
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
