"""Records of sorting: which kind each page is in."""

from __future__ import annotations

import json
from typing import Any

from .db import many, named, one, rows


def store_sorted(crossing: int, sorted_: list[tuple[int, str, int, str]]) -> None:
    """Rows (address, kind, rule, also as JSON)."""
    many(
        "INSERT INTO sorted (address_id, crossing_id, kind, rule, also) VALUES (?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET "
        "kind = excluded.kind, rule = excluded.rule, also = excluded.also",
        [(address, crossing, kind, rule, also) for address, kind, rule, also in sorted_],
    )


def kind_counts(crossing: int) -> dict[str, int]:
    """Pages by kind; "" are the unsorted ones."""
    return dict(rows("SELECT kind, count(*) FROM sorted WHERE crossing_id = ? GROUP BY kind", crossing))


def double_fits(crossing: int) -> list[dict[str, Any]]:
    """Pages that more than one kind would take: key, the kind that has it, and those that would fit as well."""
    return [
        {"address": address, "key": key, "kind": kind, "also": json.loads(also)}
        for address, key, kind, also in rows(
            "SELECT a.id, a.key, s.kind, s.also FROM sorted s JOIN address a ON a.id = s.address_id "
            "WHERE s.crossing_id = ? AND s.also != '[]' ORDER BY a.key",
            crossing,
        )
    ]


def unsorted_pages(crossing: int) -> list[str]:
    """The keys of pages that no rule caught."""
    return [
        row[0]
        for row in rows(
            "SELECT a.key FROM sorted s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND s.kind = '' "
            "ORDER BY a.key",
            crossing,
        )
    ]


def pages_of_kind(crossing: int, kind: str) -> list[tuple[Any, ...]]:
    """(address id, url, key, body hash, content type header JSON) of a kind's pages, in order of their keys."""
    return rows(
        "SELECT a.id, a.url, a.key, c.body, c.headers FROM sorted s JOIN address a ON a.id = s.address_id "
        "JOIN capture c ON c.id = a.capture WHERE s.crossing_id = ? AND s.kind = ? ORDER BY a.key",
        crossing,
        kind,
    )


def unsorted_rows(crossing: int, most: int) -> list[dict[str, Any]]:
    """Pages no rule caught, and pages that were not sorted yet."""
    return named(
        ("address", "key", "title"),
        "SELECT a.id, a.key, a.title FROM address a LEFT JOIN sorted s ON s.address_id = a.id WHERE a.crossing_id = ? "
        "AND a.side = 'old' AND a.sort = 'page' AND a.status = 200 AND coalesce(s.kind, '') = '' ORDER BY a.key LIMIT ?",
        crossing,
        most,
    )


def page_count(crossing: int) -> int:
    return int(
        one(
            "SELECT count(*) FROM address WHERE crossing_id = ? AND side = 'old' AND sort = 'page' AND status = 200",
            crossing,
        )
    )
