"""Bounds of the survey: what is kept out and why, letting it in, and what other bounds would do."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from grandferry.core.keptout import KeptOut, LetIn, one_by_one, ways
from grandferry.core.plan import Plan
from grandferry.store.survey import keptout
from grandferry.work.survey.bounds import effect, let_in, letting_in, lines

from .common import Limit, Offset, ThatSide, Window
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["survey"])


_SAYS = {
    KeptOut.LET_IN: "within the bounds",
    KeptOut.OTHER_HOST: "on another host",
    KeptOut.FILES_ONLY: "pages of a host that gives files only",
    KeptOut.OUTSIDE: "outside the folders to stay in",
    KeptOut.EXCLUDED: "excluded by a pattern",
    KeptOut.NOT_INCLUDED: "like none of the patterns asked for",
    KeptOut.TOO_DEEP: "deeper than allowed",
    KeptOut.ROBOTS: "robots.txt asks us to leave them",
    KeptOut.ENDLESS: "made without end by a script",
    KeptOut.REPEATS: "a path that goes in a circle",
}


class KeptOutGroup(BaseModel):
    """Addresses met but not fetched, by host and reason (``says`` it in words); ``files`` of them are asked for as
    files. The ``ways`` in which all of them can be let in; ``one_by_one``: single ones can, too."""

    host: str
    reason: KeptOut
    says: str
    ways: list[LetIn]
    one_by_one: bool
    count: int
    files: int


class KeptOutRow(BaseModel):
    """``what`` it is to the page: script, measuring tag, embed, share or follow link, picture, …; ``pages`` name it,
    ``source`` (0: none) is the first of them; ``how`` it stands there. ``addresses``: of what differs in its query
    alone from page to page, as measuring tags do, how many there are."""

    id: int
    url: str
    host: str
    reason: str
    what: str
    wants_file: bool
    pages: int
    source: int
    source_key: str
    how: str
    addresses: int


class KeptOutSort(BaseModel):
    """``pages``: the most that one of them stands on."""

    what: str
    count: int
    pages: int


class LettingIn(BaseModel):
    """``way``: files (of this host), pages (of this host too), alias (another name of the site), these (the addresses
    alone), endless (fetch them all)."""

    host: str = Field(max_length=260)
    reason: KeptOut
    way: LetIn
    ids: list[int] = Field([], max_length=5000)


class Said(BaseModel):
    text: str


class BoundsEffect(BaseModel):
    """Known addresses that other bounds would shut out or let in, by reason. ``captured`` of those shut out keep their
    content and their place in the account."""

    shut_out: dict[str, int]
    let_in: dict[str, int]
    captured: int
    shut_out_examples: list[str]
    let_in_examples: list[str]


def _in_words(counts: Mapping[str, int]) -> dict[str, int]:
    return {_SAYS[KeptOut(reason)]: count for reason, count in counts.items()}


@router.get("/kept-out")
def groups(side: ThatSide) -> list[KeptOutGroup]:
    """What is kept out, by host and reason, the largest group first."""
    return [
        KeptOutGroup(
            **row._asdict(),
            says=_SAYS[KeptOut(row.reason)],
            ways=list(ways(KeptOut(row.reason), row.files > 0)),
            one_by_one=one_by_one(KeptOut(row.reason)),
        )
        for row in keptout.groups(side)
    ]


@router.get("/kept-out/rows")
def kept_out(
    side: ThatSide,
    host: Annotated[str, Query(max_length=260)] = "",
    reason: Annotated[str, Query(max_length=200)] = "",
    search: Annotated[str, Query(max_length=200)] = "",
    what: Annotated[str, Query(max_length=40)] = "",
    order: Literal["url", "-pages"] = "url",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[KeptOutRow]:
    """The addresses of one group, and who links to them."""
    total, found = keptout.window(side, host, reason, search, offset, limit, what, order)
    return Window[KeptOutRow](total=total, offset=offset, rows=[KeptOutRow(**row._asdict()) for row in found])


@router.get("/kept-out/sorts")
def sorts(
    side: ThatSide,
    host: Annotated[str, Query(max_length=260)] = "",
    reason: Annotated[str, Query(max_length=200)] = "",
    search: Annotated[str, Query(max_length=200)] = "",
) -> list[KeptOutSort]:
    """What the addresses kept out are to the pages that name them; of one group, where one is named."""
    found = keptout.sorts(side, host, reason, search)
    return [KeptOutSort(what=what, count=count, pages=pages) for what, count, pages in found]


@router.post("/kept-out/let-in")
def admit(wanted: LettingIn, side: ThatSide, by: Who) -> Said:
    """Change the plan so that these are fetched when the survey goes on."""
    return Said(text=let_in(side, wanted.host, wanted.reason, wanted.way, wanted.ids, by))


@router.post("/bounds/effect")
def weigh(wanted: Plan, side: ThatSide, kept_out: bool = False) -> BoundsEffect:
    """What the bounds of a plan would do to everything known, without setting them; ``kept_out``: what they would let
    in of the addresses kept out alone."""
    found = letting_in(side, wanted) if kept_out else effect(side, wanted)
    return BoundsEffect(
        shut_out=_in_words(found.shut_out),
        let_in=_in_words(found.let_in),
        captured=found.captured,
        shut_out_examples=found.shut_out_examples,
        let_in_examples=found.let_in_examples,
    )


class BoundsLines(BaseModel):
    """How many known addresses each line of the bounds speaks of, by the line as it is written."""

    hosts: dict[str, int]
    below: dict[str, int]
    include: dict[str, int]
    exclude: dict[str, int]
    drop: dict[str, int]


@router.post("/bounds/lines")
def line_counts(wanted: Plan, side: ThatSide) -> BoundsLines:
    """What each line of a plan's bounds matches of all that is known, without setting them."""
    return BoundsLines(**asdict(lines(side, wanted)))
