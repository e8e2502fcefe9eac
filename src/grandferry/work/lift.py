"""Lifting as a job: the fields of every page of every kind; and which texts are furniture."""

from __future__ import annotations

import hashlib
from collections import Counter
from dataclasses import dataclass
from typing import Any

from grandferry.core.address import Scope
from grandferry.core.lift.fields import Value, lift_page
from grandferry.core.page import Page
from grandferry.core.plan import KindPlan
from grandferry.store import bodies, lift, sort

from .context import Context, scope_of
from .pages import content_type, page_of
from .pool import PagePool

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


@dataclass(frozen=True, slots=True)
class _Lifted:
    values: list[Value]
    outside: frozenset[int]


def text_hash(text: str) -> int:
    """A 63-bit hash of a text's words, for recognising the same text on many pages."""
    digest = hashlib.blake2b(" ".join(text.split()).encode("utf-8", "surrogatepass"), digest_size=8).digest()
    return int.from_bytes(digest, "big") >> 1


def outside_texts(page: Page, bodies_: list[int]) -> frozenset[int]:
    """Hashes of the texts that stand in none of the given nodes."""
    spans = [(n, page.nodes[n].last) for n in bodies_ if 0 <= n < len(page.nodes)]
    return frozenset(
        text_hash(node.text)
        for node in page.nodes
        if not node.tag and node.visible and node.text.strip() and not any(a <= node.n <= b for a, b in spans)
    )


def _lift_one(task: _Task) -> _Lifted:
    page = page_of(task.body, task.type)
    values = lift_page(page, task.kind, task.key, task.url, task.scope)
    in_bodies = [n for v in values if isinstance(v.value, dict) and "nodes" in v.value for n in v.value["nodes"]]
    return _Lifted(values, outside_texts(page, in_bodies))


def run(context: Context) -> dict[str, Any]:
    """Lift everything. The result has the coverage per kind and field, and the number of items."""
    plan, scope, pool = context.plan, scope_of(context.plan), PagePool()
    tasks = [
        (kind, page)
        for kind in plan.kinds
        if kind.items == "one"
        for page in sort.pages_of_kind(context.crossing, kind.name)
    ]
    only = context.params.get("only")
    if only:  # one page by the same way as all; what rests on all pages is left as it was
        tasks = [(kind, page) for kind, page in tasks if page[0] == only]
    shared: Counter[int] = Counter()
    done = 0
    try:
        for start in range(0, len(tasks), BATCH):
            batch = tasks[start : start + BATCH]
            work = [
                _Task(kind, page[2], page[1], bodies.get(page[3]), content_type(page[4]), scope) for kind, page in batch
            ]
            results = list(pool.run(_lift_one, work))
            with context.writing():
                for (kind, page), found in zip(batch, results, strict=True):
                    item = lift.upsert_item(context.crossing, kind.name, page[2], page[0], context.number)
                    if isinstance(found, Exception):
                        values = [
                            Value(f.name, None, -1, (), "empty", f"the page cannot be read: {found}")
                            for f in kind.fields
                        ]
                    else:
                        values = found.values
                        shared.update(found.outside)
                    lift.store_values(item, values)
            done += len(batch)
            context.progress(done=done, all=len(tasks))
    finally:
        pool.close()
    with context.writing():
        gone = 0
        if not only:
            gone = lift.drop_stale_items(context.crossing, context.number)
            lift.store_shared(context.crossing, {h: n for h, n in shared.items() if n >= SHARED_FROM})
        edited = lift.apply_edits(context.crossing, context.params.get("edits") or [])
    context.progress(force=True, done=done, all=len(tasks))
    return {
        "items": done,
        "gone": gone,
        "edited": edited,
        "coverage": lift.coverage(context.crossing),
        "exceptions": lift.exceptions(context.crossing)[:LISTED],
    }
