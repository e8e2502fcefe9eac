"""Figures with captions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...page import Node
from ..blocks import Block, Figure, Inline

if TYPE_CHECKING:
    from .reader import Reader

TAGS = frozenset(["figure", "figcaption"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag == "figcaption":  # outside a figure it is a line like any other
        return reader.flow(node.children)
    captions = [c for c in reader.page.inside(node) if c.tag == "figcaption"]
    caption: list[Inline] = []
    for one in captions:
        caption.extend(reader.line(one))
        reader.claimed.update(n.n for n in reader.page.inside(one))
    blocks = reader.flow(node.children)
    if not blocks and not caption:
        return []
    return [Figure(tuple(blocks), tuple(caption), node.n)]
