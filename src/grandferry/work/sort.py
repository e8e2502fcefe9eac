"""Sorting as a job: every captured page into the first kind whose rules hold."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from grandferry.core.plan import KindPlan
from grandferry.core.sort.rules import Sorted, needs_page, sort_page
from grandferry.store import bodies, sort, survey

from .context import Context
from .pages import content_type, page_of
from .pool import PagePool

BATCH = 200
LISTED = 200  # of pages that need a look, in the result


def _sort_one(task: tuple[list[KindPlan], str, bytes, str]) -> Sorted:
    kinds, key, body, type_ = task
    return sort_page(kinds, key, page_of(body, type_) if body else None)


def run(context: Context) -> dict[str, Any]:
    """Sort all pages. The result counts pages by kind, unsorted ones and those that fit more than one kind."""
    kinds = context.plan.kinds
    pages = survey.pages(context.crossing)
    look = needs_page(kinds)
    pool = PagePool()
    try:
        for start in range(0, len(pages), BATCH):
            batch = pages[start : start + BATCH]
            tasks = [
                (kinds, key, bodies.get(body) if look else b"", content_type(headers))
                for _, _, key, body, headers in batch
            ]
            rows = []
            for page, found in zip(batch, _results(pool, tasks, look), strict=True):
                if isinstance(found, Exception):
                    context.log(f"{page[1]} cannot be read for sorting: {found}", "warning")
                    found = sort_page([k for k in kinds if not any(r.element for r in k.rules)], page[2], None)
                rows.append((page[0], found.kind, found.rule, json.dumps(list(found.also))))
            with context.writing():
                sort.store_sorted(context.crossing, rows)
            context.progress(done=min(start + BATCH, len(pages)), all=len(pages))
    finally:
        pool.close()
    context.progress(force=True, done=len(pages), all=len(pages))
    counts = sort.kind_counts(context.crossing)
    double = sort.double_fits(context.crossing)
    return {
        "pages": len(pages),
        "kinds": {kind.name: counts.get(kind.name, 0) for kind in kinds},
        "unsorted": counts.get("", 0),
        "unsorted_pages": sort.unsorted_pages(context.crossing)[:LISTED],
        "double": len(double),
        "double_pages": double[:LISTED],
    }


def _results(pool: PagePool, tasks: list[Any], look: bool) -> Iterator[Any]:
    if look:
        yield from pool.run(_sort_one, tasks)
    else:
        for task in tasks:
            yield _sort_one(task)
