"""Proposing the part of a page that is its own content.

What a visitor reads there are words in running text; what stands around it are menus (boxes of links), heads, feet,
side bars, and words that page after page has. So of all elements the one is taken that holds the most of the page's own
words for the fewest others: the best F-measure, recall weighed BETA times (van Rijsbergen 1979), since a word left
behind is worse than one too many. An element that says that it is the content (``main``, ``role=main``, a lone
``article``) is believed, and looked into.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..page import AROUND, HEADINGS, INLINE, LEADS_AWAY, Node, Page
from .page import text_hash

_COMMENT = re.compile(r"(?i)(?<![a-z])comments?(?![a-z])")
_BOXES = frozenset("main article div section td center font body table form dd blockquote".split())
_LISTS = frozenset(["ul", "ol", "div"])
_LINKED = 0.6  # of the words of a box that stand in links: more, and it is a menu
_FOOT = re.compile(r"(?i)(?<![a-z])(?:footer|copyright)(?![a-z])")
_SMALL = 0.25  # of a page's words: so many a foot may have
_ALL = 0.8  # of a page's words: a box with so many is its content, whatever it is called
_LINKS = 3  # that a menu has, at least
_FEW = 0.1  # of a page's words: with fewer of its own, links are what it is there for (a list of pages)
_HALF = 0.5  # of a page's own words: a box with fewer is not its content
_LIGHT = 0.3  # of the words of a menu in a box: it can be taken out by itself
BETA = 2.0
NEARLY = 0.01  # of elements that are as good but for this, the innermost is taken

Sums = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Words:
    """The words a visitor sees on a page (of menus and the like ``_LIGHT`` of them), and those of its own, up to each
    node (one more than there are nodes)."""

    seen: NDArray[np.float64]
    own: Sums

    def recall(self, node: Node) -> float:
        """The share of the page's own words that stand in an element; 1 where it has none."""
        return float(self.own[node.last + 1] - self.own[node.n]) / float(self.own[-1]) if self.own[-1] else 1.0

    def measure(self, node: Node) -> float:
        """How well an element is the page's own content: 0 to 1."""
        own = int(self.own[node.last + 1] - self.own[node.n])
        if own < _HALF * self.own[-1] or not own:
            return 0.0  # a part of it
        seen = float(self.seen[node.last + 1] - self.seen[node.n])
        square = BETA * BETA
        return (1 + square) * own / (square * int(self.own[-1]) + seen)


def words_of(
    page: Page,
    shared: Collection[int] = frozenset(),
    read: Collection[int] = frozenset(),
    again: Collection[int] = frozenset(),
) -> Words:
    """Count a page's words. ``shared``: hashes (``text_hash``) of texts that many pages have, which are not its own;
    ``read``: numbers of nodes that other fields are read from; ``again``: hashes of texts that some other page has."""
    seen, linked, links, titles = _counts(page)
    menus, named = _menus(page, seen, linked, links, titles)
    barred = _barred(page, seen, again)
    own = np.zeros(len(page.nodes) + 1, dtype=np.int64)
    listed = own.copy()
    for node in page.nodes:
        number = int(seen[node.n + 1] - seen[node.n]) if not node.tag else 0
        if number and not barred[node.n] and node.n not in read and text_hash(node.text) not in shared:
            listed[node.n + 1] = number
            if not menus[node.n]:
                own[node.n + 1] = number
    light = barred | named
    if own.sum() < _FEW * seen[-1] and listed.sum() > own.sum():
        own, light = listed, barred
    weighed = np.diff(seen, prepend=0).astype(np.float64)
    weighed[1:][light] *= _LIGHT
    return Words(np.cumsum(weighed), np.cumsum(own))


def _counts(page: Page) -> tuple[Sums, Sums, Sums, Sums]:
    """Words seen, words in links, links, and words of headings that are no links, up to each node."""
    size = len(page.nodes) + 1
    seen, linked, links, titles = (np.zeros(size, dtype=np.int64) for _ in range(4))
    until = title = -1  # the last node of the link and of the heading that are open
    for node in page.nodes:
        if node.tag:
            if node.tag == "a" and node.get("href"):
                until = max(until, node.last)
                links[node.n + 1] = 1
            elif node.tag in HEADINGS:
                title = max(title, node.last)
        elif node.visible:
            number = len(node.text.split())
            seen[node.n + 1] = number
            if node.n <= until:
                linked[node.n + 1] = number
            elif node.n <= title:
                titles[node.n + 1] = number
    return np.cumsum(seen), np.cumsum(linked), np.cumsum(links), np.cumsum(titles)


