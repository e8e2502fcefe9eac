"""Writers: blocks to Markdown, HTML, plain text, and the JSON document."""

from __future__ import annotations

import json
from collections.abc import Callable

from ..blocks import FORMAT, Block, to_json
from .html import to_html
from .markdown import Written, to_markdown, write_markdown
from .text import to_text


def to_json_text(blocks: tuple[Block, ...]) -> str:
    """Blocks as a document (``core.refit.document``)."""
    return json.dumps({"format": FORMAT, "blocks": to_json(blocks)}, ensure_ascii=False, indent=1) + "\n"


WRITERS: dict[str, tuple[str, Callable[[tuple[Block, ...]], str]]] = {
    "markdown": (".md", to_markdown),
    "html": (".html", to_html),
    "blocks": (".json", to_json_text),
    "text": (".txt", to_text),
}

__all__ = ["WRITERS", "to_html", "to_json_text", "to_markdown", "to_text", "Written", "write_markdown"]
