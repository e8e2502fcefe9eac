"""A first draft of the whole crossing by proposals alone: kinds with fields for the groups of pages, steps for what
bodies share, addresses; then all that follows from them. What a person decided stays as it is."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np

from grandferry.core.address import Scope
from grandferry.core.kinds import FieldPlan, KindPlan, Proposed, Step
from grandferry.core.lift.fields import lift_field
from grandferry.core.lift.first import FirstLook, first_fields, look, shared_texts
from grandferry.core.lift.firstfield import FirstField
from grandferry.core.lift.locators import locate
from grandferry.core.page import Node, Page
from grandferry.core.plan import Plan
from grandferry.core.proposed import decided_alone
from grandferry.core.refit.furniture import Body, furniture_steps, title_steps
from grandferry.core.refit.page import outermost
from grandferry.core.sort.drafting import ADDRESS
from grandferry.core.sort.make import named_traits
from grandferry.core.survey.families import PERSONAL
from grandferry.store import changes, crossings
from grandferry.store.survey import surveyed
from grandferry.work.jobs.context import Context
from grandferry.work.lift.first import some_pages
from grandferry.work.rounds import update
from grandferry.work.rounds.drafted import KindsOfGroups
from grandferry.work.sort import group
from grandferry.work.sort import run as sort

LOOKS = ("styles", "scripts", "feeds and maps")  # families that the new system makes itself
BY = "draft"
USUAL = 0.5  # of the kinds that have their body by one selector: others may have it by that as well


def run(context: Context) -> dict[str, Any]:
    """Group, propose, and bring up to date. The result counts what is proposed, and says of each stage what was
    done."""
    crossing = context.crossing
    if group.behind(crossing):
        context.progress(force=True, stage="group")
        group.run(context)
    if any(kind.proposed is None for kind in context.plan.kinds):
        sort.run(context)  # what a person's kinds take is not for the draft
    context.counters.clear()
    known, before = changes.revision(crossing), crossings.load_plan(crossing)
    plan = drafted(context, decided_alone(before))
    said = _counts(plan)
    if plan != before:
        text = f"draft: {said['kinds']:,} kinds, {said['fields']:,} fields, {said['steps']:,} clean-up steps proposed"
        changes.change_plan(crossing, plan, known, BY, text)
        context.log(f"{text[0].upper()}{text[1:]}.")
    else:
        context.log("The draft proposes what is there already: nothing is changed.")
    return {**said, **update.run(context)}


def drafted(context: Context, plan: Plan) -> Plan:
    """A plan with what is proposed added to what is decided."""
    crossing = context.crossing
    of_groups = KindsOfGroups(context, plan)
    made = of_groups.made()
    samples: list[list[Page]] = []
    makes = surveyed.makes(crossing)
    for done, one in enumerate(made):
        context.progress(stage="fields", done=done, all=2 * len(made))
        samples.append(some_pages(crossing, one.members, makes))
    site = shared_texts([page for pages in samples for page in pages])
    looks: list[FirstLook | None] = []
    for done, pages in enumerate(samples):
        context.progress(stage="fields", done=len(made) + done, all=2 * len(made))
        looks.append(look(pages, site) if pages else None)
    usual = _usual_body([one.fields for one in looks if one])
    fields = [_fields(seen, usual) for seen in looks]
    kinds: list[KindPlan] = []
    ended: dict[int, list[FieldPlan]] = {}  # place of a kind -> its fields in the end
    for one, n in of_groups.together(made, _same(fields)):
        proposed = [_with_others(crossing, field, one.members, makes, site) for field in fields[n]]
        kinds.append(one.kind.model_copy(update={"fields": proposed}))
        ended[n] = proposed
    bodies = [[_body(page, ended.get(n, fields[n])) for page in pages] for n, pages in enumerate(samples)]
    found = [*title_steps([body for some in bodies for body in some]), *furniture_steps(bodies)]
    steps = [*plan.refit.steps, *_new_steps(found, plan.refit.steps)]
    route = plan.route if plan.route.files else plan.route.model_copy(update={"files": ADDRESS})
    return plan.model_copy(
        update={
            "kinds": [*plan.kinds, *kinds],
            "refit": plan.refit.model_copy(update={"steps": steps}),
            "route": route,
            "leave_out": [*plan.leave_out, *LOOKS] if plan.leave_out == list(PERSONAL) else plan.leave_out,
        }
    )


def _fields(seen: FirstLook | None, usual: str) -> list[FieldPlan]:
    """The fields proposed for a kind, the body by the usual selector where there is one."""
    if seen is None:
        return []
    return [_proposed(found) for found in (seen.read_by(usual) if usual else seen.fields)]


def _same(fields: list[list[FieldPlan]]) -> list[list[int]]:
    """The places of kinds whose fields are the same, how well these are filled aside."""
    found: dict[str, list[int]] = {}
    for n, some in enumerate(fields):
        said = [field.model_dump_json(exclude={"proposed"}) for field in some]
        found.setdefault("\n".join(sorted(said)), []).append(n)
    return [places for said, places in found.items() if said and len(places) > 1]


def _usual_body(fields: list[list[FirstField]]) -> str:
    """The selector by which most kinds have their body, "" where there is none."""
    locators = (found[1].field.locators for found in fields)
    selectors = Counter(some[0].css or "" for some in locators if len(some) == 1)
    selector, number = selectors.most_common(1)[0] if selectors else ("", 0)
    return selector if number > USUAL * len(fields) else ""


def _proposed(found: FirstField) -> FieldPlan:
    said = Proposed(right=found.filled, missed=found.of - found.filled)
    return found.field.model_copy(update={"proposed": said})


def _with_others(
    crossing: int, field: FieldPlan, members: list[int], makes: dict[int, bytes], site: set[str]
) -> FieldPlan:
    """A body read on those pages as well that have, by their makes, nothing its locators look for: the pages looked at
    were none of them."""
    if field.type != "blocks":
        return field
    traits = [named_traits(one.css or "") for one in field.locators]
    if not all(traits):
        return field  # a place, of which a make cannot tell
    asked = np.array(sorted(set().union(*traits)), dtype=np.uint32)
    others = [a for a in members if not np.isin(asked, np.frombuffer(makes.get(a, b""), "<u4")).any()]
    pages = some_pages(crossing, others, makes) if others else []
    if not pages:
        return field
    more = next(one.field.locators for one in first_fields(pages, site) if one.field.name == field.name)
    new = [one for one in more if one not in field.locators]
    return field.model_copy(update={"locators": [*field.locators, *new]})


def _new_steps(found: list[Step], had: list[Step]) -> list[Step]:
    """Steps that do not take what one takes already, each under a name of its own."""
    taken, names = {step.finds for step in had}, {step.name for step in had}
    made: list[Step] = []
    for step in found:
        if step.finds in taken:
            continue
        name = f"{step.name} ({step.finds})" if step.name in names else step.name
        names.add(name)
        made.append(step.model_copy(update={"name": name}))
    return made


def _body(page: Page, fields: list[FieldPlan]) -> Body:
    """A page with what its fields are read from."""
    region: list[Node] = []
    read: list[int] = []
    title = next((field for field in fields if field.name == "title"), None)
    said = lift_field(page, title, "", "", Scope(hosts=frozenset(), scheme="http")) if title is not None else None
    by = title.locators[said.locator].css or "" if title is not None and said is not None and said.locator >= 0 else ""
    for field in fields:
        for locator in field.locators:
            if field.type == "blocks":
                region = region or outermost(page.select(locator.css or "body"))
            else:
                places = [place.node for place in locate(page, locator, "")]
                read += places
                if field.type == "group":  # its parts stand in its members
                    read += [inner.n for n in places for inner in page.inside(page.nodes[n])]
    return Body(page, region or [page.body], read, str(said.value or "") if said is not None else "", by)


def _counts(plan: Plan) -> dict[str, int]:
    kinds = [kind for kind in plan.kinds if kind.proposed is not None]
    return {
        "kinds": len(kinds),
        "fields": sum(len(kind.fields) for kind in kinds),
        "steps": sum(step.proposed is not None for step in plan.refit.steps),
    }
