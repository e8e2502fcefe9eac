"""Records of lifting: items, their fields with lifted and edited halves, and shared texts."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.because import Why
from grandferry.core.errors import NotThere
from grandferry.core.lift.unlike import SAYS, Unlike
from grandferry.core.lift.value import Value, value_hash
from grandferry.core.route.places import Item, Place
from grandferry.core.standing import Placeless

from .db import Part, many, one, rows, typed


class Made(NamedTuple):
    """An item as it stands: its old key, what it was made from, of which kind."""

    key: str
    item: int
    kind: str
    made_from: str


def made(crossing: int) -> dict[str, Made]:
    """old key -> item lifted from it."""
    return {
        key: Made(key, item, kind, made_from)
        for key, item, kind, made_from in rows(
            "SELECT key, id, kind, made_from FROM item WHERE crossing_id = ? AND place = -1", crossing
        )
    }


def upsert_item(crossing: int, kind: str, key: str, address: int, job: int, made_from: str, outside: bytes) -> int:
    """The item made of an old key (made when new); gives its id. ``outside``: hashes of its page's other texts."""
    many(
        "INSERT INTO item (crossing_id, kind, key, place, title, new_path, note, lifted_by, made_from, outside) VALUES "
        "(?, ?, ?, -1, '', '', '', ?, ?, ?) ON CONFLICT (crossing_id, key, place) DO UPDATE SET kind = excluded.kind, "
        "lifted_by = excluded.lifted_by, made_from = excluded.made_from, outside = excluded.outside",
        [(crossing, kind, key, job, made_from, outside)],
    )
    item = int(one("SELECT id FROM item WHERE crossing_id = ? AND key = ? AND place = -1", crossing, key))
    many("INSERT OR IGNORE INTO item_source (item_id, address_id, place) VALUES (?, ?, -1)", [(item, address)])
    return item


def store_values(item: int, values: list[Value]) -> None:
    """An item's lifted fields; those the kind has no more go. What a person set by hand is not touched."""
    many(
        "INSERT INTO item_field (item_id, field, type, lifted, lifted_hash, locator, nodes, state, note, unlike, "
        "beside) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET type = excluded.type, lifted = "
        "excluded.lifted, lifted_hash = excluded.lifted_hash, locator = excluded.locator, nodes = excluded.nodes, "
        "state = excluded.state, note = excluded.note, unlike = excluded.unlike, beside = excluded.beside",
        [
            (
                item,
                v.field,
                v.type,
                None if v.value is None else json.dumps(v.value, ensure_ascii=False),
                v.hash,
                v.locator,
                json.dumps(list(v.nodes)),
                v.state,
                v.note,
                v.unlike,
                v.beside,
            )
            for v in values
        ],
    )
    names = [v.field for v in values]
    marks = ",".join("?" * len(names)) or "''"
    rows(f"DELETE FROM item_field WHERE item_id = ? AND field NOT IN ({marks})", item, *names)


def drop_items(items_: list[int]) -> None:
    """Take items away whose page is in no kind with items any more. Edits of them stay."""
    many("DELETE FROM item WHERE id = ?", [(item,) for item in items_])


def outside(crossing: int) -> dict[int, bytes]:
    """item -> the hashes (8 bytes each) of the texts of its page that stand outside its bodies."""
    return dict(rows("SELECT id, outside FROM item WHERE crossing_id = ? AND outside IS NOT NULL", crossing))


def store_shared(crossing: int, hashes: list[int]) -> None:
    rows("DELETE FROM shared WHERE crossing_id = ?", crossing)
    many("INSERT INTO shared (crossing_id, hash, pages) VALUES (?, ?, 0)", [(crossing, h) for h in hashes])


def shared(crossing: int) -> list[int]:
    """The hashes of texts that are furniture, in order."""
    return [row[0] for row in rows("SELECT hash FROM shared WHERE crossing_id = ? ORDER BY hash", crossing)]


