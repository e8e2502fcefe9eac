"""Tables as people hand them over: CSV of any delimiter and encoding, or a workbook (XLSX). Read as rows of text."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from pathlib import Path

from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError

from .workbook import workbook_rows

DELIMITERS = ",;\t|"
LOOK = 40  # rows looked at to understand a table
MOST_DIGITS = 15  # of a count
MOST_CELL = 1_000_000  # letters
MOST_CELLS = 10_000_000  # of a table
csv.field_size_limit(MOST_CELL)
_ADDRESS_WORDS = ("url", "address", "page", "path", "link", "location", "uri", "adresse", "seite")
_TITLE_WORDS = ("title", "heading", "h1", "name", "titel")
_VISITS_WORDS = (
    "pageview",
    "page view",
    "views",
    "visits",
    "sessions",
    "hits",
    "requests",
    "clicks",
    "users",
    "aufrufe",
)


_HOST_AND_PATH = re.compile(r"(?i)[a-z0-9-]+(?:\.[a-z0-9-]+)+(?::\d+)?/")


@dataclass(frozen=True, slots=True)
class TableLook:
    """A table's columns, its first rows, and the columns that seem to hold addresses, visits and titles (-1: none)."""

    columns: list[str]
    rows: list[list[str]]
    address: int
    visits: int
    head: int  # rows above the first row of values
    title: int = -1


def is_workbook(path: Path) -> bool:
    with path.open("rb") as handle:
        return handle.read(4) == b"PK\x03\x04"


def table_rows(path: Path) -> Iterator[list[str]]:
    """All rows of a table as text, one after the other. Raises FerryError when the file is no table, or too large a
    one."""
    cells = 0
    for row in _all_rows(path):
        cells += len(row)
        if cells > MOST_CELLS:
            raise FerryError(f"The table has more than {MOST_CELLS:,} cells.", "Leave out columns, or divide it.")
        yield row


def _all_rows(path: Path) -> Iterator[list[str]]:
    if is_workbook(path):
        yield from workbook_rows(path)  # by its content: an upload's name says nothing
        return
    with path.open("rb") as handle:
        start = handle.read(200_000)
    decoded = decode(start.rsplit(b"\n", 1)[0] if len(start) == 200_000 else start)
    delimiter = guess_delimiter(decoded.text)
    # lines end as they do in any of the usual systems, also those that end with a bare carriage return
    with path.open("r", encoding=decoded.encoding, errors="replace") as text:
        if text.read(1) != "\ufeff":
            text.seek(0)
        reader = csv.reader(text, delimiter=delimiter)
        try:
            for row in reader:
                yield [cell.strip() for cell in row]
        except csv.Error as problem:
            told = f"The table cannot be read in line {reader.line_num:,}: {problem}."
            if "field larger" in str(problem):
                told = f"A cell that ends after line {reader.line_num:,} holds more than {MOST_CELL:,} letters."
            raise FerryError(told, "Is a quotation mark left open there?") from None


def guess_delimiter(text: str) -> str:
    """The delimiter that cuts the first lines into the same number of cells, more than one; a comma else."""
    best = (0, ",")
    for delimiter in DELIMITERS:
        lines = csv.reader(io.StringIO(text, newline=None), delimiter=delimiter)
        counts = [len(row) for row in islice(lines, LOOK) if row]
        many = [n for n in counts if n > 1]
        if many:
            common = max(set(many), key=many.count)
            best = max(best, (many.count(common) * min(common, 20), delimiter))
    return best[1]


def _like_address(cell: str) -> bool:
    return " " not in cell and (
        cell.startswith(("/", "http://", "https://", "www.")) or bool(_HOST_AND_PATH.match(cell))
    )


def _like_number(cell: str) -> bool:
    return cell.replace(",", "").replace(".", "").replace("\u00a0", "").replace(" ", "").isdigit()


def look(path: Path) -> TableLook:
    """Understand a table by its first rows. Lines of remarks above the head are passed over."""
    found = [row for row in islice(table_rows(path), LOOK) if any(row)]
    width = max((len(row) for row in found), default=0)
    wide = [n for n, row in enumerate(found) if sum(1 for c in row if c) >= max(1, (width + 1) // 2)]
    top = wide[0] if wide else 0
    rows = [row + [""] * (width - len(row)) for row in found[top:]]
    if not rows:
        raise FerryError("The table is empty.")
    first = rows[0]
    headed = not any(_like_address(c) or _like_number(c) for c in first)
    columns = (
        [c or f"column {n + 1}" for n, c in enumerate(first)] if headed else [f"column {n + 1}" for n in range(width)]
    )
    values = rows[1:] if headed else rows

    def best(words: tuple[str, ...], fits: object) -> int:
        scores = []
        for n in range(width):
            cells = [row[n] for row in values if row[n]]
            share = sum(1 for c in cells if fits(c)) / len(cells) if cells else 0.0  # type: ignore[operator]
            named = any(word in columns[n].lower() for word in words)
            scores.append((share >= 0.6, named, share, -n))
        top = max(scores)
        return -top[3] if top[0] else -1

    address = best(_ADDRESS_WORDS, _like_address)
    visits = best(_VISITS_WORDS, _like_number)
    if visits == address or not (visits >= 0 and any(w in columns[visits].lower() for w in _VISITS_WORDS)):
        visits = -1
    title = next((n for n, name in enumerate(columns) if n != address and _is_title(name)), -1) if headed else -1
    return TableLook(columns, values[:8], address, visits, top + int(headed), title)


def _is_title(column: str) -> bool:
    return any(word in column.lower() for word in _TITLE_WORDS)


def number(cell: str) -> int:
    """A count as people write it (1,204 or 1 204 or 1.204); 0 when it is none."""
    digits = cell.replace("\u00a0", "").replace(" ", "").replace(",", "").replace(".", "")
    return int(digits) if digits.isdecimal() and len(digits) <= MOST_DIGITS else 0
