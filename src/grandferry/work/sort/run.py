"""Sorting as a job: every captured page into the first kind whose rules hold; only those whose page or rules
changed."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Any

from grandferry.core.kinds import KindPlan, rests_on
from grandferry.core.made import SORT, Behind, behind, made_from
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import Plan
from grandferry.core.records.record import RECORD
from grandferry.core.sort.rules import (
    Seen,
    Sorted,
    answer_lines,
    answers_asked,
    language_of,
    looks,
    needs_make,
    needs_page,
    needs_records,
    sort_page,
)
from grandferry.store import bodies, sort
from grandferry.store.sort import PageToSort
from grandferry.store.survey import surveyed
from grandferry.work.jobs.context import Context
from grandferry.work.jobs.pool import PagePool
from grandferry.work.pages import content_type, page_of

BATCH = 200
LISTED = 200  # of pages that need a look, in the result


def _sort_one(task: tuple[list[KindPlan], Seen, bytes, str]) -> Sorted:
    kinds, seen, body, type_ = task
    return sort_page(kinds, seen._replace(page=page_of(body, type_)) if body else seen)


def seen_of(page: PageToSort, tongues: Sequence[str], make: bytes = b"") -> Seen:
    """What rules are held against, as far as it is known without reading the page."""
    return Seen(
        page.key,
        language=language_of(page.key, page.language, tongues),
        answer=answer_lines(200, page.headers),
        make=make,
        records=tuple(json.loads(page.records)),
    )


def stamps(plan: Plan, pages: list[PageToSort]) -> list[str]:
    """What the kind of each page rests on now: the rules of all kinds and, where one of them looks into pages, the
    page; where one asks for the server's answer, what it finds there; where one asks for records, what they are."""
    kinds, tongues = plan.every_kind, plan.tongues
    look = needs_page(kinds) or needs_make(kinds)
    rules = made_from(SORT, [[kind["name"], kind["rules"]] for kind in rests_on(kinds)])
    made = [f"{rules} {page.content}" if look else rules for page in pages]
    if asked := [compile_pattern(one) for one in answers_asked(kinds)]:
        lines = [answer_lines(200, page.headers).split("\n") for page in pages]
        found = ["".join("01"[any(map(one.search, some))] for one in asked) for some in lines]
        made = [f"{stamp} {one}" for stamp, one in zip(made, found, strict=True)]
    if needs_records(kinds):
        made = [f"{stamp} {page.records}" for stamp, page in zip(made, pages, strict=True)]
    if not tongues:
        return made
    return [f"{stamp} {language_of(p.key, p.language, tongues)}" for stamp, p in zip(made, pages, strict=True)]


def behind_pages(crossing: int, plan: Plan) -> list[tuple[PageToSort, Behind]]:
    """The pages that are not sorted, or by other rules than those of now."""
    pages = surveyed.pages(crossing)
    found = []
    for page, now in zip(pages, stamps(plan, pages), strict=True):
        why = Behind.NEW if page.made_from is None else behind(page.made_from, now)
        if why is not None:
            found.append((page, why))
    return found


def run(context: Context) -> dict[str, Any]:
    """Sort what is behind, or with ``all`` every page. The result counts pages by kind, unsorted ones and those that
    fit more than one kind."""
    plan = context.plan
    kinds, tongues = plan.every_kind, plan.tongues
    known = surveyed.pages(context.crossing)
    if context.params.get("all"):
        pages = known
    else:
        pages = [page for page, _ in behind_pages(context.crossing, plan)]
    now = stamps(plan, pages)
    done = 0
    for batch in _sorted(context, kinds, pages, tongues):
        rows = [
            (page.address, found.kind, found.rule, json.dumps(list(found.also)), stamp)
            for (page, found), stamp in zip(batch, now[done:], strict=False)
        ]
        with context.writing():
            sort.store_sorted(context.crossing, rows)
        done += len(batch)
        context.progress(done=done, all=len(pages))
    context.progress(force=True, done=len(pages), all=len(pages), left=len(known) - len(pages))
    counts = sort.kind_counts(context.crossing)
    double = sort.double_fits(context.crossing)
    return {
        "pages": len(known),
        "done": len(pages),
        "left": len(known) - len(pages),
        "kinds": {kind.name: counts.get(kind.name, 0) for kind in kinds},
        "unsorted": counts.get("", 0),
        "unsorted_pages": sort.unsorted_pages(context.crossing)[:LISTED],
        "double": len(double),
        "double_pages": [row._asdict() for row in double[:LISTED]],
    }


def first_fit(context: Context, kinds: Sequence[KindPlan]) -> dict[str, list[int]]:
    """The addresses of the captured pages that each of some kinds would have, "" for those that none would; nothing is
    noted of it."""
    taken: dict[str, list[int]] = {}
    pages = [page for page in surveyed.pages(context.crossing) if not page.key.startswith(RECORD)]
    for batch in _sorted(context, kinds, pages, context.plan.tongues):
        for page, found in batch:
            taken.setdefault(found.kind, []).append(page.address)
    return taken


def _sorted(
    context: Context, kinds: Sequence[KindPlan], pages: Sequence[PageToSort], tongues: Sequence[str]
) -> Iterator[list[tuple[PageToSort, Sorted]]]:
    """Some pages with the kinds that they fit, batch by batch. A page that cannot be read fits what needs no look."""
    look = needs_page(kinds)
    makes = surveyed.makes(context.crossing) if needs_make(kinds) else {}
    pool = PagePool()
    try:
        for start in range(0, len(pages), BATCH):
            batch = pages[start : start + BATCH]
            tasks = [
                (
                    list(kinds),
                    seen_of(page, tongues, makes.get(page.address, b"")),
                    bodies.get(page.content) if look else b"",
                    content_type(page.headers),
                )
                for page in batch
            ]
            made = []
            for page, task, found in zip(batch, tasks, _results(pool, tasks, look), strict=True):
                if isinstance(found, Exception):
                    context.log(f"{page.url} cannot be read for sorting: {found}", "warning")
                    found = sort_page([k for k in kinds if not any(map(looks, k.rules))], task[1])
                made.append((page, found))
            yield made
    finally:
        pool.close()


def _results(pool: PagePool, tasks: list[Any], look: bool) -> Iterator[Any]:
    if look:
        yield from pool.run(_sort_one, tasks)
    else:
        for task in tasks:
            yield _sort_one(task)
