"""Long lists of addresses: a selection (filters, search) in an order, kept as an array of ids and cut into windows.

The array of a selection is made once and kept until the crossing's data changes, so that a window at any depth is a
slice. The very first window is asked straight of the database, so that it does not wait for the whole order.
"""

from __future__ import annotations

import json
import threading
from array import array
from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any

from grandferry.core.errors import FerryError

from .db import holds, one, rows
from .lists import COLUMNS, SELECT, column

KEPT = 16  # orders kept in memory, 8 bytes an address each
_orders: OrderedDict[tuple[Any, ...], array[int]] = OrderedDict()
_lock = threading.Lock()

FAMILY = (
    "CASE WHEN sort = 'page' THEN 'page' WHEN sort = 'redirect' THEN 'redirect' WHEN mime LIKE 'image/%' THEN 'picture' "
    "WHEN mime = 'text/css' THEN 'style' WHEN mime LIKE '%javascript' THEN 'script' "
    "WHEN mime LIKE 'audio/%' OR mime LIKE 'video/%' THEN 'sound or film' "
    "WHEN mime LIKE '%xml' THEN 'feed or map' WHEN sort = 'file' THEN 'document' ELSE 'unread' END"
)
ANSWER = "CASE WHEN state = 'waiting' THEN 'waiting' WHEN status = 0 THEN 'none' ELSE (status / 100) || 'xx' END"
# what can be filtered by, and the SQL that tells it
CHOICES: dict[str, str] = {
    "fate": "fate",
    "proof": "CASE WHEN proven THEN 'proven' ELSE 'planned' END",
    "family": FAMILY,
    "answer": ANSWER,
    "site": "CASE WHEN host = ? THEN 'own' ELSE 'other' END",
    "host": "host",
    "state": "state",
    "verdict": "verdict",
    "decision": "decision",
    "origin": "decision_origin",
    "folder": "folder",
    "account": "CASE WHEN counted THEN 'in' ELSE 'not in' END",
    "kind": f"CASE WHEN sort = 'page' AND status = 200 THEN {column('kind')} ELSE 'not a page' END",
    "fits": f"CASE WHEN {column('also')} != '' THEN 'more than one kind' WHEN {column('kind')} != '' THEN 'one kind' ELSE 'no kind' END",
    "change": "change",
    "found": "(SELECT min(f.how) FROM found f WHERE f.address_id = address.id)",
    "language": column("language"),
    "encoding": column("encoding"),
    "like": (
        "CASE (SELECT min(l.sort) FROM likeness l WHERE l.address_id = address.id) WHEN 'near' THEN CASE WHEN EXISTS (SELECT 1 "
        "FROM likeness l WHERE l.address_id = address.id AND l.sort = 'same') THEN 'the same content' ELSE 'nearly the same' END "
        "WHEN 'same' THEN 'the same content' WHEN 'spelling' THEN 'maybe one address' ELSE 'like no other' END"
    ),
    "odd": (
        "CASE WHEN sort = 'page' AND (SELECT f.findings FROM page_facts f WHERE f.address_id = address.id) NOT IN ('[]') "
        "THEN 'odd' ELSE 'nothing odd' END"
    ),
    "linked": "CASE WHEN in_links > 0 THEN 'linked' ELSE 'not linked' END",
}


@dataclass(frozen=True, slots=True)
class Selection:
    """What a list shows: values by filter (any of them), a text to find, a folder, single ids and ids left out."""

    filters: dict[str, list[str]] = field(default_factory=dict)
    search: str = ""
    below: str = ""
    ids: tuple[int, ...] = ()
    without: tuple[int, ...] = ()

    def where(self, crossing: int) -> tuple[str, list[Any]]:
        """The condition and its values. Raises FerryError for an unknown filter."""
        parts: list[str] = ["crossing_id = ?", "side = 'old'"]
        values: list[Any] = [crossing]
        for name, wanted in sorted(self.filters.items()):
            if name not in CHOICES:
                raise FerryError(f"“{name}” is not a filter of addresses.")
            if not wanted:
                continue
            if name == "site":
                values.append(own_host(crossing))
            parts.append(f"({CHOICES[name]}) IN ({','.join('?' * len(wanted))})")
            values += wanted
        if self.below:
            # a folder given with a query ("/list.aspx?") holds what begins like that
            parts.append("key >= ? AND key < ?")
            values += [self.below, self.below[:-1] + chr(ord(self.below[-1]) + 1)]
        if self.search:
            condition, patterns = holds(self.search, "key", "title")
            parts.append(condition)
            values += patterns
        for given, word in ((self.ids, "IN"), (self.without, "NOT IN")):
            if given:
                parts.append(f"id {word} (SELECT value FROM json_each(?))")
                values.append(json.dumps(list(given)))
        return " AND ".join(parts), values

    @property
    def signature(self) -> tuple[Any, ...]:
        filters = tuple((n, tuple(v)) for n, v in sorted(self.filters.items()))
        return (filters, self.search, self.below, self.ids, self.without)


def own_host(crossing: int) -> str:
    """The old host (with its port) of a crossing, "" without a plan."""
    content = one("SELECT content FROM plan_row WHERE crossing_id = ? AND part = 'old'", crossing)
    return str(json.loads(content)["start"]).partition("://")[2].partition("/")[0] if content else ""


def version(crossing: int) -> int:
    """A number that grows whenever a job of the crossing has written."""
    return int(one("SELECT coalesce(max(id), 0) FROM event WHERE crossing = ?", crossing))


