"""What the addresses of a crossing said, out of their captures: what answers of the new host are held against, and what
tells which new address an old one became."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import islice

from grandferry.core.encoding import decode
from grandferry.core.route.says import Common, Says, file_says, page_says
from grandferry.core.route.suggest.content import Content, Read, contents_of
from grandferry.core.side import Side
from grandferry.core.survey.glance import glance
from grandferry.store import bodies, rounds
from grandferry.store.rounds import Answered
from grandferry.work.jobs.pool import PagePool
from grandferry.work.pages import content_type

BATCH = 200
_HOPS = 5  # redirects of the old site that are followed to what they led to


def _page(task: tuple[bytes, str]) -> Read:
    body, type_ = task
    seen = glance(decode(body, type_).text)
    return Read(page_says(seen), seen.facts.language, [link.raw for link in seen.links if link.how == "img"])


def _pages(found: list[Answered], heed: Callable[[], None]) -> Iterator[tuple[Answered, Read]]:
    pool = PagePool()
    try:
        left = iter(found)
        while batch := list(islice(left, BATCH)):
            heed()
            tasks = [(bodies.get(row.content), content_type(row.headers)) for row in batch]
            for row, read in zip(batch, pool.run(_page, tasks), strict=True):
                if isinstance(read, Read):  # of a page that cannot be read nothing is known
                    yield row, read
    finally:
        pool.close()


def old_says(crossing: int, heed: Callable[[], None]) -> tuple[dict[int, Says], Common]:
    """What each old address said (an old redirect: what it led to), and the words of all pages. One that gave no answer
    is not among them. ``heed`` is called now and then, and may raise to end it."""
    found = rounds.answered(Side(crossing))
    pages = [row for row in found if row.type == "page" and row.content]
    says = {row.address: read.says for row, read in _pages(pages, heed)}
    common = Common(says.values())
    says = {address: common.own_of(page) for address, page in says.items()}
    says |= {row.address: file_says(row.mime, row.content) for row in found if row.type == "file" and row.content}
    at = {row.url: row for row in found}
    for row in found:
        end: Answered | None = row
        for _ in range(_HOPS):
            if end is None or end.type != "redirect":
                break
            end = at.get(end.target)
        if end is not None and end is not row and end.address in says:
            says[row.address] = says[end.address]
    return says, common


def contents(side: Side, heed: Callable[[], None]) -> dict[str, Content]:
    """What the pages of a side say, by their keys, without what stands on many of them. ``heed`` as in ``old_says``."""
    found = [row for row in rounds.answered(side) if row.type == "page" and row.content]
    return contents_of({row.key: page for row, page in _pages(found, heed)})
