"""The make of a page: the structure that its template gave it, as a set of hashed traits without any word of its text.

A trait is a place (the path of tags from ``<body>`` down), a class or an id at an element, a mark of the page as a
whole (classes of ``<html>`` and ``<body>``), a declared type, or the run of tags that an element holds. What stands in
running text (paragraphs and what lies between them) is a trait of its own sort, since a writer put it there, not a
template. Traits are 32-bit hashes (CRC-32, chained along the path), their lowest three bits say which sort they are.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from enum import IntEnum
from functools import lru_cache
from zlib import crc32

import numpy as np
from numpy.typing import NDArray
from selectolax.lexbor import LexborNode

from ..page import INLINE

DEEPEST = 40  # levels; a make says nothing of what lies deeper
ALIKE = 4  # children of one tag in a row that are looked into; those after them add nothing
MOST = 4000  # traits of a page
# what a writer sets between paragraphs
WRITTEN = INLINE | frozenset(
    "p h2 h3 h4 h5 h6 ul ol li blockquote pre figure figcaption hr br img table tbody thead tr td th dl dt dd".split()
)
LONGEST_RUN = 12  # tags
_TAGS = 200  # below one place that are remembered
_PLAIN = re.compile(r"[A-Za-z_][A-Za-z_-]*")
# in which nothing more is looked for: they hold nothing, or a writer's own
_CLOSED = INLINE - {"a"} | frozenset("area base br col embed hr img input link meta source track wbr".split())
_OPEN_TEXT = frozenset("table thead tbody tfoot tr td th ul ol dl".split())  # … in running text what is looked into
# elements with names, and those whose parent holds paragraphs: both in one pass
_NOTED = ":is([class],[id]):not(pre *),p:first-of-type"
_HOLDERS = "div main article section td table center form body".split()  # elements that hold a page's content
_COUNTERS = re.compile(r"\d+")


class Trait(IntEnum):
    """The sort of a trait."""

    PLACE = 0
    CLASS = 1
    ID = 2
    MARK = 3
    TYPE = 4
    RUN = 5
    TEXT = 6


_TEXT, _RUN = int(Trait.TEXT), int(Trait.RUN)  # plain numbers, which are added up in a third of the time


def trait(sort: Trait, word: str, within: int = 0) -> int:
    """The hash of a trait."""
    return crc32(word.encode("utf-8", "replace"), within) & ~7 | sort


def class_trait(tag: str, name: str) -> int:
    """The trait that says: an element of this tag with this class."""
    return trait(Trait.CLASS, f"{tag}.{_COUNTERS.sub('#', name)}")


def id_trait(tag: str, name: str) -> int:
    """The trait that says: an element of this tag with this id."""
    return trait(Trait.ID, f"{tag}#{_COUNTERS.sub('#', name)}")


def mark_trait(tag: str, name: str) -> int:
    """The trait that says: ``<html>`` or ``<body>`` has this class (``.name``) or id (``#name``)."""
    return trait(Trait.MARK, f"{tag}{_COUNTERS.sub('0', name)}")


def named_traits(selector: str) -> set[int]:
    """The traits of which each page has one that a plain selector (``tag.class``, ``#id``) finds something on; none for
    another selector, of which a make says nothing."""
    if match := re.fullmatch(r"([a-z][a-z0-9]*)\.([\w-]+)", selector):
        return {class_trait(match[1], match[2])}
    if match := re.fullmatch(r"#([\w-]+)", selector):
        return {id_trait(tag, match[1]) for tag in _HOLDERS}
    return set()


def make_of(body: LexborNode, types: Iterable[str] = ()) -> NDArray[np.uint32]:
    """The traits of a page, sorted, each once. ``types``: the types that the page declares (JSON-LD, Open Graph)."""
    found: set[int] = {trait(Trait.TYPE, name) for name in types}
    for tag, name in _marks(body):
        found.add(mark_trait(tag, name))
    flowing: set[int] = set()
    for node in body.css(_NOTED):
        tag, attrs = node.tag or "", node.attributes
        if tag == "p" and node.parent is not None:
            flowing.add(node.parent.mem_id)
        if attrs:
            found.update(_names(tag, attrs.get("class") or "", attrs.get("id") or ""))
    _look(body, 0, body.mem_id in flowing, 0, flowing, found)
    made = np.fromiter(found, dtype=np.uint32, count=len(found))
    made.sort()
    return made[:MOST]


def _marks(body: LexborNode) -> Iterator[tuple[str, str]]:
    for node in (body, body.parent):
        if node is not None and node.tag in ("body", "html"):
            attrs = node.attributes
            for name in (attrs.get("class") or "").split():
                yield node.tag, f".{name}"
            if ident := attrs.get("id"):
                yield node.tag, f"#{ident}"


def step(tag: str, place: int) -> int:
    """The place of an element below the place of its parent (0: ``<body>``)."""
    return crc32(tag.encode(), place)


def place_traits(place: int) -> tuple[int, int]:
    """The traits that say: there is an element at this place, a template's or one in running text."""
    return place & ~7 | Trait.PLACE, place & ~7 | Trait.TEXT


@lru_cache(maxsize=16384)
def _names(tag: str, classes: str, ident: str) -> tuple[int, ...]:
    """The traits of an element's names."""
    return (*(class_trait(tag, name) for name in classes.split()), *([id_trait(tag, ident)] if ident else []))


class _Below(dict[str, int]):
    """The places of elements below one place, by their tags; what was asked once is remembered."""

    def __init__(self, place: int):
        super().__init__()
        self._place = place

    def __missing__(self, tag: str) -> int:
        here = step(tag, self._place)
        if len(self) < _TAGS:
            self[tag] = here
        return here


_below = lru_cache(maxsize=4096)(_Below)


def _look(node: LexborNode, place: int, in_text: bool, depth: int, flowing: set[int], found: set[int]) -> None:
    """Note the places below an element. ``in_text``: it holds running text, as do those in ``flowing``. Asked of every
    element of a site: nothing is done here twice."""
    below = _below(place)
    last, alike = "", 0
    run: list[str] = []
    written: set[str] = set()
    for kid in node.iter():
        tag = kid.tag or ""
        if tag in written:
            last = tag
            continue
        if tag == last:
            alike += 1
            if alike >= ALIKE:
                continue
        else:
            last, alike = tag, 0
            run.append(tag)
        here = below[tag]
        if in_text and tag in WRITTEN:
            written.add(tag)
            here_in_text = here & ~7 | _TEXT
            if here_in_text in found:
                continue
            found.add(here_in_text)
            if tag in _OPEN_TEXT and depth < DEEPEST:
                _look(kid, here, True, depth + 1, flowing, found)
        else:
            found.add(here & ~7)  # Trait.PLACE
            if tag not in _CLOSED and depth < DEEPEST:
                _look(kid, here, kid.mem_id in flowing, depth + 1, flowing, found)
    if run and not in_text and len(run) <= LONGEST_RUN:
        found.add(crc32(" ".join(run).encode(), place) & ~7 | _RUN)


def selectors(body: LexborNode) -> dict[int, str]:
    """CSS selectors that find what traits of a page say, by trait. Names with a counter in them, which stand for many,
    and names that a selector would have to escape have none."""
    found: dict[int, str] = {}
    for tag, name in _marks(body):
        if _PLAIN.fullmatch(name[1:]):
            found.setdefault(mark_trait(tag, name), f"{tag}{name}")
    _name(body, 0, "body", 0, found)
    return found


def _name(node: LexborNode, place: int, path: str, depth: int, found: dict[int, str]) -> None:
    for kid in node.iter():
        tag = kid.tag or ""
        here = step(tag, place)
        below = f"{path} > {tag}"
        for made in place_traits(here):
            found.setdefault(made, below)
        attrs = kid.attributes
        for name in (attrs.get("class") or "").split():
            if _PLAIN.fullmatch(name):
                found.setdefault(class_trait(tag, name), f"{tag}.{name}")
        if (ident := attrs.get("id")) and _PLAIN.fullmatch(ident):
            found.setdefault(id_trait(tag, ident), f"{tag}#{ident}")
        if depth < DEEPEST:
            _name(kid, here, below, depth + 1, found)
