"""Teaching a field: what was pointed at on captured pages, tried on more pages of the kind."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from grandferry.core.errors import FerryError, NotThere, UnreadablePage
from grandferry.core.lift.teaching import Example, Offer, teach
from grandferry.core.page import Page
from grandferry.store import bodies
from grandferry.store.survey import captures
from grandferry.work.lift.tries import kind_pages, page_found
from grandferry.work.pages import content_type, page_of

LOOKED_AT = 24  # pages of the kind, from its first to its last
MOST_BYTES = 4_000_000  # of all pages that are looked at
FAILS = 12  # pages that are named on which an offer fails


class Failing(NamedTuple):
    """A page on which not one place is found: ``none`` or ``several``."""

    address: int
    key: str
    title: str
    why: str


@dataclass(frozen=True, slots=True)
class Taught:
    """What may be read by, the best first, out of ``pages`` that were looked at; for each offer where it fails."""

    pages: int
    offers: list[tuple[Offer, list[Failing]]]


def teach_field(crossing: int, kind: str, type_: str, pointed: list[tuple[int, int]]) -> Taught:
    """Ways to read a field of a type off the pages of a kind, from places (address, node) somebody pointed at. Raises
    NotThere for a place that there is not, UnreadablePage."""
    wanted = list(dict.fromkeys([address for address, _ in pointed] + kind_pages(crossing, kind, LOOKED_AT)))
    given = len({address for address, _ in pointed})
    pages: list[Page] = []
    keys: list[str] = []
    taken: list[int] = []
    size = 0
    for number, address in enumerate(wanted):
        try:
            found = page_found(crossing, address)
            body = bodies.get(found.body)
            if number >= given and size + len(body) > MOST_BYTES:
                continue
            pages.append(page_of(body, content_type(found.headers)))
        except (UnreadablePage, NotThere):
            if number < given:
                raise
            continue  # the survey has told it
        size += len(body)
        keys.append(found.key)
        taken.append(address)
    examples = []
    for address, node in pointed:
        place = taken.index(address)
        if not 0 <= node < len(pages[place].nodes):
            raise NotThere(f"The page {keys[place]} has no node {node}.")
        examples.append(Example(place, node))
    offers = teach(pages, keys, examples, type_)
    if not offers:
        raise FerryError(
            "No way was found to tell these places apart on their pages.",
            "Click the thing itself, or write a selector.",
        )

    def failing(offer: Offer) -> list[Failing]:
        places = sorted([(n, "none") for n in offer.none] + [(n, "several") for n in offer.several])
        return [Failing(taken[n], keys[n], captures.title(taken[n]), why) for n, why in places[:FAILS]]

    return Taught(len(pages), [(offer, failing(offer)) for offer in offers])
