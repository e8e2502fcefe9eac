"""What the stages that look at the outside rest on: a survey, a landing, a round. Each as one short hash."""

from __future__ import annotations

from grandferry.core.kinds import rests_on
from grandferry.core.made import made_from
from grandferry.core.media.said import Remake
from grandferry.core.plan import Plan
from grandferry.core.side import Side
from grandferry.store import stamps
from grandferry.store.survey import given


def survey_stamp(crossing: int, plan: Plan) -> str:
    """What a survey rests on: the old site, its bounds, and the lists that were handed over."""
    lists = [list(row) for row in given.sums(Side(crossing))]
    return made_from(1, plan.old.model_dump(mode="json", exclude={"permission"}), plan.survey, lists)


def land_stamp(crossing: int, plan: Plan) -> str:
    """What a landing sends: items with their fields and bodies as they stand, files, and the map."""
    # what a plan says nothing of, it rests on as plans of before there was such a thing do
    later = ("fields", "folder", "profile")
    target = plan.land and plan.land.model_dump(mode="json", exclude={n for n in later if not getattr(plan.land, n)})
    made_anew = [plan.media.remake] if plan.media.remake != Remake() else []  # type: ignore[call-arg]
    more = [*made_anew, *plan.refit.forms]
    return made_from(1, target, rests_on(plan.kinds), plan.route.rules, stamps.to_land(crossing), *more)


def check_stamp(crossing: int, base: str) -> str:
    """What a round judges: the host, and every decision."""
    return made_from(2, base, stamps.decisions(crossing))  # 2: contents are held against each other
