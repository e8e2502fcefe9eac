"""Figures with captions."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Block, Figure, Inline
from .base import Reader
from .container import leads_on, linked

TAGS = frozenset(["figure", "figcaption"])


BOXES = frozenset(["div", "section", "center", "font", "span", "a", "article", "figure"])


def _in_boxes(caption: Node, figure: Node) -> bool:
    """Whether nothing but boxes stands between a caption and its figure; in a heading or in code it is that one's
    text."""
    up = caption.parent
    while up is not None and up is not figure:
        if up.tag not in BOXES:
            return False
        up = up.parent
    return True


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag == "figcaption":  # outside a figure it is a line like any other
        return reader.flow(node.children)
    captions = [c for c in reader.page.inside(node) if c.tag == "figcaption" and _in_boxes(c, node)]
    caption: list[Inline] = []
    for one in captions:
        if one.n in reader.claimed:  # it stands in a caption that was read already
            continue
        line = reader.laid(reader.named_line(one))
        around = one.parent
        if around is not None and around is not node and around.tag == "a" and leads_on(around):
            line = linked(line, reader.link(around.get("href").strip()), around)
        caption.extend(line)
        reader.claimed.update(n.n for n in reader.page.inside(one))
    blocks = reader.flow(node.children)
    if not blocks and not caption:
        return []
    return [Figure(tuple(blocks), tuple(caption), node.n)]
