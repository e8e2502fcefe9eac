"""Parts that stand side by side, in the order in which they are written: boxes that say that they are columns."""

from __future__ import annotations

import re
from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Column, Columns
from .base import Reader

TAGS = frozenset(["div", "section"])
_COLUMN = re.compile(r"(?i)(?:col|column|grid-item|grid__item|span\d+)(?:[-_]?[\w-]*)?\Z|[\w-]*[-_](?:col|column)\Z")
_SIDE = re.compile(r"(?i)float:\s*(?:left|right)|width:\s*\d+(?:\.\d+)?%")
_MOST = 250  # words of a column: more, and it is a part of the page


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    parts = [child for child in node.children if child.tag or child.text.strip()]
    treated = reader.treated.get(node.n) == "columns"
    if len(parts) < 2 or any(child.tag not in ("div", "section", "article", "aside") for child in parts):
        return None
    if not (treated or "data-columns" in node.attrs or all(_is_column(child, reader) for child in parts)):
        return None
    columns = []
    for child in parts:
        if child.n not in reader.removed:
            blocks = reader.inside(child)
            columns.extend([Column(tuple(blocks), child.n)] if blocks else [])
    return [Columns(tuple(columns), node.n)] if columns else []


def _is_column(node: Node, reader: Reader) -> bool:
    if not (any(_COLUMN.match(name) for name in node.classes) or _SIDE.search(node.get("style"))):
        return False
    words = 0
    for inner in reader.page.inside(node)[1:]:
        if inner.tag in ("h1", "article", "main", "nav", "form"):
            return False
        words += len(inner.text.split()) if not inner.tag and inner.visible else 0
    return 0 < words <= _MOST
