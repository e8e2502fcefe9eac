"""Records of refitting: the blocks of body fields and their loss accounts."""

from __future__ import annotations

import json
from typing import Any

from .db import many, rows


def body_fields(crossing: int, only: int = 0) -> list[tuple[Any, ...]]:
    """Of all items, or those of one address: (item, field, lifted JSON, url, body hash, headers JSON, nodes of other fields as JSON list of lists)."""
    found = rows(
        "SELECT f.item_id, f.field, f.lifted, a.url, c.body, c.headers FROM item_field f JOIN item i ON i.id = f.item_id "
        "JOIN item_source s ON s.item_id = i.id JOIN address a ON a.id = s.address_id JOIN capture c ON c.id = a.capture "
        "WHERE i.crossing_id = ? AND f.lifted LIKE '{\"nodes\"%' AND c.body != '' AND (? = 0 OR a.id = ?) ORDER BY i.key, f.field",
        crossing,
        only,
        only,
    )
    others: dict[int, list[int]] = {}
    for item, lifted, nodes in rows(
        "SELECT f.item_id, f.lifted, f.nodes FROM item_field f JOIN item i ON i.id = f.item_id WHERE i.crossing_id = ? AND "
        "(? = 0 OR i.id IN (SELECT item_id FROM item_source WHERE address_id = ?))",
        crossing,
        only,
        only,
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


def bodies_window(crossing: int, order: str, offset: int, limit: int) -> tuple[int, list[dict[str, Any]]]:
    """(total, rows) of refitted bodies, those that lost most first or by key."""
    names = (
        "item",
        "address",
        "kind",
        "key",
        "title",
        "new_path",
        "field",
        "words",
        "in_blocks",
        "in_islands",
        "unaccounted",
        "removed",
    )
    by = "r.unaccounted DESC, i.key" if order == "loss" else "i.key"
    found = rows(
        "SELECT i.id, s.address_id, i.kind, i.key, i.title, i.new_path, r.field, r.words, r.in_blocks, r.in_islands, r.unaccounted, "
        "r.account FROM refit r JOIN item i ON i.id = r.item_id JOIN item_source s ON s.item_id = i.id WHERE i.crossing_id = ? "
        f"ORDER BY {by} LIMIT ? OFFSET ?",
        crossing,
        limit,
        offset,
    )
    total = int(
        rows("SELECT count(*) FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?", crossing)[0][0]
    )
    made = [dict(zip(names, (*row[:-1], sum(json.loads(row[-1])["removed"].values())), strict=True)) for row in found]
    return total, made


def removed_by_step(crossing: int) -> dict[str, tuple[int, int]]:
    """What each step took out of all bodies: name -> (pages, words)."""
    sums: dict[str, tuple[int, int]] = {}
    for (account,) in rows(
        "SELECT r.account FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?", crossing
    ):
        for step, words in json.loads(account)["removed"].items():
            pages, before = sums.get(step, (0, 0))
            sums[step] = (pages + 1, before + words)
    return sums
