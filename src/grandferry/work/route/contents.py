"""What the old addresses of a crossing said, out of their captures: what answers of the new host are held against."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import islice

from grandferry.core.encoding import decode
from grandferry.core.route.says import Common, Says, file_says, page_says
from grandferry.core.survey.glance import glance
from grandferry.store import bodies, rounds
from grandferry.store.rounds import OldContent
from grandferry.work.jobs.pool import PagePool
from grandferry.work.pages import content_type

BATCH = 200
_HOPS = 5  # redirects of the old site that are followed to what they led to


def _page(task: tuple[bytes, str]) -> Says:
    body, type_ = task
    return page_says(glance(decode(body, type_).text))


def _pages(found: list[OldContent], heed: Callable[[], None]) -> Iterator[tuple[int, Says]]:
    pool = PagePool()
    try:
        left = iter(found)
        while batch := list(islice(left, BATCH)):
            heed()
            tasks = [(bodies.get(row.content), content_type(row.headers)) for row in batch]
            for row, says in zip(batch, pool.run(_page, tasks), strict=True):
                if isinstance(says, Says):  # of a page that cannot be read nothing is known
                    yield row.address, says
    finally:
        pool.close()


def old_says(crossing: int, heed: Callable[[], None]) -> tuple[dict[int, Says], Common]:
    """What each old address said (an old redirect: what it led to), and the words of all pages. One that gave no answer
    is not among them. ``heed`` is called now and then, and may raise to end it."""
    found = rounds.old_contents(crossing)
    says = dict(_pages([row for row in found if row.type == "page" and row.content], heed))
    common = Common(says.values())
    says = {address: common.own_of(page) for address, page in says.items()}
    says |= {row.address: file_says(row.mime, row.content) for row in found if row.type == "file" and row.content}
    at = {row.url: row for row in found}
    for row in found:
        end: OldContent | None = row
        for _ in range(_HOPS):
            if end is None or end.type != "redirect":
                break
            end = at.get(end.target)
        if end is not None and end is not row and end.address in says:
            says[row.address] = says[end.address]
    return says, common
