"""Tables as XLSX (ISO/IEC 29500), written row by row, so that a long list takes no more memory than a short one."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # it takes a while to import, and most runs write no sheet
    from openpyxl import Workbook

ROWS = 1_048_576  # the format's own limit for a sheet
CELL = 32_767  # characters of a cell
_NOT_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def _cell(value: object) -> object:
    if isinstance(value, str):
        return _NOT_XML.sub("\ufffd", value)[:CELL]
    return value


Sheet = tuple[str, tuple[str, ...], Iterable[Iterable[object]]]


def write_sheet(out: Path, title: str, columns: tuple[str, ...], rows: Iterable[Iterable[object]]) -> int:
    """Write a workbook with one sheet. Gives the number of rows (see ``write_sheets``)."""
    return write_sheets(out, [(title, columns, rows)])[0]


def write_sheets(out: Path, sheets: Iterable[Sheet]) -> list[int]:
    """Write a workbook of sheets (title, columns, rows), each with a first line of its columns' names, kept in sight.
    Gives the number of rows of each.

    Every text is stored as text, so that nothing in it is taken for a formula. Rows beyond a sheet's limit go on in a
    further sheet.
    """
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    numbers = [_add(book, *sheet) for sheet in sheets]
    book.save(out)
    return numbers


def _add(book: Workbook, title: str, columns: tuple[str, ...], rows: Iterable[Iterable[object]]) -> int:
    from openpyxl.cell import WriteOnlyCell
    from openpyxl.styles import Font

    number = 0
    sheet = None
    for row in rows:
        if number % (ROWS - 1) == 0:
            sheet = book.create_sheet(title if not number else f"{title} {number // (ROWS - 1) + 1}")
            sheet.freeze_panes = "A2"
            head = []
            for name in columns:
                cell = WriteOnlyCell(sheet, value=name)
                cell.font = Font(bold=True)
                head.append(cell)
            sheet.append(head)
        assert sheet is not None
        line = []
        for value in row:
            cell = WriteOnlyCell(sheet, value=_cell(value))
            if isinstance(value, str):
                cell.data_type = "s"
            line.append(cell)
        sheet.append(line)
        number += 1
    if sheet is None:
        book.create_sheet(title).append(list(columns))
    return number
