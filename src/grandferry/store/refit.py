"""Records of refitting: the blocks of body fields and their loss accounts."""

from __future__ import annotations

import json
from typing import Any

from .db import many, rows


def body_fields(crossing: int) -> list[tuple[Any, ...]]:
    """(item, field, lifted JSON, url, body hash, headers JSON, nodes of other fields as JSON list of lists)."""
    found = rows(
        "SELECT f.item_id, f.field, f.lifted, a.url, c.body, c.headers FROM item_field f JOIN item i ON i.id = f.item_id "
        "JOIN item_source s ON s.item_id = i.id JOIN address a ON a.id = s.address_id JOIN capture c ON c.id = a.capture "
        "WHERE i.crossing_id = ? AND f.lifted LIKE '{\"nodes\"%' AND c.body != '' ORDER BY i.key, f.field",
        crossing,
    )
    others: dict[int, list[int]] = {}
    for item, lifted, nodes in rows(
        "SELECT f.item_id, f.lifted, f.nodes FROM item_field f JOIN item i ON i.id = f.item_id WHERE i.crossing_id = ?",
        crossing,
    ):
        if lifted and not lifted.startswith('{"nodes"'):
            others.setdefault(item, []).extend(n for n in json.loads(nodes) if n >= 0)
    return [(*row, others.get(row[0], [])) for row in found]


def store_refits(refits: list[tuple[Any, ...]]) -> None:
    """Rows (item, field, blocks hash, account JSON, words, in_blocks, in_islands, unaccounted)."""
    many(
        "INSERT OR REPLACE INTO refit (item_id, field, blocks, account, words, in_blocks, in_islands, unaccounted) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        refits,
    )


def blocks_of(crossing: int) -> dict[int, dict[str, str]]:
    """item -> field -> hash of its blocks."""
    result: dict[int, dict[str, str]] = {}
    for item, field, blocks in rows(
        "SELECT r.item_id, r.field, r.blocks FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?",
        crossing,
    ):
        result.setdefault(item, {})[field] = blocks
    return result


def totals(crossing: int) -> dict[str, int]:
    row = rows(
        "SELECT count(*), coalesce(sum(words), 0), coalesce(sum(in_blocks), 0), coalesce(sum(in_islands), 0), "
        "coalesce(sum(unaccounted), 0) FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?",
        crossing,
    )[0]
    return dict(zip(("bodies", "words", "in_blocks", "in_islands", "unaccounted"), row, strict=True))


def worst(crossing: int, most: int = 10) -> list[dict[str, Any]]:
    """The bodies that lost most words, with what is missing."""
    return [
        {"key": key, "unaccounted": lost, "words": words, "missing": json.loads(account)["missing"][:5]}
        for key, lost, words, account in rows(
            "SELECT i.key, r.unaccounted, r.words, r.account FROM refit r JOIN item i ON i.id = r.item_id "
            "WHERE i.crossing_id = ? AND r.unaccounted > 0 ORDER BY r.unaccounted DESC, i.key LIMIT ?",
            crossing,
            most,
        )
    ]
