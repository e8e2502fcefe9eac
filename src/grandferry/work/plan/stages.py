"""The stages of a plan one after the other, as jobs."""

from __future__ import annotations

from typing import Any

from grandferry.core.plan import Plan
from grandferry.work.jobs.running import Watcher, run_job
from grandferry.work.rounds.due import due, is_due
from grandferry.work.rounds.order import nothing, planned


def run_stages(
    crossing: int, plan: Plan, until: str, watch: Watcher | None = None, again: bool = False
) -> dict[str, Any]:
    """All stages up to ``until`` that have something to do; gives each one's result by its name. Stages the plan leaves
    out are passed over. ``again``: those that look at the outside (land, check) whether or not anything changed."""
    results: dict[str, Any] = {}
    for stage in planned(plan, until):
        if is_due(stage, crossing, plan) or (again and stage in ("land", "check")):
            results[stage] = run_job(stage, crossing, {}, watch)
        else:
            results[stage] = nothing(stage, crossing)
    due(crossing, plan, until)  # which notes it, when nothing is left
    return results
