"""Tables as XLSX (ISO/IEC 29500), written row by row, so that a long list takes no more memory than a short one."""

from __future__ import annotations

import csv
import io
import re
import shutil
import zipfile
from collections.abc import Iterable
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # it takes a while to import, and most runs write no sheet
    from openpyxl import Workbook

ROWS = 1_048_576  # the format's own limit for a sheet
_TIME = re.compile(rb"(<dcterms:(?:created|modified)[^>]*>)[^<]*(</)")
CELL = 32_767  # characters of a cell
_NOT_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff\ud800-\udfff]")


def _cell(value: object) -> object:
    if isinstance(value, str):
        return _NOT_XML.sub("\ufffd", value)[:CELL]
    return value


Sheet = tuple[str, tuple[str, ...], Iterable[Iterable[object]]]


def write_sheet(out: Path, title: str, columns: tuple[str, ...], rows: Iterable[Iterable[object]], at: str) -> int:
    """Write a workbook with one sheet. Gives the number of rows (see ``write_sheets``)."""
    return write_sheets(out, [(title, columns, rows)], at)[0]


def write_table(out: Path, title: str, columns: tuple[str, ...], rows: Iterable[Iterable[object]], at: str) -> None:
    """Write a table as a workbook, or as CSV, by the ending of ``out``."""
    if out.name.lower().endswith(".xlsx"):
        write_sheet(out, title, columns, rows, at)
        return
    text = io.StringIO()
    lines = csv.writer(text)
    lines.writerow(columns)
    lines.writerows(rows)
    out.write_text(text.getvalue(), "utf-8-sig", newline="")  # the mark by which spreadsheets know UTF-8


def write_sheets(out: Path, sheets: Iterable[Sheet], at: str) -> list[int]:
    """Write a workbook of sheets (title, columns, rows), each with a first line of its columns' names, kept in sight.
    ``at`` is the moment (ISO 8601) it is said to be of: the same rows give the same bytes. Gives the number of rows of
    each.

    Every text is stored as text, so that nothing in it is taken for a formula. Rows beyond a sheet's limit go on in a
    further sheet.
    """
    from openpyxl import Workbook

    book = Workbook(write_only=True)
    numbers = [_add(book, *sheet) for sheet in sheets]
    book.save(out)
    _date(out, datetime.fromisoformat(at).astimezone(UTC))
    return numbers


def _date(out: Path, at: datetime) -> None:
    """Set every time that a workbook holds."""
    moment = at.strftime("%Y-%m-%dT%H:%M:%SZ").encode()
    dated = out.with_name(f"{out.name}.dated")
    with zipfile.ZipFile(out) as old, zipfile.ZipFile(dated, "w", zipfile.ZIP_DEFLATED) as new:
        for info in old.infolist():
            entry = zipfile.ZipInfo(info.filename, (max(1980, at.year), *at.timetuple()[1:6]))
            entry.compress_type, entry.external_attr = zipfile.ZIP_DEFLATED, 0o600 << 16
            with old.open(info) as part, new.open(entry, "w") as written:
                if info.filename == "docProps/core.xml":
                    written.write(_TIME.sub(rb"\g<1>" + moment + rb"\g<2>", part.read()))
                else:
                    shutil.copyfileobj(part, written)
    dated.replace(out)


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
