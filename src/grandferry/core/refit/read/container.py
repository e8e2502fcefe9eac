"""Boxes: plain containers, and formatting elements that hold blocks (their mark goes to each line inside)."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ...references import runs_script
from ..blocks import Block, Inline, Link, Styled, StyleName
from .base import Reader, Wrap

TAGS = frozenset(["*"])
_MARKS: dict[str, StyleName] = {
    "b": "strong",
    "strong": "strong",
    "i": "em",
    "em": "em",
    "u": "underline",
    "s": "strike",
    "strike": "strike",
    "del": "strike",
    "ins": "inserted",
    "mark": "highlight",
    "sub": "sub",
    "sup": "sup",
    "kbd": "keyboard",
}


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    tag = node.tag
    style = _MARKS.get(tag)
    href = node.get("href").strip() if tag == "a" else ""
    if style is not None:
        chosen: StyleName = style
        reader.wraps.append(Wrap(lambda content: (Styled(chosen, content),)))
    elif href and not runs_script(href):
        reader.wraps.append(Wrap(lambda content: _linked(content, reader.link(href), node), link=True))
    elif tag in ("code", "tt"):
        reader.in_code += 1
        blocks = reader.flow(node.children)
        reader.in_code -= 1
        return blocks
    else:
        return reader.flow(node.children)
    blocks = reader.flow(node.children)
    reader.wraps.pop()
    return blocks


def _linked(content: tuple[Inline, ...], href: str, node: Node) -> tuple[Inline, ...]:
    if any(isinstance(piece, Link) for piece in content):
        return content
    return (Link(href, content, node.get("title"), node.n),)
