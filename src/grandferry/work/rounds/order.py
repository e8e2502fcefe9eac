"""The order of the stages, and whether all of them were found done and nothing has happened since.

Holds nothing that takes long to import: an unchanged plan is told at once.
"""

from __future__ import annotations

from typing import Any

from grandferry.core.made import LIFT, REFIT, ROUTE, SORT, made_from
from grandferry.core.plan import Plan
from grandferry.core.side import Side
from grandferry.store import changes, crossings, jobs, lift, refit, sort, stamps
from grandferry.store.db import transaction
from grandferry.store.survey import given, surveyed

# in the order of the work; what each is called at the command line is the kind of its job
STAGES = ("survey", "sort", "lift", "refit", "route", "land", "check")


def planned(plan: Plan, until: str) -> list[str]:
    """The stages up to ``until``, those left out for which the plan names no target or no host."""
    out = {"land": plan.land is None, "check": not plan.interim}
    return [stage for stage in STAGES[: STAGES.index(until) + 1] if not out.get(stage)]


def _moment(crossing: int, plan: Plan) -> str:
    """All that can give a stage something to do: the plan, the lists, decisions, jobs, and the stages' code."""
    lists = [list(row) for row in given.sums(Side(crossing))]
    code = [SORT, LIFT, REFIT, ROUTE]
    return made_from(1, code, plan, lists, changes.revision(crossing), list(jobs.mark(crossing)))


def settled(crossing: int, plan: Plan, until: str) -> bool:
    """Whether no stage up to ``until`` had anything to do when that was looked at last, and nothing has happened
    since."""
    return stamps.get(crossing, f"settled {until}") == _moment(crossing, plan)


def settle(crossing: int, plan: Plan, until: str) -> None:
    """Note that no stage up to ``until`` has anything to do as things stand."""
    with transaction():
        stamps.put(crossing, f"settled {until}", _moment(crossing, plan))


def nothing(stage: str, crossing: int) -> dict[str, Any]:
    """The result of a stage that had nothing to do."""
    if stage == "survey":
        return {**surveyed.summary(Side(crossing)), "not_visited": 0, "done": 0}
    if stage == "sort":
        return {"done": 0, "left": len(surveyed.pages(crossing)), "kinds": sort.kind_counts(crossing)}
    if stage == "lift":
        return {"done": 0, "left": len(lift.made(crossing)), "items": len(lift.made(crossing))}
    if stage == "refit":
        totals = refit.totals(crossing)
        return {**totals, "done": 0, "left": totals["bodies"]}
    if stage == "route":
        return {"done": 0, "left": crossings.counted(crossing), "account": crossings.account_of(crossing)}
    if stage == "land":
        return {"done": 0, "left": len(lift.made(crossing)), "created": 0, "changed": 0, "same": 0, "refused": []}
    return {"done": 0, "account": crossings.account_of(crossing), "open": []}
