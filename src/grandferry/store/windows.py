"""Long lists of addresses: a selection (filters, search) in an order, kept as an array of ids and cut into windows.

The array of a selection is made once and kept until the crossing's data changes, so that a window at any depth is a
slice. Orders are made in NumPy from columns that SQLite hands over as one text each.
"""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from grandferry.core.errors import FerryError

from .db import holds, one, rows, workspace_folder
from .lists import COLUMNS, SELECT, column

KEPT = 60  # columns, orders and trees kept in memory, at the most 8 bytes an address each
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
    def narrows(self) -> bool:
        """Whether it is less than everything."""
        return bool(any(self.filters.values()) or self.search or self.below or self.ids or self.without)

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


def _numbers(expression: str, rest: str, *values: Any) -> NDArray[np.int64]:
    """A column of whole numbers as an array. SQLite joins it to one text and NumPy reads that: no row becomes a Python
    object, which for a million rows is the difference between a tenth of a second and a whole one."""
    text = one(f"SELECT group_concat(v, ' ') FROM (SELECT {expression} AS v {rest} LIMIT -1)", *values)
    return np.fromstring(text, dtype=np.int64, sep=" ") if text else np.empty(0, dtype=np.int64)


K = TypeVar("K")
_made: OrderedDict[tuple[Any, ...], Any] = OrderedDict()
_turns: dict[tuple[Any, ...], threading.Lock] = {}


def _keep(crossing: int, what: tuple[Any, ...], make: Callable[[], K]) -> K:
    """What was made for a crossing as it is now, else it is made and kept until the crossing's data changes."""
    known = _known(crossing, *what)
    with _lock:
        if known in _made:
            _made.move_to_end(known)
            return _made[known]  # type: ignore[no-any-return]
        turn = _turns.setdefault(known, threading.Lock())
    with turn:  # whoever asks for the same meanwhile waits for it
        with _lock:
            if known in _made:
                return _made[known]  # type: ignore[no-any-return]
        made = make()
        with _lock:
            _turns.pop(known, None)
            _store(crossing, known, made)
    return made


def _store(crossing: int, known: tuple[Any, ...], made: Any) -> None:
    for old in [k for k in _made if k[0] == crossing and k[1] != known[1]]:
        del _made[old]
    _made[known] = made
    while len(_made) > KEPT:
        _made.popitem(last=False)


def _has(crossing: int, *what: Any) -> bool:
    with _lock:
        return _known(crossing, *what) in _made


def _known(crossing: int, *what: Any) -> tuple[Any, ...]:
    return (crossing, (version(crossing), str(workspace_folder())), *what)


TABLE = "FROM address WHERE crossing_id = ? AND side = 'old'"
WHOLE = frozenset(
    "id status words bytes depth visits in_links proven counted headings links_out pictures no_alt forms embeds".split()
)


def _column(crossing: int, name: str) -> NDArray[np.int64]:
    """A numeric column of all old addresses in order of their ids; one with decimals by its thousandths."""
    expression = column(name) if name in WHOLE else f"CAST(1000 * {column(name)} AS INTEGER)"
    return _keep(
        crossing, ("column", name), lambda: _numbers(f"coalesce({expression}, 0)", f"{TABLE} ORDER BY id", crossing)
    )


def _by_text(crossing: int, name: str) -> NDArray[np.int64]:
    """The ids of all old addresses in the order of a text column."""
    return _keep(crossing, ("text", name), lambda: _numbers("id", f"{TABLE} ORDER BY {column(name)}, id", crossing))


def _codes(crossing: int, name: str) -> tuple[list[str], NDArray[np.int32]]:
    """(the values of a filter, for each old address in order of their ids which of them it has)."""

    def make() -> tuple[list[str], NDArray[np.int32]]:
        first = [own_host(crossing)] if name == "site" else []
        text = one(
            f"SELECT group_concat(v, char(31)) FROM (SELECT coalesce({CHOICES[name]}, '') AS v {TABLE} ORDER BY id LIMIT -1)",
            *first,
            crossing,
        )
        each = text.split("\x1f") if text is not None else []
        values = sorted(set(each))
        place = {value: n for n, value in enumerate(values)}
        return values, np.fromiter(map(place.__getitem__, each), dtype=np.int32, count=len(each))

    if name not in CHOICES:
        raise FerryError(f"“{name}” is not a filter of addresses.")
    return _keep(crossing, ("codes", name), make)


def _chosen(crossing: int, selection: Selection) -> NDArray[np.bool_]:
    """Which of all old addresses, in order of their ids, a selection holds. Raises FerryError for an unknown filter."""
    every = _column(crossing, "id")
    chosen = np.ones(len(every), dtype=bool)
    for name, wanted in selection.filters.items():
        values, codes = _codes(crossing, name)
        if wanted:
            chosen &= np.isin(np.array(values), wanted)[codes] if values else False
    if selection.search:
        held = np.zeros(len(every), dtype=bool)
        for name, index in (("key", "address_in_order"), ("title", "address_by_title")):  # read from the index alone
            condition, given = holds(selection.search, name)
            source = f"FROM address INDEXED BY {index} WHERE crossing_id = ? AND side = 'old' AND {condition}"
            held[np.searchsorted(every, _numbers("id", source, crossing, *given))] = True
        chosen &= held
    rest = Selection({}, "", selection.below, selection.ids, selection.without)
    if rest.narrows:
        where, values_given = rest.where(crossing)
        held = np.zeros(len(every), dtype=bool)
        held[np.searchsorted(every, _numbers("id", f"FROM address WHERE {where} ORDER BY id", *values_given))] = True
        chosen &= held
    return chosen


