"""Lists given out: the addresses of a survey as CSV or JSON."""

from __future__ import annotations

import csv
import io
import json
from pathlib import Path

from grandferry.core.errors import FerryError
from grandferry.store.survey import address_rows

COLUMNS = (
    "address",
    "status",
    "type",
    "target",
    "title",
    "depth",
    "found_by",
    "linked_from",
    "words",
    "bytes",
    "mime",
    "visits",
    "in_links",
    "note",
)
FORMATS = (".csv", ".json")


def safe_cell(value: object) -> object:
    """A cell that no spreadsheet takes for a formula."""
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + value
    return value


def check_format(out: Path) -> None:
    """Raise FerryError for an ending that this version does not write."""
    if out.suffix.lower() not in FORMATS:
        raise FerryError(f"“{out.name}” ends in a form this version does not write.", f"One of: {', '.join(FORMATS)}.")


def write_addresses(crossing: int, out: Path) -> None:
    """Write one row an address. Raises FerryError when the file cannot be written."""
    check_format(out)
    found = address_rows(crossing)
    if out.suffix.lower() == ".json":
        text = json.dumps(found, ensure_ascii=False, indent=1) + "\n"
    else:
        buffer = io.StringIO(newline="")
        writer = csv.writer(buffer, lineterminator="\n")
        writer.writerow(COLUMNS)
        writer.writerows([safe_cell(row[name]) for name in COLUMNS] for row in found)
        text = buffer.getvalue()
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        out.write_text(text, "utf-8")
    except OSError as problem:
        raise FerryError(f"{out} cannot be written: {problem.strerror}.") from None
