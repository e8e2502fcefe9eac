"""Passages in another language than what is around them, or read in another direction (HTML ``lang`` and ``dir``)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ...page import Node, Page, direction_of
from ..blocks import Block, Passage

SPOKEN = frozenset(["lang", "xml:lang", "dir"])
CODE = frozenset(["pre", "listing", "xmp", "plaintext"])  # whose language is one of programs
_DIRECTIONS = frozenset(["ltr", "rtl", "auto"])


class Spoken(NamedTuple):
    """A language tag and a direction, "" where it is not said."""

    language: str
    direction: str


def page_spoken(page: Page) -> Spoken:
    """What a page says of itself."""
    return Spoken(page.root.get("lang").lower(), direction_of(page) or "ltr")


def passage_of(node: Node, around: Spoken) -> Spoken | None:
    """What a block says of itself, None where it is the same as around it."""
    language = (node.get("lang") or node.get("xml:lang")).strip()
    direction = node.get("dir").strip().lower()
    said = Spoken(language or around.language, direction if direction in _DIRECTIONS else around.direction)
    same = said.language.lower() == around.language.lower() and said.direction == around.direction
    return None if same else said


def as_passage(found: Sequence[Block], said: Spoken, around: Spoken, node: int) -> Passage:
    """Blocks as a passage, which says what differs."""
    language = said.language if said.language.lower() != around.language.lower() else ""
    direction = said.direction if said.direction != around.direction else ""
    return Passage(tuple(found), language, direction, node)
