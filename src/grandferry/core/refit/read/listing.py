"""Lists, nested and numbered; also lists set straight into lists, items without a list, and lists without items."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ...page import Node
from ..anchors import placed
from ..blocks import Block, List, ListItem
from .base import Reader

TAGS = frozenset(["ul", "ol", "menu", "dir", "li"])
LISTS = frozenset(["ul", "ol", "menu", "dir"])
_NUMBERS = frozenset("aAiI")


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag == "li":  # an item outside any list
        return [List(False, (_item(node, reader),), 1, node.n, _is_loose([node]))]
    items: list[ListItem] = []
    before: list[Block] = []  # what stands before the first item
    others: list[Node] = []  # what stands between items, as one

    def settle() -> None:
        blocks = reader.flow(others)
        others.clear()
        if blocks and items:  # browsers show it below the item before it
            items[-1] = replace(items[-1], blocks=items[-1].blocks + tuple(blocks))
        else:
            before.extend(blocks)

    for child in node.children:
        if child.n in reader.removed:
            continue
        if child.tag == "li":
            settle()
            items.append(_item(child, reader))
        else:
            others.append(child)
    settle()
    if not items:  # old editors used lists to move text to the right
        return before
    entries = [child for child in node.children if child.tag == "li" and child.n not in reader.removed]
    ordered = node.tag == "ol"
    made = List(ordered, tuple(items), 1, node.n, _is_loose(entries))
    if ordered:
        falling = "reversed" in node.attrs
        start = _number(node.get("start"))
        numbers = node.get("type") if node.get("type") in _NUMBERS else ""
        made = replace(
            made,
            start=start if start is not None else (len(items) if falling else 1),
            numbers=numbers,
            falling=falling,
            items=tuple(
                replace(item, value=_number(entry.get("value"))) if "value" in entry.attrs else item
                for item, entry in zip(items, entries, strict=True)
            ),
        )
    return [*before, made]


def _number(text: str) -> int | None:
    try:
        return int(text)
    except ValueError:
        return None


def _is_loose(entries: Sequence[Node]) -> bool:
    """Whether an item says that it is a paragraph."""
    return any(child.tag == "p" for entry in entries for child in entry.children)


def _item(node: Node, reader: Reader) -> ListItem:
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
    if children is not node.children and (anchor := reader.anchor(node)) is not None:
        blocks = placed(anchor, blocks, node.n)
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
