"""What makes a plan one that cannot be worked with, beyond what its models refuse: told where it is typed or handed
over.

Not part of the models, so that a plan kept by an earlier version can still be opened.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator

from .errors import PlanError
from .kinds import KindPlan
from .plan import Plan
from .route.slug import ALWAYS, parts_of

_SHELL = re.compile(r"(?<!\\)/\*(?![?+])")  # /news/* of a shell


def check_plan(plan: Plan) -> None:
    """Raise PlanError for the first part of a plan that cannot work: an address pattern or slug that names a field its
    kind has not got, a rule that speaks of a part it has not got, a pattern as a shell has them."""
    for kind in plan.every_kind:
        _check_kind(kind)
    for rule in plan.route.rules:
        _ = rule.redirect
    _check_mapping(plan)
    for pattern in _patterns(plan):
        if _SHELL.search(pattern):
            meant = _SHELL.sub("/.*", pattern)
            raise PlanError(
                f"The pattern “{pattern}” means: so many slashes, and nothing after them.",
                hint=f"For all below it write “{meant}”; if slashes are meant, “/{{0,}}”.",
            )


def _patterns(plan: Plan) -> Iterator[str]:
    """The patterns over addresses that a person wrote."""
    for side in filter(None, (plan.survey, plan.new.survey if plan.new else None)):
        yield from (*side.include, *side.exclude, *side.browser)
    for kind in plan.kinds:
        yield from (rule.address for rule in kind.rules if rule.address)
    yield from (line.address for line in plan.route.aside)
    yield from (line.address for line in plan.route.accept)
    yield from (rule.old for rule in plan.route.rules if rule.match == "pattern")


def _check_mapping(plan: Plan) -> None:
    """Raise PlanError for a field of the target that comes from one its kind has not got, or is named twice."""
    for name, rules in (plan.land.fields if plan.land is not None else {}).items():
        kind = next((one for one in (*plan.kinds, *plan.every_kind) if one.name == name), None)
        if kind is None:
            continue  # a kind that is gone is mapped to nothing
        known = {field.name for field in kind.fields}
        for rule in rules:
            for source in rule.sources:
                if source not in known:
                    raise PlanError(
                        f"The target's field “{rule.to}” comes from the field “{source}”, which the kind “{name}” has "
                        "not got.",
                        hint=f"It has {', '.join(sorted(known))}." if known else "It has no field yet.",
                    )
        named = Counter(rule.to for rule in rules if rule.to)
        twice = next((to for to, number in named.items() if number > 1), "")
        if twice:
            raise PlanError(f"The target's field “{twice}” of the kind “{name}” is named twice.")
        kept = known - {source for rule in rules for source in rule.sources}
        both = next((to for to in named if to in kept), "")
        if both:
            raise PlanError(
                f"The target's field “{both}” of the kind “{name}” would hold something else than our field “{both}”, "
                "which goes over under its own name.",
                hint=f"Name “{both}” elsewhere, put it together with the other, or leave it out on purpose.",
            )


def _check_kind(kind: KindPlan) -> None:
    names = {field.name for field in kind.fields}
    known = f"It has {', '.join(sorted(names))}." if names else "It has no field yet."
    if kind.items == "none":
        return
    for name in parts_of(kind.address or ""):
        if name not in ALWAYS and name not in names:
            raise PlanError(
                f"The address pattern {kind.address} of the kind “{kind.name}” names the field “{name}”, which it has "
                "not got.",
                hint=f"{known} {{slug}}, {{path}}, {{folder}} and {{menu}} are always there.",
            )
    if kind.slug_from != "title" and kind.slug_from not in names:
        raise PlanError(
            f"The slug of the kind “{kind.name}” comes from the field “{kind.slug_from}”, which it has not got.",
            hint=known,
        )
