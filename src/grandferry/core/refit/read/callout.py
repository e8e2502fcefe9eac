"""Boxes that are set off from the text: notes, tips, warnings.

Recognised by their role, by what they say of themselves, or by a word in their class that says what they are for.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TypeGuard

from ...page import HEADINGS, Node
from ..blocks import Anchor, Block, Callout, Heading, Inline, Paragraph, Picture, Styled, Text
from .base import Reader

TAGS = frozenset(["div", "aside", "section", "blockquote", "table", "p"])
_SORTS = {
    "note": "note",
    "notes": "note",
    "info": "note",
    "information": "note",
    "notice": "note",
    "admonition": "note",
    "callout": "note",
    "tip": "tip",
    "hint": "tip",
    "success": "tip",
    "important": "important",
    "warning": "warning",
    "warn": "warning",
    "attention": "warning",
    "alert": "warning",
    "caution": "caution",
    "danger": "caution",
    "error": "caution",
    "critical": "caution",
}
_BOX = frozenset(["admonition", "callout", "alert", "notice", "message", "box", "block", "panel"])  # say no sort
_ROLES = {"note": "note", "alert": "warning", "doc-tip": "tip", "doc-notice": "note"}
_WORD = re.compile(r"[a-z]+")
_TITLE = re.compile(r"(?i)(?<![a-z])(?:title|heading|head|label)(?![a-z])")
_TITLE_WORDS = 12
_MOST = 600  # words: a larger box is a part of the page


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    treated = reader.treated.get(node.n, "")
    sort = treated.partition(":")[2] or "note" if treated.startswith("callout") else sort_of(node)
    if not sort or (node.tag == "p" and not treated):
        return None
    if not treated and not _is_box(node, reader):
        return None
    title_node = _title_node(node)
    title: tuple[Inline, ...] = ()
    if title_node is not None:
        title = reader.laid(reader.named_line(title_node))
        reader.claimed.update(n.n for n in reader.page.inside(title_node))
    blocks = reader.flow(node.children)
    if not title and len(blocks) > 1:
        title, blocks = _first_as_title(blocks)
    if not blocks and not title:
        return []
    if not blocks:
        title, blocks = (), [Paragraph(title, node.n)]
    return [Callout(sort, title, tuple(blocks), node.n)]


def sort_of(node: Node) -> str:
    """The sort of callout that an element says it is, "" for none."""
    if named := node.get("data-callout").lower():
        return _SORTS.get(named, "note")
    if role := _ROLES.get(node.get("role").lower(), ""):
        return _by_class(node) or role
    return _by_class(node)


def _by_class(node: Node) -> str:
    found = ""
    for name in node.classes:
        words = _WORD.findall(name.lower())
        if not words or not all(word in _SORTS or word in _BOX or len(word) < 3 for word in words):
            continue
        for word in words:
            sort = _SORTS.get(word, "")
            if sort and (not found or word not in _BOX):
                found = sort
    return found


def _is_box(node: Node, reader: Reader) -> bool:
    """Whether an element is a box with words of its own, and not a whole part of the page."""
    words = 0
    for inner in reader.page.inside(node)[1:]:
        if inner.tag in ("h1", "article", "main", "form"):
            return False
        if not inner.tag and inner.visible:
            words += len(inner.text.split())
    return 2 < words <= _MOST


def _title_node(node: Node) -> Node | None:
    """The element at the head of a box that says that it is its title."""
    for child in node.children:
        if not child.tag:
            if child.text.strip():
                return None
            continue
        if child.tag in HEADINGS or (child.tag in ("p", "div", "span", "strong") and _TITLE.search(child.get("class"))):
            return child
        return None
    return None


def _words(content: tuple[Inline, ...]) -> int:
    return sum(len(text.text.split()) for text in content if isinstance(text, Text))


def _is_icon(block: Block) -> TypeGuard[Paragraph]:
    return isinstance(block, Paragraph) and all(isinstance(piece, Picture) for piece in block.content)


def _first_as_title(blocks: list[Block]) -> tuple[tuple[Inline, ...], list[Block]]:
    """A first line all in bold is the title of what comes after it."""
    first = blocks[0]
    if _is_icon(first) and len(blocks) > 2:
        title, rest = _first_as_title(blocks[1:])
        return ((*first.content, *title), rest) if title else ((), blocks)
    if isinstance(first, Heading):
        return first.content, blocks[1:]
    if isinstance(first, Paragraph):
        shown = [piece for piece in first.content if not isinstance(piece, Anchor)]
        only = shown[0] if len(shown) == 1 else None
        if isinstance(only, Styled) and only.style == "strong" and _words(only.content) <= _TITLE_WORDS:
            anchors = tuple(piece for piece in first.content if isinstance(piece, Anchor))
            return (*anchors, *only.content), blocks[1:]
    return (), blocks