# an edit over the whole value of a field (``f`` of item ``i``)
EDITED = (
    "EXISTS (SELECT 1 FROM edit e WHERE e.crossing_id = i.crossing_id AND e.old = i.key AND e.field = f.field AND "
    "e.block = '' AND i.place = -1)"
)


# the state of a field (``f``), of which one that is read but wants a look is odd
STATE = "CASE WHEN f.state = 'filled' AND f.unlike != '' THEN 'odd' ELSE f.state END"
_NOTE = "CASE WHEN f.note = '' THEN f.unlike ELSE f.note END"


def _said(note: str) -> str:
    """A note as people read it; of a value that wants a look, why."""
    return SAYS[Unlike(note)] if note in SAYS else note


def coverage(crossing: int) -> dict[str, dict[str, dict[str, int]]]:
    """``{kind: {field: {state: items}}}``."""
    result: dict[str, dict[str, dict[str, int]]] = {}
    for kind, field, state, count in rows(
        f"SELECT i.kind, f.field, {STATE}, count(*) FROM item i JOIN item_field f ON f.item_id = i.id "
        "WHERE i.crossing_id = ? GROUP BY 1, 2, 3",
        crossing,
    ):
        result.setdefault(kind, {}).setdefault(field, {})[state] = count
    return result


class Unfilled(NamedTuple):
    """A field that is not simply filled, with the page it is of and why."""

    kind: str
    key: str
    field: str
    state: str
    note: str


def exceptions(crossing: int) -> list[Unfilled]:
    """Every field that is not simply filled."""
    found = typed(
        Unfilled,
        f"SELECT i.kind, i.key, f.field, {STATE}, {_NOTE} FROM item i JOIN item_field f ON f.item_id = i.id "
        f"WHERE i.crossing_id = ? AND {STATE} != 'filled' AND NOT {EDITED} ORDER BY 1, 2, 3",
        crossing,
    )
    return [row._replace(note=_said(row.note)) for row in found]


def items(crossing: int) -> list[Item]:
    """All items in order of their old keys, with the values that count: what a person set over what was lifted."""
    found = {
        row[0]: Item(*row, fields={})
        for row in rows(
            "SELECT id, kind, key, title, new_path, note FROM item WHERE crossing_id = ? ORDER BY key", crossing
        )
    }
    by_key: dict[str, Item] = {}
    for row in found.values():
        by_key.setdefault(row.key, row)
    for item, field, lifted in rows(
        "SELECT f.item_id, f.field, f.lifted FROM item_field f JOIN item i ON i.id = f.item_id WHERE i.crossing_id = ?",
        crossing,
    ):
        found[item].fields[field] = None if lifted is None else json.loads(lifted)
    for old, field, value in rows("SELECT old, field, value FROM edit WHERE crossing_id = ? AND block = ''", crossing):
        if old in by_key:
            by_key[old].fields[field] = json.loads(value)
    return list(found.values())


class Filled(NamedTuple):
    """A value that was read simply, and why it wants a look."""

    item: int
    type: str
    value: Any
    unlike: str


def filled(crossing: int, kind: str) -> dict[str, list[Filled]]:
    """field -> what was read simply of it on the pages of a kind."""
    found: dict[str, list[Filled]] = {}
    for field, item, type_, value, unlike in rows(
        "SELECT f.field, f.item_id, f.type, f.lifted, f.unlike FROM item i JOIN item_field f ON f.item_id = i.id WHERE "
        "i.crossing_id = ? AND i.kind = ? AND f.state = 'filled' AND f.type NOT IN ('blocks', 'group', 'picture')",
        crossing,
        kind,
    ):
        found.setdefault(field, []).append(Filled(item, type_, _read(value), unlike))
    return found


def set_unlike(found: list[tuple[str, int, str]]) -> None:
    """Say why values want a look: (why, item, field)."""
    many("UPDATE item_field SET unlike = ? WHERE item_id = ? AND field = ?", found)


NOTHING = value_hash(None)  # of a body that was not found


