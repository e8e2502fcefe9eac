"""Folding sections: ``details`` with its ``summary``."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Disclosure
from .base import Reader

TAGS = frozenset(["details", "summary"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag == "summary":  # outside details
        return reader.flow(node.children)
    summary = next((c for c in node.children if c.tag == "summary"), None)
    rest = [c for c in node.children if c is not summary]
    line = reader.laid(reader.named_line(summary)) if summary is not None else ()
    return [Disclosure(line, tuple(reader.flow(rest)), "open" in node.attrs, node.n)]
