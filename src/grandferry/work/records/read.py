"""Records out of a file of any of the forms that people hand over: a feed or an export file (XML), JSON lines, a table
(CSV of any delimiter, XLSX). What it is is told by what it holds, not by its name."""

from __future__ import annotations

import csv
import gzip
import json
import os
import zlib
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.records.record import Found, Record, Wanted, count
from grandferry.ports.sources.feeds import DamagedFile, moment, records_of
from grandferry.ports.sources.table import look, table_rows
from grandferry.ports.targets.sheet import write_sheet
from grandferry.store.db import now
from grandferry.work.land.items import FORMATS, check_form, write_lines
from grandferry.work.names import safe_cell

LOOK = 65_536  # bytes by which a file is told
MOST_LINE = 64_000_000  # bytes of a line of JSON
# what a column or a name may be called that says one of these of a record
SAYS: dict[str, frozenset[str]] = {
    "address": frozenset("url address link permalink path uri old_url old href".split()),
    "title": frozenset("title name headline subject".split()),
    "kind": frozenset("kind type post_type content_type".split()),
    "state": frozenset("state status post_status".split()),
    "published": frozenset("published date created pubdate post_date published_at created_at".split()),
    "modified": frozenset("modified updated changed updated_at modified_at post_modified".split()),
    "author": frozenset("author creator by writer".split()),
    "summary": frozenset("summary excerpt description teaser".split()),
    "content": frozenset("content body html text".split()),
}


def read_records(path: Path, columns: Mapping[str, str] | None = None) -> Iterator[Record]:
    """The records of a file, one after the other. ``columns``: of a table or of JSON lines, what a column says of a
    record (a name of SAYS) or the field that it becomes; others are told by their names, or are fields under them.
    Raises FerryError for a file that cannot be read, and for a column that is not there."""
    try:
        with path.open("rb") as plain:
            packed = plain.read(2) == b"\x1f\x8b"
        with gzip.open(path) if packed else path.open("rb") as file:
            start = file.read(LOOK).lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n\x00")
            file.seek(0)
            if start.startswith(b"<"):
                yield from records_of(file)
                return
    except (OSError, EOFError, zlib.error) as problem:
        raise FerryError(f"{path.name} cannot be read: {getattr(problem, 'strerror', None) or problem}.") from None
    if packed:
        raise FerryError(f"{path.name} is packed.", "Unpack it first; feeds and export files alone are read packed.")
    if not start:
        raise FerryError(f"{path.name} is empty.")
    rows = _json_rows(path) if start.startswith((b"{", b"[")) else _table_rows(path)
    asked = dict(columns or {})
    missing = set(asked)
    names: dict[str, None] = {}
    for line, row in rows:
        missing.difference_update(row)
        names.update(dict.fromkeys(map(str, row)))
        if missing and not start.startswith(b"{"):
            break  # all rows of a table have the same columns
        yield _record(row, asked, line)
    if missing:
        raise FerryError(
            f"{path.name} has no column “{sorted(missing)[0]}”.", f"It has: {', '.join(list(names)[:40])}."
        )


def _record(row: Mapping[str, Any], asked: Mapping[str, str], line: int) -> Record:
    record = Record(line=line)
    taken: set[str] = set()
    for name, value in row.items():
        plain = str(name).strip().lower().replace(" ", "_").replace("-", "_")
        into = asked.get(name) or next((says for says, names in SAYS.items() if plain in names), "")
        if into in SAYS and into not in taken and isinstance(value, str | int | float) and str(value).strip():
            taken.add(into)
            text = str(value).strip()
            setattr(record, into, (moment(text) or text) if into in ("published", "modified") else text)
        elif value not in (None, "", getattr(record, into) if into in taken else None):
            record.fields[into or plain or str(name)] = value
    return record


