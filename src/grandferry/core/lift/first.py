"""The fields that a kind begins with, proposed from a few of its pages: what every system wants (title, body,
description, date, author), each only where the pages have it, and read as they have it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from ..errors import PatternError
from ..kinds import FieldPlan
from ..page import Node, Page
from ..refit.page import text_hash, texts_outside
from ..refit.region import Words, find_region, words_of
from .locators import locate
from .pointing import own_marks, selector_of
from .slots import slots

SOME = 0.5  # of the pages that a field must be filled on to be proposed
BODIES = 3  # locators of a body, at most
OFFERED = 60  # of a body that are weighed
UPWARDS = 4  # boxes around the best one of a page that are weighed as well
ENOUGH = 0.8  # of the measure of a page's best box that what a locator finds there has to come to
COST = 0.03  # of the measure, for what breaks easily in a selector: each position, and a step without any name
SHARED, SHARED_ON = 0.5, 3  # of the pages, and pages: a text on so many is furniture

_TITLES = ({"css": "h1"}, {"meta": "og:title"}, {"meta": "title"})
_DESCRIPTIONS = ({"meta": "description"}, {"meta": "og:description"})
_AUTHORS = ({"meta": "author"}, {"meta": "article:author"}, {"css": "[rel=author]"})
_DATES = ({"meta": "article:published_time"}, {"meta": "dcterms.date"}, {"css": "time", "attribute": "datetime"})
_DAY: list[dict[str, Any]] = [{"replace": [r"^(\d{4}-\d\d-\d\d).*$", r"\1"]}, {"date": "%Y-%m-%d"}]


@dataclass(frozen=True, slots=True)
class FirstField:
    """A field, on how many of the pages looked at it is filled, and of how many."""

    field: FieldPlan
    filled: int
    of: int


def first_fields(pages: Sequence[Page]) -> list[FirstField]:
    """Fields for pages that are made alike. A title and a body are always among them."""
    texts = [{" ".join(n.text.split()) for n in texts_outside(page, ())} for page in pages]
    counted = Counter(text for one in texts for text in one)
    least = max(SHARED_ON, int(SHARED * len(pages)))
    shared = {text for text, number in counted.items() if number >= least}
    title = _plain(pages, "title", "line", _TITLES, required=True)
    assert title is not None
    head = [
        _plain(pages, "description", "passage", _DESCRIPTIONS),
        _plain(pages, "published", "date", _DATES, treat=_DAY, good=_is_day),
        _plain(pages, "author", "line", _AUTHORS),
    ]
    said = [one for one in head if one is not None]
    labels = {text.rstrip(" :*") for text in shared}
    found = slots(pages, {"title", "body", *(one.field.name for one in said)}, shared | labels)
    read = [_read(page, title, [slot.nodes.get(n, []) for slot in found]) for n, page in enumerate(pages)]
    body = _body(pages, frozenset(map(text_hash, shared)), read)
    return [title, body, *said, *(FirstField(slot.plan, slot.filled, len(pages)) for slot in found)]


def _read(page: Page, title: FirstField, taken: Sequence[Sequence[int]]) -> frozenset[int]:
    """The nodes of a page that its title and its slots are read from."""
    found = [place.node for locator in title.field.locators for place in locate(page, locator, "") if place.node >= 0]
    found += [n for nodes in taken for n in nodes]
    return frozenset(inner.n for n in found for inner in page.inside(page.nodes[n]))


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


def _body(pages: Sequence[Page], shared: frozenset[int], read: Sequence[frozenset[int]]) -> FirstField:
    """The body: of the boxes that any of the pages offers those whose selector finds the own words of most pages for
    the fewest others. Texts that many of the pages have (``shared``), and what other fields are read from, are not of
    the body."""
    words = [words_of(page, shared, nodes) for page, nodes in zip(pages, read, strict=True)]
    best = [find_region(page, found) for page, found in zip(pages, words, strict=True)]
    offered: dict[str, None] = {}
    for page, node in zip(pages, best, strict=True):
        for up in _upwards(node):
            if up.n != page.body.n:
                offered.update(dict.fromkeys(_names(page, up)))
    scored = []
    for selector in list(offered)[:OFFERED]:
        found = [_measure(page, own, selector) for page, own in zip(pages, words, strict=True)]
        on = {n for n, score in enumerate(found) if score >= ENOUGH * words[n].measure(best[n]) > 0}
        scored.append((round(sum(found), 3) - COST * _loose(selector) * len(pages), selector, on))
    kept: list[dict[str, str]] = []
    filled: set[int] = set()
    for _, selector, on in sorted(scored, key=lambda one: (-one[0], len(one[1]), one[1])):
        if on - filled and len(kept) < BODIES:
            kept.append({"css": selector})
            filled |= on
    if not kept:
        kept = [{"css": "body"}]
    field = {"name": "body", "type": "blocks", "required": True, "locators": kept}
    return FirstField(FieldPlan.model_validate(field), len(filled), len(pages))


def _loose(selector: str) -> int:
    return selector.count(":nth") + (not re.search(r"[.#]|^(?:main|article)$", selector))


def _upwards(node: Node) -> Iterator[Node]:
    """An element and those it stands in, a few of them."""
    up: Node | None = node
    for _ in range(UPWARDS):
        if up is None or up.tag in ("body", "html"):
            return
        yield up
        up = up.parent


def _names(page: Page, node: Node) -> Iterator[str]:
    """Selectors by which an element may be told apart: its own names, its tag, and the plainest that finds it here."""
    yield from own_marks(node)
    if node.tag in ("main", "article"):
        yield node.tag
    yield selector_of(page, node.n)


def _measure(page: Page, words: Words, selector: str) -> float:
    """How well what a selector finds is a page's own content, 0 when it finds none or several."""
    try:
        found = page.select(selector)
    except PatternError:
        return 0.0
    return words.measure(found[0]) if len(found) == 1 else 0.0
