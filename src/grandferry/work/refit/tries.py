"""A step tried on one body before it is saved: what it changes in the text, and what it takes."""

from __future__ import annotations

import json
import time
from collections.abc import Sequence
from difflib import SequenceMatcher
from functools import partial
from typing import NamedTuple

from grandferry.core.base import base_of
from grandferry.core.encoding import decode
from grandferry.core.errors import NotThere
from grandferry.core.kinds import Step, steps_of
from grandferry.core.page import Page, could_find, names_in
from grandferry.core.plan import Plan
from grandferry.core.refit.convert import Refitted, refit_nodes, touches
from grandferry.core.refit.page import absolute, numbered
from grandferry.core.refit.write import to_markdown
from grandferry.core.survey.scope import scope_of
from grandferry.store import bodies, crossings, refit
from grandferry.store.refit import BodyPlace
from grandferry.store.survey import aims
from grandferry.work.pages import content_type, page_and_masks, page_of

LOOK = 0.1  # seconds for which bodies are looked through for one that the step finds something on
MOST_LINES = 400  # of a difference
AROUND = 1  # lines that are shown around a change
MATCHED = 4000  # lines that are compared at all


class Line(NamedTuple):
    """A line of the Markdown: ``sign`` is "-" for one that goes, "+" for one that comes, "" for one around them, "…"
    for a gap."""

    sign: str
    text: str


class Tried(NamedTuple):
    """A step on one body: its item, field and old key; whether it finds anything there; the words it takes; what
    changes. ``looked``: so many bodies were looked at until one was found that it finds something on."""

    item: int
    field: str
    key: str
    finds: bool
    words: int
    lines: list[Line]
    more: bool
    looked: int


def try_step(crossing: int, step: Step, at: int | None, item: int = 0) -> Tried:
    """A step tried at the end of those of the plan, or in the place of the one at ``at``: on an item's body, or on the
    first body in order on which it finds something. Raises NotThere when there is no body, or no step at that place."""
    plan = crossings.load_plan(crossing)
    if at is not None and not 0 <= at < len(plan.refit.steps):
        raise NotThere(f"There is no step {at + 1} in the plan.")
    had = [one for n, one in enumerate(plan.refit.steps) if n != at]
    now = [*had[:at], step, *had[at:]] if at is not None else [*had, step]
    all_bodies = refit.body_places(crossing)
    if step.kinds:
        all_bodies = [one for one in all_bodies if one.kind in step.kinds]
    wanted = [one for one in all_bodies if one.item == item] if item else []
    if not all_bodies or (item and not wanted):
        raise NotThere("There is no body to try it on." if not item else f"Item {item} has no body the step is for.")
    if wanted or step.tidy:
        return _tried(crossing, plan, (wanted or all_bodies)[0], had, now, step, 1)
    looked = 0
    until = time.monotonic() + LOOK
    named = names_in(step.finds)
    for place in all_bodies:
        looked += 1
        body, type_ = bodies.get(place.content), content_type(place.headers)
        if could_find(decode(body, type_).text, named) and touches(page_of(body, type_), [step]):
            return _tried(crossing, plan, place, had, now, step, looked)
        if time.monotonic() > until:
            break
    return _tried(crossing, plan, all_bodies[0], had, now, step, looked)


def _tried(
    crossing: int, plan: Plan, place: BodyPlace, had: Sequence[Step], now: Sequence[Step], step: Step, looked: int
) -> Tried:
    mine = refit.body_fields(crossing, place.address)
    field = next(one for one in mine if (one.item, one.field) == (place.item, place.field))
    scope = scope_of(plan.side("old"))
    page, masks = page_and_masks(bodies.get(field.content), content_type(field.headers), plan.carried_marks, scope)
    region = numbered(page, json.loads(field.lifted)["nodes"])
    link = partial(absolute, base=base_of(page, field.url, scope), scope=scope, own=field.url)
    aimed = aims.aims(crossing).get(field.address, {})

    def done(steps: Sequence[Step]) -> Refitted:
        return refit_nodes(page, region, steps=steps_of(steps, field.kind), link=link, masks=masks, aimed=aimed)

    before, after = done(had), done(now)
    one, other = (to_markdown(made.blocks, plan.refit.choices).splitlines() for made in (before, after))
    lines = differing(one, other)
    words = sum(after.account.removed.values()) - sum(before.account.removed.values())
    return Tried(
        field.item, field.field, field.key, _finds(page, step, after), words, lines[:MOST_LINES],
        len(lines) > MOST_LINES or max(len(one), len(other)) > MATCHED, looked,
    )  # fmt: skip


def _finds(page: Page, step: Step, after: Refitted) -> bool:
    return bool(page.select(step.finds)) if step.finds else step.name in {*after.treated, *after.account.removed}


def differing(before: Sequence[str], after: Sequence[str]) -> list[Line]:
    """The lines that go and come, with a few around them."""
    found: list[Line] = []
    match = SequenceMatcher(None, before[:MATCHED], after[:MATCHED], autojunk=len(before) > 500)
    for number, group in enumerate(match.get_grouped_opcodes(AROUND)):
        if number:
            found.append(Line("…", ""))
        for what, a, b, c, d in group:
            if what == "equal":
                found += [Line("", text) for text in before[a:b]]
            else:
                found += [Line("-", text) for text in before[a:b]]
                found += [Line("+", text) for text in after[c:d]]
    return found