def _table_rows(path: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    seen = look(path)
    names = [name or f"column_{n + 1}" for n, name in enumerate(seen.columns)]
    told = seen.address >= 0 and not any(_says_address(name) for name in names)  # by its values, not by its name
    filled = 0
    for number, cells in enumerate(table_rows(path), 1):
        filled += any(cells)
        if filled > seen.head and any(cells):
            row = dict(zip(names, cells, strict=False))
            yield number, row | {"address": row.get(names[seen.address], "")} if told else row


def _says_address(name: str) -> bool:
    return name.strip().lower().replace(" ", "_") in SAYS["address"]


def _json_rows(path: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    with path.open("rb") as file:
        encoding = decode(file.read(LOOK)).encoding
        file.seek(0)
        first = file.read(1)
        file.seek(0)
        if first == b"[":
            raise FerryError(f"{path.name} is one list in JSON, not JSON lines.", "Write one object on each line.")
        number = 0
        while line := file.readline(MOST_LINE + 1):
            number += 1
            if len(line) > MOST_LINE:
                raise FerryError(f"Line {number:,} of {path.name} holds more than {MOST_LINE:,} bytes.")
            text = line.decode(encoding, "replace").strip().lstrip("\ufeff")
            if not text:
                continue
            try:
                row = json.loads(text)
            except (ValueError, RecursionError) as problem:
                raise FerryError(f"Line {number:,} of {path.name} is no JSON: {problem}.") from None
            if not isinstance(row, dict):
                raise FerryError(f"Line {number:,} of {path.name} is no object: {text[:60]}.")
            yield number, row


def write_records(
    path: Path, wanted: Wanted, out: Path | None, columns: Mapping[str, str] | None = None
) -> tuple[Found, str]:
    """Count the records that are meant and, with ``out``, write them by its ending; gives what they are, and where the
    file is damaged ("" where it is not: what stands before that is counted and written). What stood at ``out`` before
    is replaced only when all is written. Raises FerryError."""
    damaged: list[str] = []

    def meant() -> Iterator[Record]:
        try:
            yield from (record for record in read_records(path, columns) if wanted.holds(record))
        except DamagedFile as problem:
            damaged.append(str(problem))

    if out is None:
        found = count(meant())
        return found, "".join(damaged)
    check_form(out)
    fresh = out.with_name(f".{out.name}.{os.getpid()}")
    kept: list[Record] = []

    def rows() -> Iterator[dict[str, Any]]:
        for record in meant():
            kept.append(_bare(record))
            yield record.as_json()

    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        if out.suffix.lower() == FORMATS[0]:
            write_lines(fresh, rows())
        else:
            _write_table(fresh, out.suffix.lower(), list(rows()))
        os.replace(fresh, out)
    except OSError as problem:
        raise FerryError(f"{out} cannot be written: {problem.strerror}.") from None
    finally:
        fresh.unlink(missing_ok=True)
    return count(kept), "".join(damaged)


def _bare(record: Record) -> Record:
    """A record without what it says, which is all that counting needs."""
    return Record(
        record.kind,
        record.state,
        address=record.address,
        published=record.published,
        author=record.author,
        terms=record.terms,
        comments=record.comments,
        files=record.files,
    )


def _write_table(fresh: Path, form: str, rows: list[dict[str, Any]]) -> None:
    plain = [name for name in Record.__slots__ if name not in ("terms", "comments", "files", "fields", "line")]
    sorts = list(dict.fromkeys(sort for row in rows for sort in row["terms"]))
    named = list(dict.fromkeys(name for row in rows for name in row["fields"]))
    columns = (
        *plain,
        *(f"terms: {sort}" for sort in sorts),
        "comments",
        "files",
        *(f"field: {name}" for name in named),
    )
    cells = (
        [
            *(safe_cell(row[name]) for name in plain),
            *(safe_cell("; ".join(row["terms"].get(sort, []))) for sort in sorts),
            len(row["comments"]),
            safe_cell("; ".join(row["files"])),
            *(safe_cell(str(row["fields"].get(name, ""))) for name in named),
        ]
        for row in rows
    )
    if form == ".xlsx":
        write_sheet(fresh, "records", columns, cells, now())
        return
    with fresh.open("w", encoding="utf-8-sig", errors="surrogatepass", newline="") as handle:
        lines = csv.writer(handle)
        lines.writerow(columns)
        lines.writerows(cells)
