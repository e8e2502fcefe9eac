"""Tables with spans, header cells and captions; tables used for layout are read as their cells in order."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ...page import Node
from ..anchors import placed
from ..blocks import Anchor, Block, Cell, CodeBlock, Row, Styled, Table, Text
from .base import Reader, TableInDoubt, Wrap
from .evidence import cells_of, evidence, rows_of

TAGS = frozenset(["table", "tr", "td", "th", "tbody", "thead", "tfoot", "caption"])
_SPAN_CAP = 1000


def read(node: Node, reader: Reader) -> Sequence[Block] | None:
    if node.tag == "th":  # in a table of layout it is a line in bold
        reader.wraps.append(Wrap(lambda content: (Styled("strong", content),)))
        blocks = reader.flow(node.children)
        reader.wraps.pop()
        return blocks
    if node.tag != "table":
        return reader.flow(node.children)
    if (code := _numbered_code(node, reader)) is not None:
        return code
    seen = evidence(node, reader.page)
    said = reader.treated.get(node.n)  # by a step
    decided = said in ("layout", "data")
    layout = said == "layout" if decided else seen.layout
    if not decided:
        reader.doubts.extend([TableInDoubt(node.n, seen)] if seen.doubtful else [])
    if layout:
        return reader.flow(node.children)
    caption = next((c for c in node.children if c.tag == "caption" and c.n not in reader.removed), None)
    wraps, reader.wraps = reader.wraps, [wrap for wrap in reader.wraps if wrap.link]
    rows = []
    for row in rows_of(node):
        if row.n in reader.removed:
            continue
        cells = tuple(_cell(cell, reader) for cell in cells_of(row) if cell.n not in reader.removed)
        if cells:
            rows.append(Row(_named(row, cells, reader)))
    line = reader.laid(reader.named_line(caption)) if caption is not None else ()
    reader.wraps = wraps
    if not rows:
        return reader.flow(caption.children) if caption is not None else []
    return [Table(tuple(rows), line, node.n)]


def _numbered_code(table: Node, reader: Reader) -> Sequence[Block] | None:
    """Code with the numbers of its lines in a cell beside it: one row, numbers that count up, and a block of code."""
    rows = list(rows_of(table))
    cells = cells_of(rows[0]) if len(rows) == 1 else []
    if len(cells) != 2 or any(cell.n in reader.removed for cell in cells):
        return None
    numbers = [n for n in reader.page.inside(cells[0]) if not n.tag and n.text.strip()]
    said = " ".join(n.text for n in numbers).split()
    if not said or not all(word.isdecimal() for word in said):
        return None
    counted = [int(word) for word in said]
    blocks = reader.flow(cells[1].children)
    if counted != list(range(counted[0], counted[0] + len(counted))) or len(blocks) != 1:
        return None
    (code,) = blocks
    if not isinstance(code, CodeBlock):
        return None
    return [replace(code, numbers=tuple(Text(n.text, n.n) for n in numbers))]


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