def _order(order: str) -> str:
    name, direction = order.lstrip("-"), "DESC" if order.startswith("-") else "ASC"
    if name not in COLUMNS:
        raise FerryError(f"“{name}” is not a column of addresses.")
    return f"{column(name)} {direction}, id {direction}"


def ordered(crossing: int, selection: Selection, order: str) -> array[int]:
    """The ids of a selection in order."""
    known = (crossing, version(crossing), selection.signature, order)
    with _lock:
        found = _orders.get(known)
        if found is not None:
            _orders.move_to_end(known)
            return found
    where, values = selection.where(crossing)
    made = array(
        "q", (row[0] for row in rows(f"SELECT id FROM address WHERE {where} ORDER BY {_order(order)}", *values))
    )
    with _lock:
        _orders[known] = made
        while len(_orders) > KEPT:
            _orders.popitem(last=False)
    return made


def _kept(crossing: int, selection: Selection, order: str) -> array[int] | None:
    with _lock:
        return _orders.get((crossing, version(crossing), selection.signature, order))


def count(crossing: int, selection: Selection) -> int:
    where, values = selection.where(crossing)
    return int(one(f"SELECT count(*) FROM address WHERE {where}", *values))


def window(
    crossing: int, selection: Selection, order: str, offset: int, limit: int
) -> tuple[int, list[dict[str, Any]]]:
    """(total, rows): ``limit`` addresses of a selection from ``offset`` on. Raises FerryError on a bad filter or order."""
    kept = _kept(crossing, selection, order)
    if kept is None and offset == 0:
        where, values = selection.where(crossing)
        found = rows(f"SELECT {SELECT} FROM address WHERE {where} ORDER BY {_order(order)} LIMIT ?", *values, limit)
        total = len(found) if len(found) < limit else count(crossing, selection)
        return total, [dict(zip(COLUMNS, row, strict=True)) for row in found]
    ids = ordered(crossing, selection, order) if kept is None else kept
    return len(ids), by_ids(list(ids[offset : offset + limit]))


def by_ids(ids: list[int]) -> list[dict[str, Any]]:
    """The rows of these addresses, in this order."""
    found = {
        row[0]: dict(zip(COLUMNS, row, strict=True))
        for row in rows(f"SELECT {SELECT} FROM address WHERE id IN (SELECT value FROM json_each(?))", json.dumps(ids))
    }
    return [found[id_] for id_ in ids if id_ in found]


def position(crossing: int, selection: Selection, order: str, address: int) -> int:
    """Where an address stands in the order, -1 when it is not in the selection."""
    try:
        return ordered(crossing, selection, order).index(address)
    except ValueError:
        return -1


def choices(crossing: int, selection: Selection, name: str) -> list[tuple[str, int]]:
    """The values of one filter with their counts, the selection's own choice in that filter left aside."""
    others = Selection({n: v for n, v in selection.filters.items() if n != name}, selection.search, selection.below)
    where, values = others.where(crossing)
    first = [own_host(crossing)] if name == "site" else []
    if name not in CHOICES:
        raise FerryError(f"“{name}” is not a filter of addresses.")
    found = rows(
        f"SELECT {CHOICES[name]}, count(*) FROM address WHERE {where} GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT 60",
        *first,
        *values,
    )
    return [(str(value), number) for value, number in found]


_branches: OrderedDict[tuple[Any, ...], list[dict[str, Any]]] = OrderedDict()


def branches(crossing: int, host: str, below: str) -> list[dict[str, Any]]:
    """The folders right below a path (given with its last slash) with their counts: all, in the account, unaccounted.

    A path asked with queries (``/list.aspx?``) is a folder of its own; pages that lie in the path itself are the row
    with an empty name. Without a host: the hosts.
    """
    if below.endswith("?"):
        return []
    known = (crossing, version(crossing), host, below)
    with _lock:
        kept = _branches.get(known)
    if kept is not None:
        return kept
    counts = "count(*), sum(counted), sum(counted AND fate = 'unaccounted')"
    names = ("name", "addresses", "counted", "unaccounted")
    if not host:
        found = rows(
            f"SELECT host, {counts} FROM address WHERE crossing_id = ? AND side = 'old' GROUP BY host ORDER BY 2 DESC",
            crossing,
        )
    else:
        rest = f"substr(key, {len(below) + 1})"
        slash, mark = f"instr({rest}, '/')", f"instr({rest}, '?')"
        part = (
            f"CASE WHEN {mark} > 0 AND ({slash} = 0 OR {mark} < {slash}) THEN substr({rest}, 1, {mark}) "
            f"WHEN {slash} > 0 THEN substr({rest}, 1, {slash}) ELSE '' END"
        )
        where, values = "crossing_id = ? AND side = 'old' AND host = ?", [crossing, host]
        if below != "/":
            where += " AND key >= ? AND key < ?"
            values += [below, below[:-1] + chr(ord(below[-1]) + 1)]
        found = rows(
            f"SELECT name, {counts} FROM (SELECT {part} AS name, counted, fate "
            f"FROM address WHERE {where}) GROUP BY name ORDER BY name LIMIT 2000",
            *values,
        )
    made = [dict(zip(names, row, strict=True)) for row in found]
    with _lock:
        _branches[known] = made
        while len(_branches) > 200:
            _branches.popitem(last=False)
    return made
