"""Grouping as a job: pages made alike, at each cut, and for each group a name, a rule that separates it, a drawing."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grandferry.core.address import loose_shape
from grandferry.core.page import open_page
from grandferry.core.sort.grouping import COMMON, MIDDLE, Groups, Numbers, group
from grandferry.core.sort.make import selectors
from grandferry.core.sort.miniature import draw
from grandferry.core.sort.proposal import Proposal, propose
from grandferry.core.survey.glance import glance
from grandferry.store import bodies, groups, stamps
from grandferry.store.db import as_json
from grandferry.store.groups import MadePage, NewGroup
from grandferry.work.jobs.context import Context
from grandferry.work.jobs.pool import PagePool
from grandferry.work.pages import content_type, source_of

STAGE = "groups"  # of the stamp that says what the groups were made from
LOOKED_AT = 3  # pages of each group that are read for names of what they share
SHARED = 0.5  # of a group's pages that have what is drawn
AT_A_TIME = 20_000  # rows in one transaction

Sample = tuple[bytes, str]  # a body and its content type


def _make_one(task: Sample) -> bytes:
    return glance(source_of(*task)).make


def _name_one(task: Sample) -> dict[int, str]:
    page = open_page(source_of(*task))
    return selectors(page.body) if page.body is not None else {}


def _draw_one(task: tuple[bytes, str, list[int], list[int]]) -> dict[str, Any]:
    body, type_, shared, furniture = task
    page = open_page(source_of(body, type_))
    return asdict(draw(page.body, frozenset(shared), frozenset(furniture))) if page.body is not None else {}


def run(context: Context) -> dict[str, Any]:
    """Group all captured pages of the old site. The result counts pages and, for each cut, groups."""
    crossing = context.crossing
    made_from = groups.stamp(crossing)
    pages = groups.pages(crossing)
    pool = PagePool()
    try:
        pages = _with_makes(context, pool, pages)
        steps = len(pages) + 1
        context.progress(done=0, all=steps)
        found = group([np.frombuffer(page.make, "<u4") for page in pages], [loose_shape(page.key) for page in pages])
        context.progress(done=len(pages), all=steps)
        rows = _described(pool, pages, found) if pages else []
    finally:
        pool.close()
    with context.writing():
        groups.forget(crossing)
    for cut, label in enumerate(found.labels):
        members = [(page.address, int(number)) for page, number in zip(pages, label, strict=True)]
        for first in range(0, len(members), AT_A_TIME):
            with context.writing():
                groups.store_pages(crossing, cut, members[first : first + AT_A_TIME])
    with context.writing():
        groups.store(crossing, rows)
        stamps.put(crossing, STAGE, made_from)
    context.progress(force=True, done=steps, all=steps)
    return {
        "pages": len(pages),
        "groups": [int(label.max()) + 1 if len(label) else 0 for label in found.labels],
        "cut": MIDDLE,
    }


def behind(crossing: int) -> bool:
    """Whether the groups were made from other pages than those of now."""
    return groups.stamp(crossing) != stamps.get(crossing, STAGE)


def _with_makes(context: Context, pool: PagePool, pages: list[MadePage]) -> list[MadePage]:
    """Pages with their makes: those that were captured before there was such a thing are read once more."""
    missing = [page for page in pages if not page.make]
    if not missing:
        return pages
    made: dict[int, bytes] = {}
    tasks = [(bodies.get(page.content), content_type(page.headers)) for page in missing]
    for page, make in zip(missing, pool.run(_make_one, tasks), strict=True):
        if isinstance(make, Exception):
            context.log(f"{page.key} cannot be read: {make}", "warning")
            continue
        made[page.address] = make
    with context.writing():
        groups.keep_makes([(make, address) for address, make in made.items()])
    return [page._replace(make=made[page.address]) if page.address in made else page for page in pages]


def _described(pool: PagePool, pages: list[MadePage], found: Groups) -> list[NewGroup]:
    """The groups of every cut with what is proposed of each; a group that stays whole at the next cut is looked at
    once."""
    furniture = _common(found, np.ones(len(pages), dtype=bool), COMMON)
    names: dict[int, str] = {}
    drawn: dict[tuple[int, int], dict[str, Any]] = {}
    rows: list[NewGroup] = []
    asked: set[int] = set()
    for cut, label in enumerate(found.labels):
        middles = _middles(found, label)
        ask = [n for number in range(len(middles)) for n in _some(label, number) if n not in asked]
        asked.update(ask)
        for said in pool.run(_name_one, [_sample(pages[n]) for n in ask]):
            if not isinstance(said, Exception):
                for made, selector in said.items():
                    names.setdefault(made, selector)
        keys = [page.key for page in pages]
        proposals = propose(found, label, keys, names)
        sizes = np.bincount(label) if len(label) else np.zeros(0, dtype=np.intp)
        new = [number for number, middle in enumerate(middles) if (middle, int(sizes[number])) not in drawn]
        tasks = [
            (*_sample(pages[middles[number]]), _common(found, label == number, SHARED), furniture) for number in new
        ]
        for number, drawing in zip(new, pool.run(_draw_one, tasks), strict=True):
            drawn[middles[number], int(sizes[number])] = {} if isinstance(drawing, Exception) else drawing
        for number, (middle, proposal) in enumerate(zip(middles, proposals, strict=True)):
            drawing = drawn[middle, int(sizes[number])]
            rows.append(_row(cut, number, int(sizes[number]), pages[middle].address, proposal, drawing))
    return rows


def _row(cut: int, number: int, size: int, address: int, said: Proposal, drawing: dict[str, Any]) -> NewGroup:
    rule = as_json(said.rule.model_dump(exclude_none=True))
    return NewGroup(cut, number, size, address, said.name, rule, said.right, said.missed, said.wrong, as_json(drawing))


def _sample(page: MadePage) -> Sample:
    return bodies.get(page.content), content_type(page.headers)


def _some(label: Numbers, number: int) -> list[int]:
    """A few pages of a group, from its beginning, middle and end."""
    places = np.flatnonzero(label == number)
    return sorted({int(places[n]) for n in np.linspace(0, len(places) - 1, LOOKED_AT).astype(int)})


def _common(found: Groups, members: NDArray[np.bool_], share: float) -> list[int]:
    """The traits that at least a share of some pages has."""
    uses = np.asarray(found.rows[members].mean(axis=0)).ravel()
    return [int(made) for made in found.traits[uses >= share]]


def _middles(found: Groups, label: Numbers) -> list[int]:
    """The place of the page of each group that has the most of what its group shares, and the least else."""
    middles = []
    for number in range(int(label.max()) + 1 if len(label) else 0):
        places = np.flatnonzero(label == number)
        some = found.rows[places]
        share = np.asarray(some.mean(axis=0)).ravel()
        middles.append(int(places[np.argmax(np.round(np.asarray(some @ (share - SHARED)).ravel(), 4))]))
    return middles
