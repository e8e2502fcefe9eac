"""Numbered nodes back to HTML text (for islands, which are kept as they were)."""

from __future__ import annotations

from collections.abc import Callable

from ..page import Node, parse
from ..references import readdressed

VOID = frozenset("area base br col embed hr img input link meta param source track wbr".split())
RAW = frozenset(["script", "style", "xmp", "iframe", "noembed", "noframes", "plaintext"])


def escape_text(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def escape_attribute(text: str) -> str:
    return text.replace("&", "&amp;").replace('"', "&quot;").replace("<", "&lt;").replace(">", "&gt;")


Change = Callable[[str], str]


def serialise(node: Node, link: Change | None = None, source: Change | None = None, posts: Change | None = None) -> str:
    """``node`` and all in it as HTML (HTML standard 13.3, fragment serialisation); with ``link`` its addresses are what
    that, or for what is shown in the page ``source``, and for where forms go ``posts``, makes of them."""
    if not node.tag:
        return escape_text(node.text)
    said = node.attrs if link is None else readdressed(node.tag, node.attrs, link, source or link, posts)
    attrs = "".join(
        f' {name}="{escape_attribute(value)}"' if value is not None else f" {name}" for name, value in said.items()
    )
    if node.tag in VOID:
        return f"<{node.tag}{attrs}>"
    if node.tag in RAW:
        inner = "".join(child.text for child in node.children)
    else:
        inner = "".join(serialise(child, link, source, posts) for child in node.children)
    # the parser drops one newline right after these, so give it one to drop
    lead = "\n" if node.tag in ("pre", "textarea", "listing") and inner.startswith("\n") else ""
    return f"<{node.tag}{attrs}>{lead}{inner}</{node.tag}>"


def with_addresses(html: str, link: Change, source: Change, posts: Change | None = None) -> str:
    """Raw markup with its addresses at their new places."""
    return "".join(serialise(node, link, source, posts) for node in parse(f"<body>{html}").body.children)
