"""Lifting as a job: the fields of every page of every kind, those alone whose page or fields changed; and which texts
are furniture."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from grandferry.core.address import Scope
from grandferry.core.kinds import KindPlan
from grandferry.core.lift.sections import lift_items
from grandferry.core.lift.unlike import BY_ITSELF, unlike
from grandferry.core.lift.value import Value
from grandferry.core.made import LIFT, Behind, behind, made_from
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import Plan
from grandferry.core.refit.page import numbered, outside_hashes, shared_hashes
from grandferry.core.survey.families import family_of
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.secrets import marks_rested_on
from grandferry.store import bodies, crossings, edits, lift, records, sort
from grandferry.store.sort import KindPage
from grandferry.store.survey import likeness
from grandferry.work.jobs.context import Context
from grandferry.work.jobs.pool import PagePool
from grandferry.work.pages import content_type, page_and_masks

BATCH = 100
LISTED = 200  # of fields that need a look, in the result
SHARED_FROM = 3  # a text outside the bodies of at least this many pages is furniture


@dataclass(frozen=True, slots=True)
class _Task:
    kind: KindPlan
    key: str
    url: str
    body: bytes
    type: str
    scope: Scope
    kept: frozenset[str]
    record: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class _Lifted:
    items: list[tuple[str, list[Value]]]  # by key
    outside: bytes  # hashes, 8 bytes each


class Work(NamedTuple):
    """A page to lift: its kind, and what its item will have been made from."""

    kind: KindPlan
    page: KindPage
    stamp: str
    record: dict[str, Any] | None = None


def _lift_one(task: _Task) -> _Lifted:
    page, masks = page_and_masks(task.body, task.type, task.kept, task.scope)
    page.record = task.record
    items = lift_items(page, task.kind, task.key, task.url, task.scope, masks)
    in_bodies = [n for _, values in items for v in values if v.type == "blocks" and v.value for n in v.value["nodes"]]
    return _Lifted(items, outside_hashes(page, numbered(page, in_bodies)).tobytes())


def addresses_of(plan: Plan) -> list[Any]:
    """The parts of a plan that say how an address on a page is understood."""
    return [plan.old.model_dump(mode="json", exclude={"permission"}), plan.survey.drop_parameters, plan.survey.preset]


def asks_record(kind: KindPlan) -> bool:
    """Whether a field of a kind is read from records that were handed over."""
    return any(one.record for field in kind.fields for one in field.locators)


def all_work(crossing: int, plan: Plan) -> list[Work]:
    """Every page that an item is made of, in the order of kinds and keys. A page that is set aside, by its address or
    with its family, is not carried: none is made of it, unless a pair speaks of it; nor is one of a page that is but
    another spelling of one with the same words, of which one is made."""
    work = []
    addresses = addresses_of(plan)
    asides = [compile_pattern(aside.address) for aside in plan.route.aside]
    twins = likeness.twins(crossing)
    paired = {pair.old for pair in crossings.load_pairs(crossing) if pair.match == "exact"}
    said = records.of_keys(crossing) if any(map(asks_record, plan.every_kind)) else {}
    for kind in plan.every_kind:
        if not kind.makes_items:
            continue
        asks = asks_record(kind)
        sections = [kind.each, kind.leads] if kind.items == "each" else []
        rests = made_from(LIFT, kind.name, kind.fields, addresses, *sections)
        for page in sort.pages_of_kind(crossing, kind.name):
            out = family_of(page.key, "page", "") in plan.leave_out or any(a.fullmatch(page.key) for a in asides)
            if out and page.key not in paired:
                continue
            keys = [made_from(LIFT, on) for on in marks_rested_on(page.keys, plan.carried_marks)]
            record, hashed = said.get(page.key, (None, "")) if asks else (None, "")
            stamp = " ".join([rests, page.content, *keys, *([hashed] if hashed else [])])
            work.append(Work(kind, page, stamp, record))
    made = {one.page.key for one in work}
    return [one for one in work if twins.get(one.page.key) not in made]


def behind_work(crossing: int, plan: Plan) -> tuple[list[tuple[Work, Behind]], list[lift.Made]]:
    """(pages to lift and why, items whose page is in no kind with items any more)."""
    had = by_page(lift.made(crossing))
    found = []
    for work in all_work(crossing, plan):
        items = had.pop(work.page.key, [])
        whys = [behind(item.made_from, work.stamp) for item in items] or [Behind.NEW]
        why = next((why for why in whys if why is not None), None)
        if why is not None:
            found.append((work, why))
    return found, [item for items in had.values() for item in items]


def by_page(made: dict[str, lift.Made]) -> dict[str, list[lift.Made]]:
    """Items by the key of the page that they were lifted from."""
    found: dict[str, list[lift.Made]] = {}
    for key, item in made.items():
        found.setdefault(key.partition("#")[0], []).append(item)
    return found


def run(context: Context) -> dict[str, Any]:
    """Lift what is behind; with ``all`` every page, with ``only`` one address's. The result has the coverage per kind
    and field, and the number of items."""
    crossing, plan = context.crossing, context.plan
    scope, kept, pool = scope_of(plan.side("old")), plan.carried_marks, PagePool()
    only = context.params.get("only")
    every = all_work(crossing, plan)
    late, stale = behind_work(crossing, plan)
    if only:  # one page by the same way as all; what rests on all pages is left as it was
        tasks, stale = [work for work in every if work.page.address == only], []
    else:
        tasks = every if context.params.get("all") else [work for work, _ in late]
    had = by_page(lift.made(crossing))
    done = 0
    try:
        for start in range(0, len(tasks), BATCH):
            batch = tasks[start : start + BATCH]
            work = [
                _Task(
                    w.kind,
                    w.page.key,
                    w.page.url,
                    bodies.get(w.page.content),
                    content_type(w.page.headers),
                    scope,
                    kept,
                    w.record,
                )
                for w in batch
            ]
            results = list(pool.run(_lift_one, work))
            with context.writing():
                for (kind, page, stamp, _), found in zip(batch, results, strict=True):
                    if isinstance(found, Exception):
                        found = _Lifted([(page.key, [_unread(f.name, f.type, found) for f in kind.fields])], b"")
                    now = {key for key, _ in found.items}
                    for key, values in found.items:  # the first of a page's items has the account of what is around
                        outside = found.outside if key == min(now) else b""
                        item = lift.upsert_item(crossing, kind.name, key, page.address, context.number, stamp, outside)
                        lift.store_values(item, values)
                    lift.drop_items([one.item for one in had.get(page.key, []) if one.key not in now])
            done += len(batch)
            context.progress(done=done, all=len(tasks))
    finally:
        pool.close()
    with context.writing():
        lift.drop_items([made.item for made in stale])
        if not only:  # also when nothing was lifted: a run that was killed may have lifted it
            around = [np.frombuffer(found, dtype=np.int64) for found in lift.outside(crossing).values()]
            if done or stale:
                _compare(crossing, plan)
            hashes = shared_hashes(around, SHARED_FROM).tolist()
            if hashes != lift.shared(crossing):
                lift.store_shared(crossing, hashes)
        edits.adopt(crossing)
    laid = edits.laid(crossing)
    for one in laid:
        if not one.item:
            context.log(
                f"What was set by hand on {one.edit.old} ({one.edit.field}) waits: no item is made of it.", "warning"
            )
    context.progress(force=True, done=done, all=len(tasks), left=len(every) - len(tasks))
    return {
        "items": len(every),
        "done": done,
        "left": len(every) - len(tasks),
        "gone": len(stale),
        "edited": sum(bool(one.item) for one in laid),
        "conflicts": sum(one.conflict for one in laid),
        "coverage": lift.coverage(crossing),
        "exceptions": [row._asdict() for row in lift.exceptions(crossing)[:LISTED]],
    }


def _compare(crossing: int, plan: Plan) -> None:
    """Say which values are unlike the others of their field; what they are by themselves stays said."""
    for kind in plan.every_kind:
        for field, values in lift.filled(crossing, kind.name).items():
            left = [v for v in values if v.unlike not in BY_ITSELF]
            found = unlike(left[0].type, [v.value for v in left]) if left else {}
            now = [(found.get(n, ""), v) for n, v in enumerate(left)]
            lift.set_unlike([(str(why), v.item, field) for why, v in now if why != v.unlike])


def _unread(field: str, type_: Any, problem: Exception) -> Value:
    return Value(field, type_, None, -1, (), "empty", f"the page cannot be read: {problem}")
