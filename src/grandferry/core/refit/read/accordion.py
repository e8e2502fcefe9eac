"""Folding sections made of boxes and a script: a switch that names the panel it opens.

Recognised by what makes them work, not by class names: ``aria-controls``, a data attribute or an inline handler that
names the id of the panel, or ``aria-expanded`` before a hidden one, the panel being the switch's next sibling (or its
holder's).
"""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node, after
from ..blocks import Block, Disclosure
from .base import Reader
from .names import SWITCHING, TOGGLING, named_ids

TAGS = frozenset(["div", "h2", "h3", "h4", "h5", "h6", "p", "button", "a", "section", "dt"])


def opened_by(node: Node) -> Node | None:
    """The panel that a switch, or what holds it, opens: what comes next."""
    switch = _switch(node)
    panel = _next(node) if switch is not None else None
    if switch is None or panel is None:
        return None
    if panel.get("id") in named_ids(switch, by_address=not TOGGLING.isdisjoint(switch.attrs)):
        return panel
    return panel if "aria-expanded" in switch.attrs and _is_hidden(panel) else None


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if not reader.holds(reader.switches, node):
        return None
    panel = opened_by(node)
    if panel is None or panel.n in reader.removed:
        return None
    label = _switch(node) or node
    line = reader.laid(reader.line(node) if label is node else reader.named_line(label))
    if not line:
        return None
    blocks = reader.inside(panel)
    reader.claimed.update(n.n for n in reader.page.inside(panel))
    return [Disclosure(line, tuple(blocks), False, node.n, label.n if label.tag == "a" else -1)]


def _switch(node: Node) -> Node | None:
    """The node itself or the only element in it, when it can be pressed."""
    for _ in range(3):
        if not SWITCHING.isdisjoint(node.attrs):
            return node
        inner = [c for c in node.children if c.tag]
        if len(inner) != 1 or any(not c.tag and c.text.strip() for c in node.children):
            return None
        node = inner[0]
    return None


def _is_hidden(panel: Node) -> bool:
    return (
        "hidden" in panel.attrs or "aria-hidden" in panel.attrs or "display:none" in panel.get("style").replace(" ", "")
    )


def _next(node: Node) -> Node | None:
    for sibling in after(node):
        if sibling.tag:
            return sibling
        if sibling.text.strip():
            return None
    return None
