"""Boxes that hold nothing and show a picture behind them: the picture is their content."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Paragraph
from .base import Reader
from .inline import background_picture

TAGS = frozenset(["div", "section", "article", "header", "aside", "main", "p"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if not node.attrs:
        return None
    behind = background_picture(node, reader)
    return [Paragraph((behind,), node.n)] if behind is not None else None
