"""Records of a comparison: in what two plans differ over the pages of a crossing. The newest alone is kept."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from .db import Part, many, one, rows


class DifferenceRow(NamedTuple):
    """A field of a page whose value differs; ``field`` "" stands for words that only one of the two carries."""

    address: int
    kind_before: str
    kind_after: str
    field: str
    before: Any
    after: Any
    only_before: int
    only_after: int


class ListedDifference(NamedTuple):
    """A difference with the page that it is of."""

    address: int
    key: str
    title: str
    kind_before: str
    kind_after: str
    field: str
    before: Any
    after: Any
    only_before: int
    only_after: int


def put(crossing: int, found: list[DifferenceRow]) -> None:
    """Keep the differences in the place of those of before."""
    rows("DELETE FROM difference WHERE crossing_id = ?", crossing)
    many(
        "INSERT INTO difference (crossing_id, position, address_id, kind_before, kind_after, field, before, after, "
        "only_before, only_after) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (
                crossing, n, row.address, row.kind_before, row.kind_after, row.field, json.dumps(row.before),
                json.dumps(row.after), row.only_before, row.only_after,
            )
            for n, row in enumerate(found)
        ],
    )  # fmt: skip


def window(crossing: int, field: str | None, offset: int, limit: int) -> tuple[int, list[ListedDifference]]:
    """(total, rows) of differences in the order of pages; of one ``field``, or of all."""
    where = Part("d.crossing_id = ?", crossing).any_of("d.field", [field] if field is not None else [])
    found = rows(
        "SELECT d.address_id, a.key, a.title, d.kind_before, d.kind_after, d.field, d.before, d.after, d.only_before, "
        f"d.only_after FROM difference d JOIN address a ON a.id = d.address_id WHERE {where.sql} ORDER BY d.position "
        "LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    listed = [ListedDifference(*row[:6], json.loads(row[6]), json.loads(row[7]), *row[8:]) for row in found]
    return int(one(f"SELECT count(*) FROM difference d WHERE {where.sql}", *where.values)), listed
