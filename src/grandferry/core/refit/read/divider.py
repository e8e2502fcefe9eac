"""Rules between sections."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...page import Node
from ..blocks import Block, Divider

if TYPE_CHECKING:
    from .reader import Reader

TAGS = frozenset(["hr"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    return [Divider(node.n)]
