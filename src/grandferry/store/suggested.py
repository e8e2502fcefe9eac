"""Pairs and rules that are suggested: nobody's decision, made anew as a whole, shown while their address is open."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from grandferry.core.route.suggest import Pair, Rule

from .db import many, one, rows

MOST = 500  # addresses of a rule that are kept by name


class Suggested(NamedTuple):
    """An open address with its likeliest new one; ``reasons``: (code, what); ``others``: (new, confidence)."""

    id: int
    key: str
    title: str
    visits: int
    new: str
    confidence: float
    reasons: list[tuple[str, str]]
    others: list[tuple[str, float]]


class SuggestedRule(NamedTuple):
    """``settles``: how many addresses, and their ``visits``; ``settled``: the first of them; those that it
    ``disagrees`` about and would wrongly ``catch``."""

    old: str
    new: str
    settles: int
    disagrees: list[str]
    catches: list[str]
    settled: list[str]
    visits: int


_COLUMNS = "a.id, a.key, a.title, a.visits, s.new, s.confidence, s.reasons, s.others"
_OPEN = "a.counted = 1 AND a.fate = 'unaccounted'"


def put(crossing: int, pairs: Iterable[Pair], rules: Sequence[Rule], visits: Mapping[str, int]) -> None:
    """Set all of it anew (within the caller's transaction). ``visits``: of each old address."""
    clear(crossing)
    many(
        "INSERT INTO suggestion (address_id, crossing_id, new, confidence, reasons, others) SELECT id, crossing_id, ?, "
        "?, ?, ? FROM address WHERE crossing_id = ? AND key = ? AND counted = 1",
        [
            (
                pair.candidates[0].new,
                pair.confidence,
                json.dumps(pair.candidates[0].reasons, ensure_ascii=False),
                json.dumps([(one.new, one.confidence) for one in pair.candidates[1:]], ensure_ascii=False),
                crossing,
                pair.old,
            )
            for pair in pairs
            if pair.candidates
        ],
    )
    many(
        "INSERT INTO suggested_rule (crossing_id, position, old, new, settles, disagrees, catches, settled, visits) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (
                crossing,
                at,
                rule.old,
                rule.new,
                len(rule.settles),
                json.dumps(rule.disagrees[:MOST], ensure_ascii=False),
                json.dumps(rule.catches[:MOST], ensure_ascii=False),
                json.dumps(rule.settles[:MOST], ensure_ascii=False),
                sum(visits.get(key, 0) for key in rule.settles),
            )
            for at, rule in enumerate(rules)
        ],
    )


def clear(crossing: int) -> None:
    many("DELETE FROM suggestion WHERE crossing_id = ?", [(crossing,)])
    many("DELETE FROM suggested_rule WHERE crossing_id = ?", [(crossing,)])


def _row(row: tuple[object, ...]) -> Suggested:
    *plain, reasons, others = row
    return Suggested(*plain, json.loads(str(reasons)), json.loads(str(others)))  # type: ignore[arg-type]


def window(
    crossing: int, least: float, most: float, search: str, offset: int, limit: int
) -> tuple[int, list[Suggested]]:
    """(how many there are, those of a window): open addresses of a confidence from ``least`` up to ``most``, the surest
    first."""
    where = (
        f"FROM suggestion s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND {_OPEN} AND s.confidence "
        ">= ? AND s.confidence <= ? AND (? = '' OR instr(lower(a.key || ' ' || a.title || ' ' || s.new), lower(?)))"
    )
    values = (crossing, least, most, search, search)
    total = int(one(f"SELECT count(*) {where}", *values) or 0)
    found = rows(
        f"SELECT {_COLUMNS} {where} ORDER BY s.confidence DESC, a.key LIMIT ? OFFSET ?",
        *values,
        limit,
        offset,
    )
    return total, [_row(row) for row in found]


def of_addresses(crossing: int, ids: Sequence[int]) -> list[Suggested]:
    """The suggestions of some open addresses."""
    return [
        _row(row)
        for row in rows(
            f"SELECT {_COLUMNS} FROM suggestion s JOIN address "
            f"a ON a.id = s.address_id WHERE s.crossing_id = ? AND {_OPEN} AND a.id IN (SELECT value FROM "
            "json_each(?)) ORDER BY a.key",
            crossing,
            json.dumps(list(ids)),
        )
    ]


def of_key(crossing: int, key: str) -> Suggested | None:
    """The suggestion for an open address, by its key; None where there is none."""
    found = rows(
        f"SELECT {_COLUMNS} FROM suggestion s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND "
        f"{_OPEN} AND a.key = ?",
        crossing,
        key,
    )
    return _row(found[0]) if found else None


def rules(crossing: int) -> list[SuggestedRule]:
    return [
        SuggestedRule(old, new, settles, json.loads(disagrees), json.loads(catches), json.loads(settled), visits)
        for old, new, settles, disagrees, catches, settled, visits in rows(
            "SELECT old, new, settles, disagrees, catches, settled, visits FROM suggested_rule WHERE crossing_id = ? "
            "ORDER BY position",
            crossing,
        )
    ]


def counts(crossing: int, least: Sequence[float]) -> list[int]:
    """How many open addresses have a suggestion that is at least so sure."""
    return [
        int(
            one(
                f"SELECT count(*) FROM suggestion s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND "
                f"{_OPEN} AND s.confidence >= ?",
                crossing,
                at,
            )
            or 0
        )
        for at in least
    ]