class Lifted(NamedTuple):
    """A field of an item as it was lifted; ``nodes`` as JSON, "[]" of those whose words do not go over."""

    key: str
    kind: str
    field: str
    type: str
    value: Any
    hash: str
    nodes: str


def lifted(crossing: int) -> list[Lifted]:
    """Every field of every item as it was lifted."""
    found = typed(
        Lifted,
        "SELECT i.key, i.kind, f.field, f.type, f.lifted, f.lifted_hash, CASE f.beside WHEN 1 THEN '[]' ELSE f.nodes "
        "END FROM item i JOIN item_field f ON f.item_id = i.id WHERE i.crossing_id = ? AND i.place = -1",
        crossing,
    )
    return [row._replace(value=_read(row.value)) for row in found]


class HeldValue(NamedTuple):
    """A value of an item as it counts (``value``: what was set by hand, else what was lifted), and the hash of what was
    lifted."""

    item: int
    address: int
    key: str
    title: str
    field: str
    value: Any
    over: str


def held_values(crossing: int, kind: str, search: str = "") -> list[HeldValue]:
    """The values of all items of a kind, those of one item together, in order of their old keys."""
    where = Part("i.crossing_id = ? AND i.kind = ? AND i.place = -1", crossing, kind).like(search, "i.key", "i.title")
    found = rows(
        "SELECT i.id, coalesce((SELECT min(s.address_id) FROM item_source s WHERE s.item_id = i.id), 0), i.key, "
        "i.title, f.field, coalesce(e.value, f.lifted), f.lifted_hash FROM item i JOIN item_field f ON f.item_id = "
        "i.id LEFT JOIN edit e ON e.crossing_id = i.crossing_id AND e.old = i.key AND e.field = "
        f"f.field AND e.block = '' WHERE {where.sql} ORDER BY i.key, i.id, f.field",
        *where.values,
    )
    return [HeldValue(*row[:5], _read(row[5]), row[6]) for row in found]


def set_paths(places: list[Place]) -> None:
    many("UPDATE item SET title = ?, new_path = ?, note = ? WHERE id = ?", [tuple(place) for place in places])


def without_address(crossing: int) -> list[Placeless]:
    """Items that got no new address, by kind and reason, the most first."""
    found = rows(
        "SELECT kind, note, count(*), min(key) FROM item WHERE crossing_id = ? AND new_path = '' AND note != '' "
        "GROUP BY kind, note ORDER BY 3 DESC, 1, 2",
        crossing,
    )
    return [Placeless(*row) for row in found]


LETTERS = {"filled": "f", "empty": "e", "many": "m", "odd": "o"}


def of_fates(where: Part, fates: list[str]) -> Part:
    """Only items (``i``) made of an address with one of these fates."""
    return where.any_of(
        "(SELECT a.fate FROM item_source o JOIN address a ON a.id = o.address_id WHERE o.item_id = i.id ORDER BY "
        "o.address_id LIMIT 1)",
        fates,
    )


class GridItem(NamedTuple):
    """An item as one of many, with the first page it was taken from."""

    id: int
    address: int
    key: str
    title: str


def grid(crossing: int, kind: str, fates: list[str]) -> tuple[list[GridItem], dict[str, str]]:
    """(items of a kind in order, field -> one letter an item): f filled, e empty, m many, o odd, h set by hand.
    With fates, only the items of addresses that have one of them."""
    where = of_fates(Part("i.crossing_id = ? AND i.kind = ?", crossing, kind), fates)
    found = typed(
        GridItem,
        "SELECT i.id, min(s.address_id), i.key, i.title FROM item i JOIN item_source s ON s.item_id = i.id "
        f"WHERE {where.sql} GROUP BY i.id ORDER BY i.key",
        *where.values,
    )
    at = {item.id: number for number, item in enumerate(found)}
    letters: dict[str, list[str]] = {}
    for item, field, state, edited in rows(
        f"SELECT f.item_id, f.field, {STATE}, {EDITED} FROM item_field f JOIN item i ON i.id = f.item_id "
        f"WHERE {where.sql}",
        *where.values,
    ):
        line = letters.setdefault(field, ["e"] * len(found))
        line[at[item]] = "h" if edited else LETTERS[state]
    return found, {field: "".join(line) for field, line in letters.items()}


