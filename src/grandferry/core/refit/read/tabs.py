"""Panels of which one is seen at a time: a row of switches that name the panels beside or below it.

Recognised by their roles (WAI-ARIA 1.2, ``tablist``), by data attributes that name a panel's id, or by how we write
them.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Tab, Tabs
from .base import Reader
from .names import SWITCHING, named_ids

TAGS = frozenset(["div", "section"])
_LISTS = frozenset(["ul", "ol", "div", "nav", "menu"])
TAB_ROW = re.compile(r"(?i)(?<![a-z])tabs?(?![a-z])")
_SWITCHES = frozenset(["a", "button", "li", "div", "span", "label"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if "data-tabs" in node.attrs:
        tabs = [_written(child, reader) for child in node.children if child.tag == "section"]
        return [Tabs(tuple(tabs), node.n)] if tabs else None
    if not reader.holds(reader.tab_rows, node):
        return None
    found = _found(node, reader)
    if found is None:
        return None
    row, panels = found
    tabs = []
    for switch, panel in panels:
        if panel.n not in reader.removed:
            tabs.append(Tab(reader.line(switch), tuple(reader.inside(panel)), panel.n, switch.n))
    taken = {n.n for part in (row, *(panel for _, panel in panels)) for n in reader.page.inside(part)}
    before: list[Node] = []
    after: list[Node] = []
    for child in node.children:
        if child.n not in taken:
            (before if child.n < row.n else after).append(child)
    reader.claimed.update(taken)
    return [*reader.flow(before), Tabs(tuple(tabs), node.n), *reader.flow(after)]


def _written(node: Node, reader: Reader) -> Tab:
    head = next((child for child in node.children if child.tag), None)
    if head is None or head.tag != "p":
        return Tab((), tuple(reader.inside(node)), node.n)
    return Tab(reader.named_line(head), tuple(reader.flow([c for c in node.children if c is not head])), node.n)


def _found(node: Node, reader: Reader) -> tuple[Node, list[tuple[Node, Node]]] | None:
    """The row of switches in an element, and each switch with its panel."""
    for row in node.children:
        if row.tag not in _LISTS:
            continue
        said = row.get("role").lower() == "tablist" or TAB_ROW.search(f"{row.get('class')} {node.get('class')}")
        switches = _switches(row, reader, bool(said))
        if len(switches) < 2:
            continue
        panels: dict[str, Node] = {}
        for beside in node.children:
            if beside.n > row.last and beside.tag:
                for part in (beside, *beside.children):
                    if name := part.get("id"):
                        panels.setdefault(name, part)
        pairs = [(switch, panels[name]) for switch, name in switches if name in panels]
        if len(pairs) == len(switches):
            return row, pairs
    return None


def _switches(row: Node, reader: Reader, said: bool) -> list[tuple[Node, str]]:
    """The switches of a row with the id each names; by an address alone only where the row ``said`` what it is."""
    found: list[tuple[Node, str]] = []
    for node in reader.page.inside(row)[1:]:
        if node.tag not in _SWITCHES or not (
            said or node.get("role").lower() == "tab" or not SWITCHING.isdisjoint(node.attrs)
        ):
            continue
        names = named_ids(node, by_address=True)
        if names and not any(inner.n <= node.n <= inner.last for inner, _ in found):
            found.append((node, names[0]))
    return found
