"""Headings ``h1``–``h6``; a heading that holds only pictures is read as the paragraph it is."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Heading, Paragraph
from .base import Reader

TAGS = frozenset(["h1", "h2", "h3", "h4", "h5", "h6"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    content = reader.line(node)
    if not content:
        return []
    if not any(inner.visible and inner.text.strip() for inner in reader.page.inside(node) if not inner.tag):
        return [Paragraph(content, node.n)]
    for wrap in reversed(reader.wraps):
        content = wrap.lay(content)
    return [Heading(int(node.tag[1]), content, node.get("id"), node.n)]
