"""Things shown or played from elsewhere."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ...references import media_source, picture_source, runs_script
from ..blocks import Block, Embed
from .base import Reader

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
    source = media_source(node.tag, node.attrs)
    if not source:  # the first of its sources, as a browser that plays all of them takes it
        inner = (media_source(n.tag, n.attrs) for n in reader.page.inside(node)[1:] if n.tag in ("source", "embed"))
        source = next((s for s in inner if s), "")
    if not source or runs_script(source):
        return None
    title = node.get("title") or node.get("aria-label") or node.get("name")
    poster = picture_source(node.tag, node.attrs) if node.tag == "video" else ""
    return [Embed(reader.link(source.strip()), _SORTS[node.tag], title, reader.link(poster) if poster else "", node.n)]
