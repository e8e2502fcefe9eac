"""How the bodies of pages that are made alike are read: of the boxes that the pages offer those whose selectors find
the own words of most pages for the fewest others."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from ..errors import PatternError
from ..kinds import FieldPlan
from ..page import Node, Page
from ..refit.region import Words, find_region, words_of
from .firstfield import FirstField
from .pointing import own_marks, selector_of

BODIES = 3  # locators of a body, at most
OFFERED = 60  # of a body that are weighed
UPWARDS = 4  # boxes around the best one of a page that are weighed as well
NEARLY = 0.1  # of the measure, and of the words found, by which the locator of other kinds may be worse than the best
WHOLE = 0.9  # of a page's own words: a locator that finds so many finds the body
MORE = 0.02  # of the measure, by which another locator has to better it
COST = 0.012  # of the measure, for what breaks easily in a selector: each position, and a step without any name
FEWEST = 15  # words of a body (on average, of one that stands beside groups and holds none of them)


class _Fit(NamedTuple):
    """How well a selector finds the body of a page, and the share of the page's own words that it finds."""

    measure: float
    recall: float


@dataclass(frozen=True, slots=True)
class Bodies:
    """Pages, their own words, and the selectors by which their bodies are read best, with how each of them does."""

    pages: Sequence[Page]
    words: Sequence[Words]
    kept: list[str]
    found: Mapping[str, Sequence[_Fit | None]]

    def field(self) -> FirstField:
        """The body as a field; all of a page that has words of its own, and none of what others have."""
        without = [n for n in range(len(self.pages)) if all(self.found[s][n] is None for s in self.kept)]
        number = len(self.pages) - len(without)
        locators = [{"css": selector} for selector in self.kept or ["body"]]
        if self.kept and any(self.words[n].own[-1] >= FEWEST for n in without):
            locators.append({"css": "body"})
        field = {"name": "body", "type": "blocks", "required": True, "locators": locators}
        return FirstField(FieldPlan.model_validate(field), number, len(self.pages))

    def region(self, page: int) -> Node | None:
        """The body of a page, None where none is found."""
        for selector in self.kept:
            if self.found[selector][page] is not None:
                return self.pages[page].select(selector)[0]
        return None

    def by(self, selector: str) -> FirstField | None:
        """The body by another selector, None where that is clearly worse; of pages that have hardly a word of their own
        nothing is."""
        fits = [_measure(page, own, selector) for page, own in zip(self.pages, self.words, strict=True)]
        here = [_first(self.found, self.kept, n) for n in range(len(self.pages))]
        worse = [sum(one[k] for one in here) - sum(fit[k] for fit in fits if fit) for k in range(2)]
        bare = sum(int(words.own[-1]) for words in self.words) < FEWEST * len(self.pages)
        if not all(fits) or (not bare and max(worse) > NEARLY * len(self.pages)):
            return None
        return replace(self, kept=[selector], found={selector: fits}).field()


def bodies_of(
    pages: Sequence[Page], shared: frozenset[int], again: frozenset[int], read: Sequence[frozenset[int]]
) -> Bodies:
    """How bodies are read: of the boxes that any of the pages offers those whose selector finds the own words of most
    pages for the fewest others. Texts that many of the pages have (``shared``), and what other fields are read from,
    are not of the body."""
    words = [words_of(page, shared, nodes, again) for page, nodes in zip(pages, read, strict=True)]
    best = [find_region(page, found) for page, found in zip(pages, words, strict=True)]
    offered: dict[str, None] = {}
    for page, node in zip(pages, best, strict=True):
        for up in _upwards(node):
            if up.n != page.body.n:
                offered.update(dict.fromkeys(_names(page, up)))
    found: dict[str, list[_Fit | None]] = {}
    for selector in sorted(list(offered)[:OFFERED], key=lambda one: (_loose(one), len(one), one)):
        found[selector] = [_measure(page, own, selector) for page, own in zip(pages, words, strict=True)]
    return Bodies(pages, words, _in_turn(found, len(pages)), found)


def _in_turn(found: Mapping[str, Sequence[_Fit | None]], pages: int) -> list[str]:
    """Of selectors, with how well each finds the body on every page (None where it finds nothing), those that do best
    when they are tried in turn: one, and more while each is worth its while. Another one is worth what it finds where
    those before it find none of the body, or a part; that it fits a page closer is chance."""
    kept: list[str] = []
    most = 0.0
    while len(kept) < BODIES:
        best: list[str] = []
        best_value = most + (0.0 if not kept else MORE * pages)
        had = [_first(found, kept, n) for n in range(pages)]
        for selector in found:
            for at in range(len(kept), -1, -1):
                tried = [*kept[:at], selector, *kept[at:]]
                value = 0.0
                for n, before in enumerate(had):
                    now = _first(found, tried, n).measure
                    value += min(now, before.measure) if before.recall >= WHOLE else now
                value -= COST * pages * sum(map(_loose, tried))
                if value > best_value + 1e-6:
                    best, best_value = tried, value
        if not best:
            break
        kept, most = best, best_value
    return kept


def _first(found: Mapping[str, Sequence[_Fit | None]], kept: Sequence[str], page: int) -> _Fit:
    """How well the first of some selectors that finds anything on a page finds the body."""
    return next((fit for selector in kept if (fit := found[selector][page]) is not None), _Fit(0.0, 0.0))


def _loose(selector: str) -> float:
    return (
        selector.count(":nth")
        + 0.3 * bool(re.search(r"\d{2}", selector))
        + (not re.search(r"[.#]|^(?:main|article)$", selector))
    )


def _upwards(node: Node) -> Iterator[Node]:
    """An element and those it stands in, a few of them."""
    up: Node | None = node
    for _ in range(UPWARDS):
        if up is None or up.tag in ("body", "html"):
            return
        yield up
        up = up.parent


def _names(page: Page, node: Node) -> Iterator[str]:
    """Selectors by which an element may be told apart: its own names (what they are worth is told on other pages), its
    tag, and the plainest that finds it here."""
    yield from own_marks(node, any_name=True)
    if node.tag in ("main", "article"):
        yield node.tag
    plain = selector_of(page, node.n)
    yield plain
    if ">" in plain and not plain.endswith(")") and node.parent is not None:  # which of several, should there be some
        same = [n for n in node.parent.children if n.tag == node.tag]
        yield f"{plain}:nth-of-type({same.index(node) + 1})"


def _measure(page: Page, words: Words, selector: str) -> _Fit | None:
    """How well what a selector finds is a page's own content: not at all where it finds several, None where it finds
    none."""
    try:
        found = page.select(selector)
    except PatternError:
        return None
    if not found:
        return None
    return _Fit(words.measure(found[0]), words.recall(found[0])) if len(found) == 1 else _Fit(0.0, 0.0)
