"""Boxes that hold nothing and show a picture behind them: the picture is their content."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...page import Node
from ..blocks import Block, Paragraph
from .inline import background_picture

if TYPE_CHECKING:
    from .reader import Reader

TAGS = frozenset(["div", "section", "article", "header", "aside", "main", "p"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if not node.attrs:
        return None
    behind = background_picture(node, reader)
    return [Paragraph((behind,), node.n)] if behind is not None else None
