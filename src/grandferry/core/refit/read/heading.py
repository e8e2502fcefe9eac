"""Headings ``h1``–``h6``, also those of pictures alone."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Heading
from .base import Reader

TAGS = frozenset(["h1", "h2", "h3", "h4", "h5", "h6"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    content = reader.line(node)
    return [Heading(int(node.tag[1]), reader.laid(content), node.get("id"), node.n)]
