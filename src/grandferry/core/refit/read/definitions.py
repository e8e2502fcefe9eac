"""Definition lists, also with their entries boxed in ``div``."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ...page import Node
from ..blocks import Block, Definitions, Entry, Inline
from .base import Reader

TAGS = frozenset(["dl", "dt", "dd"])


def _parts(node: Node) -> Iterator[Node]:
    for child in node.children:
        if child.tag == "div":
            yield from _parts(child)
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

    for part in _parts(node):
        if part.n in reader.removed:
            continue
        if part.tag == "dt":
            if meanings:
                close()
            terms.append(reader.named_line(part))
        else:
            blocks = reader.inside(part) if part.tag == "dd" else reader.flow([part])
            if blocks or part.tag == "dd":
                meanings.append(tuple(blocks))
    close()
    return [Definitions(tuple(entries), node.n)] if entries else []
