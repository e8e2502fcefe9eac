"""What makes a plan one that cannot be worked with, beyond what its models refuse: told where it is typed or handed
over.

Not part of the models, so that a plan kept by an earlier version can still be opened.
"""

from __future__ import annotations

from .errors import PlanError
from .plan import KindPlan, Plan
from .route.slug import parts_of


def check_plan(plan: Plan) -> None:
    """Raise PlanError for the first part of a plan that cannot work: an address pattern or slug that names a field its
    kind has not got, a rule that speaks of a part it has not got."""
    for kind in plan.kinds:
        _check_kind(kind)
    for rule in plan.route.rules:
        _ = rule.redirect


def _check_kind(kind: KindPlan) -> None:
    names = {field.name for field in kind.fields}
    known = f"It has {', '.join(sorted(names))}." if names else "It has no field yet."
    if kind.items == "none":
        return
    for name in parts_of(kind.address or ""):
        if name != "slug" and name not in names:
            raise PlanError(
                f"The address pattern {kind.address} of the kind “{kind.name}” names the field “{name}”, which it has "
                "not got.",
                hint=f"{known} {{slug}} is always there.",
            )
    if kind.slug_from != "title" and kind.slug_from not in names:
        raise PlanError(
            f"The slug of the kind “{kind.name}” comes from the field “{kind.slug_from}”, which it has not got.",
            hint=known,
        )
