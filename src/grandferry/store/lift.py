"""Records of lifting: items, their fields with lifted and edited halves, and shared texts."""

from __future__ import annotations

import json
from typing import Any

from grandferry.core.lift.fields import Value, value_hash

from .crossings import NotThere
from .db import Part, many, named, one, rows


def upsert_item(crossing: int, kind: str, key: str, address: int, job: int) -> int:
    """The item made of an old key (made when new), marked as lifted by this job; gives its id."""
    many(
        "INSERT INTO item (crossing_id, kind, key, place, title, new_path, note, lifted_by) VALUES (?, ?, ?, -1, '', '', '', ?) "
        "ON CONFLICT (crossing_id, key, place) DO UPDATE SET kind = excluded.kind, lifted_by = excluded.lifted_by",
        [(crossing, kind, key, job)],
    )
    item = int(one("SELECT id FROM item WHERE crossing_id = ? AND key = ? AND place = -1", crossing, key))
    many("INSERT OR IGNORE INTO item_source (item_id, address_id, place) VALUES (?, ?, -1)", [(item, address)])
    return item


def store_values(item: int, values: list[Value]) -> None:
    """The lifted half of an item's fields; the edited half is never touched. Fields the kind has no more go,
    unless a person has edited them."""
    many(
        "INSERT INTO item_field (item_id, field, lifted, lifted_hash, locator, nodes, state, note, edited, edited_over, "
        "edited_by, edited_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, NULL, '', '', '') ON CONFLICT DO UPDATE SET "
        "lifted = excluded.lifted, lifted_hash = excluded.lifted_hash, locator = excluded.locator, "
        "nodes = excluded.nodes, state = excluded.state, note = excluded.note",
        [
            (
                item,
                v.field,
                None if v.value is None else json.dumps(v.value, ensure_ascii=False),
                value_hash(v.value),
                v.locator,
                json.dumps(list(v.nodes)),
                v.state,
                v.note,
            )
            for v in values
        ],
    )
    names = [v.field for v in values]
    marks = ",".join("?" * len(names)) or "''"
    rows(f"DELETE FROM item_field WHERE item_id = ? AND edited IS NULL AND field NOT IN ({marks})", item, *names)


def drop_stale_items(crossing: int, job: int) -> int:
    """Remove items whose page is in no kind with items any more, unless a person edited one of their fields."""
    stale = (
        "FROM item WHERE crossing_id = ? AND lifted_by != ? AND NOT EXISTS "
        "(SELECT 1 FROM item_field f WHERE f.item_id = item.id AND f.edited IS NOT NULL)"
    )
    count = int(one(f"SELECT count(*) {stale}", crossing, job))
    rows(f"DELETE {stale}", crossing, job)
    return count


def apply_edits(crossing: int, edits: list[dict[str, Any]]) -> int:
    """Lay a plan's edits over the lifted values; gives how many found their item."""
    done = 0
    for edit in edits:
        item = one("SELECT id FROM item WHERE crossing_id = ? AND key = ?", crossing, edit["old"])
        if item is None:
            continue
        done += 1
        many(
            "INSERT INTO item_field (item_id, field, lifted, lifted_hash, locator, nodes, state, note, edited, edited_over, "
            "edited_by, edited_at) VALUES (?, ?, NULL, '', -1, '[]', 'empty', '', ?, ?, ?, ?) ON CONFLICT DO UPDATE SET "
            "edited = excluded.edited, edited_over = excluded.edited_over, edited_by = excluded.edited_by, "
            "edited_at = excluded.edited_at",
            [
                (
                    item,
                    edit["field"],
                    json.dumps(edit["value"], ensure_ascii=False),
                    edit["over"],
                    edit["by"],
                    edit["at"],
                )
            ],
        )
    return done


def store_shared(crossing: int, counts: dict[int, int]) -> None:
    rows("DELETE FROM shared WHERE crossing_id = ?", crossing)
    many(
        "INSERT INTO shared (crossing_id, hash, pages) VALUES (?, ?, ?)", [(crossing, h, n) for h, n in counts.items()]
    )


def shared(crossing: int) -> frozenset[int]:
    return frozenset(row[0] for row in rows("SELECT hash FROM shared WHERE crossing_id = ?", crossing))


def coverage(crossing: int) -> dict[str, dict[str, dict[str, int]]]:
    """``{kind: {field: {state: items}}}``."""
    result: dict[str, dict[str, dict[str, int]]] = {}
    for kind, field, state, count in rows(
        "SELECT i.kind, f.field, f.state, count(*) FROM item i JOIN item_field f ON f.item_id = i.id "
        "WHERE i.crossing_id = ? GROUP BY 1, 2, 3",
        crossing,
    ):
        result.setdefault(kind, {}).setdefault(field, {})[state] = count
    return result


