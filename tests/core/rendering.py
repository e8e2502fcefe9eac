"""A second opinion on our Markdown: rendered by another program, read by an HTML parser."""

from __future__ import annotations

from markdown_it import MarkdownIt

from grandferry.core.page import parse

MARKDOWN = MarkdownIt("commonmark", {"html": True}).enable(["table", "strikethrough"])


def rendered(markdown: str) -> str:
    """The HTML that a CommonMark + GFM renderer makes of it."""
    return str(MARKDOWN.render(markdown))


def visible_text(markdown: str) -> str:
    """All text a reader of the rendered Markdown sees."""
    page = parse(rendered(markdown))
    return "".join(n.text for n in page.inside(page.body) if not n.tag and n.visible)
