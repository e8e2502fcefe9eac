"""Items as a table or as JSON lines: old and new address, kind, every field by its name."""

from __future__ import annotations

import csv
import json
import os
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from grandferry.core.errors import FerryError
from grandferry.core.lift.schema import ALWAYS, column_of
from grandferry.core.refit.choices import Odd, WrittenAs
from grandferry.core.refit.write import to_markdown, to_text
from grandferry.ports.targets.sheet import write_sheet
from grandferry.store import crossings
from grandferry.work.land.content import Blocks, Content, Contents
from grandferry.work.names import safe_cell

FORMATS = (".jsonl", ".csv", ".xlsx")


def check_form(out: Path) -> None:
    """Raise FerryError for an ending that this version does not write."""
    if out.suffix.lower() not in FORMATS:
        raise FerryError(
            f"“{out.name}” ends in a form that items are not written in.", f"One of: {', '.join(FORMATS)}."
        )


def row_of(content: Content, choices: Mapping[Odd, WrittenAs]) -> dict[str, Any]:
    """An item as a row. A body has two columns, ``NAME_text`` and ``NAME_markdown``; a field that is called as one of
    ALWAYS is, has an underscore behind its name."""
    item, kind, fields = content
    row: dict[str, Any] = {"old": item.key, "new": item.new_path, "kind": kind.name}
    for field in kind.fields:
        value = fields[field.name]
        if field.type == "blocks":
            blocks = value.blocks if isinstance(value, Blocks) else ()
            row[f"{field.name}_text"] = to_text(blocks)
            row[f"{field.name}_markdown"] = to_markdown(blocks, choices)
        else:
            row[column_of(field.name)] = value
    return row


def item_rows(crossing: int, kind: str = "") -> Iterator[dict[str, Any]]:
    """A row for each item, those without a new address as well, or for those of one kind. Raises FerryError for a kind
    that the plan has not got."""
    plan = crossings.load_plan(crossing)
    names = [one.name for one in plan.every_kind]
    if kind and kind not in names:
        raise FerryError(f"There is no kind “{kind}”.", f"There are: {', '.join(names) or 'none'}.")
    choices = plan.refit.choices
    return (row_of(one, choices) for one in Contents(crossing, plan, every=True) if not kind or one.kind.name == kind)


def write_items(crossing: int, out: Path, kind: str = "") -> int:
    """Write the items by the ending of ``out``; gives their number. What stood there before is replaced only when all
    is written. Raises FerryError when the file cannot be written."""
    check_form(out)
    rows = item_rows(crossing, kind)
    fresh = out.with_name(f".{out.name}.{os.getpid()}")
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        if out.suffix.lower() == ".jsonl":
            number = write_lines(fresh, rows)
        else:
            number = _write_table(crossing, fresh, out.suffix.lower(), list(rows))
        os.replace(fresh, out)
    except OSError as problem:
        raise FerryError(f"{out} cannot be written: {problem.strerror}.") from None
    finally:
        fresh.unlink(missing_ok=True)
    return number


def write_lines(path: Path, rows: Iterator[dict[str, Any]]) -> int:
    """Write rows as JSON lines; gives their number."""
    number = 0
    with path.open("w", encoding="utf-8", errors="surrogatepass") as handle:
        for row in rows:
            handle.write(json.dumps(row, ensure_ascii=False) + "\n")
            number += 1
    return number


def _write_table(crossing: int, fresh: Path, form: str, rows: list[dict[str, Any]]) -> int:
    columns = tuple(dict.fromkeys(name for row in rows for name in row)) or ALWAYS
    cells = ([_cell(row.get(name)) for name in columns] for row in rows)
    if form == ".xlsx":
        return write_sheet(fresh, "items", columns, cells, crossings.last_change(crossing))
    with fresh.open("w", encoding="utf-8-sig", errors="surrogatepass", newline="") as handle:
        lines = csv.writer(handle)
        lines.writerow(columns)
        lines.writerows(cells)
    return len(rows)


def _cell(value: Any) -> object:
    if value is None:
        return ""
    if isinstance(value, list) and all(isinstance(one, str) for one in value):
        return safe_cell("; ".join(value))
    return json.dumps(value, ensure_ascii=False) if isinstance(value, dict | list) else safe_cell(value)
