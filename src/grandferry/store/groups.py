"""Records of groups: pages that are made alike, at each cut, and what is proposed of each."""

from __future__ import annotations

import hashlib
import json
from typing import Any, NamedTuple

from .db import many, one, rows, typed


class MadePage(NamedTuple):
    """A captured page with its make (traits as 32-bit numbers, lowest byte first; empty where it is not known);
    ``content`` is its body's hash, ``headers`` JSON."""

    address: int
    key: str
    content: str
    headers: str
    make: bytes


_MADE = (
    "FROM address a JOIN capture c ON c.id = a.capture JOIN page_facts f ON f.address_id = a.id WHERE a.crossing_id = "
    "? AND a.side = 'old' AND a.type = 'page' AND a.status = 200 AND c.content != ''"
)


def pages(crossing: int) -> list[MadePage]:
    """Every captured page that answered 200 on the old host, in order of its key."""
    return typed(MadePage, f"SELECT a.id, a.key, c.content, c.headers, f.make {_MADE} ORDER BY a.key, a.id", crossing)


def stamp(crossing: int) -> str:
    """A hash of what groups rest on: which pages there are, and what they hold."""
    found = hashlib.blake2b(digest_size=10)
    for row in rows(f"SELECT a.key, c.content {_MADE} ORDER BY a.key, a.id", crossing):
        found.update(repr(row).encode("utf-8", "surrogatepass"))
    return found.hexdigest()


def keep_makes(found: list[tuple[bytes, int]]) -> None:
    """Note the makes of pages: (make, address)."""
    many("UPDATE page_facts SET make = ? WHERE address_id = ?", found)


class NewGroup(NamedTuple):
    """A group as it is stored; ``address``: of a page of it; ``rule`` and ``drawing`` as JSON."""

    cut: int
    number: int
    pages: int
    address: int
    name: str
    rule: str
    right: int
    missed: int
    wrong: int
    drawing: str


def forget(crossing: int) -> None:
    for table in ("made_group", "page_group"):
        rows(f"DELETE FROM {table} WHERE crossing_id = ?", crossing)


def store(crossing: int, groups: list[NewGroup]) -> None:
    many(
        'INSERT INTO made_group (crossing_id, cut, number, pages, address_id, name, rule, "right", missed, wrong, '
        "drawing) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        [(crossing, *group) for group in groups],
    )


def store_pages(crossing: int, cut: int, found: list[tuple[int, int]]) -> None:
    """The group of each page at a cut: (address, number)."""
    many(
        "INSERT INTO page_group (address_id, crossing_id, cut, number) VALUES (?, ?, ?, ?)",
        [(address, crossing, cut, number) for address, number in found],
    )


class Group(NamedTuple):
    """A group at a cut. ``key``: of the page that it is drawn from; ``sorted``: pages of it that are in a kind."""

    number: int
    pages: int
    address: int
    key: str
    name: str
    rule: dict[str, Any]
    right: int
    missed: int
    wrong: int
    drawing: dict[str, Any]
    sorted: int
    kinds: dict[str, int]


def counts(crossing: int) -> list[int]:
    """How many groups there are at each cut, from the first on."""
    found = dict(rows("SELECT cut, count(*) FROM made_group WHERE crossing_id = ? GROUP BY cut", crossing))
    return [found.get(cut, 0) for cut in range(max(found) + 1)] if found else []


def groups(crossing: int, cut: int, within: tuple[int, int] | None = None) -> list[Group]:
    """The groups at a cut, the largest first; ``within``: of those that lie within a group of a coarser cut (that cut,
    its number)."""
    of = ""
    given: tuple[int, ...] = ()
    if within is not None:
        of = (
            " AND EXISTS (SELECT 1 FROM page_group w WHERE w.address_id = m.address_id AND w.crossing_id = "
            "m.crossing_id AND w.cut = ? AND w.number = ?)"
        )
        given = within
    kinds: dict[int, dict[str, int]] = {}
    for number, kind, pages_ in rows(
        "SELECT g.number, s.kind, count(*) FROM page_group g JOIN sorted s ON s.address_id = g.address_id WHERE "
        "g.crossing_id = ? AND g.cut = ? AND s.kind != '' GROUP BY 1, 2 ORDER BY 3 DESC",
        crossing,
        cut,
    ):
        kinds.setdefault(number, {})[kind] = pages_
    return [
        Group(
            number, pages_, address, key, name, json.loads(rule), right, missed, wrong, json.loads(drawing),
            sum(kinds.get(number, {}).values()), kinds.get(number, {}),
        )
        for number, pages_, address, key, name, rule, right, missed, wrong, drawing in rows(
            'SELECT m.number, m.pages, m.address_id, a.key, m.name, m.rule, m."right", m.missed, m.wrong, m.drawing '
            f"FROM made_group m JOIN address a ON a.id = m.address_id WHERE m.crossing_id = ? AND m.cut = ?{of} ORDER "
            "BY m.number",
            crossing,
            cut,
            *given,
        )
    ]  # fmt: skip


class GroupPage(NamedTuple):
    """A page of a group, and the kind that it is in ("" for none)."""

    address: int
    key: str
    title: str
    kind: str


def group_pages(crossing: int, cut: int, number: int, offset: int, limit: int) -> tuple[int, list[GroupPage]]:
    """(total, rows) of the pages of a group, in order of their keys."""
    where = "page_group g JOIN address a ON a.id = g.address_id WHERE g.crossing_id = ? AND g.cut = ? AND g.number = ?"
    found = typed(
        GroupPage,
        "SELECT a.id, a.key, a.title, coalesce((SELECT s.kind FROM sorted s WHERE s.address_id = a.id), '') FROM "
        f"{where} ORDER BY a.key, a.id LIMIT ? OFFSET ?",
        crossing,
        cut,
        number,
        limit,
        offset,
    )
    return int(one(f"SELECT count(*) FROM {where}", crossing, cut, number)), found


def numbers(crossing: int, cut: int) -> dict[int, int]:
    """address -> number of the group that its page is in at a cut."""
    return dict(rows("SELECT address_id, number FROM page_group WHERE crossing_id = ? AND cut = ?", crossing, cut))


def members(crossing: int, cut: int, number: int) -> list[int]:
    """The addresses of a group's pages, in order of their keys."""
    found = rows(
        "SELECT a.id FROM page_group g JOIN address a ON a.id = g.address_id WHERE g.crossing_id = ? AND g.cut = ? AND "
        "g.number = ? ORDER BY a.key, a.id",
        crossing,
        cut,
        number,
    )
    return [address for (address,) in found]
