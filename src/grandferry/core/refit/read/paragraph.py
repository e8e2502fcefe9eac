"""Paragraphs. A paragraph is flow content here, since broken markup puts blocks into it."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block
from .base import Reader

TAGS = frozenset(["p"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    return reader.flow(node.children)