def _menus(
    page: Page, seen: Sums, linked: Sums, links: Sums, titles: Sums
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Whether each node lies in a box of links, and whether it lies in one with a name, which a step can take out."""
    found, named = np.zeros(len(page.nodes), dtype=bool), np.zeros(len(page.nodes), dtype=bool)
    for node in page.nodes:
        if not node.tag or node.tag in INLINE or node.tag in ("p", "html", "body"):
            continue
        first, last = node.n, node.last + 1
        if links[last] - links[first] < _LINKS:
            continue
        words = seen[last] - seen[first] - titles[last] + titles[first]  # what a box of links is called, aside
        if words > 0 and linked[last] - linked[first] > _LINKED * words:
            found[first:last] = True
            if node.tag in AROUND or node.get("id") or node.get("class"):
                named[first:last] = True
    return found, named


def _barred(page: Page, seen: Sums, again: Collection[int]) -> NDArray[np.bool_]:
    """Whether each node lies in what is never content, or is said by visitors; a box around most of the page is no such
    thing."""
    found = np.zeros(len(page.nodes), dtype=bool)
    linked = np.cumsum([0, *(node.tag == "a" for node in page.nodes)])
    before: dict[int, Node] = {}  # what stands before a list
    for node in page.nodes:
        last: Node | None = None
        for child in node.children:
            if child.tag:
                if last is not None and child.tag in _LISTS:
                    before[child.n] = last
                last = child
        named = (
            node.tag in AROUND
            or node.tag == "form"
            or bool(node.attrs and _COMMENT.search(f"{node.get('id')} {node.get('class')}"))
        )
        if not named and node.attrs and LEADS_AWAY.search(f"{node.get('id')} {node.get('class')}"):
            words = seen[node.last + 1] - seen[node.n]
            leads = linked[node.last + 1] > linked[node.n]
            foot = not leads and _FOOT.search(f"{node.get('id')} {node.get('class')}")
            named = words < (_ALL if leads else _SMALL if foot else 0) * seen[-1]
        named = named or (node.tag in _LISTS and _is_said(node, before.get(node.n), again))
        if named and (node.tag != "form" or 2 * (seen[node.last + 1] - seen[node.n]) <= seen[-1]):
            found[node.n : node.last + 1] = True
    return found


def _is_said(node: Node, before: Node | None, again: Collection[int]) -> bool:
    """Whether a list is what visitors say: below words that other pages have as well, each piece begins with a name."""
    if before is None:
        return False
    texts = [n for n in before.children if not n.tag and n.text.strip()]
    if not texts or not all(text_hash(text.text) in again for text in texts):
        return False
    pieces = [child for child in node.children if child.tag]
    return bool(pieces) and all(_leads_with_name(piece) for piece in pieces)


def _leads_with_name(piece: Node) -> bool:
    first = next((n for n in piece.children if n.tag or n.text.strip()), None)
    return first is not None and first.tag in ("b", "strong", "cite")


def find_region(page: Page, words: Words | None = None) -> Node:
    """The proposed region (the body when nothing stands out)."""
    words = words_of(page) if words is None else words
    best, most = page.body, 0.0
    for node in said_so(page):
        if node.tag not in _BOXES:
            continue
        score = words.measure(node)
        nearly = NEARLY if best.n < node.n <= best.last else 0.0
        if score > 0 and score >= most - nearly:
            best, most = node, max(score, most)
    return best


def said_so(page: Page) -> Sequence[Node]:
    """The elements that may be the content: those of the one that says it is, else all of the body."""
    for said in (
        [n for n in page.nodes if n.tag == "main" or n.get("role") == "main"],
        [n for n in page.nodes if n.tag == "article"],
    ):
        if len(said) == 1:
            return page.inside(said[0])
    return page.inside(page.body)
