"""Where a crossing stands: what waits for a person in each stage, what to do next, and the evidence.

All of it is made of ``Figures``. A step is a code with its figures; ``said`` makes its sentence where it is shown.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple
from urllib.parse import quote

from .because import sentence


class Carried(NamedTuple):
    """A sort of thing over all bodies: how many there were, how many steps took, how many are lost, on how many
    bodies."""

    name: str
    have: int
    removed: int
    lost: int
    bodies: int


class Placeless(NamedTuple):
    """Items of a kind that get no new address, for one reason (a text of ``because``): how many, and the old key of
    one."""

    kind: str
    reason: str
    items: int
    example: str


@dataclass(frozen=True, slots=True)
class Figures:
    """Counts of a crossing. Addresses are those of the account, but ``waiting`` and ``failed`` of the whole old side;
    ``pages`` have answered; ``lift_open`` fields are odd, or required and empty; ``things`` are of all bodies."""

    addresses: int = 0
    unaccounted: int = 0
    planned: int = 0
    proven: int = 0
    waiting: int = 0
    failed: int = 0
    pages: int = 0
    visits: int = 0
    visits_proven: int = 0
    kinds: int = 0
    sorted: int = 0
    unsorted: int = 0
    items: int = 0
    lift_open: int = 0
    bodies: int = 0
    words: int = 0
    words_lost: int = 0
    bodies_lost: int = 0
    bodies_lossy: int = 0
    things: tuple[Carried, ...] = ()
    placeless: tuple[Placeless, ...] = ()
    forms_open: int = 0
    questions: int = 0
    provisional: int = 0
    files: int = 0
    files_carried: int = 0
    files_aside: int = 0
    sisters: int = 0
    sisters_carried: int = 0
    sisters_aside: int = 0
    sisters_breaking: int = 0
    target: bool = False
    interim: bool = False
    landed: int = 0
    refused: int = 0
    unsent: bool = False
    surveyed_at: str = ""
    checked_at: str = ""
    checked_host: str = ""


def waiting(f: Figures) -> dict[str, int]:
    """What waits for a person, by stage."""
    return {
        "survey": f.failed,
        "sort": f.unsorted if f.sorted or f.unsorted else f.pages,
        "lift": f.lift_open,
        "refit": f.bodies_lossy,
        "route": f.unaccounted if f.items or f.proven or f.planned else 0,
        "land": f.refused,
    }


class Todo(StrEnum):
    SURVEY = "survey"
    FETCH = "fetch"
    FIRST_KIND = "first kind"
    SORT = "sort"
    UNSORTED = "unsorted"
    LIFT = "lift"
    FIELDS = "fields"
    REFIT = "refit"
    WORDS = "words"
    THINGS = "things"
    FORMS = "forms"
    PLACE = "place"
    DECIDE = "decide"
    QUESTIONS = "questions"
    SISTERS = "files of other hosts"
    TARGET = "target"
    LAND = "land"
    LAND_AGAIN = "land again"
    REFUSED = "refused"
    INTERIM = "interim"
    CHECK = "check"


class Step(NamedTuple):
    """Something to do: in which stage, how many of what it settles, where on screen it is done."""

    todo: Todo
    stage: str
    settles: int
    of: str
    to: str
    placeless: Placeless | None = None


def next_steps(f: Figures) -> list[Step]:
    """What to do next, in the order of the work."""
    if not f.addresses and not f.pages:
        return [Step(Todo.SURVEY, "survey", 1, "site", "survey")]
    lost = sum(row.lost for row in lost_things(f))
    left = f.items - f.landed
    found: list[tuple[bool, Step]] = [
        (f.waiting > 0, Step(Todo.FETCH, "survey", f.waiting, "addresses", "survey?state=waiting")),
        (not f.kinds, Step(Todo.FIRST_KIND, "sort", f.pages, "pages", "sort")),
        (f.kinds > 0 and not f.sorted, Step(Todo.SORT, "sort", f.pages, "pages", "sort")),
        (
            f.kinds > 0 and f.sorted > 0 and f.unsorted > 0,
            Step(Todo.UNSORTED, "sort", f.unsorted, "pages", "sort?tab=unsorted"),
        ),
        (f.sorted > 0 and not f.items, Step(Todo.LIFT, "lift", f.sorted, "pages", "lift")),
        (f.lift_open > 0, Step(Todo.FIELDS, "lift", f.lift_open, "fields", "lift")),
        (f.items > 0 and not f.bodies, Step(Todo.REFIT, "refit", f.items, "items", "refit")),
        (f.words_lost > 0, Step(Todo.WORDS, "refit", f.words_lost, "words", "refit")),
        (lost > 0, Step(Todo.THINGS, "refit", lost, "things", "refit?tab=losses&order=-lost")),
        (f.forms_open > 0, Step(Todo.FORMS, "refit", f.forms_open, "forms", "refit?tab=forms")),
        *(
            (True, Step(Todo.PLACE, "route", p.items, "items", f"route?tab=places&kind={quote(p.kind)}", p))
            for p in f.placeless
        ),
        (f.unaccounted > 0, Step(Todo.DECIDE, "route", f.unaccounted, "addresses", "route?tab=open")),
        (f.questions > 0, Step(Todo.QUESTIONS, "route", f.questions, "addresses", "route?tab=questions")),
        (
            f.items > 0 and f.sisters_breaking > 0,
            Step(Todo.SISTERS, "route", f.sisters_breaking, "files", "route?tab=elsewhere"),
        ),
        (f.items > 0 and not f.target, Step(Todo.TARGET, "land", f.items, "items", "land?tab=target")),
        (f.target and left > 0, Step(Todo.LAND, "land", left, "items", "land")),
        (f.target and left <= 0 and f.unsent, Step(Todo.LAND_AGAIN, "land", 1, "landing", "land")),
        (f.refused > 0, Step(Todo.REFUSED, "land", f.refused, "things", "land")),
        (
            f.planned > 0 and not f.interim,
            Step(Todo.INTERIM, "route", f.planned, "addresses", "survey?tab=scope"),
        ),
        (f.planned > 0 and f.interim, Step(Todo.CHECK, "route", f.planned, "addresses", "route?tab=rounds")),
    ]
    return [step for holds, step in found if holds]


def lost_things(f: Figures) -> list[Carried]:
    """Things that bodies have lost; a picture of a style is shown, and its loss asks for nothing."""
    return [row for row in f.things if row.lost and row.name != "backgrounds"]


def _many(count: int, one: str, more: str) -> str:
    return f"{count:,} {one if count == 1 else more}"


def _things(f: Figures) -> str:
    told = ", ".join(_many(row.lost, row.name.removesuffix("s"), row.name) for row in lost_things(f))
    whose = "its" if f.bodies_lossy == 1 else "their"
    return f"{told} of {_many(f.bodies_lossy, 'body', 'bodies')} not in {whose} blocks"


def _placeless(p: Placeless) -> str:
    get = "gets" if p.items == 1 else "get"
    return f"{_many(p.items, 'item', 'items')} of the kind {p.kind} {get} no new address: {sentence(p.reason)}"


_SENTENCES: dict[Todo, Callable[[Step, Figures], str]] = {
    Todo.SURVEY: lambda s, f: "Nothing is known of the old site yet. Survey it.",
    Todo.FETCH: lambda s, f: f"{_many(s.settles, 'address waits', 'addresses wait')} to be fetched",
    Todo.FIRST_KIND: lambda s, f: f"{_many(s.settles, 'page is', 'pages are')} in no kind. Make the first kind.",
    Todo.SORT: lambda s, f: f"The kinds have rules. Sort {_many(s.settles, 'page', 'pages')}.",
    Todo.UNSORTED: lambda s, f: f"No rule catches {_many(s.settles, 'page', 'pages')}",
    Todo.LIFT: lambda s, f: f"{_many(s.settles, 'page is', 'pages are')} sorted, and nothing is lifted yet",
    Todo.FIELDS: lambda s, f: f"{_many(s.settles, 'field is', 'fields are')} odd, or required and empty",
    Todo.REFIT: lambda s, f: f"{_many(s.settles, 'item is', 'items are')} lifted, and no body is refitted yet",
    Todo.WORDS: lambda s, f: (
        f"{_many(s.settles, 'word', 'words')} unaccounted for on {_many(f.bodies_lost, 'page', 'pages')}"
    ),
    Todo.THINGS: lambda s, f: _things(f),
    Todo.FORMS: lambda s, f: (
        f"{_many(s.settles, 'form is', 'forms are')} to be wired up in the new system, or dropped on purpose"
    ),
    Todo.PLACE: lambda s, f: _placeless(s.placeless) if s.placeless else "",
    Todo.DECIDE: lambda s, f: f"{_many(s.settles, 'address is', 'addresses are')} unaccounted",
    Todo.QUESTIONS: lambda s, f: (
        f"The owner is asked about {_many(s.settles, 'address', 'addresses')}; "
        f"{f.provisional:,} of them {'leads' if f.provisional == 1 else 'lead'} on only for now"
    ),
    Todo.SISTERS: lambda s, f: (
        f"{_many(s.settles, 'file', 'files')} of other hosts would break with "
        f"{'its host' if s.settles == 1 else 'their hosts'}: nothing carries {'it' if s.settles == 1 else 'them'}"
    ),
    Todo.TARGET: lambda s, f: "No target is named to land at",
    Todo.LAND: lambda s, f: f"{_many(s.settles, 'item is', 'items are')} not in the new system yet",
    Todo.LAND_AGAIN: lambda s, f: (
        "What goes over has changed since it was landed. Land again; only what changed is sent"
    ),
    Todo.REFUSED: lambda s, f: f"The new system refused {_many(s.settles, 'thing', 'things')}",
    Todo.INTERIM: lambda s, f: "No interim host is named to check against",
    Todo.CHECK: lambda s, f: (
        f"{_many(s.settles, 'fate is', 'fates are')} planned, and no check has proven "
        f"{'it' if s.settles == 1 else 'them'}"
    ),
}


def said(step: Step, f: Figures) -> str:
    """A step in words."""
    return _SENTENCES[step.todo](step, f)


@dataclass(frozen=True, slots=True)
class Evidence:
    """What the machine checked: pairs of (done, all)."""

    addresses_proven: tuple[int, int]
    visits_covered: tuple[int, int]
    words_carried: tuple[int, int]
    links_carried: tuple[int, int]
    pictures_carried: tuple[int, int]
    documents_carried: tuple[int, int]
    frames_carried: tuple[int, int]
    anchors_carried: tuple[int, int]
    files_carried: tuple[int, int]
    sisters_carried: tuple[int, int]
    items_landed: tuple[int, int]
    surveyed_at: str
    checked_at: str
    checked_host: str


def evidence(f: Figures) -> Evidence:
    by_name = {row.name: row for row in f.things}

    def carried(thing: str) -> tuple[int, int]:
        """(kept in blocks, had); what steps took is neither."""
        row = by_name.get(thing, Carried(thing, 0, 0, 0, 0))
        return row.have - row.removed - row.lost, row.have - row.removed

    return Evidence(
        addresses_proven=(f.proven, f.addresses),
        visits_covered=(f.visits_proven, f.visits),
        words_carried=(f.words - f.words_lost, f.words),
        links_carried=carried("links"),
        pictures_carried=carried("pictures"),
        documents_carried=carried("files"),
        frames_carried=carried("frames"),
        anchors_carried=carried("anchors"),
        files_carried=(f.files_carried, f.files - f.files_aside),
        sisters_carried=(f.sisters_carried, f.sisters - f.sisters_aside),
        items_landed=(min(f.landed, f.items), f.items),
        surveyed_at=f.surveyed_at,
        checked_at=f.checked_at,
        checked_host=f.checked_host,
    )
