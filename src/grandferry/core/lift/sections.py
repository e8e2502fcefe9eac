"""Sections: parts of a page of which each is an item by itself."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from ..address import Scope
from ..errors import PatternError
from ..kinds import KindPlan
from ..page import Node, Page, Section
from ..refit.page import outermost
from ..survey.secrets import Masks
from .fields import lift_page
from .members import what_follows
from .value import Value

MOST = 2000  # sections of a page
_PLAIN = re.compile(r"[\w:.-]{1,80}\Z")


def sections(page: Page, kind: KindPlan) -> list[Section]:
    """The sections of a page that a kind makes items of, in order. Each is marked by its id or the first one in it,
    since links lead there, else by its number. Raises PatternError where there are too many."""
    if kind.items != "each":
        return []
    heads = outermost(page.select(kind.each))
    if len(heads) > MOST:
        raise PatternError(
            f"“{kind.each}” finds {len(heads):,} sections on a page; of more than {MOST:,} no items are made.",
            "Name what marks a section more closely.",
        )
    numbers = [head.n for head in heads]
    found: list[Section] = []
    marks: set[str] = set()
    for number, head in enumerate(heads, 1):
        nodes = tuple(what_follows(head, numbers)) if kind.leads else (head,)
        mark = _id(page, head) or f"section-{number:03}"
        if mark in marks:  # ids that are there twice
            mark = f"{mark}-{number:03}"
        marks.add(mark)
        found.append(Section(mark, head, nodes))
    return found


def _id(page: Page, head: Node) -> str:
    ids = (node.get("id") or (node.get("name") if node.tag == "a" else "") for node in page.inside(head) if node.tag)
    return next((one for one in ids if _PLAIN.match(one)), "")


def in_turn(page: Page, kind: KindPlan | None) -> Iterator[Section | None]:
    """The sections of a page of which a kind makes items, the page reading that one alone while it is given; a page
    without any is one itself (None)."""
    found: Sequence[Section | None] = (sections(page, kind) if kind is not None else []) or [None]
    try:
        for section in found:
            page.section = section
            yield section
    finally:
        page.section = None


def lift_items(
    page: Page, kind: KindPlan, key: str, base: str, scope: Scope, masks: Masks | None = None
) -> list[tuple[str, list[Value]]]:
    """(key, values) of every item that a kind makes of a page. A page that should have sections
    and has none is one item itself."""
    return [
        (f"{key}#{section.mark}" if section else key, lift_page(page, kind, key, base, scope, masks))
        for section in in_turn(page, kind)
    ]
