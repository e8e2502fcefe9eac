"""Quotations."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Quote
from .base import Reader

TAGS = frozenset(["blockquote"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    blocks = reader.flow(node.children)
    return [Quote(tuple(blocks), node.get("cite"), node.n)]
