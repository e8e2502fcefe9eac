"""What of a plan has still to be done: which stages have something behind, unsent or unchecked."""

from __future__ import annotations

from typing import Any

from grandferry.core.jobs import Stage
from grandferry.core.plan import Plan
from grandferry.core.side import Side
from grandferry.store import crossings, jobs, lift, refit, sort, stamps
from grandferry.store.survey import runs, surveyed
from grandferry.work.rounds import behind
from grandferry.work.rounds.stamping import check_stamp, land_stamp, survey_stamp
from grandferry.work.route import run as route

# in the order of the work; what each is called at the command line is the kind of its job
STAGES = ("survey", "sort", "lift", "refit", "route", "land", "check")
_BY_ROWS = {"sort": Stage.SORT, "lift": Stage.LIFT, "refit": Stage.REFIT, "route": Stage.ROUTE}


def all_proven(crossing: int) -> bool:
    account = crossings.account_of(crossing)
    return "unaccounted" not in account and not any(counts["planned"] for counts in account.values())


def _stands(crossing: int, stage: str, now: str) -> bool:
    """Whether a stage's stamp is that of now. One that an older version came to the end of left none: it counts, if
    nobody has changed anything since."""
    had = stamps.get(crossing, stage)
    return had == now or (not had and not jobs.changed_since(crossing, stage))


def is_due(stage: str, crossing: int, plan: Plan) -> bool:
    """Whether a stage that the plan does not leave out has anything to do."""
    if stage == "survey":
        now = survey_stamp(crossing, plan)
        return not _stands(crossing, stage, now) or not runs.ended(Side(crossing)) or bool(runs.waiting(Side(crossing)))
    if stage in _BY_ROWS:
        never = stage == "route" and not _stands(crossing, stage, route.DECIDED)
        return never or bool(behind.counts(crossing).get(_BY_ROWS[stage]))
    if stage == "land":
        return not _stands(crossing, stage, land_stamp(crossing, plan))
    now = check_stamp(crossing, (plan.interim or "").rstrip("/"))
    return not _stands(crossing, stage, now) or not all_proven(crossing)


def planned(plan: Plan, until: str) -> list[str]:
    """The stages up to ``until``, those left out for which the plan names no target or no host."""
    out = {"land": plan.land is None, "check": not plan.interim}
    return [stage for stage in STAGES[: STAGES.index(until) + 1] if not out.get(stage)]


def due(crossing: int, plan: Plan, until: str) -> list[str]:
    """The stages up to ``until`` that have something to do as things stand; each may give later ones something."""
    return [stage for stage in planned(plan, until) if is_due(stage, crossing, plan)]


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
