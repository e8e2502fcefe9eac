"""Long lists of addresses: a selection (filters, search) in an order, kept as an array of ids and cut into windows.

The array of a selection is made once and kept until the data of its side changes, so that a window at any depth is a
slice. Orders are made in NumPy from columns (``columns.py``).
"""

from __future__ import annotations

import json
import threading
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grandferry.core.address import spellings
from grandferry.core.errors import FerryError
from grandferry.core.route.fate import FATES
from grandferry.core.side import Side

from ..crossings import load_plan
from ..db import holds, one, rows
from . import columns
from .details import COLUMNS, OUTSIDE, OUTSIDES, SELECT, AddressRow, column
from .tree import Branch, Tree

_lock = threading.Lock()

FAMILY = (
    "CASE WHEN type = 'page' THEN 'page' WHEN type = 'redirect' THEN 'redirect' WHEN mime LIKE 'image/%' THEN "
    "'picture' WHEN mime = 'text/css' THEN 'style' WHEN mime LIKE '%javascript' THEN 'script' "
    "WHEN mime LIKE 'audio/%' OR mime LIKE 'video/%' THEN 'sound or film' "
    "WHEN mime LIKE '%xml' THEN 'feed or map' WHEN type = 'file' THEN 'document' ELSE 'unread' END"
)
ANSWER = "CASE WHEN state = 'waiting' THEN 'waiting' WHEN status = 0 THEN 'none' ELSE (status / 100) || 'xx' END"
OUT = "not in the account"
# what can be filtered by, and the SQL that tells it
CHOICES: dict[str, str] = {
    "fate": f"CASE WHEN counted THEN fate ELSE '{OUT}' END",
    "proof": (
        f"CASE WHEN NOT counted THEN '{OUT}' WHEN fate = 'unaccounted' THEN 'unaccounted' WHEN proven THEN 'proven' "
        "ELSE 'planned' END"
    ),
    "family": FAMILY,
    "answer": ANSWER,
    "site": "CASE WHEN host = ? THEN 'own' ELSE 'other' END",
    "host": "host",
    "state": "state",
    "verdict": "verdict",
    "decision": "decision",
    "origin": "decision_origin",
    "folder": "folder",
    "account": f"CASE WHEN counted THEN 'in' ELSE {OUTSIDE} END",
    "kind": f"CASE WHEN type = 'page' AND status = 200 THEN {column('kind')} ELSE 'not a page' END",
    "fits": (
        f"CASE WHEN {column('also')} != '' THEN 'more than one kind' WHEN {column('kind')} != '' THEN 'one kind' "
        "ELSE 'no kind' END"
    ),
    "change": "change",
    "found": "(SELECT min(f.how) FROM found f WHERE f.address_id = address.id)",
    "language": column("language"),
    "encoding": column("encoding"),
    "like": (
        "CASE (SELECT min(l.type) FROM likeness l WHERE l.address_id = address.id) WHEN 'near' THEN CASE WHEN EXISTS "
        "(SELECT 1 FROM likeness l WHERE l.address_id = address.id AND l.type = 'same') THEN 'the same content' ELSE "
        "'nearly the same' END WHEN 'same' THEN 'the same content' WHEN 'spelling' THEN 'maybe one address' ELSE "
        "'like no other' END"
    ),
    "odd": (
        "CASE WHEN type = 'page' AND (SELECT f.findings FROM page_facts f WHERE f.address_id = address.id) NOT IN "
        "('[]') THEN 'odd' ELSE 'nothing odd' END"
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

    def where(self, side: Side) -> tuple[str, list[Any]]:
        """The condition and its values. Raises FerryError for an unknown filter."""
        parts: list[str] = ["crossing_id = ?", "side = ?"]
        values: list[Any] = [*side]
        for name, wanted in sorted(self.filters.items()):
            if name not in CHOICES:
                raise FerryError(f"“{name}” is not a filter of addresses.")
            if not wanted:
                continue
            if name == "site":
                values.append(own_host(side))
            parts.append(f"({CHOICES[name]}) IN ({','.join('?' * len(wanted))})")
            values += wanted
        if self.below:
            # whole parts: "/news" holds itself and what is in it or asked of it, not "/newsletter"; a folder given with
            # a query ("/list.aspx?") holds what begins like that
            ends = [self.below] if self.below[-1] in "/?" else [f"{self.below}/", f"{self.below}?"]
            whole = [] if self.below[-1] in "/?" else [self.below]
            parts.append(f"({' OR '.join(['key >= ? AND key < ?'] * len(ends) + ['key = ?'] * len(whole))})")
            values += [bound for end in ends for bound in (end, end[:-1] + chr(ord(end[-1]) + 1))] + whole
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


def own_host(side: Side) -> str:
    """The host (with its port) that the survey of a side starts at, "" while nobody has named it."""
    try:
        return load_plan(side.crossing).side(side.name).host
    except FerryError:
        return ""


def _top(side: Side) -> int:
    return columns.state(side).top


WHOLE = frozenset(
    "id status words bytes depth visits in_links proven counted headings links_out pictures no_alt forms embeds".split()
)
# what is decided or judged of an address (and which host is the site's own); all else was found
DECIDED = frozenset(
    "fate proof proven verdict decision decision_target decision_origin decision_reason origin why account counted "
    "outside site".split()
)


def _column(side: Side, name: str) -> NDArray[np.int64]:
    """A numeric column of all addresses in order of their ids; one with decimals by its thousandths."""
    what, found = ("column", name), name not in DECIDED
    return columns.keep(side, what, lambda: _make_column(side, name), found=found)


def _make_column(side: Side, name: str) -> NDArray[np.int64]:
    expression = column(name) if name in WHOLE else f"CAST(1000 * {column(name)} AS INTEGER)"
    return columns.numbers(f"coalesce({expression}, 0)", f"{columns.TABLE} ORDER BY id", *side, _top(side))


def _by_text(side: Side, name: str) -> NDArray[np.int64]:
    """The places of all addresses (in order of their ids) in the order of a text column."""
    return columns.keep(side, ("text", name), lambda: _make_by_text(side, name), found=name not in DECIDED)


def _make_by_text(side: Side, name: str) -> NDArray[np.int64]:
    if name in CHOICES and name in COLUMNS and (name == "fate" or CHOICES[name] == column(name)):
        return np.argsort(_codes(side, name)[1], kind="stable")
    sorted_ids = columns.numbers("id", f"{columns.TABLE} ORDER BY {column(name)}, id", *side, _top(side))
    return np.searchsorted(_column(side, "id"), sorted_ids)


def _codes(side: Side, name: str) -> tuple[list[str], NDArray[np.int32]]:
    """(the values of a filter, for each address in order of their ids which of them it has)."""
    if name not in CHOICES:
        raise FerryError(f"“{name}” is not a filter of addresses.")
    return columns.keep(side, ("codes", name), lambda: _make_codes(side, name), found=name not in DECIDED)


def _make_codes(side: Side, name: str) -> tuple[list[str], NDArray[np.int32]]:
    if name in _INDEXED:
        return _codes_by_index(side, name)
    if name == "site":
        hosts, codes = _codes(side, "host")
        own = own_host(side)
        return ["other", "own"], np.array([host == own for host in hosts] or [False], dtype=np.int32)[codes]
    return columns.codes(CHOICES[name], f"{columns.TABLE} ORDER BY id", *side, _top(side))


# read from an index alone, value by value: these change with every decision
_INDEXED = {
    "fate": ([*FATES, OUT], "counted = 1 AND fate = ?", OUT),
    "account": (["in", *OUTSIDES], f"counted = 0 AND {OUTSIDE} = ?", "in"),
}


def _codes_by_index(side: Side, name: str) -> tuple[list[str], NDArray[np.int32]]:
    values, condition, rest = _INDEXED[name]
    values = sorted(values)
    every = _column(side, "id")
    made = np.full(len(every), values.index(rest), dtype=np.int32)
    index = "address INDEXED BY address_crossing_id_counted_fate"
    for code, value in enumerate(values):
        if value == rest:
            continue
        source = f"FROM {index} WHERE crossing_id = ? AND {condition}"
        ids = columns.numbers("id", source, side.crossing, value)
        ids = ids[ids <= every[-1]] if len(every) else ids[:0]  # those that came since belong to the next moment
        places = np.searchsorted(every, ids)
        made[places[every[places] == ids]] = code
    return values, made


def _chosen(side: Side, selection: Selection) -> NDArray[np.bool_]:
    """Which of all addresses, in order of their ids, a selection holds. Raises FerryError for an unknown filter."""
    every = _column(side, "id")
    chosen = np.ones(len(every), dtype=bool)
    for name, wanted in selection.filters.items():
        values, codes = _codes(side, name)
        if wanted:
            chosen &= np.isin(np.array(values), wanted)[codes] if values else False
    if selection.search:
        held = np.zeros(len(every), dtype=bool)
        held[_texts(side).holding(selection.search)] = True
        chosen &= held
    rest = Selection({}, "", selection.below, selection.ids, selection.without)
    if rest.narrows:
        where, values_given = rest.where(side)
        held = np.zeros(len(every), dtype=bool)
        ids = columns.numbers("id", f"FROM address WHERE {where} AND id <= ? ORDER BY id", *values_given, _top(side))
        held[np.searchsorted(every, ids)] = True
        chosen &= held
    return chosen


class _Texts:
    """All paths and titles, to be searched: one line an address, in order of their ids, in small letters."""

    def __init__(self, lines: NDArray[np.uint8]):
        self._text = lines.tobytes()
        self._begins = np.concatenate(([0], np.flatnonzero(lines == 10) + 1))

    def holding(self, wanted: str) -> NDArray[np.intp]:
        """The places of the addresses whose path or title holds a text, whatever the case of its letters."""
        text, found = self._text, []
        for needle in {_searched(way) for way in spellings(wanted)}:
            at = text.find(needle)
            while at >= 0:
                found.append(at)
                end = text.find(b"\n", at)
                at = text.find(needle, end) if end >= 0 else -1
        return np.unique(np.searchsorted(self._begins, np.array(found, dtype=np.int64), "right") - 1)


def _searched(text: str) -> bytes:
    return " ".join(text.lower().split("\n")).encode("utf-8", "replace")


def _make_lines(side: Side) -> NDArray[np.uint8]:
    lines = columns.texts("key || char(9) || title", f"{columns.TABLE} ORDER BY id", *side, _top(side))
    return np.frombuffer(lines.lower().encode("utf-8", "replace"), dtype=np.uint8)


def _texts(side: Side) -> _Texts:
    def make() -> _Texts:
        return _Texts(columns.keep(side, ("lines",), lambda: _make_lines(side), found=True))

    return columns.keep(side, ("texts",), make, found=True)


@columns.one_moment
def ordered(side: Side, selection: Selection, order: str) -> NDArray[np.int64]:
    """The ids of a selection in order. Raises FerryError for an unknown filter or column."""
    name, down = order.lstrip("-"), order.startswith("-")
    if name not in COLUMNS:
        raise FerryError(f"“{name}” is not a column of addresses.")

    def make() -> NDArray[np.int64]:
        every = _column(side, "id")
        if name in WHOLE or name == "seconds":
            if selection.narrows:
                places = np.flatnonzero(_chosen(side, selection))
                places = places[np.argsort(_column(side, name)[places], kind="stable")]
            else:
                places = columns.keep(
                    side,
                    ("rising", name),
                    lambda: np.argsort(_column(side, name), kind="stable"),
                    found=name not in DECIDED,
                )
        else:
            places = _by_text(side, name)
            if selection.narrows:
                places = places[_chosen(side, selection)[places]]
        made: NDArray[np.int64] = every[places]
        return made[::-1] if down else made

    return columns.keep(side, ("order", selection.signature, order), make)


# what lists and trees are asked for most; those from what was found lie ready on disk once a large survey has ended
WARM_CODES = ("family", "answer", "site", "host", "state", "folder", "linked", "fate", "account")
WARM_NUMBERS = ("visits", "counted", "status", "words", "bytes", "depth", "in_links")
MORE_CODES = ("kind", "fits", "change", "found", "language", "encoding", "like", "odd")
MORE_NUMBERS = ("headings", "links_out", "pictures", "no_alt", "forms", "embeds", "seconds")


@columns.one_moment
def prepare(side: Side) -> None:
    """Leave on disk what lists of a large side need; after a job that changed what is known of its addresses."""
    wanted: list[tuple[tuple[Any, ...], Callable[[Side], Any]]] = [(("column", "id"), lambda c: _column(c, "id"))]
    for name in (*WARM_NUMBERS, *MORE_NUMBERS):
        if name not in DECIDED:
            wanted.append((("column", name), lambda c, name=name: _column(c, name)))
            wanted.append((("rising", name), lambda c, name=name: np.argsort(_column(c, name), kind="stable")))
    for name in (*WARM_CODES, *MORE_CODES):
        if name not in DECIDED:
            wanted.append((("codes", name), lambda c, name=name: _codes(c, name)))
    for name in ("key", "title"):
        wanted.append((("text", name), lambda c, name=name: _by_text(c, name)))
    wanted.append((("lines",), _make_lines))
    for part, made in enumerate(("sorted keys", "begins", "marks", "places")):
        wanted.append(((made,), lambda c, part=part: _sorted_keys(c)[part]))
    columns.prepare(side, wanted)


_warming: set[tuple[Side, int]] = set()


@columns.one_moment
def warm(side: Side) -> None:
    """Make what lists and trees are asked for most, once for a side as it is now, and not while a job changes
    it."""
    known = (side, columns.state(side).decided)
    with _lock:
        if known in _warming:
            return
        _warming.difference_update([k for k in _warming if k[0] == side])
        _warming.add(known)
    if one("SELECT 1 FROM job WHERE crossing_id = ? AND state IN ('queued', 'running')", side.crossing):
        with _lock:
            _warming.discard(known)
        return
    for name in WARM_CODES:
        _codes(side, name)
    for name in WARM_NUMBERS:
        _column(side, name)
    for name in ("key", "title"):
        _by_text(side, name)
    _texts(side)
    branches(side, "", "/")
    host = own_host(side)
    if host:
        branches(side, host, "/")


@columns.one_moment
def window(side: Side, selection: Selection, order: str, offset: int, limit: int) -> tuple[int, list[AddressRow]]:
    """(total, rows): ``limit`` addresses of a selection from ``offset`` on. Raises FerryError on a bad filter or order.

    The very first rows by address come straight from the index, so that a list opens before its order is made.
    """
    plain = order == "key" and offset == 0 and not selection.filters and not selection.search
    if plain and not columns.ready(side, "text", "key"):
        where, values = selection.where(side)
        ids = [row[0] for row in rows(f"SELECT id FROM address WHERE {where} ORDER BY key, id LIMIT ?", *values, limit)]
        all_ = len(ids) if len(ids) < limit else int(one(f"SELECT count(*) FROM address WHERE {where}", *values))
        return all_, by_ids(ids)
    found = ordered(side, selection, order)
    return len(found), by_ids(found[offset : offset + limit].tolist())


def by_ids(ids: list[int]) -> list[AddressRow]:
    """The rows of these addresses, in this order."""
    found = {
        row[0]: AddressRow(*row)
        for row in rows(f"SELECT {SELECT} FROM address WHERE id IN (SELECT value FROM json_each(?))", json.dumps(ids))
    }
    return [found[id_] for id_ in ids if id_ in found]


@columns.one_moment
def position(side: Side, selection: Selection, order: str, address: int) -> int:
    """Where an address stands in the order, -1 when it is not in the selection."""
    found = np.flatnonzero(ordered(side, selection, order) == address)
    return int(found[0]) if len(found) else -1


@columns.one_moment
def choices(side: Side, selection: Selection, name: str) -> list[tuple[str, int]]:
    """The values of one filter with their counts, the selection's own choice in that filter left aside."""
    others = Selection({n: v for n, v in selection.filters.items() if n != name}, selection.search, selection.below)
    values, codes = _codes(side, name)
    counts = np.bincount(codes[_chosen(side, others)], minlength=len(values)).tolist()
    found = [(value, number) for value, number in zip(values, counts, strict=True) if number]
    return sorted(found, key=lambda pair: (-pair[1], pair[0]))[:60]


@columns.one_moment
def branches(side: Side, host: str, below: str) -> list[Branch]:
    """The folders right below a path (given with its last slash) with their counts: all, in the account, unaccounted.

    A path asked with queries (``/list.aspx?``) is a folder of its own; pages that lie in the path itself are the row
    with an empty name. Without a host: the hosts.
    """
    if below.endswith("?"):
        return []

    def make() -> list[Branch]:
        tree = columns.keep(side, ("tree",), lambda: _tree(side))
        return tree.below(host, below) if host else tree.hosts()

    return columns.keep(side, ("branches", host, below), make)


def _sorted_keys(
    side: Side,
) -> tuple[NDArray[np.uint8], NDArray[np.int64], NDArray[np.int64], NDArray[np.int64]]:
    """Every address as host and path, sorted, in one text; where each begins; where slashes and question marks stand;
    and the place of each address in order of the ids."""

    def make() -> tuple[NDArray[np.uint8], ...]:
        order = f"{columns.TABLE} ORDER BY host, key, id"
        lines = columns.texts("host || char(1) || key", order, *side, _top(side)) + "\n"
        text = np.frombuffer(lines.encode("utf-8", "replace"), dtype=np.uint8).copy()
        text[text == 1] = 0
        ids = columns.numbers("id", order, *side, _top(side))
        begins = np.concatenate(([0], np.flatnonzero(text == 10) + 1)) if len(ids) else np.zeros(1, dtype=np.int64)
        marks = np.flatnonzero((text == 47) | (text == 63))
        return text, begins, marks, np.searchsorted(_column(side, "id"), ids)

    parts = [
        columns.keep(side, (name,), lambda part=part: columns.keep(side, ("keys",), make, found=True)[part], found=True)
        for part, name in enumerate(("sorted keys", "begins", "marks", "places"))
    ]
    return parts[0], parts[1], parts[2], parts[3]


def _tree(side: Side) -> Tree:
    text, begins, marks, places = _sorted_keys(side)
    fates, fate = _codes(side, "fate")
    accounts, account = _codes(side, "account")
    open_ = fate[places] == fates.index("unaccounted")
    counted = account[places] == accounts.index("in")
    return Tree(text, begins, marks, counted, counted & open_)
