"""Things shown or played from elsewhere."""

from __future__ import annotations

from collections.abc import Sequence

from ...page import Node
from ...references import media_source, picture_source, runs_script
from ..blocks import Block, Embed, Source, Track
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
        named = (media_source(n.tag, n.attrs) for n in reader.page.inside(node)[1:] if n.tag in ("source", "embed"))
        source = next((s for s in named if s), "")
    if not source or runs_script(source):
        return None
    inside = reader.page.inside(node)[1:]
    sources, tracks = [], []
    if node.tag in ("video", "audio"):
        for inner in inside:
            other = media_source(inner.tag, inner.attrs).strip()
            if not other or runs_script(other):
                continue
            if inner.tag == "source" and other != source.strip():
                sources.append(Source(reader.link(other), inner.get("type")))
            elif inner.tag == "track":
                said = inner.get("kind"), inner.get("srclang"), inner.get("label")
                tracks.append(Track(reader.link(other), *said, inner.n))
    title = node.get("title") or node.get("aria-label") or node.get("name")
    poster = picture_source(node.tag, node.attrs) if node.tag == "video" else ""
    shown = reader.link(poster) if poster else ""
    address = reader.link(source.strip())
    return [Embed(address, _SORTS[node.tag], title, shown, node.n, tuple(sources), tuple(tracks))]
