"""The fields that a kind begins with, proposed from a few of its pages: what every system wants (title, body,
description, date, author), each only where the pages have it, and read as they have it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import PatternError
from ..kinds import FieldPlan
from ..page import Node, Page
from ..refit.region import find_region
from .locators import locate
from .pointing import selector_of

SOME = 0.5  # of the pages that a field must be filled on to be proposed
BODIES = 3  # locators of a body, at most
ENOUGH = 0.6  # how like the region of a page what a body's locator finds has to be (F1 of nodes)

_TITLES = ({"css": "h1"}, {"meta": "og:title"}, {"meta": "title"})
_DESCRIPTIONS = ({"meta": "description"}, {"meta": "og:description"})
_AUTHORS = ({"meta": "author"}, {"meta": "article:author"}, {"css": "[rel=author]"})
_DATES = ({"meta": "article:published_time"}, {"meta": "dcterms.date"}, {"css": "time", "attribute": "datetime"})
_DAY: list[dict[str, Any]] = [{"replace": [r"^(\d{4}-\d\d-\d\d).*$", "{1}"]}, {"date": "%Y-%m-%d"}]


@dataclass(frozen=True, slots=True)
class FirstField:
    """A field, on how many of the pages looked at it is filled, and of how many."""

    field: FieldPlan
    filled: int
    of: int


def first_fields(pages: Sequence[Page]) -> list[FirstField]:
    """Fields for pages that are made alike. A title and a body are always among them."""
    found = [
        _plain(pages, "title", "line", _TITLES, required=True),
        _body(pages),
        _plain(pages, "description", "passage", _DESCRIPTIONS),
        _plain(pages, "published", "date", _DATES, treat=_DAY, good=_is_day),
        _plain(pages, "author", "line", _AUTHORS),
    ]
    return [one for one in found if one is not None]


def _plain(
    pages: Sequence[Page],
    name: str,
    type_: str,
    locators: Sequence[dict[str, str]],
    *,
    required: bool = False,
    treat: Sequence[dict[str, Any]] = (),
    good: Callable[[str], bool] = bool,
) -> FirstField | None:
    """A field of one value a page: of the locators those that add pages to the ones before them."""
    field = {"name": name, "type": type_, "required": required, "treat": list(treat)}
    made = FieldPlan.model_validate({**field, "locators": list(locators)})
    read: list[tuple[int, set[int]]] = []
    values: Counter[str] = Counter()
    for number, locator in enumerate(made.locators):
        on = set()
        for place, page in enumerate(pages):
            texts = [text for one in locate(page, locator, "") if (text := one.text.strip())]
            if len(texts) == 1 and good(texts[0]):
                on.add(place)
                values[texts[0]] += 1
        read.append((number, on))
    kept: list[dict[str, str]] = []
    filled: set[int] = set()
    for number, on in sorted(read, key=lambda one: -len(one[1])):  # of two that fill as many pages the plainer one
        if on - filled:
            kept.append(locators[number])
            filled |= on
    if required:
        kept = kept or [locators[0]]
    elif len(filled) < SOME * len(pages) or (len(pages) > 2 and len(values) == 1):
        return None  # hardly anywhere, or everywhere the same: said of the site, not of its pages
    return FirstField(FieldPlan.model_validate({**field, "locators": kept}), len(filled), len(pages))


def _is_day(text: str) -> bool:
    return len(text) >= 10 and text[:4].isdigit() and text[4] == text[7] == "-" and text[5:7].isdigit()


def _body(pages: Sequence[Page]) -> FirstField:
    """The body: selectors of the content regions of the pages, those that find the like on most pages first."""
    regions = [find_region(page) for page in pages]
    offered: Counter[str] = Counter()
    for page, region in zip(pages, regions, strict=True):
        if region.n != page.body.n:
            offered[selector_of(page, region.n)] += 1
    scored = []
    for selector, times in offered.most_common(12):
        likeness = [_likeness(page, region, selector) for page, region in zip(pages, regions, strict=True)]
        scored.append((sum(likeness), times, selector, {n for n, like in enumerate(likeness) if like >= ENOUGH}))
    kept: list[dict[str, str]] = []
    filled: set[int] = set()
    for _, _, selector, on in sorted(scored, key=lambda one: (-one[0], -one[1], len(one[2]), one[2])):
        if on - filled and len(kept) < BODIES:
            kept.append({"css": selector})
            filled |= on
    if not kept:
        kept = [{"css": "body"}]
    field = {"name": "body", "type": "blocks", "required": True, "locators": kept}
    return FirstField(FieldPlan.model_validate(field), len(filled), len(pages))


def _likeness(page: Page, region: Node, selector: str) -> float:
    """How like the region of a page what a selector finds is (F1 of nodes), 0 when it finds none or several."""
    try:
        found = page.select(selector)
    except PatternError:
        return 0.0
    if len(found) != 1:
        return 0.0
    one = found[0]
    shared = min(one.last, region.last) - max(one.n, region.n) + 1
    return 2 * max(0, shared) / (one.last - one.n + 1 + region.last - region.n + 1)
