"""Galleries: three and more pictures in one box, each with no more than a caption and where it leads."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ..blocks import Anchor, Block, Break, Gallery, Inline, Link, Picture, Shot, Text
from .base import Reader
from .inline import tidy

TAGS = frozenset(["div", "ul", "ol", "section", "figure"])
LEAST = 3
_CAPTION = 25  # words: more, and it is a text with a picture
_BOXES = frozenset("a div figure li span section picture p article".split())


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if reader.removed and any(n.n in reader.removed for n in reader.page.inside(node)):
        return None
    parts = [child for child in node.children if child.tag or child.text.strip()]
    treated = reader.treated.get(node.n) == "gallery"
    if (len(parts) < LEAST and not treated) or any(child.tag not in (*_BOXES, "img") for child in parts):
        return None
    if not all(_is_shot(child, reader) for child in parts):
        return None
    shots = []
    for child in parts:
        shot = _shot(child, reader)
        if shot is None:
            return None
        shots.append(shot)
    return [Gallery(tuple(shots), node.n)]


def _is_shot(node: Node, reader: Reader) -> bool:
    pictures, words = 0, 0
    for inner in reader.page.inside(node):
        if inner.tag == "img":
            pictures += 1
        elif not inner.tag:
            words += len(inner.text.split()) if inner.visible else 0
        elif inner.tag not in _BOXES and inner.tag not in (
            "figcaption",
            "br",
            "b",
            "strong",
            "em",
            "i",
            "small",
            "noscript",
        ):
            return False
    return pictures == 1 and words <= _CAPTION


def _shot(node: Node, reader: Reader) -> Shot | None:
    """A picture with its caption, None where there is more to it."""
    line = reader.named_line(node) if node.tag not in ("img", "a", "picture", "span") else _line(node, reader)
    picture: Picture | None = None
    link: Link | None = None
    caption: list[Inline] = []
    for piece in line:
        inner = piece.content[0] if isinstance(piece, Link) and len(piece.content) == 1 else piece
        if isinstance(inner, Picture) and picture is None:
            picture = inner
            link = piece if isinstance(piece, Link) else None
        elif isinstance(piece, Anchor | Link):
            if isinstance(piece, Link) and any(isinstance(one, Picture) for one in piece.content):
                return None
            caption.append(piece)
        elif not (isinstance(piece, Break) and not caption) and not (
            isinstance(piece, Text) and not piece.text.strip()
        ):
            caption.append(piece)
    if picture is None:
        return None
    if link is not None and link.title:
        return None
    said = tidy(caption)
    return Shot(picture, said, link.href if link else "", link.node if link else -1)


def _line(node: Node, reader: Reader) -> tuple[Inline, ...]:
    out: list[Inline] = []
    reader.inline(node, out)
    return tidy(out)
