"""Tables with spans, header cells and captions; tables used for layout are read as their cells in order."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from ...page import Node
from ..anchors import placed
from ..blocks import Anchor, Block, Cell, Row, Table
from .base import Reader

TAGS = frozenset(["table", "tr", "td", "th", "tbody", "thead", "tfoot", "caption"])
_HEADINGS = frozenset(["h1", "h2", "h3", "h4", "h5", "h6", "hr", "form"])
_SPAN_CAP = 1000


def _rows(table: Node) -> Iterator[Node]:
    for child in table.children:
        if child.tag == "tr":
            yield child
        elif child.tag in ("thead", "tbody", "tfoot"):
            yield from (row for row in child.children if row.tag == "tr")


def _cells(row: Node) -> list[Node]:
    return [cell for cell in row.children if cell.tag in ("td", "th")]


def is_layout(table: Node, reader: Reader) -> bool:
    """Whether a table arranges parts of the page instead of holding data."""
    if table.get("role").lower() in ("presentation", "none"):
        return True
    rows = [_cells(row) for row in _rows(table)]
    width = max((len(row) for row in rows), default=0)
    if width == 0 or (width == 1 and len(rows) == 1):
        return True
    inside = reader.page.inside(table)[1:]
    if any(n.tag in ("th", "caption") for n in inside):
        return False
    return any(n.tag == "table" or n.tag in _HEADINGS for n in inside)


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag != "table":
        return reader.flow(node.children)
    if is_layout(node, reader):
        blocks: list[Block] = []
        for child in node.children:
            if child.n not in reader.removed:
                blocks.extend(reader.block(child) if child.tag else reader.flow([child]))
        return blocks
    caption = next((c for c in node.children if c.tag == "caption" and c.n not in reader.removed), None)
    wraps, reader.wraps = reader.wraps, [wrap for wrap in reader.wraps if wrap.link]
    rows = []
    for row in _rows(node):
        if row.n in reader.removed:
            continue
        cells = tuple(_cell(cell, reader) for cell in _cells(row) if cell.n not in reader.removed)
        if cells:
            rows.append(Row(_named(row, cells, reader)))
    line = reader.laid(reader.named_line(caption)) if caption is not None else ()
    reader.wraps = wraps
    if not rows:
        return reader.flow(caption.children) if caption is not None else []
    return [Table(tuple(rows), line, node.n)]


def _named(row: Node, cells: tuple[Cell, ...], reader: Reader) -> tuple[Cell, ...]:
    """The cells of a row with its anchor, and that of the part of the table that it begins, in the first of them."""
    part = row.parent
    holders = [row] if part is None or part.tag == "table" or part.children[0] is not row else [row, part]
    found: list[Anchor] = [anchor for holder in holders if (anchor := reader.anchor(holder)) is not None]
    for anchor in found:
        first = cells[0]
        cells = (replace(first, blocks=tuple(placed(anchor, first.blocks, first.node))), *cells[1:])
    return cells


def _cell(node: Node, reader: Reader) -> Cell:
    align = node.get("align").lower()
    style = node.get("style").replace(" ", "").lower()
    for side in ("left", "right", "center"):
        if align == side or f"text-align:{side}" in style:
            align = side
            break
    else:
        align = ""
    return Cell(
        tuple(reader.inside(node)),
        node.tag == "th",
        _span(node.get("colspan")),
        _span(node.get("rowspan")),
        align,
        node.n,
    )


def _span(text: str) -> int:
    try:
        return min(max(1, int(text)), _SPAN_CAP) if text else 1
    except ValueError:
        return 1
