"""Lists, logs and tables that somebody handed over: what they name, and how often people asked for it."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.errors import NotThere
from grandferry.core.side import Side

from ..db import many, now, one, rows, typed


def add(
    side: Side, name: str, type_: str, by: str = "", report: dict[str, Any] | None = None, from_plan: bool = False
) -> int:
    """A list with nothing in it yet; gives its number (within a transaction). ``type``: list, log or analytics."""
    rows(
        "INSERT INTO given (crossing_id, side, name, type, at, by, report, from_plan) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        *side,
        name,
        type_,
        now(),
        by,
        json.dumps(report or {}, ensure_ascii=False),
        from_plan,
    )
    return int(one("SELECT last_insert_rowid()"))


class Visits(NamedTuple):
    """How often people asked for a request target (path with query) of a host; ``title``: what a list calls it."""

    host: str
    target: str
    visits: int
    title: str = ""


def add_visits(number: int, targets: list[Visits]) -> None:
    """Visits, added to what the list has of them (within a transaction)."""
    many(
        "INSERT INTO given_address (given_id, host, target, count, title) VALUES (?, ?, ?, ?, ?) "
        "ON CONFLICT DO UPDATE SET count = count + excluded.count, title = max(title, excluded.title)",
        [(number, *row) for row in targets],
    )


def report(number: int, content: dict[str, Any]) -> None:
    """Say how a list was read (within a transaction)."""
    rows("UPDATE given SET report = ? WHERE id = ?", json.dumps(content, ensure_ascii=False), number)


def drop_of_plan(crossing: int) -> None:
    """Forget the lists that lie beside the plan; they are read anew with it."""
    rows("DELETE FROM given WHERE crossing_id = ? AND from_plan = 1", crossing)


def drop(crossing: int, number: int) -> None:
    """Forget a list. Addresses that only it named stay; their visits are counted anew with the next survey. Raises
    NotThere."""
    if not one("SELECT 1 FROM given WHERE crossing_id = ? AND id = ?", crossing, number):
        raise NotThere(f"There is no list {number} in this crossing.")
    rows("DELETE FROM given WHERE id = ?", number)


def addresses(side: Side, type_: str) -> list[Visits]:
    """What all lists of a side of one sort name."""
    return typed(
        Visits,
        "SELECT v.host, v.target, sum(v.count) FROM given_address v JOIN given g ON g.id = v.given_id "
        "WHERE g.crossing_id = ? AND g.side = ? AND g.type = ? GROUP BY 1, 2",
        *side,
        type_,
    )


class Given(NamedTuple):
    """A list of a side with the addresses and visits it names, and how it was read."""

    id: int
    name: str
    type: str
    at: str
    by: str
    report: dict[str, Any]
    from_plan: bool
    addresses: int
    visits: int


def lists(side: Side) -> list[Given]:
    """All lists of a side."""
    found = typed(
        Given,
        "SELECT g.id, g.name, g.type, g.at, g.by, g.report, g.from_plan, count(v.target), coalesce(sum(v.count), 0) "
        "FROM given g LEFT JOIN given_address v ON v.given_id = g.id WHERE g.crossing_id = ? AND g.side = ? GROUP BY "
        "g.id ORDER BY g.id",
        *side,
    )
    return [row._replace(report=json.loads(str(row.report)), from_plan=bool(row.from_plan)) for row in found]


def known_urls(side: Side, urls: list[str]) -> set[str]:
    """Those of some addresses that the side knows already."""
    return {
        row[0]
        for row in rows(
            "SELECT url FROM address WHERE crossing_id = ? AND side = ? AND url IN (SELECT value FROM json_each(?))",
            *side,
            json.dumps(urls),
        )
    }


class Sum(NamedTuple):
    """A list by its name and sort, with the addresses and visits it names."""

    name: str
    type: str
    addresses: int
    visits: int


def sums(side: Side) -> list[Sum]:
    """All lists of a side, told by what they hold."""
    found = rows(
        "SELECT g.name, g.type, count(a.target), coalesce(sum(a.count), 0) FROM given g LEFT JOIN given_address a ON "
        "a.given_id = g.id WHERE g.crossing_id = ? AND g.side = ? GROUP BY g.name, g.type ORDER BY 1, 2",
        *side,
    )
    return [Sum(*row) for row in found]
