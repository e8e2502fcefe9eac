"""Raw islands: forms, and elements this reader does not know. Kept as they are and counted."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Island
from ..serialise import serialise
from .base import Reader
from .boxes import BOXES

TAGS = frozenset(["*", "form", "canvas", "applet", "iframe", "video", "audio", "object", "embed"])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag in BOXES or ":" in node.tag:  # a tag of an office program's own says nothing to a visitor
        return None
    if node.tag == "xml" and not any(n.visible and n.text.strip() for n in reader.page.inside(node) if not n.tag):
        return []  # data for a program, which browsers show nothing of
    if node.tag == "form" and not any(
        n.tag in ("input", "select", "textarea", "button") and n.get("type").lower() != "hidden"
        for n in reader.page.inside(node)
    ):
        return None  # a form without a field a visitor sees is a box (whole pages stand in such forms)
    if node.tag == "form" and _wraps_page(node, reader):
        return None
    words = reader.words(node)
    if not words and node.tag in ("canvas", "video", "audio", "object", "iframe") and not node.attrs:
        return []
    return [Island(serialise(node, reader.link), words, node.tag, node.n)]


def _wraps_page(node: Node, reader: Reader) -> bool:
    """Whether a form is put around the content of a whole page, as some old systems do."""
    inside = reader.page.inside(node)
    return any(n.tag in ("h1", "article", "main") for n in inside) and sum(1 for n in inside if n.tag == "p") >= 3
