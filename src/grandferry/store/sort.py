"""Records of sorting: which kind each page is in."""

from __future__ import annotations

import json
from typing import NamedTuple

from grandferry.core.sort.rules import primary

from .db import Part, many, one, rows, typed
from .survey.captures import KEYS_OF_PAGE


class PageToSort(NamedTuple):
    """A captured page: ``content`` is its body's hash, ``headers`` JSON; ``made_from`` of what its kind was found, None
    when it is not sorted yet; ``language``: as it declares it; ``records``: what its records are (kind/state), JSON."""

    address: int
    url: str
    key: str
    content: str
    headers: str
    made_from: str | None
    language: str
    records: str


class KindPage(NamedTuple):
    """A page of a kind; ``content`` is its body's hash, ``headers`` JSON."""

    address: int
    url: str
    key: str
    content: str
    headers: str
    keys: str  # JSON lines of those that stand in its code


def store_sorted(crossing: int, sorted_: list[tuple[int, str, int, str, str]]) -> None:
    """Rows (address, kind, rule, also as JSON, what it was made from)."""
    many(
        "INSERT INTO sorted (address_id, crossing_id, kind, rule, also, made_from) VALUES (?, ?, ?, ?, ?, ?) ON "
        "CONFLICT DO UPDATE SET kind = excluded.kind, rule = excluded.rule, also = excluded.also, made_from = "
        "excluded.made_from",
        [(address, crossing, kind, rule, also, stamp) for address, kind, rule, also, stamp in sorted_],
    )


def unnoted(crossing: int) -> bool:
    """Whether there are kinds of which nobody noted what they were made from."""
    return bool(one("SELECT 1 FROM sorted WHERE crossing_id = ? AND made_from = '' LIMIT 1", crossing))


def restamp(found: list[tuple[str, int]]) -> None:
    """Pages whose kind would come out the same: (what it rests on now, address)."""
    many("UPDATE sorted SET made_from = ? WHERE address_id = ?", found)


def kind_counts(crossing: int, fates: list[str] | None = None) -> dict[str, int]:
    """Pages by kind, all or those of some fates; "" are the unsorted ones."""
    where = Part("s.crossing_id = ? AND (s.kind != '' OR a.side = 'old')", crossing).any_of("a.fate", fates or [])
    return dict(
        rows(
            f"SELECT s.kind, count(*) FROM sorted s JOIN address a ON a.id = s.address_id WHERE {where.sql} GROUP BY "
            "s.kind",
            *where.values,
        )
    )


def sorted_count(crossing: int) -> int:
    """Captured pages that are in a kind."""
    return int(
        one(
            "SELECT count(*) FROM sorted s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND s.kind != "
            "'' AND a.side = 'old'",
            crossing,
        )
    )


class DoubleFit(NamedTuple):
    """A page that more than one kind would take: the kind that has it, and those that would fit as well."""

    address: int
    key: str
    kind: str
    also: list[str]


def double_fits(crossing: int) -> list[DoubleFit]:
    return [
        DoubleFit(address, key, kind, json.loads(also))
        for address, key, kind, also in rows(
            "SELECT a.id, a.key, s.kind, s.also FROM sorted s JOIN address a ON a.id = s.address_id "
            "WHERE s.crossing_id = ? AND s.also != '[]' ORDER BY a.key",
            crossing,
        )
    ]


def unsorted_pages(crossing: int) -> list[str]:
    """The keys of captured pages that no rule caught."""
    return [
        row[0]
        for row in rows(
            "SELECT a.key FROM sorted s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND s.kind = '' "
            "AND a.side = 'old' ORDER BY a.key",
            crossing,
        )
    ]


def languages(crossing: int) -> dict[str, int]:
    """Pages by the language they declare (its primary subtag), those of most first."""
    found: dict[str, int] = {}
    for declared, number in rows(
        "SELECT json_extract(f.facts, '$.language'), count(*) FROM page_facts f JOIN address a ON a.id = f.address_id "
        "WHERE a.crossing_id = ? AND a.side = 'old' AND a.type = 'page' AND a.status = 200 GROUP BY 1 ORDER BY 2 DESC",
        crossing,
    ):
        if language := primary(declared or ""):
            found[language] = found.get(language, 0) + number
    return found


def pages_of_kind(crossing: int, kind: str) -> list[KindPage]:
    """A kind's pages, in order of their keys."""
    found = rows(
        f"SELECT a.id, a.url, a.key, c.content, c.headers, {KEYS_OF_PAGE} FROM sorted s JOIN address a ON "
        "a.id = s.address_id JOIN capture c ON c.id = a.capture WHERE s.crossing_id = ? AND s.kind = ? ORDER BY a.key",
        crossing,
        kind,
    )
    return [KindPage(*row) for row in found]


def kind_of(crossing: int, address: int) -> str:
    """The kind that has a page, "" for none."""
    found = one("SELECT kind FROM sorted WHERE crossing_id = ? AND address_id = ?", crossing, address)
    return str(found or "")


def double_count(crossing: int) -> int:
    """How many pages fit more than one kind."""
    return int(one("SELECT count(*) FROM sorted WHERE crossing_id = ? AND also != '[]'", crossing))


def _of_kind(crossing: int, kind: str, fates: list[str]) -> Part:
    where = Part(
        "sorted s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ? AND s.kind = ?", crossing, kind
    )
    return where.any_of("a.fate", fates)


class ListedPage(NamedTuple):
    """A page of a kind, and the item made of it (0: none); ``why`` there is none, where a decision says it (as
    ``core.because`` keeps it)."""

    address: int
    key: str
    title: str
    item: int
    why: str


def kind_pages(crossing: int, kind: str, fates: list[str], offset: int, limit: int) -> tuple[int, list[ListedPage]]:
    """(total, rows) of the pages sorted into a kind, those of some fates or (with none named) all."""
    where = _of_kind(crossing, kind, fates)
    found = typed(
        ListedPage,
        "SELECT a.id, a.key, a.title, coalesce((SELECT min(o.item_id) FROM item_source o WHERE o.address_id = a.id), "
        "0), CASE WHEN EXISTS (SELECT 1 FROM item_source o WHERE o.address_id = a.id) THEN '' ELSE a.decision_reason "
        f"END FROM {where.sql} ORDER BY a.key, a.id LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    return int(one(f"SELECT count(*) FROM {where.sql}", *where.values)), found


def kind_position(crossing: int, kind: str, fates: list[str], address: int) -> int:
    """Where a page stands among those of a kind, -1 when it is not among them."""
    where = _of_kind(crossing, kind, fates)
    if not one(f"SELECT count(*) FROM {where.sql} AND a.id = ?", *where.values, address):
        return -1
    before = "(a.key, a.id) < (SELECT b.key, b.id FROM address b WHERE b.id = ?)"
    return int(one(f"SELECT count(*) FROM {where.sql} AND {before}", *where.values, address))


def page_count(crossing: int) -> int:
    return int(
        one(
            "SELECT count(*) FROM address WHERE crossing_id = ? AND side = 'old' AND type = 'page' AND status = 200",
            crossing,
        )
    )


def kinds_of_pages(crossing: int) -> dict[int, str]:
    """address -> its kind, "" for none."""
    return dict(rows("SELECT address_id, kind FROM sorted WHERE crossing_id = ?", crossing))