class ListedItem(NamedTuple):
    """An item with the first page it was taken from; ``note`` says why it has no new address."""

    id: int
    address: int
    kind: str
    key: str
    title: str
    new_path: str
    note: str


_LISTED = (
    "SELECT i.id, (SELECT min(s.address_id) FROM item_source s WHERE s.item_id = i.id), i.kind, i.key, i.title, "
    "i.new_path, i.note FROM item i WHERE "
)


def item_window(
    crossing: int,
    kind: str | None,
    search: str,
    offset: int,
    limit: int,
    placed: bool | None = None,
    clashing: bool = False,
) -> tuple[int, list[ListedItem]]:
    """(total, rows) of items; ``placed``: only those with (without) a new address; ``clashing``: only those whose
    address has a number, since another item was first to have it."""
    where = Part("i.crossing_id = ?", crossing).any_of("i.kind", [kind] if kind is not None else [])
    where = where.like(search, "i.key", "i.title", "i.new_path")
    if placed is not None:
        where = where.and_("i.new_path != ''" if placed else "i.new_path = ''")
    if clashing:
        where = where.and_(f"i.note LIKE '{Why.TAKEN}%'")
    found = typed(
        ListedItem,
        f"{_LISTED} {where.sql} ORDER BY i.key LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    return int(one(f"SELECT count(*) FROM item i WHERE {where.sql}", *where.values)), found


def item_row(crossing: int, item: int) -> ListedItem:
    """One item. Raises NotThere."""
    found = typed(ListedItem, f"{_LISTED} i.crossing_id = ? AND i.id = ?", crossing, item)
    if not found:
        raise NotThere(f"There is no item {item} in this crossing.")
    return found[0]


def source_of(item: int) -> int:
    """The address of the first page that an item was taken from, 0 for none."""
    return int(one("SELECT min(address_id) FROM item_source WHERE item_id = ?", item) or 0)


def title(item: int) -> str:
    return str(one("SELECT title FROM item WHERE id = ?", item) or "")


def body_nodes(item: int, field: str) -> list[int]:
    """The nodes of its page that the region of a body is made of."""
    lifted = one("SELECT lifted FROM item_field WHERE item_id = ? AND field = ?", item, field)
    return list(json.loads(lifted)["nodes"]) if lifted else []


class ItemField(NamedTuple):
    """A field of an item, lifted, and what a person set over it (over a whole value; ``blocks`` counts edits of single
    blocks of a body)."""

    field: str
    lifted: Any
    locator: int
    nodes: list[int]
    state: str
    note: str
    edited: Any
    edited_by: str
    edited_at: str
    conflict: bool
    blocks: int


def item_fields(item: int) -> list[ItemField]:
    found = typed(
        ItemField,
        f"SELECT f.field, f.lifted, f.locator, f.nodes, {STATE}, {_NOTE}, e.value, coalesce(e.by, ''), coalesce(e.at, "
        "''), coalesce(e.over != '' AND e.over != f.lifted_hash, 0), (SELECT count(*) FROM edit b WHERE b.crossing_id "
        "= i.crossing_id AND b.old = i.key AND b.field = f.field AND b.block != '') FROM item_field f JOIN item i ON "
        "i.id = f.item_id LEFT JOIN edit e ON e.crossing_id = i.crossing_id AND e.old = i.key AND i.place = -1 AND "
        "e.field = f.field AND e.block = '' WHERE f.item_id = ? ORDER BY f.field",
        item,
    )
    return [
        row._replace(
            lifted=_read(row.lifted), edited=_read(row.edited), nodes=_read(str(row.nodes)), note=_said(row.note)
        )
        for row in found
    ]


def _read(value: str | None) -> Any:
    return None if value is None else json.loads(value)
