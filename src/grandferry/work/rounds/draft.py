"""A first draft of the whole crossing by proposals alone: kinds with fields for the groups of pages, steps for what
bodies share, addresses; then all that follows from them. What a person decided stays as it is."""

from __future__ import annotations

from collections import Counter
from typing import Any

import numpy as np

from grandferry.core.kinds import FieldPlan, KindPlan, Proposed, SortRule, Step
from grandferry.core.lift.first import FirstField, FirstLook, first_fields, look, shared_texts
from grandferry.core.lift.locators import locate
from grandferry.core.page import Node, Page
from grandferry.core.plan import Plan
from grandferry.core.proposed import decided_alone
from grandferry.core.refit.furniture import Body, furniture_steps
from grandferry.core.refit.page import outermost
from grandferry.core.sort.drafting import ADDRESS, EVERYTHING, FEWEST, DraftedKind, draft_kinds
from grandferry.core.sort.grouping import MIDDLE
from grandferry.core.sort.make import named_traits
from grandferry.core.sort.proposal import Proposal
from grandferry.core.survey.families import PERSONAL
from grandferry.store import changes, crossings, groups
from grandferry.store.survey import surveyed
from grandferry.work.jobs.context import Context
from grandferry.work.lift.first import some_pages
from grandferry.work.rounds import update
from grandferry.work.sort import group
from grandferry.work.sort import run as sort
from grandferry.work.sort.joined import Joining, Told
from grandferry.work.sort.run import first_fit

LOOKS = ("styles", "scripts", "feeds and maps")  # families that the new system makes itself
BY = "draft"
USUAL = 0.5  # of the kinds that have their body by one selector: others may have it by that as well
LEFT = 0.25  # of the pages of a group that a kind made for it has, at least
GOOD = 0.9  # F1 of a rule that is taken as it is, and
BETTER = 0.03  # … by how much the make alone has to be better than another


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
    found = groups.groups(crossing, MIDDLE)
    mine = {kind.name for kind in plan.kinds}
    left = [one for one in found if sum(n for kind, n in one.kinds.items() if kind in mine) * 2 < one.pages]
    offers = _offers(crossing, left)
    made = _kept(context, plan, draft_kinds(offers, mine), left)
    kinds: list[KindPlan] = []
    bodies: list[list[Body]] = []
    samples: list[list[Page]] = []
    makes = surveyed.makes(crossing)
    for done, (_, members) in enumerate(made):
        context.progress(stage="fields", done=done, all=2 * len(made))
        samples.append(some_pages(crossing, members, makes))
    site = shared_texts([page for pages in samples for page in pages])
    looks: list[FirstLook | None] = []
    for done, pages in enumerate(samples):
        context.progress(stage="fields", done=len(made) + done, all=2 * len(made))
        looks.append(look(pages, site) if pages else None)
    usual = _usual_body([one.fields for one in looks if one])
    for (kind, members), pages, seen in zip(made, samples, looks, strict=True):
        said = [] if seen is None else seen.read_by(usual) if usual else seen.fields
        proposed = [_with_others(crossing, _proposed(field), members, makes, site) for field in said]
        kinds.append(kind.model_copy(update={"fields": proposed}))
        bodies.append([_body(page, proposed) for page in pages])
    steps = [*plan.refit.steps, *_new_steps(furniture_steps(bodies), plan.refit.steps)]
    route = plan.route if plan.route.files else plan.route.model_copy(update={"files": ADDRESS})
    return plan.model_copy(
        update={
            "kinds": [*plan.kinds, *kinds],
            "refit": plan.refit.model_copy(update={"steps": steps}),
            "route": route,
            "leave_out": [*plan.leave_out, *LOOKS] if plan.leave_out == list(PERSONAL) else plan.leave_out,
        }
    )


def _kept(
    context: Context, plan: Plan, made: list[DraftedKind], found: list[groups.Group]
) -> list[tuple[KindPlan, list[int]]]:
    """Drafted kinds with the addresses of the pages that they have, told how many of these are meant; those that the
    kinds before them leave hardly a page are left out."""
    taken = first_fit(context, [*plan.every_kind, *(one.kind for one in made)])
    has = [set(taken.get(one.kind.name, ())) for one in made]
    meant = [{a for n in one.groups for a in groups.members(context.crossing, MIDDLE, found[n].number)} for one in made]
    stays = [
        len(has[k]) >= (1 if one.kind.rules == [EVERYTHING] else max(FEWEST, LEFT * len(meant[k])))
        for k, one in enumerate(made)
    ]
    for k, pages in enumerate(meant):  # a group of which another kind has nearly all is meant by that
        if not stays[k]:
            other = max(range(len(made)), key=lambda n: (stays[n], len(has[n] & pages)))
            meant[other] |= pages
    kept = []
    for k, one in enumerate(made):
        if stays[k]:
            right, missed, wrong = len(has[k] & meant[k]), len(meant[k] - has[k]), len(has[k] - meant[k])
            rest = one.kind.rules == [EVERYTHING]  # nothing speaks for it
            said = Proposed(right=0, wrong=len(has[k])) if rest else Proposed(right=right, missed=missed, wrong=wrong)
            kept.append((one.kind.model_copy(update={"proposed": said}), sorted(has[k])))
    return kept


def _offers(crossing: int, found: list[groups.Group]) -> list[Proposal]:
    """A rule for each group: the simplest one, or where that goes wrong too often its make alone."""
    offers = []
    joining: Joining | None = None
    for one in found:
        rule = Told(SortRule.model_validate(one.rule), one.right, one.missed, one.wrong)
        if rule.f1 < GOOD and one.pages > 1:
            joining = joining or Joining(crossing)
            by_make = joining.by_make(MIDDLE, [one.number])
            rule = by_make if by_make.f1 > rule.f1 + BETTER else rule
        offers.append(Proposal(one.name, *rule))
    return offers


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
    taken, names = {step.remove for step in had}, {step.name for step in had}
    made: list[Step] = []
    for step in found:
        if step.remove in taken:
            continue
        name = f"{step.name} ({step.remove})" if step.name in names else step.name
        names.add(name)
        made.append(step.model_copy(update={"name": name}))
    return made


def _body(page: Page, fields: list[FieldPlan]) -> Body:
    """A page with what its fields are read from."""
    region: list[Node] = []
    read: list[int] = []
    for field in fields:
        for locator in field.locators:
            if field.type == "blocks":
                region = region or outermost(page.select(locator.css or "body"))
            else:
                places = [place.node for place in locate(page, locator, "")]
                read += places
                if field.type == "group":  # its parts stand in its members
                    read += [inner.n for n in places for inner in page.inside(page.nodes[n])]
    return Body(page, region or [page.body], read)


def _counts(plan: Plan) -> dict[str, int]:
    kinds = [kind for kind in plan.kinds if kind.proposed is not None]
    return {
        "kinds": len(kinds),
        "fields": sum(len(kind.fields) for kind in kinds),
        "steps": sum(step.proposed is not None for step in plan.refit.steps),
    }
