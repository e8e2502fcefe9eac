"""Lists, nested and numbered, also with lists set straight into lists and items without a list."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, List, ListItem
from .base import Reader

TAGS = frozenset(["ul", "ol", "menu", "dir", "li"])
LISTS = frozenset(["ul", "ol", "menu", "dir"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag == "li":  # an item outside any list
        return [List(False, (_item([node], reader),), 1, node.n)]
    items: list[ListItem] = []
    for child in node.children:
        if child.n in reader.removed:
            continue
        if child.tag == "li":
            items.append(_item([child], reader))
            continue
        blocks = reader.flow([child])
        if not blocks:
            continue
        if items and (child.tag in LISTS or not child.tag):
            # <ul><li>a</li><ul>…</ul></ul>: browsers show the inner list below the item before it
            last = items[-1]
            items[-1] = ListItem(last.blocks + tuple(blocks), last.checked, last.node)
        else:
            items.append(ListItem(tuple(blocks), None, child.n))
    if not items:
        return []
    return [List(node.tag == "ol", tuple(items), _start(node), node.n)]


def _start(node: Node) -> int:
    try:
        return max(0, int(node.get("start") or 1))
    except ValueError:
        return 1


def _item(nodes: list[Node], reader: Reader) -> ListItem:
    node = nodes[0]
    box = _checkbox(node)
    children: Sequence[Node] = node.children
    checked = None
    if box is not None:
        checked = "checked" in box.attrs
        reader.claimed.add(box.n)
        holder = box.parent
        if holder is not None and holder is not node:
            children = [c for c in holder.children if c is not box] + [c for c in node.children if c is not holder]
    blocks = reader.inside(node) if children is node.children else reader.flow(children)
    return ListItem(tuple(blocks), checked, node.n)


def _checkbox(node: Node) -> Node | None:
    """The check box an item begins with (task lists), also within its first paragraph or label."""
    for child in node.children:
        if not child.tag:
            if child.text.strip():
                return None
            continue
        if child.tag == "input" and child.get("type").lower() == "checkbox":
            return child
        return _checkbox(child) if child.tag in ("p", "label") else None
    return None
