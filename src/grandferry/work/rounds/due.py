"""What of a plan has still to be done: which stages have something behind, unsent or unchecked."""

from __future__ import annotations

from grandferry.core.jobs import Stage
from grandferry.core.plan import Plan
from grandferry.core.side import Side
from grandferry.store import crossings, jobs, stamps
from grandferry.store.lists import waits
from grandferry.store.survey import runs
from grandferry.work.rounds import behind
from grandferry.work.rounds.order import planned, settle
from grandferry.work.rounds.stamping import check_stamp, land_stamp, survey_stamp
from grandferry.work.route import run as route

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
        return (
            not _stands(crossing, stage, now) or not runs.ended(Side(crossing)) or bool(waits.waiting(Side(crossing)))
        )
    if stage in _BY_ROWS:
        never = stage == "route" and not _stands(crossing, stage, route.DECIDED)
        return never or bool(behind.counts(crossing).get(_BY_ROWS[stage]))
    if stage == "land":
        return not _stands(crossing, stage, land_stamp(crossing, plan))
    now = check_stamp(crossing, (plan.interim or "").rstrip("/"))
    return not _stands(crossing, stage, now) or not all_proven(crossing)


def due(crossing: int, plan: Plan, until: str) -> list[str]:
    """The stages up to ``until`` that have something to do as things stand; each may give later ones something. When
    there is none, that is noted, to be known at once the next time."""
    found = [stage for stage in planned(plan, until) if is_due(stage, crossing, plan)]
    if not found:
        settle(crossing, plan, until)
    return found
