"""Boxes: plain containers, and formatting elements that hold blocks (their mark goes to each line inside)."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ...references import runs_script
from ..blocks import (
    Block,
    Divider,
    Embed,
    Inline,
    Island,
    Link,
    Picture,
    RawInline,
    Styled,
    StyleName,
    Text,
    walk,
)
from ..serialise import serialise
from .base import Reader, Wrap
from .inline import unmarked

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

# what a visitor can press on
_SHOWN = frozenset([Text, Picture, Island, RawInline, Embed, Divider])


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    tag = node.tag
    style = None if unmarked(node) else _MARKS.get(tag)
    href = node.get("href").strip() if tag == "a" and leads_on(node) else ""
    if style is not None:
        chosen: StyleName = style
        reader.wraps.append(Wrap(lambda content: (Styled(chosen, content),)))
    elif href:
        reader.wraps.append(Wrap(lambda content: linked(content, reader.link(href), node), link=True))
    elif tag in ("code", "tt"):
        reader.in_code += 1
        blocks = reader.flow(node.children)
        reader.in_code -= 1
        return blocks
    else:
        return reader.flow(node.children)
    blocks = reader.flow(node.children)
    reader.wraps.pop()
    held = {type(thing) for thing in walk(tuple(blocks))} if href and blocks else set()
    if Link not in held and not held.isdisjoint(_SHOWN):
        return [
            Island(serialise(node, reader.link), reader.words(node), tag, node.n)
        ]  # around what no mark can be laid around
    return blocks


def leads_on(link: Node) -> bool:
    """Whether an ``a`` leads anywhere."""
    href = link.get("href").strip()
    return bool(href) and not runs_script(href)


def linked(content: tuple[Inline, ...], href: str, node: Node) -> tuple[Inline, ...]:
    """A line as a link, unless there is one in it."""
    if any(isinstance(piece, Link) for piece in walk(content)):
        return content
    return (Link(href, content, node.get("title"), node.n),)
