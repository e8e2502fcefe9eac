"""Refitting as a job: the body of every item to blocks, and the account of every visible word of its page."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from grandferry.core.address import Scope, fragment_of
from grandferry.core.page import Page
from grandferry.core.plan import Step
from grandferry.core.refit.blocks import constructs, to_json
from grandferry.core.refit.convert import outermost, refit_nodes
from grandferry.store import bodies, lift, refit

from .context import Context, scope_of
from .lift import text_hash
from .pages import content_type, page_of
from .pool import PagePool

BATCH = 100


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


@dataclass(frozen=True, slots=True)
class _Refitted:
    blocks: bytes
    account: dict[str, Any]
    constructs: dict[str, int]


def absolute(raw: str, base: str, scope: Scope) -> str:
    """A reference as an absolute address in normal form with its fragment; what is no http address stays as it is."""
    if raw.startswith("#"):
        return raw
    address = scope.normal(raw, base)
    if address is None:
        return raw
    fragment = fragment_of(raw)
    return f"{address}#{fragment}" if fragment else str(address)


def _texts_in(page: Page, nodes: list[int]) -> frozenset[int]:
    found = set()
    for n in nodes:
        if 0 <= n < len(page.nodes):
            found.update(i.n for i in page.inside(page.nodes[n]) if not i.tag)
    return frozenset(found)


def _refit_one(task: _Task) -> _Refitted:
    page = page_of(task.body, task.type)
    region = outermost([page.nodes[n] for n in task.nodes if 0 <= n < len(page.nodes)])
    spans = [(n.n, n.last) for n in region]
    furniture = frozenset(
        node.n
        for node in page.nodes
        if not node.tag
        and node.visible
        and node.text.strip()
        and not any(a <= node.n <= b for a, b in spans)
        and text_hash(node.text) in task.shared
    )
    done = refit_nodes(
        page,
        region,
        steps=task.steps,
        link=lambda raw: absolute(raw, task.url, task.scope),
        in_fields=_texts_in(page, task.other_nodes),
        furniture=furniture,
        whole_page=True,
    )
    blocks = json.dumps(to_json(done.blocks), ensure_ascii=False).encode()
    return _Refitted(blocks, done.account.as_json(), constructs(done.blocks))


def run(context: Context) -> dict[str, Any]:
    """Refit all bodies. The result has the words' totals and the pages that lost most."""
    plan, scope, pool = context.plan, scope_of(context.plan), PagePool()
    shared = lift.shared(context.crossing)
    tasks = refit.body_fields(context.crossing, context.params.get("only") or 0)
    failed = 0
    try:
        for start in range(0, len(tasks), BATCH):
            batch = tasks[start : start + BATCH]
            work = [
                _Task(
                    json.loads(lifted)["nodes"],
                    url,
                    bodies.get(body),
                    content_type(headers),
                    scope,
                    plan.refit.steps,
                    others,
                    shared,
                )
                for _, _, lifted, url, body, headers, others in batch
            ]
            rows = []
            packed = []
            counts: list[tuple[int, str, str, str, int]] = []
            for row, found in zip(batch, pool.run(_refit_one, work), strict=True):
                if isinstance(found, Exception):
                    failed += 1
                    context.log(f"{row[3]} cannot be refitted: {found}", "warning")
                    continue
                name = bodies.digest(found.blocks)
                packed.append((name, len(found.blocks), *bodies.pack(found.blocks)))
                a = found.account
                for sort, named in (("construct", found.constructs), ("step", a["removed"])):
                    counts += [(row[0], row[1], sort, name_, number) for name_, number in named.items()]
                for thing, c in a["things"].items():
                    found_of = (("have", c["have"]), ("taken", c["removed"]), ("lost", c["lost"]))
                    counts += [(row[0], row[1], sort, thing, number) for sort, number in found_of if number]
                rows.append(
                    (
                        row[0],
                        row[1],
                        name,
                        json.dumps(a, ensure_ascii=False),
                        a["words"][0],
                        a["in_blocks"],
                        a["in_islands"],
                        a["unaccounted"],
                    )
                )
            bodies.put_many(packed)
            with context.writing():
                refit.store_refits(rows, counts)
            context.progress(done=min(start + BATCH, len(tasks)), all=len(tasks), failed=failed)
    finally:
        pool.close()
    context.progress(force=True, done=len(tasks), all=len(tasks))
    things = {row.name: [row.have, row.lost] for row in refit.things(context.crossing)}
    return {**refit.totals(context.crossing), "things": things, "failed": failed, "worst": refit.worst(context.crossing)}
