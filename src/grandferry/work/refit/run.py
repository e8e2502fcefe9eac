"""Refitting as a job: the body of every item to blocks, and the account of every visible word and thing of its page;
those alone whose page, region, steps or surroundings changed."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
from pydantic import TypeAdapter

from grandferry.core.address import Scope
from grandferry.core.base import base_of
from grandferry.core.kinds import Step, steps_of
from grandferry.core.made import REFIT, Behind, behind, made_from
from grandferry.core.plan import Plan
from grandferry.core.refit.account import LossAccount
from grandferry.core.refit.blocks import Form, constructs, walk
from grandferry.core.refit.body import body_to_json
from grandferry.core.refit.choices import Odd, WrittenAs
from grandferry.core.refit.convert import refit_nodes, touches
from grandferry.core.refit.forms import mark_of
from grandferry.core.refit.leftovers import leftovers, stray_tags
from grandferry.core.refit.page import absolute, numbered, text_hash, texts_in, texts_outside
from grandferry.core.refit.taken import Taken
from grandferry.core.refit.write import write_markdown
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.secrets import marks_rested_on
from grandferry.store import bodies, lift, refit, stamps
from grandferry.store.refit import BodyField
from grandferry.store.survey import aims
from grandferry.work.jobs.context import Context
from grandferry.work.jobs.pool import PagePool
from grandferry.work.lift.run import addresses_of
from grandferry.work.pages import content_type, page_and_masks, page_of

BATCH = 100
# as which a table is read of which it is in doubt: of layout or not -> the construct
DOUBTFUL = {True: "Table in doubt, read as layout", False: "Table in doubt, read as data"}
_STEPS = TypeAdapter(list[Step])
NO_STEPS = made_from(REFIT, [])


@dataclass(frozen=True, slots=True)
class _Task:
    nodes: list[int]
    url: str
    body: bytes
    type: str
    scope: Scope
    steps: list[Step]
    other_nodes: list[int]
    shared: frozenset[int]
    kept: frozenset[str]
    whole: bool
    aimed: dict[str, int]
    choices: dict[Odd, WrittenAs]


@dataclass(frozen=True, slots=True)
class _Refitted:
    body: bytes
    account: LossAccount
    constructs: dict[str, int]
    taken: dict[str, Taken]
    treated: dict[str, int]
    raw_words: int
    left_out: Mapping[Odd, int]
    forms: Mapping[str, int]


class Work(NamedTuple):
    """A body to refit: what it will have been made from (its page and surroundings, its steps), and the furniture
    there, the places on its page that links of the crossing lead to, and the steps of its kind."""

    field: BodyField
    stamp: str
    shared: frozenset[int]
    aimed: dict[str, int]
    steps: list[Step]


def _refit_one(task: _Task) -> _Refitted:
    page, masks = page_and_masks(task.body, task.type, task.kept, task.scope)
    region = numbered(page, task.nodes)
    outside = texts_outside(page, region)
    base = base_of(page, task.url, task.scope)
    done = refit_nodes(
        page,
        region,
        steps=task.steps,
        link=lambda raw: absolute(raw, base, task.scope, task.url),
        in_fields=texts_in(page, task.other_nodes),
        furniture=frozenset(node.n for node in outside if text_hash(node.text) in task.shared),
        whole_page=task.whole,
        masks=masks,
        aimed=task.aimed,
    )
    body = json.dumps(body_to_json(done.body), ensure_ascii=False).encode()
    found = constructs(done.blocks) | leftovers(done.blocks) | stray_tags(page, region)
    forms = Counter(mark_of(one) for one in walk(done.blocks) if isinstance(one, Form))
    for doubt in done.doubts:
        name = DOUBTFUL[doubt.seen.layout]
        found[name] = found.get(name, 0) + 1
    written = write_markdown(done.blocks, task.choices)
    return _Refitted(body, done.account, found, done.taken, done.treated, written.raw_words, written.left_out, forms)


def _touched(task: tuple[bytes, str, list[Step]]) -> bool:
    body, type_, steps = task
    return touches(page_of(body, type_), steps)


def _steps_stamp(steps: list[Step]) -> str:
    return made_from(REFIT, [step.model_dump(mode="json") for step in steps])


def all_work(crossing: int, plan: Plan, only: int = 0) -> list[Work]:
    """Every body, with what it rests on now. Of the furniture only what stands on its own page counts."""
    shared = np.array(lift.shared(crossing), dtype=np.int64)
    outside = lift.outside(crossing)
    rests = made_from(REFIT, addresses_of(plan))
    by_kind = {kind.name: steps_of(plan.refit.steps, kind.name) for kind in plan.every_kind}
    stamps_of = {kind: _steps_stamp(steps) for kind, steps in by_kind.items()}
    choices = [plan.refit.markdown] if plan.refit.markdown else []
    aimed = aims.aims(crossing)
    work = []
    for field in refit.body_fields(crossing, only):
        here = np.frombuffer(outside.get(field.item, b""), dtype=np.int64)
        around = here[np.isin(here, shared, assume_unique=True)]
        keys = marks_rested_on(field.keys, plan.carried_marks)
        section = [] if field.whole else ["section"]
        places = dict(sorted(aimed.get(field.address, {}).items()))
        stamp = made_from(
            REFIT,
            rests,
            field.content,
            field.lifted,
            sorted(field.others),
            around.tolist(),
            *keys,
            *section,
            list(places),
            *choices,
        )
        work.append(
            Work(
                field,
                f"{stamp} {stamps_of.get(field.kind, NO_STEPS)}",
                frozenset(around.tolist()),
                places,
                by_kind.get(field.kind, []),
            )
        )
    return work


def behind_work(crossing: int, plan: Plan) -> list[tuple[Work, Behind]]:
    """The bodies that are not refitted, or from something else than what is there now."""
    found = []
    for work in all_work(crossing, plan):
        why = Behind.NEW if work.field.made_from is None else behind(work.field.made_from, work.stamp)
        if why is not None:
            found.append((work, why))
    return found


def _by_steps_alone(work: Work) -> bool:
    """Whether nothing but the steps has changed since a body was made."""
    had = work.field.made_from or ""
    return had.partition(" ")[0] == work.stamp.partition(" ")[0]


def _untouched(context: Context, pool: PagePool, tasks: list[Work]) -> set[tuple[int, str]]:
    """Of these bodies, of which only the steps changed, those on whose page no changed step finds anything."""
    spared: set[tuple[int, str]] = set()
    before: dict[str, list[Step] | None] = {}
    for start in range(0, len(tasks), BATCH):
        batch = tasks[start : start + BATCH]
        looks: list[tuple[Work, list[Step]]] = []
        for work in batch:
            mark = (work.field.made_from or "").partition(" ")[2]
            if mark not in before:
                kept = stamps.get(context.crossing, f"steps {mark}")
                before[mark] = _STEPS.validate_json(kept) if kept else None
            had = before[mark]
            if had is None:
                continue
            steps = work.steps
            differing = [s for s in had if s not in steps] + [s for s in steps if s not in had]
            looks.append((work, differing or [*had]))  # the same in another order: whatever any of them finds
        found = pool.run(
            _touched, [(bodies.get(w.field.content), content_type(w.field.headers), which) for w, which in looks]
        )
        for (work, _), touched in zip(looks, found, strict=True):
            if touched is False:
                spared.add((work.field.item, work.field.field))
        context.progress(looked=start + len(batch))
    return spared


def run(context: Context) -> dict[str, Any]:
    """Refit what is behind; with ``all`` every body, with ``only`` those of one address. The result has the words'
    totals and the pages that lost most."""
    crossing, plan = context.crossing, context.plan
    scope, pool = scope_of(plan.side("old")), PagePool()
    only = int(context.params.get("only") or 0)
    every = all_work(crossing, plan, only)
    failed = 0
    spared: set[tuple[int, str]] = set()
    try:
        tasks = every
        if not only and not context.params.get("all"):
            tasks = [work for work, _ in behind_work(crossing, plan)]
            by_steps = [work for work in tasks if _by_steps_alone(work)]
            spared = _untouched(context, pool, by_steps)
            with context.writing():
                refit.restamp([(w.stamp, w.field.item, w.field.field) for w in tasks if w.field[:2] in spared])
            tasks = [work for work in tasks if work.field[:2] not in spared]
        for start in range(0, len(tasks), BATCH):
            batch = tasks[start : start + BATCH]
            work = [
                _Task(
                    json.loads(field.lifted)["nodes"],
                    field.url,
                    bodies.get(field.content),
                    content_type(field.headers),
                    scope,
                    steps,
                    field.others,
                    shared,
                    plan.carried_marks,
                    field.whole,
                    aimed,
                    plan.refit.choices,
                )
                for field, _, shared, aimed, steps in batch
            ]
            rows = []
            packed = []
            taken: list[tuple[int, str, int, int]] = []
            counts: list[tuple[int, str, str, str, int]] = []
            for (field, stamp, *_), found in zip(batch, pool.run(_refit_one, work), strict=True):
                if isinstance(found, Exception):
                    failed += 1
                    context.log(f"{field.url} cannot be refitted: {found}", "warning")
                    continue
                name = bodies.digest(found.body)
                packed.append((name, len(found.body), *bodies.pack(found.body)))
                a = found.account
                taken += [(field.item, step, *part) for step, part in found.taken.items() if field.whole]
                of = (field.item, field.field)
                raw = {"words": found.raw_words} if found.raw_words else {}
                for type_, named in (
                    ("construct", found.constructs),
                    ("step", a.removed),
                    (refit.TREATED, found.treated),
                    (refit.WRITTEN, raw),
                    (refit.FORM, found.forms),
                    (refit.LEFT_OUT, {odd.value: number for odd, number in found.left_out.items()}),
                ):
                    counts += [(*of, type_, name_, number) for name_, number in named.items()]
                for thing, c in a.things.items():
                    found_of = (("have", c.have), ("taken", c.removed), ("lost", c.lost))
                    counts += [(*of, type_, thing.value, number) for type_, number in found_of if number]
                words = (a.words, a.in_blocks, a.in_islands, a.unaccounted)
                rows.append((*of, name, json.dumps(a.as_json(), ensure_ascii=False), *words, stamp))
            bodies.put_many(packed)
            with context.writing():
                refit.store_refits(rows, counts, taken)
            context.progress(done=min(start + BATCH, len(tasks)), all=len(tasks), failed=failed)
    finally:
        pool.close()
    with context.writing():
        for mark, steps in {one.stamp.partition(" ")[2]: one.steps for one in every}.items():
            stamps.put(crossing, f"steps {mark}", _STEPS.dump_json(steps).decode())
        if not only:
            refit.drop_without_field(crossing)
        stamps.keep_steps(crossing)
    left = len(every) - len(tasks)
    context.progress(force=True, done=len(tasks), all=len(tasks), left=left)
    things = {row.name: [row.have, row.lost] for row in refit.things(crossing)}
    done = {"done": len(tasks), "left": left, "untouched": len(spared), "failed": failed}
    return {
        **refit.totals(crossing),
        "things": things,
        **done,
        "worst": [row._asdict() for row in refit.worst(crossing)],
    }
