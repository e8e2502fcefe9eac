"""Addresses that are alike, as rows."""

from __future__ import annotations

from collections import defaultdict
from typing import NamedTuple

from grandferry.core.side import Side
from grandferry.core.survey.spellings import twins as plainest

from ..db import many, rows


class Compared(NamedTuple):
    """An answer to be compared with others: the hashes of its body and of its words, and its fingerprint ("" where
    there is none)."""

    address: int
    host: str
    key: str
    type: str
    body: str
    words_hash: str | None
    near: str | None
    words: int


class Alike(NamedTuple):
    """An address of a group; ``type`` same, near or spelling."""

    type: str
    group: int
    address: int
    why: str


def twins(crossing: int) -> dict[str, str]:
    """The keys of pages of the old site that are another spelling of one with the same words -> the key of that."""
    same: dict[tuple[int, str], list[tuple[str, int]]] = defaultdict(list)
    for number, key, links, words in rows(
        "SELECT l.number, a.key, a.in_links, json_extract(f.facts, '$.words_hash') FROM likeness l JOIN address a ON "
        "a.id = l.address_id JOIN page_facts f ON f.address_id = a.id WHERE l.crossing_id = ? AND l.side = 'old' AND "
        "l.type = 'spelling' AND a.counted = 1 AND a.type = 'page' AND a.status = 200 AND a.words > 0",
        crossing,
    ):
        same[number, words].append((key, links))
    return {twin: key for pages in same.values() for twin, key in plainest(pages).items()}


def compared(side: Side) -> list[Compared]:
    """Every good answer of a side, in order of its key."""
    found = rows(
        "SELECT a.id, a.host, a.key, a.type, coalesce(c.body, ''), json_extract(f.facts, '$.words_hash'), "
        "json_extract(f.facts, '$.near'), a.words FROM address a LEFT JOIN capture c ON c.id = a.capture "
        "LEFT JOIN page_facts f ON f.address_id = a.id WHERE a.crossing_id = ? AND a.side = ? AND a.state = 'done' AND "
        "a.status < 400 AND a.type IN ('page', 'file', 'redirect') ORDER BY a.key, a.id",
        *side,
    )
    return [Compared(*row) for row in found]


def clear(side: Side) -> None:
    """Forget the groups found before (within a transaction)."""
    rows("DELETE FROM likeness WHERE crossing_id = ? AND side = ?", *side)


def add(side: Side, alike: list[Alike]) -> None:
    """Store groups, or some of them (within a transaction)."""
    many(
        "INSERT INTO likeness (crossing_id, side, type, number, address_id, why) VALUES (?, ?, ?, ?, ?, ?)",
        [(*side, *row) for row in alike],
    )
