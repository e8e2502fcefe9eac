"""Tables as GFM has them (GFM 0.29, "Tables (extension)"): one row of headers, each cell one line.

A header within the table is written in bold, blocks in a cell with tags around their Markdown. Which of it is wanted,
and when a table is written in tags instead, is said by the choices.
"""

from __future__ import annotations

import re
from typing import Any

from ..blocks import Block, Break, Cell, CodeBlock, FileLink, Heading, Link, List, Paragraph, Row, Styled, Table, Text
from ..choices import Odd, Writer
from ..serialise import escape_text
from .markdown_inline import inline_markdown

_SIDES = {"left": ":--", "right": "--:", "center": ":-:"}
_LINE = (Paragraph, FileLink)


def gfm_table(block: Table, w: Writer) -> str:
    """A GFM table, or "" where the table holds what is wanted in tags."""
    if not _fits(block, w):
        return ""
    rows = [_without_spans(row) for row in spread(block.rows)]
    width = max(len(row) for row in rows)
    if not width:
        return ""
    header = _is_header(block.rows[0])
    lines = [_row(row, w, at == 0 and header) for at, row in enumerate(rows)]
    sides = [_SIDES.get(_side(rows, k), "---") for k in range(width)]
    rule = "| " + " | ".join(sides) + " |"
    if not header:
        return "\n".join(["|" + "  |" * width, rule, *lines])
    if len(rows[0]) < width:
        lines[0] += "  |" * (width - len(rows[0]))
    return "\n".join([lines[0], rule, *lines[1:]])


def _side(rows: list[tuple[Cell, ...]], column: int) -> str:
    there = [row[column].align for row in (rows[0], rows[-1]) if column < len(row)]
    return next((side for side in there if side), "")


def _is_header(row: Row) -> bool:
    """Whether a row is one of headers: each cell is one, or says nothing."""
    return any(cell.header for cell in row.cells) and all(cell.header or not cell.blocks for cell in row.cells)


def _fits(block: Table, w: Writer) -> bool:
    """Whether everything in a table is wanted as GFM can say it."""
    if not any(row.cells for row in block.rows):
        return False
    first = _is_header(block.rows[0])
    alone = _widths(block)
    for number, row in enumerate(block.rows):
        for cell in row.cells:
            whole = len(row.cells) == 1 and cell.rowspan == 1 and cell.colspan == alone
            if (cell.colspan > 1 or cell.rowspan > 1) and not whole and not w.plain(Odd.SPANS):
                return False
            if cell.header and not (number == 0 and first) and not w.plain(Odd.ROW_HEADERS):
                return False
            rich = len(cell.blocks) > 1 or any(not isinstance(b, _LINE) for b in cell.blocks)
            if rich and not (w.plain(Odd.CELL_BLOCKS) and all(_goes_in_a_cell(b, w) for b in cell.blocks)):
                return False
    return True


def _widths(block: Table) -> int:
    return max(sum(cell.colspan for cell in row.cells) for row in block.rows)


def _goes_in_a_cell(block: Block, w: Writer) -> bool:
    if isinstance(block, List):
        plain = all(item.checked is None for item in block.items)
        return plain and all(_goes_in_a_cell(b, w) for item in block.items for b in item.blocks)
    if isinstance(block, CodeBlock):
        return not any(isinstance(part, Link) for part in block.parts) or w.plain(Odd.CODE_LINKS)
    return isinstance(block, (*_LINE, Heading))


def spread(rows: tuple[Row, ...]) -> list[tuple[Cell | None, ...]]:
    """The rows of a table with every cell at its place (HTML standard 4.9.12): None where one from the side or from
    above reaches."""
    out: list[tuple[Cell | None, ...]] = []
    reach: dict[int, int] = {}  # column -> rows that a cell from above still covers
    for row in rows:
        line: list[Cell | None] = []

        def skip(line: list[Cell | None] = line) -> None:
            while reach.get(len(line), 0) > 0:
                reach[len(line)] -= 1
                line.append(None)

        for cell in row.cells:
            skip()
            for k in range(cell.colspan):
                if cell.rowspan > 1:
                    reach[len(line)] = cell.rowspan - 1
                line.append(cell if k == 0 else None)
        while any(left > 0 for at, left in reach.items() if at >= len(line)):
            if reach.get(len(line), 0) > 0:
                skip()
            else:
                line.append(None)
        out.append(tuple(line))
    return out


_EMPTY = Cell(())


def _without_spans(row: tuple[Cell | None, ...]) -> tuple[Cell, ...]:
    cells = tuple(cell or _EMPTY for cell in row)
    if len(cells) > 1 and cells[0] is not _EMPTY and all(cell is _EMPTY for cell in cells[1:]):
        return (cells[0],)
    return cells


def _row(cells: tuple[Cell, ...], w: Writer, header: bool) -> str:
    shown = [_cell(cell, w, bold=cell.header and not header) for cell in cells]
    return "| " + " | ".join(text.replace("|", "\\|").replace("\n", " ") for text in shown) + " |"


def _cell(cell: Cell, w: Writer, bold: bool) -> str:
    texts = []
    for at, block in enumerate(cell.blocks):
        text = _in_cell(block, w, bold)
        if at and isinstance(block, _LINE) and isinstance(cell.blocks[at - 1], _LINE):
            text = "<br><br>" + text
        texts.append(text)
    return "".join(texts)


def _in_cell(block: Block, w: Writer, bold: bool) -> str:
    if isinstance(block, Paragraph | FileLink | Heading):
        content: tuple[Any, ...] = (block.link,) if isinstance(block, FileLink) else block.content
        if bold:
            content = _bold(content)
        text = inline_markdown(content, w, breaks="<br>", starts=False)
        return f"<h{block.level}>{text}</h{block.level}>" if isinstance(block, Heading) else text
    if isinstance(block, List):
        tag = "ol" if block.ordered else "ul"
        start = f' start="{block.start}"' if block.ordered and block.start != 1 else ""
        items = "".join(f"<li>{_cell(Cell(item.blocks), w, bold)}</li>" for item in block.items)
        return f"<{tag}{start}>{items}</{tag}>"
    assert isinstance(block, CodeBlock)
    links = sum(isinstance(part, Link) for part in block.parts)
    w.left_out.update({Odd.CODE_LINKS: links} if links else {})
    text = re.sub(r"[\\`*_\[\]~!|\n\t ]", lambda m: f"&#{ord(m[0])};", escape_text(block.text.removesuffix("\n")))
    return f"<pre><code>{text}</code></pre>"


def _bold(content: tuple[Any, ...]) -> tuple[Any, ...]:
    shown = [piece for piece in content if isinstance(piece, Text) or not isinstance(piece, Break)]
    return (Styled("strong", content),) if shown else content
