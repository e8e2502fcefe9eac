"""A few pages asked twice at once: what differs then changes at every request, and is no change of the site."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable
from typing import Any

from grandferry.core.address import loose_shape
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.side import Side
from grandferry.core.survey.steady import ALL, COMES, Spot, changing
from grandferry.net.fetch import Fetched
from grandferry.net.manners import ALONE, Polite
from grandferry.store import bodies
from grandferry.store.survey import runs, sounded
from grandferry.store.survey.met import Waiting
from grandferry.work.survey.archive import ArchivePolite
from grandferry.work.survey.reading import Earlier, is_html
from grandferry.work.survey.takein import conditions

LEAST, MOST = 3, 5  # pages asked: one of each shape of address
LARGEST = 2_000_000  # bytes of a page that is looked into
TOLD = 12  # spots told in the soundings


def chosen(waiting: Iterable[Waiting], leave: Callable[[str], bool]) -> list[Waiting]:
    """Captured pages to be asked twice, of different shapes where there are any; those that ``leave`` are not."""
    first: dict[str, Waiting] = {}
    more: list[Waiting] = []
    for line in waiting:
        if not line.again or leave(line.key):
            continue
        if first.setdefault(loose_shape(line.key), line) is not line and len(more) < LEAST:
            more.append(line)
        if len(first) == MOST:
            break
    found = list(first.values())
    return found + more[: max(0, LEAST - len(found))]


class Twice:
    """What changes at every request on a side, found out once in a survey."""

    def __init__(self, side: Side, number: int):
        self.side = side
        self.number = number
        self.spots: frozenset[Spot] = frozenset()
        self.steady = 0  # pages that differ from their captures in nothing else

    def known(self) -> bool:
        """Whether this survey has found it out before it was broken off; then it is known again."""
        told = sounded.soundings(self.side).get("changing", {})
        if told.get("run") != self.number:
            return False
        self.spots = frozenset(Spot(*spot) for spot in told["spots"])
        return True

    async def ask(self, lines: list[Waiting], polite: Polite | ArchivePolite) -> list[tuple[str, Fetched]]:
        """Ask pages, each twice when it is not as it was captured; gives the first answers, by their addresses."""
        answers: list[tuple[str, Fetched]] = []
        spots: set[Spot] = set()
        for line in lines:
            before = runs.before(line.id)
            if before is None or before.status != 200 or not await polite.may(line.host, line.key):
                continue
            got = await polite.get(line.url, line.host, conditions(before))
            if got.kind == ALONE:
                break
            answers.append((line.url, got))
            if not _page(got) or got.digest == before.body:
                continue
            again = await polite.get(line.url, line.host)
            if _page(again):
                spots |= await asyncio.to_thread(_between, got, again)
        self.spots = frozenset(spots)
        return answers

    def told(self) -> dict[str, Any]:
        """What was found out, for the soundings."""
        return {"run": self.number, "spots": sorted(self.spots), "says": says(self.spots)}

    def earlier(self, got: Fetched, before: runs.Before | None) -> Earlier | None:
        """What an answer is to be held against, None when it is new, or nothing changes at every request."""
        if not self.spots or before is None or before.status != 200 or before.rendered or not _page(got):
            return None
        return Earlier(bodies.get(before.body), self.spots) if before.body else None


def _page(got: Fetched) -> bool:
    good = got.status == 200 and not got.error and got.path is None and 0 < len(got.body) < LARGEST
    return good and is_html(got.mime, got.body)


def _between(first: Fetched, second: Fetched) -> set[Spot]:
    one, two = (decode(got.body, got.header("content-type")).source(got.body) for got in (first, second))
    try:
        return changing(one, two)
    except FerryError:  # nested beyond reason: the walk tells it of the page
        return set()


def says(spots: Iterable[Spot]) -> list[str]:
    """Some spots in words."""
    found = set()
    for where, what, how in spots:
        at = where.rpartition(">")[2].partition(":")[0] if how in (ALL, COMES) else where
        name = {"": "text", "!": "a comment", "<": "the element"}.get(what, f"attribute {what[1:]}")
        if how.startswith("?"):
            name = f"parameter {how[1:].partition(' ')[0]} of {what[1:]}"
        elif how.startswith("~"):
            name = f"text “{how[1:61]}”"
        elif how == COMES:
            name += " comes and goes"
        found.add(f"{at}: {name}")
    return sorted(found)[:TOLD]
