"""Raw islands: forms, and elements this reader does not know. Kept as they are and counted."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Island
from ..serialise import serialise
from .base import Reader
from .boxes import BOXES, no_name

TAGS = frozenset(["*", "form", "canvas", "applet", "iframe", "video", "audio", "object", "embed"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag in BOXES or no_name(node.tag):
        return None
    if node.tag == "xml" and not any(n.visible and n.text.strip() for n in reader.page.inside(node) if not n.tag):
        return []  # data for a program, which browsers show nothing of
    if node.tag == "form":  # no form that asks anything: a box
        return None
    words = reader.words(node)
    if not words and node.tag in ("canvas", "video", "audio", "object", "iframe") and not node.attrs:
        return []
    return [Island(serialise(node, reader.link), words, node.tag, node.n)]