def exceptions(crossing: int) -> list[dict[str, Any]]:
    """Every field that is not simply filled, with the page it is of and why."""
    names = ("kind", "key", "field", "state", "note")
    return named(
        names,
        "SELECT i.kind, i.key, f.field, f.state, f.note FROM item i JOIN item_field f ON f.item_id = i.id "
        "WHERE i.crossing_id = ? AND f.state != 'filled' AND f.edited IS NULL ORDER BY 1, 2, 3",
        crossing,
    )


def items(crossing: int) -> list[dict[str, Any]]:
    """All items with the values that count (edited over lifted): id, kind, key, title, new_path, fields."""
    found = {
        id_: {"id": id_, "kind": kind, "key": key, "title": title, "new_path": path, "note": note, "fields": {}}
        for id_, kind, key, title, path, note in rows(
            "SELECT id, kind, key, title, new_path, note FROM item WHERE crossing_id = ? ORDER BY key", crossing
        )
    }
    for item, field, lifted, edited in rows(
        "SELECT f.item_id, f.field, f.lifted, f.edited FROM item_field f JOIN item i ON i.id = f.item_id "
        "WHERE i.crossing_id = ?",
        crossing,
    ):
        value = edited if edited is not None else lifted
        found[item]["fields"][field] = None if value is None else json.loads(value)
    return list(found.values())


def set_paths(paths: list[tuple[str, str, str, int]]) -> None:
    """Rows (title, new path, note, item id)."""
    many("UPDATE item SET title = ?, new_path = ?, note = ? WHERE id = ?", paths)


LETTERS = {"filled": "f", "empty": "e", "many": "m", "odd": "o"}


def of_fates(where: Part, fates: list[str]) -> Part:
    """Only items (``i``) made of an address with one of these fates."""
    return where.any_of(
        "(SELECT a.fate FROM item_source o JOIN address a ON a.id = o.address_id WHERE o.item_id = i.id ORDER BY o.address_id LIMIT 1)",
        fates,
    )


def grid(crossing: int, kind: str, fates: list[str]) -> tuple[list[dict[str, Any]], dict[str, str]]:
    """(items of a kind in order, field -> one letter an item): f filled, e empty, m many, o odd, h set by hand.
    With fates, only the items of addresses that have one of them."""
    names = ("id", "address", "key", "title")
    where = of_fates(Part("i.crossing_id = ? AND i.kind = ?", crossing, kind), fates)
    found = named(
        names,
        "SELECT i.id, min(s.address_id), i.key, i.title FROM item i JOIN item_source s ON s.item_id = i.id "
        f"WHERE {where.sql} GROUP BY i.id ORDER BY i.key",
        *where.values,
    )
    at = {item["id"]: number for number, item in enumerate(found)}
    letters: dict[str, list[str]] = {}
    for item, field, state, edited in rows(
        "SELECT f.item_id, f.field, f.state, f.edited IS NOT NULL FROM item_field f JOIN item i ON i.id = f.item_id "
        f"WHERE {where.sql}",
        *where.values,
    ):
        line = letters.setdefault(field, ["e"] * len(found))
        line[at[item]] = "h" if edited else LETTERS[state]
    return found, {field: "".join(line) for field, line in letters.items()}


def item_window(
    crossing: int, kind: str | None, search: str, offset: int, limit: int
) -> tuple[int, list[dict[str, Any]]]:
    """(total, rows) of items: id, address, kind, key, title, new_path, note."""
    where = Part("i.crossing_id = ?", crossing).any_of("i.kind", [kind] if kind is not None else [])
    where = where.like(search, "i.key", "i.title", "i.new_path")
    found = named(
        ("id", "address", "kind", "key", "title", "new_path", "note"),
        "SELECT i.id, (SELECT min(s.address_id) FROM item_source s WHERE s.item_id = i.id), i.kind, i.key, i.title, i.new_path, "
        f"i.note FROM item i WHERE {where.sql} ORDER BY i.key LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    return int(one(f"SELECT count(*) FROM item i WHERE {where.sql}", *where.values)), found


def item_row(crossing: int, item: int) -> dict[str, Any]:
    """One item. Raises NotThere."""
    names = ("id", "kind", "key", "title", "new_path", "note")
    found = named(names, f"SELECT {', '.join(names)} FROM item WHERE crossing_id = ? AND id = ?", crossing, item)
    if not found:
        raise NotThere(f"There is no item {item} in this crossing.")
    return {**found[0], "address": one("SELECT min(address_id) FROM item_source WHERE item_id = ?", item)}
