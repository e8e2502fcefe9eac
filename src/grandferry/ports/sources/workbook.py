"""A workbook (XLSX) read in a process of its own: the rows of its first sheet."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from grandferry.core.errors import FerryError

from .apart import lines_apart, write_apart

MOST_UNPACKED = 400_000_000  # bytes, as the parts of the file say of themselves
MOST_PARTS = 5_000
MOST_MEMORY = 1_000_000_000  # bytes of address space
MOST_SECONDS = 120  # of computing, and of waiting
GAP = 10_000  # empty rows one after the other
MOST_ROW = 4_000_000  # letters
_AS_CSV = "Save the sheet as CSV."


def workbook_rows(path: Path) -> Iterator[list[str]]:
    """The rows of a workbook's first sheet as text. Raises FerryError when it cannot be read within the bounds."""
    beyond = FerryError(f"The workbook “{path.name}” needs more memory or time than is given to one.", _AS_CSV)
    return lines_apart(__name__, path, MOST_SECONDS, beyond, _AS_CSV)


def _weigh(path: str) -> str:
    """Why a file is no readable workbook by what it says of itself, "" when it seems to be one."""
    try:
        with zipfile.ZipFile(path) as packed:
            parts = packed.infolist()
    except (zipfile.BadZipFile, NotImplementedError, OSError, ValueError) as problem:
        return f"The workbook cannot be opened ({problem})."
    if any(part.flag_bits & 1 for part in parts):
        return "The workbook is locked with a password."
    if len(parts) > MOST_PARTS or sum(part.file_size for part in parts) > MOST_UNPACKED:
        return f"The workbook unpacks to more than {MOST_UNPACKED:,} bytes."
    return ""


def _or_text(read: Callable[[str], Any]) -> Callable[[str], Any]:
    def tried(value: str) -> Any:
        try:
            return read(value)
        except (ValueError, OverflowError):
            return value

    return tried


def _told(value: Any) -> str:
    return "" if value is None else str(value).strip()


def _rows(path: str) -> Iterator[list[str] | str | None]:
    """Rows; a sentence in the end when the reading fails, None when all was read."""
    import openpyxl  # which takes a while, and most tables are text
    from openpyxl.worksheet import _reader

    # a date or a number that is none stays the text it is, instead of ending the reading
    for name in ("from_ISO8601", "_cast_number"):
        setattr(_reader, name, _or_text(getattr(_reader, name)))
    if fault := _weigh(path):
        yield fault
        return
    number = empty = 0
    try:
        # by an open file, since the name says nothing; it ends with its process
        book = openpyxl.load_workbook(Path(path).open("rb"), read_only=True, data_only=True)  # noqa: SIM115
        for sheet in book.worksheets[:1]:
            sheet.reset_dimensions()  # what the sheet says of its size may be wrong, and cuts rows off
            for row in sheet.iter_rows(values_only=True):
                number += 1
                cells = [_told(cell) for cell in row]
                if sum(map(len, cells)) > MOST_ROW:
                    yield f"Row {number:,} of the workbook holds more than {MOST_ROW:,} letters."
                    return
                empty = 0 if any(cells) else empty + 1
                if empty > GAP:
                    yield f"After row {number - empty:,} of the workbook come more than {GAP:,} empty rows."
                    return
                yield cells
    except Exception as problem:  # a broken workbook makes its reader raise whatever it likes
        told = " ".join(str(problem).split())[:200] or type(problem).__name__
        yield f"The workbook cannot be read after row {number:,} ({told})."
        return
    yield None


def main(path: str) -> None:
    """Write the rows of a workbook to standard output, under bounds of this process."""
    write_apart(_rows(path), MOST_MEMORY, MOST_SECONDS)
