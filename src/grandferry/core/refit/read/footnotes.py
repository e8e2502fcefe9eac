"""Footnotes: two places of a page that lead to each other, one of them a short call in the text, the other the note."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from urllib.parse import unquote

from ...page import Node, Page, text_of
from ..anchors import anchor_name
from ..blocks import Block, Footnotes, Note
from .base import Calls, Reader

TAGS = frozenset(["ol", "ul"])
_CALL = re.compile(r"[\[(]?(?:\d{1,3}|[a-z]|[ivx]{1,5}|[*†‡§¶]{1,3})[\])]?\Z", re.I)
_MOST = 8  # nodes in what calls a note
_HOLDERS = frozenset(["li", "p", "dd", "td", "div", "aside"])


def calls_of(page: Page, link: Callable[[str], str]) -> Calls:
    """The footnotes of a page."""
    short = [
        (node, unquote(led[1:]))
        for node in page.nodes
        if node.tag == "a"
        and node.last - node.n < _MOST
        and "#" in node.get("href")
        and (led := link(node.get("href").strip())).startswith("#")
        if node.get("role") == "doc-noteref" or _CALL.match("".join(text_of(page, node).split()))
    ]
    if not short:
        return Calls()
    named: dict[str, Node] = {}
    for node in page.nodes:
        if node.tag and node.attrs and (name := anchor_name(node)):
            named.setdefault(name, node)
    found = Calls()
    names: dict[int, str] = {}
    callers: dict[int, list[str]] = {}
    back: dict[int, set[str]] = {}  # of each element that may hold notes: where its links lead
    for node, target in short:
        place = named.get(target)
        holder = _holder(place)
        own = _own_names(node)
        if node.get("role") == "doc-noteref":
            found.calls[node.n] = (target, next(iter(own), ""))
        if holder is None or not own or node.n >= holder.n:  # a note stands below what calls it
            continue
        if holder.n not in back:
            back[holder.n] = {
                unquote(led[1:])
                for inner in page.inside(holder)
                if inner.tag == "a" and (led := link(inner.get("href").strip())).startswith("#")
            }
        mine = next((name for name in own if name in back[holder.n]), "")
        if mine:
            found.calls[node.n] = (target, mine)
            callers.setdefault(holder.n, []).append(mine)
            names[holder.n] = target
    found.notes.update({n: (names[n], tuple(calls)) for n, calls in callers.items()})
    return found


def _holder(place: Node | None) -> Node | None:
    """The element that holds a note, by the place that leads to it."""
    up = place
    for _ in range(4):
        if up is None or up.tag in _HOLDERS:
            return up
        up = up.parent
    return None


def _own_names(node: Node) -> list[str]:
    """What a link is called, or what is right around it."""
    names = []
    up: Node | None = node
    for _ in range(3):
        if up is None or up.tag not in ("a", "sup", "span", "small", "b", "i"):
            break
        if name := anchor_name(up):
            names.append(name)
        up = up.parent
    return names


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    """A list all of whose items are notes."""
    entries = [child for child in node.children if child.tag and child.n not in reader.removed]
    if not entries or any(not child.tag and child.text.strip() for child in node.children):
        return None
    known = reader.footnotes.notes
    said = node.get("role") == "doc-endnotes"
    if not all(entry.tag == "li" and (entry.n in known or (said and entry.get("id"))) for entry in entries):
        return None
    notes = []
    for entry in entries:
        name, calls = known.get(entry.n, (entry.get("id"), ()))
        notes.append(Note(name, tuple(reader.inside(entry)), calls, entry.n))
    return [Footnotes(tuple(notes), node.tag == "ol", node.n)]
