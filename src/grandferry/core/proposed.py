"""What of a plan is proposed and what is decided: a person's change of a proposed part makes it theirs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

from .kinds import FieldPlan, KindPlan, Step
from .plan import Plan

_Part = TypeVar("_Part", KindPlan, FieldPlan, Step)


def decided_alone(plan: Plan) -> Plan:
    """A plan without the kinds and steps that are only proposed."""
    kinds = [kind for kind in plan.kinds if kind.proposed is None]
    steps = [step for step in plan.refit.steps if step.proposed is None]
    return plan.model_copy(update={"kinds": kinds, "refit": plan.refit.model_copy(update={"steps": steps})})


def as_decided(plan: Plan, before: Plan) -> Plan:
    """A plan as a person has changed it: of its parts those that are as they were ``before`` are still proposed, others
    are theirs."""
    had = {kind.name: kind for kind in before.kinds}
    steps = {step.name: step for step in before.refit.steps}
    kinds = []
    for kind in plan.kinds:
        was = had.get(kind.name)
        fields = {field.name: field for field in was.fields} if was is not None else {}
        made = _theirs(kind.model_copy(update={"fields": [_theirs(field, fields) for field in kind.fields]}), had)
        kinds.append(made)
    found = [_theirs(step, steps) for step in plan.refit.steps]
    return plan.model_copy(update={"kinds": kinds, "refit": plan.refit.model_copy(update={"steps": found})})


def _theirs(part: _Part, before: Mapping[str, _Part]) -> _Part:
    """A part without its mark, when it is not as it was. Fields have marks of their own."""
    was = before.get(part.name)
    if part.proposed is None or (was is not None and _said(was) == _said(part)):
        return part
    return part.model_copy(update={"proposed": None})


def _said(part: KindPlan | FieldPlan | Step) -> dict[str, object]:
    return part.model_dump(exclude={"proposed", "fields"})
