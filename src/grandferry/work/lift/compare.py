"""Comparing as a job: what the plan as it is now makes of every page, against what was lifted, an earlier plan, or that
of another crossing. Nothing is changed but the list of differences."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass, field, replace
from typing import Any

from grandferry.core.address import Scope
from grandferry.core.errors import FerryError
from grandferry.core.kinds import KindPlan, Step
from grandferry.core.lift.compare import Carried, Difference, carried, differences, texts_of
from grandferry.core.lift.sections import lift_items
from grandferry.core.lift.value import Value
from grandferry.core.plan import Plan
from grandferry.core.sort.rules import Seen, needs_make, sort_page
from grandferry.core.survey.scope import scope_of
from grandferry.store import bodies, changes, compared, crossings, lift, records
from grandferry.store.compared import DifferenceRow
from grandferry.store.survey import surveyed
from grandferry.work.jobs.context import Context
from grandferry.work.jobs.pool import PagePool
from grandferry.work.lift.run import asks_record
from grandferry.work.pages import content_type, page_and_masks
from grandferry.work.sort.run import seen_of

BATCH = 200


@dataclass(frozen=True, slots=True)
class _Had:
    """What was lifted of a page: its kind, values as they are compared, nodes of its bodies and of its other fields."""

    kind: str
    values: dict[str, Any]
    bodies: list[int]
    others: list[int]


@dataclass(frozen=True, slots=True)
class _Rules:
    """What a plan says of pages: its kinds and steps; ``seen``: a page as its rules see it."""

    kinds: list[KindPlan]
    steps: list[Step]
    kept: frozenset[str]
    seen: Seen


@dataclass(frozen=True, slots=True)
class _Task:
    url: str
    body: bytes
    type: str
    scope: Scope
    record: dict[str, Any] | None
    now: _Rules
    then: _Rules | _Had | None


@dataclass(frozen=True, slots=True)
class _Compared:
    kinds: tuple[str, str]
    found: list[Difference] = field(default_factory=list)


def _compare_one(task: _Task) -> _Compared:
    page, masks = page_and_masks(task.body, task.type, task.now.kept, task.scope)

    page.record = task.record

    def made(rules: _Rules) -> Carried:
        name = sort_page(rules.kinds, rules.seen._replace(page=page)).kind
        kind = next((one for one in rules.kinds if one.name == name), None)
        values: list[Value] = []
        if kind is not None:
            for key, found in lift_items(page, kind, rules.seen.key, task.url, task.scope, masks):
                values += [replace(value, field=_name(value.field, key)) for value in found]
        return carried(page, kind, values, rules.steps)

    after = made(task.now)
    if isinstance(task.then, _Rules):
        before = made(task.then)
    elif task.then is not None:
        texts = texts_of(page, task.then.bodies, task.then.others, task.now.steps)
        before = Carried(task.then.kind, task.then.values, texts)
    else:
        before = Carried()
    return _Compared((before.kind, after.kind), differences(page, before, after))


def other_plan(crossing: int, against: str) -> Plan | None:
    """The plan that is compared with: "" for none (what was lifted), ``change:N`` as it was before that change,
    ``crossing:N`` that of another crossing. Raises FerryError."""
    if not against:
        return None
    what, _, number = against.partition(":")
    if not number.isdigit() or what not in ("change", "crossing"):
        raise FerryError(
            f"“{against}” is no plan to compare with.",
            "Give nothing (what was lifted), change:N (the plan before that change) or crossing:N.",
        )
    if what == "crossing":
        return crossings.load_plan(int(number))
    return changes.plan_before(crossing, int(number))


def run(context: Context) -> dict[str, Any]:
    """Compare over every page. The result counts pages, those that differ, values by field, and words that only one
    side carries."""
    crossing, plan = context.crossing, context.plan
    other = other_plan(crossing, str(context.params.get("against", "")))
    scope = scope_of(plan.side("old"))
    pages = surveyed.pages(crossing)
    plans = [plan, other] if other is not None else [plan]
    makes = surveyed.makes(crossing) if any(needs_make(one.every_kind) for one in plans) else {}
    said = records.of_keys(crossing) if any(map(asks_record, [k for one in plans for k in one.every_kind])) else {}
    had = {} if other is not None else _had(crossing)
    rows: list[DifferenceRow] = []
    fields: Counter[str] = Counter()
    differ = values = only_before = only_after = 0
    pool = PagePool()
    try:
        for start in range(0, len(pages), BATCH):
            batch = pages[start : start + BATCH]
            tasks = []
            for page in batch:
                make = makes.get(page.address, b"")
                now, *then = [
                    _Rules(one.every_kind, one.refit.steps, plan.carried_marks, seen_of(page, one.tongues, make))
                    for one in plans
                ]
                body, type_ = bodies.get(page.content), content_type(page.headers)
                before = then[0] if then else had.get(page.key)
                record = said.get(page.key, (None, ""))[0]
                tasks.append(_Task(page.url, body, type_, scope, record, now, before))
            for page, found in zip(batch, pool.run(_compare_one, tasks), strict=True):
                if isinstance(found, Exception):
                    context.log(f"{page.url} cannot be compared: {found}", "warning")
                    continue
                differ += bool(found.found)
                for one in found.found:
                    fields[one.field] += bool(one.field)
                    values += bool(one.field)
                    only_before += one.only_before
                    only_after += one.only_after
                    rows.append(DifferenceRow(page.address, *found.kinds, *one))
            context.progress(done=min(start + BATCH, len(pages)), all=len(pages))
    finally:
        pool.close()
    with context.writing():
        compared.put(crossing, rows)
    context.progress(force=True, done=len(pages), all=len(pages))
    return {
        "against": str(context.params.get("against", "")),
        "revision": changes.revision(crossing),
        "pages": len(pages),
        "differ": differ,
        "values": values,
        "fields": {name: number for name, number in fields.most_common() if name},
        "only_before": only_before,
        "only_after": only_after,
    }


def _name(field: str, key: str) -> str:
    """A field as it is told of a page; of a section of it with what marks it."""
    mark = key.partition("#")[2]
    return f"{field} #{mark}" if mark else field


def _had(crossing: int) -> dict[str, _Had]:
    """old key -> what was lifted of it."""
    found: dict[str, _Had] = {}
    for row in lift.lifted(crossing):
        one = found.setdefault(row.key.partition("#")[0], _Had(row.kind, {}, [], []))
        name = _name(row.field, row.key)
        if row.type == "blocks":
            one.values[name] = row.hash if row.value is not None else lift.NOTHING
            one.bodies.extend(row.value["nodes"] if row.value else [])
        else:
            one.values[name] = row.value
            one.others.extend(n for n in json.loads(row.nodes) if n >= 0)
    return found
