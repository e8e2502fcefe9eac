"""Rules between sections."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Divider
from .base import Reader

TAGS = frozenset(["hr"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    return [Divider(node.n)]
