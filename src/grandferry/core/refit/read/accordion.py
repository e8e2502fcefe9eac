"""Folding sections made of boxes and a script: a switch that names the panel it opens.

Recognised by what makes them work, not by class names: ``aria-controls``, or an inline handler that
mentions the id of the panel, the panel being the switch's next sibling (or its holder's).
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Disclosure
from .base import Reader

TAGS = frozenset(["div", "h2", "h3", "h4", "h5", "p", "button", "section"])
_NAMED = re.compile(r"""['"#]([A-Za-z][\w:.-]*)['"]""")


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    opened = _opens(node)
    if not opened:
        return None
    panel = _next(node)
    if panel is None or panel.get("id") not in opened or panel.n in reader.removed:
        return None
    label = _label(node)
    line = reader.line(node) if label is node else reader.named_line(label)
    line = reader.laid(line)
    if not line:
        return None
    blocks = reader.inside(panel)
    reader.claimed.update(n.n for n in reader.page.inside(panel))
    return [Disclosure(line, tuple(blocks), False, node.n)]


def _switch(node: Node) -> Node | None:
    """The node itself or the only element in it, when it can be pressed."""
    for _ in range(3):
        if "aria-controls" in node.attrs or "onclick" in node.attrs:
            return node
        inner = [c for c in node.children if c.tag]
        if len(inner) != 1 or any(not c.tag and c.text.strip() for c in node.children):
            return None
        node = inner[0]
    return None


def _opens(node: Node) -> set[str]:
    switch = _switch(node)
    if switch is None:
        return set()
    return set(switch.get("aria-controls").split()) | set(_NAMED.findall(switch.get("onclick")))


def _label(node: Node) -> Node:
    switch = _switch(node)
    return switch if switch is not None else node


def _next(node: Node) -> Node | None:
    siblings = node.parent.children if node.parent else []
    for sibling in siblings[siblings.index(node) + 1 :]:
        if sibling.tag:
            return sibling
        if sibling.text.strip():
            return None
    return None
