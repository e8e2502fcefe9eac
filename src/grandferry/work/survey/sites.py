"""Sites named at the command line: a crossing for an old one, or the new one of a crossing that is there."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, ValidationError

from grandferry.core.errors import PlanError
from grandferry.core.plan import Manners, Plan, SurveySettings
from grandferry.core.plancheck import check_plan
from grandferry.core.side import Side
from grandferry.store import changes, crossings
from grandferry.store.db import now
from grandferry.work.plan import leave
from grandferry.work.plan.leave import user

Settings = Mapping[str, Any]


def _said(model: type[BaseModel], settings: Settings) -> dict[str, Any]:
    """Settings as they were said, the default for those that are None."""
    return {
        name: model.model_fields[name].get_default(call_default_factory=True) if value is None else value
        for name, value in settings.items()
    }


def _checked(data: dict[str, Any]) -> Plan:
    """Raises PlanError with a sentence on a bad setting."""
    try:
        plan = Plan.model_validate(data)
    except ValidationError as problem:
        first = problem.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        raise PlanError(f"{where}: {first['msg'].removeprefix('Value error, ')}.") from None
    check_plan(plan)
    return plan


def set_old_site(start: str, *, manners: Settings, bounds: Settings, permission: str, aliases: list[str]) -> Side:
    """The crossing of an old site, named after its start; made when it is not there. None among the settings stands for
    the default; all else that was decided in it stays. Raises PlanError."""
    there = crossings.crossing_named(start)
    data = _decided(there.id) if there is not None else {"format": 1, "name": start, "old": {"start": start}}
    _set_site(data, data["old"], start, permission, aliases)
    data["manners"] = data.get("manners", {}) | _said(Manners, manners)
    data["survey"] = data.get("survey", {}) | _said(SurveySettings, bounds)
    plan = _checked(data)
    if there is None:
        there = crossings.make_crossing(plan.name)
        crossings.save_plan(there.id, plan, [])
    else:
        _change(there.id, plan, f"survey of {start} from the command line")
    return Side(there.id, "old")


def _decided(crossing: int) -> dict[str, Any]:
    return crossings.load_plan(crossing).model_dump(mode="json")


def _set_site(data: dict[str, Any], site: dict[str, Any], start: str, permission: str, aliases: list[str]) -> None:
    site["start"] = start
    site["aliases"] = sorted({*site.get("aliases", []), *aliases})
    if permission:
        at = now()
        data["old"]["permission"] = {"by": permission, "date": at[:10], "entered_by": user(), "entered_at": at}


def check_leave_for(start: str, side: str, crossing: int | None, permission: str) -> None:
    """Raises FerryError when nobody's leave to copy a site is named, here or in its crossing: nothing is asked of the
    site without."""
    if permission.strip():
        return
    number = crossing
    if side == "old":
        there = crossings.crossing_named(start)
        number = there.id if there is not None else None
    elif number is None:
        number = next((one.id for one in crossings.crossings()), None)
    plan = crossings.load_plan(number) if number is not None else None
    leave.check(plan, "Say with --permission who gave it: --permission “WHO”.")


def _change(crossing: int, wanted: Plan, text: str) -> None:
    if wanted != crossings.load_plan(crossing):
        changes.change_plan(crossing, wanted, changes.revision(crossing), "", text)


def set_new_site(
    crossing: int | None, start: str, *, manners: Settings, bounds: Settings, permission: str, aliases: list[str]
) -> Side:
    """Make ``start`` that of the new site of a crossing (of the only one, where none is named); what is not None among
    the settings is set with it. Raises FerryError, PlanError."""
    crossing = crossings.meant(crossing)
    data = _decided(crossing)
    new = data["new"] = data["new"] or {"manners": {}, "survey": {}}
    _set_site(data, new, start, permission, aliases)
    new["manners"] |= _said(Manners, manners)
    new["survey"] |= _said(SurveySettings, bounds)
    _change(crossing, _checked(data), f"new site: {start}")
    return Side(crossing, "new")
