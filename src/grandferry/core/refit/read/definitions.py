"""Definition lists, also with their entries boxed in ``div``."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ...page import Node
from ..anchors import placed
from ..blocks import Anchor, Block, Definitions, Entry, Inline
from .base import Reader

TAGS = frozenset(["dl", "dt", "dd"])


def _parts(node: Node, reader: Reader, boxes: list[Anchor]) -> Iterator[Node]:
    """The terms and meanings, also those in boxes; the boxes' own anchors are put to ``boxes`` as they are met."""
    for child in node.children:
        if child.tag == "div":
            if child.n not in reader.removed:
                if (anchor := reader.anchor(child)) is not None:
                    boxes.append(anchor)
                yield from _parts(child, reader, boxes)
        else:
            yield child


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag != "dl":
        return reader.flow(node.children)
    entries: list[Entry] = []
    terms: list[tuple[Inline, ...]] = []
    meanings: list[tuple[Block, ...]] = []

    def close() -> None:
        if terms or meanings:
            entries.append(Entry(tuple(terms), tuple(meanings)))
        terms.clear()
        meanings.clear()

    boxes: list[Anchor] = []
    for part in _parts(node, reader, boxes):
        if part.n in reader.removed:
            continue
        if part.tag == "dt":
            if meanings:
                close()
            terms.append((*boxes, *reader.laid(reader.named_line(part))))
            boxes.clear()
        else:
            blocks = reader.inside(part) if part.tag == "dd" else reader.flow([part])
            if blocks or part.tag == "dd":
                for anchor in reversed(boxes):
                    blocks = placed(anchor, blocks, part.n)
                boxes.clear()
                meanings.append(tuple(blocks))
    close()
    return [Definitions(tuple(entries), node.n)] if entries else []
