"""Buttons: a link that stands alone and says that it looks like one, or a switch for a script."""

from __future__ import annotations

import re

from ...page import Node
from ..blocks import Anchor, Button, Link, Paragraph, Picture, RawInline, walk
from .base import Reader
from .inline import tidy

_BUTTON = re.compile(r"(?i)(?:\w+-)*(?:btn|button|cta)(?:[-_]\w+)*\Z")


def is_button(node: Node) -> bool:
    """Whether a link looks like a button."""
    return node.get("role").lower() == "button" or any(_BUTTON.match(name) for name in node.classes)


def as_button(block: Paragraph, reader: Reader) -> Button | None:
    """A paragraph that is nothing but such a link as a button."""
    link = block.content[0] if len(block.content) == 1 else None
    if isinstance(link, RawInline) and link.tag == "button" and link.words:
        return Button(tidy(list(link.words)), "", link.node)
    if not isinstance(link, Link) or link.title or not 0 <= link.node < len(reader.page.nodes):
        return None
    if not is_button(reader.page.nodes[link.node]) and reader.treated.get(link.node) != "button":
        return None
    if any(isinstance(piece, Picture | Anchor) for piece in walk(link.content)):
        return None
    return Button(link.content, link.href, link.node)
