"""Things shown or played from elsewhere."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from ...page import Node
from ..blocks import Block, Embed

if TYPE_CHECKING:
    from .reader import Reader

_SORTS = {
    "iframe": "frame",
    "frame": "frame",
    "video": "video",
    "audio": "audio",
    "object": "object",
    "embed": "object",
}
TAGS = frozenset(_SORTS)


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    source = node.get("src") or node.get("data") or node.get("data-src")
    if not source:
        source = next(
            (n.get("src") for n in reader.page.inside(node) if n.tag in ("source", "embed") and n.get("src")), ""
        )
    if not source:
        return None
    title = node.get("title") or node.get("aria-label") or node.get("name")
    return [Embed(reader.link(source.strip()), _SORTS[node.tag], title, node.n)]