def ordered(crossing: int, selection: Selection, order: str) -> NDArray[np.int64]:
    """The ids of a selection in order. Raises FerryError for an unknown filter or column."""
    name, down = order.lstrip("-"), order.startswith("-")
    if name not in COLUMNS:
        raise FerryError(f"“{name}” is not a column of addresses.")

    def make() -> NDArray[np.int64]:
        every = _column(crossing, "id")
        chosen = _chosen(crossing, selection)
        if name in WHOLE or name == "seconds":
            places = np.flatnonzero(chosen)
            made = every[places[np.argsort(_column(crossing, name)[places], kind="stable")]]
        else:
            made = _by_text(crossing, name)
            if selection.narrows:
                made = made[chosen[np.searchsorted(every, made)]]
        return made[::-1] if down else made

    return _keep(crossing, ("order", selection.signature, order), make)


def count(crossing: int, selection: Selection) -> int:
    """The number of addresses in a selection. Raises FerryError for an unknown filter."""
    if selection.narrows:
        return int(_chosen(crossing, selection).sum())
    if _has(crossing, "column", "id"):
        return len(_column(crossing, "id"))
    return int(one(f"SELECT count(*) {TABLE}", crossing))


WARM = ("fate", "family", "answer", "site", "host", "account")
_warming: set[tuple[int, int]] = set()


def warm(crossing: int) -> None:
    """Make what lists and trees are asked for most, once for a crossing as it is now, and not while a job changes it."""
    known = (crossing, version(crossing))
    with _lock:
        if known in _warming:
            return
        _warming.difference_update([k for k in _warming if k[0] == crossing])
        _warming.add(known)
    if one("SELECT 1 FROM job WHERE crossing_id = ? AND state IN ('queued', 'running')", crossing):
        with _lock:
            _warming.discard(known)
        return
    for name in WARM:
        _codes(crossing, name)
    for name in ("visits", "counted", "status"):
        _column(crossing, name)
    for name in ("key", "title"):
        _by_text(crossing, name)
    branches(crossing, "", "/")
    host = own_host(crossing)
    if host:
        branches(crossing, host, "/")


def window(
    crossing: int, selection: Selection, order: str, offset: int, limit: int
) -> tuple[int, list[dict[str, Any]]]:
    """(total, rows): ``limit`` addresses of a selection from ``offset`` on. Raises FerryError on a bad filter or order.

    The very first rows by address come straight from the index, so that a list opens before its order is made.
    """
    ready = _has(crossing, "order", selection.signature, order)
    if order == "key" and offset == 0 and not ready and not selection.filters and not selection.search:
        where, values = selection.where(crossing)
        ids = [row[0] for row in rows(f"SELECT id FROM address WHERE {where} ORDER BY key, id LIMIT ?", *values, limit)]
        return len(ids) if len(ids) < limit else count(crossing, selection), by_ids(ids)
    found = ordered(crossing, selection, order)
    return len(found), by_ids(found[offset : offset + limit].tolist())


def by_ids(ids: list[int]) -> list[dict[str, Any]]:
    """The rows of these addresses, in this order."""
    found = {
        row[0]: dict(zip(COLUMNS, row, strict=True))
        for row in rows(f"SELECT {SELECT} FROM address WHERE id IN (SELECT value FROM json_each(?))", json.dumps(ids))
    }
    return [found[id_] for id_ in ids if id_ in found]


def position(crossing: int, selection: Selection, order: str, address: int) -> int:
    """Where an address stands in the order, -1 when it is not in the selection."""
    found = np.flatnonzero(ordered(crossing, selection, order) == address)
    return int(found[0]) if len(found) else -1


def choices(crossing: int, selection: Selection, name: str) -> list[tuple[str, int]]:
    """The values of one filter with their counts, the selection's own choice in that filter left aside."""
    others = Selection({n: v for n, v in selection.filters.items() if n != name}, selection.search, selection.below)
    values, codes = _codes(crossing, name)
    counts = np.bincount(codes[_chosen(crossing, others)], minlength=len(values)).tolist()
    found = [(value, number) for value, number in zip(values, counts, strict=True) if number]
    return sorted(found, key=lambda pair: (-pair[1], pair[0]))[:60]


def branches(crossing: int, host: str, below: str) -> list[dict[str, Any]]:
    """The folders right below a path (given with its last slash) with their counts: all, in the account, unaccounted.

    A path asked with queries (``/list.aspx?``) is a folder of its own; pages that lie in the path itself are the row
    with an empty name. Without a host: the hosts.
    """
    if below.endswith("?"):
        return []
    return _keep(crossing, ("branches", host, below), lambda: _branches(crossing, host, below))


def _branches(crossing: int, host: str, below: str) -> list[dict[str, Any]]:
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
    return [dict(zip(names, row, strict=True)) for row in found]
