"""Records of refitting: the blocks of body fields and their loss accounts."""

from __future__ import annotations

import json
from typing import Any, NamedTuple

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.refit.account import LossAccount
from grandferry.core.standing import Carried

from .db import Part, many, one, rows, typed
from .lift import of_fates
from .survey.captures import KEYS_OF_PAGE


class BodyField(NamedTuple):
    """A lifted body: ``lifted`` is its region as JSON, ``content`` its page's body hash, ``made_from`` of what its
    blocks were made, None when they are not yet, ``keys`` JSON lines of those in the page's code, ``others`` the nodes
    that other fields of the item were read from. Of several items of one page the first (``whole``) has the account of
    all of it, what the others were read from among its ``others``."""

    item: int
    field: str
    key: str
    lifted: str
    url: str
    content: str
    headers: str
    made_from: str | None
    keys: str
    others: list[int]
    whole: bool = True
    address: int = 0  # of its page
    kind: str = ""


class BodyPlace(NamedTuple):
    """Where a body stands: its item and field, its kind, its page's address and capture."""

    item: int
    field: str
    kind: str
    address: int
    content: str
    headers: str


def body_places(crossing: int) -> list[BodyPlace]:
    """Where the bodies of all items stand, in the order of their keys."""
    return [
        BodyPlace(*row)
        for row in rows(
            "SELECT f.item_id, f.field, i.kind, a.id, c.content, c.headers FROM item_field f JOIN item i ON i.id = "
            "f.item_id JOIN item_source s ON s.item_id = i.id JOIN address a ON a.id = s.address_id JOIN capture c ON "
            "c.id = a.capture WHERE i.crossing_id = ? AND f.type = 'blocks' AND f.lifted IS NOT NULL AND c.content != "
            "'' ORDER BY i.key, f.field",
            crossing,
        )
    ]


def body_fields(crossing: int, only: int = 0) -> list[BodyField]:
    """The bodies of all items, or of those of one address, in the order of their keys."""
    found = rows(
        f"SELECT f.item_id, f.field, i.key, f.lifted, a.url, c.content, c.headers, r.made_from, {KEYS_OF_PAGE}, a.id, "
        "i.kind FROM item_field f JOIN item i ON i.id = f.item_id JOIN item_source s ON s.item_id = i.id JOIN address "
        "a ON a.id = s.address_id JOIN capture c ON c.id = a.capture LEFT JOIN refit r ON r.item_id = f.item_id AND "
        "r.field = f.field WHERE i.crossing_id = ? AND f.type = 'blocks' AND f.lifted IS NOT NULL AND c.content != '' "
        "AND (? = 0 OR a.id = ?) "
        "ORDER BY i.key, f.field",
        crossing,
        only,
        only,
    )
    others: dict[int, list[int]] = {}
    for item, nodes in rows(
        "SELECT f.item_id, f.nodes FROM item_field f JOIN item i ON i.id = f.item_id WHERE i.crossing_id = ? AND "
        "f.type != 'blocks' AND f.lifted IS NOT NULL AND f.beside = 0 AND (? = 0 OR i.id IN (SELECT item_id FROM "
        "item_source WHERE address_id = ?))",
        crossing,
        only,
        only,
    ):
        others.setdefault(item, []).extend(n for n in json.loads(nodes) if n >= 0)
    made = [BodyField(*row[:-2], others.get(row[0], []), address=row[-2], kind=row[-1]) for row in found]
    by_page: dict[str, list[BodyField]] = {}
    for body in made:
        if "#" in body.key:
            by_page.setdefault(body.url, []).append(body)
    return [_of_page(body, by_page.get(body.url, [])) for body in made]


def _of_page(body: BodyField, beside: list[BodyField]) -> BodyField:
    """A body among those of the other items of its page."""
    if not beside or body.item != beside[0].item:
        return body._replace(whole=not beside)
    nodes = [n for other in beside[1:] for n in (*json.loads(other.lifted)["nodes"], *other.others)]
    return body._replace(others=[*body.others, *nodes])


def store_refits(
    refits: list[tuple[Any, ...]],
    counts: list[tuple[int, str, str, str, int]],
    taken: list[tuple[int, str, int, int]],
) -> None:
    """Rows (item, field, body hash, account JSON, words, in_blocks, in_islands, unaccounted, what it was made from),
    and of the same bodies (item, field, type, name, count): constructs, words by step, and things had, taken by steps
    and lost; (item, step, version, words): what each step takes of its page."""
    many(
        "INSERT OR REPLACE INTO refit (item_id, field, blocks, account, words, in_blocks, in_islands, unaccounted, "
        "made_from) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
        refits,
    )
    many("DELETE FROM refit_count WHERE item_id = ? AND field = ?", [row[:2] for row in refits])
    many("INSERT INTO refit_count (item_id, field, type, name, count) VALUES (?, ?, ?, ?, ?)", counts)
    many("DELETE FROM taken WHERE item_id = ?", [row[:1] for row in refits])
    many("INSERT OR REPLACE INTO taken (item_id, step, version, words) VALUES (?, ?, ?, ?)", taken)


def restamp(found: list[tuple[str, int, str]]) -> None:
    """Bodies that would come out the same: (what they rest on now, item, field)."""
    many("UPDATE refit SET made_from = ? WHERE item_id = ? AND field = ?", found)


def drop_without_field(crossing: int) -> None:
    """Take away bodies of fields that no item has any more."""
    gone = (
        "FROM {table} WHERE item_id IN (SELECT id FROM item WHERE crossing_id = ?) AND NOT EXISTS (SELECT 1 FROM "
        "item_field f WHERE f.item_id = {table}.item_id AND f.field = {table}.field AND f.type = 'blocks' AND "
        "f.lifted IS NOT NULL)"
    )
    for table in ("refit", "refit_count"):
        rows("DELETE " + gone.format(table=table), crossing)


def blocks_of(crossing: int) -> dict[int, dict[str, str]]:
    """item -> field -> hash of its body."""
    result: dict[int, dict[str, str]] = {}
    for item, field, blocks in rows(
        "SELECT r.item_id, r.field, r.blocks FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?",
        crossing,
    ):
        result.setdefault(item, {})[field] = blocks
    return result


class StoredBody(NamedTuple):
    """The hash a body is kept under, the old page's address, and the hash of the words in its region now."""

    body: str
    url: str
    words: str


def stored(crossing: int, item: int, field: str) -> StoredBody:
    """A refitted body of an item. Raises NotThere."""
    found = rows(
        "SELECT r.blocks, a.url, coalesce(f.lifted_hash, '') FROM refit r JOIN item i ON i.id = r.item_id JOIN "
        "item_source s ON s.item_id = i.id JOIN address a ON a.id = s.address_id LEFT JOIN item_field f ON f.item_id "
        "= i.id AND f.field = r.field WHERE i.crossing_id = ? AND i.id = ? AND r.field = ?",
        crossing,
        item,
        field,
    )
    if not found:
        raise NotThere(f"Item {item} has no refitted body “{field}” in this crossing.")
    return StoredBody(*found[0])


def accounts_of(address: int) -> list[LossAccount]:
    """The loss accounts of the bodies that were taken from a page."""
    found = rows(
        "SELECT r.account FROM refit r JOIN item_source s ON s.item_id = r.item_id WHERE s.address_id = ?", address
    )
    return [LossAccount.from_json(json.loads(account)) for (account,) in found]


WRITTEN, LEFT_OUT, TREATED, FORM = "written", "left_out", "treated", "form"  # types of refit_count


def totals(crossing: int) -> dict[str, int]:
    """Of all bodies: how many, the words of their pages and where these went; ``in_raw_html``: of those in blocks, how
    many stand in raw HTML within Markdown."""
    row = rows(
        "SELECT count(*), coalesce(sum(words), 0), coalesce(sum(in_blocks), 0), coalesce(sum(in_islands), 0), "
        "coalesce(sum(unaccounted), 0) FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?",
        crossing,
    )[0]
    found = dict(zip(("bodies", "words", "in_blocks", "in_islands", "unaccounted"), row, strict=True))
    return found | {"in_raw_html": sum(one.count for one in _counted(crossing, WRITTEN))}


class Worst(NamedTuple):
    """A body that lost words: how many of how many, and the first runs of them."""

    key: str
    unaccounted: int
    words: int
    missing: list[str]


def worst(crossing: int, most: int = 10) -> list[Worst]:
    """The bodies that lost most words."""
    return [
        Worst(key, lost, words, [run["text"] for run in json.loads(account)["missing"][:5]])
        for key, lost, words, account in rows(
            "SELECT i.key, r.unaccounted, r.words, r.account FROM refit r JOIN item i ON i.id = r.item_id "
            "WHERE i.crossing_id = ? AND r.unaccounted > 0 ORDER BY r.unaccounted DESC, i.key LIMIT ?",
            crossing,
            most,
        )
    ]


class ListedBody(NamedTuple):
    """A refitted body in a list: the words of its region and where they went; ``removed``: the words that steps took;
    ``lost``: the things that are in no block."""

    item: int
    address: int
    kind: str
    key: str
    title: str
    new_path: str
    field: str
    words: int
    in_blocks: int
    in_islands: int
    unaccounted: int
    removed: int
    lost: int


_FROM = "refit r JOIN item i ON i.id = r.item_id"
_ROW = (
    "i.id, (SELECT min(s.address_id) FROM item_source s WHERE s.item_id = i.id), i.kind, i.key, i.title, i.new_path, "
    "r.field, r.words, r.in_blocks, r.in_islands, r.unaccounted"
)
_REMOVED = (
    "(SELECT coalesce(sum(c.count), 0) FROM refit_count c WHERE c.item_id = r.item_id AND c.field = r.field AND "
    "c.type = 'step')"
)
# pictures behind something else are mostly looks, and are told apart
_LOST = (
    "(SELECT coalesce(sum(c.count), 0) FROM refit_count c WHERE c.item_id = r.item_id AND c.field = r.field AND "
    "c.type = 'lost' AND c.name != 'backgrounds')"
)
_ORDERS = {"key": "i.key", "kind": "i.kind", "removed": _REMOVED, "lost": _LOST} | {
    name: f"r.{name}" for name in ("words", "in_blocks", "in_islands", "unaccounted")
}


def _selected(crossing: int, fates: list[str], search: str, construct: str) -> Part:
    where = of_fates(Part("i.crossing_id = ?", crossing), fates).like(search, "i.key", "i.title", "i.new_path")
    if construct:
        where = where.and_(
            "EXISTS (SELECT 1 FROM refit_count c WHERE c.item_id = r.item_id AND c.field = r.field AND c.type = "
            "'construct' AND c.name = ?)",
            construct,
        )
    return where


def _order(order: str) -> str:
    name = order.lstrip("-")
    if name not in _ORDERS:
        raise FerryError(f"“{name}” is not a column of bodies.")
    return f"{_ORDERS[name]} {'DESC' if order.startswith('-') else 'ASC'}, i.key, i.id, r.field"


def bodies_window(
    crossing: int, fates: list[str], search: str, order: str, offset: int, limit: int, construct: str = ""
) -> tuple[int, list[ListedBody]]:
    """(total, rows) of refitted bodies; ``construct``: of those that hold it. Raises FerryError for an order that is no
    column."""
    where = _selected(crossing, fates, search, construct)
    found = typed(
        ListedBody,
        f"SELECT {_ROW}, {_REMOVED}, {_LOST} FROM {_FROM} WHERE {where.sql} ORDER BY {_order(order)} LIMIT ? OFFSET ?",
        *where.values,
        limit,
        offset,
    )
    return int(one(f"SELECT count(*) FROM {_FROM} WHERE {where.sql}", *where.values)), found


def body_position(
    crossing: int, fates: list[str], search: str, order: str, item: int, field: str = "", construct: str = ""
) -> int:
    """Where a body of an item (the first without a field) stands among those shown, -1 when it is not among them."""
    where = _selected(crossing, fates, search, construct)
    found = one(
        f"SELECT min(n) FROM (SELECT i.id, r.field, row_number() OVER (ORDER BY {_order(order)}) - 1 AS n FROM {_FROM} "
        f"WHERE {where.sql}) WHERE id = ? AND (? = '' OR field = ?)",
        *where.values,
        item,
        field,
        field,
    )
    return -1 if found is None else int(found)


def loss_account(item: int, field: str) -> LossAccount:
    """The loss account of one body. Raises NotThere."""
    found = one("SELECT account FROM refit WHERE item_id = ? AND field = ?", item, field)
    if found is None:
        raise NotThere(f"Item {item} has no refitted body “{field}”.")
    return LossAccount.from_json(json.loads(found))


class Counted(NamedTuple):
    """Something that bodies hold: how many there are, in how many bodies, and an item that has one."""

    name: str
    count: int
    bodies: int
    example: int


def _counted(crossing: int, type_: str) -> list[Counted]:
    """Over all bodies, the most frequent first."""
    return typed(
        Counted,
        "SELECT c.name, sum(c.count), count(*), min(c.item_id) FROM refit_count c JOIN item i ON i.id = c.item_id "
        "WHERE i.crossing_id = ? AND c.type = ? GROUP BY c.name ORDER BY 2 DESC, 1",
        crossing,
        type_,
    )


class FormRow(NamedTuple):
    """A form by its mark: in how many bodies, and one of them (its item, its old key, the hash of its body)."""

    mark: str
    bodies: int
    example: int
    key: str
    blocks: str


def forms(crossing: int) -> list[FormRow]:
    """The forms in all bodies, those in most of them first."""
    return typed(
        FormRow,
        "SELECT c.name, count(*), c.item_id, min(i.key), r.blocks FROM refit_count c JOIN item i ON i.id = c.item_id "
        "JOIN refit r ON r.item_id = c.item_id AND r.field = c.field WHERE i.crossing_id = ? AND c.type = ? GROUP BY "
        "c.name ORDER BY 2 DESC, 4",
        crossing,
        FORM,
    )


def constructs(crossing: int) -> list[Counted]:
    """What is in the bodies' blocks."""
    return _counted(crossing, "construct")


def removed_by_step(crossing: int) -> dict[str, tuple[int, int]]:
    """What each step took out of all bodies: name -> (bodies, words)."""
    return {row.name: (row.bodies, row.count) for row in _counted(crossing, "step")}


def left_out(crossing: int) -> list[Counted]:
    """What Markdown leaves out by the plan's choices."""
    return _counted(crossing, LEFT_OUT)


def treated_by_step(crossing: int) -> dict[str, tuple[int, int]]:
    """What each step that says what an element is finds in all bodies' pages: name -> (bodies, places)."""
    return {row.name: (row.bodies, row.count) for row in _counted(crossing, TREATED)}


def things(crossing: int) -> list[Carried]:
    """Links, pictures, files, frames, anchors and pictures behind others, over all bodies; those that occur."""
    return [
        Carried(*row)
        for row in rows(
            "SELECT c.name, sum(CASE c.type WHEN 'have' THEN c.count ELSE 0 END), sum(CASE c.type WHEN 'taken' THEN "
            "c.count ELSE 0 END), sum(CASE c.type WHEN 'lost' THEN c.count ELSE 0 END), sum(c.type = 'lost') FROM "
            "refit_count c JOIN item i ON i.id = c.item_id WHERE i.crossing_id = ? AND c.type IN ('have', 'taken', "
            "'lost') GROUP BY c.name ORDER BY 2 DESC, 1",
            crossing,
        )
    ]


def bodies_with_losses(crossing: int) -> int:
    """How many bodies lost a word or a thing without anybody's decision."""
    return int(
        one(f"SELECT count(*) FROM {_FROM} WHERE i.crossing_id = ? AND (r.unaccounted > 0 OR {_LOST} > 0)", crossing)
    )


class Shared(NamedTuple):
    """What a clean-up step takes of whole pages: on how many of the pages with a body it finds something, the words of
    all of it, and in how many versions."""

    pages: int
    words: int
    versions: int


def taken(crossing: int) -> dict[str, Shared]:
    """By the name of each step."""
    return {
        step: Shared(*said)
        for step, *said in rows(
            "SELECT t.step, count(*), sum(t.words), count(DISTINCT t.version) FROM taken t JOIN item i ON i.id = "
            "t.item_id WHERE i.crossing_id = ? GROUP BY t.step",
            crossing,
        )
    }


class Version(NamedTuple):
    """A version of what a step takes: on how many pages, and one of these."""

    version: int
    pages: int
    address: int
    key: str


_SOURCE = "(SELECT min(s.address_id) FROM item_source s WHERE s.item_id = i.id)"
_REFITTED = "EXISTS (SELECT 1 FROM refit r WHERE r.item_id = i.id)"


def versions(crossing: int, step: str, most: int) -> list[Version]:
    """The versions of what a step takes, those on most pages first."""
    return typed(
        Version,
        f"SELECT version, pages, {_SOURCE}, i.key FROM (SELECT t.version, count(*) AS pages, min(t.item_id) AS item "
        "FROM taken t JOIN item i ON i.id = t.item_id WHERE i.crossing_id = ? AND t.step = ? GROUP BY t.version) JOIN "
        "item i ON i.id = item ORDER BY pages DESC, item LIMIT ?",
        crossing,
        step,
        most,
    )


def taken_by_kind(crossing: int, step: str) -> list[tuple[str, int, int]]:
    """(kind, pages on which the step finds something, pages with a body), by kind."""
    return rows(
        "SELECT i.kind, count(t.item_id), count(*) FROM item i LEFT JOIN taken t ON t.item_id = i.id AND t.step = ? "
        f"WHERE i.crossing_id = ? AND {_REFITTED} GROUP BY i.kind ORDER BY 2 DESC, 1",
        step,
        crossing,
    )


class Without(NamedTuple):
    """A page with a body on which a step finds nothing."""

    address: int
    key: str
    kind: str


def without_step(crossing: int, step: str, kinds: list[str], most: int) -> list[Without]:
    """The pages of some kinds on which a step finds nothing."""
    marks = ", ".join("?" for _ in kinds)
    return typed(
        Without,
        f"SELECT {_SOURCE}, i.key, i.kind FROM item i WHERE i.crossing_id = ? AND i.kind IN ({marks}) AND {_REFITTED} "
        "AND NOT EXISTS (SELECT 1 FROM taken t WHERE t.item_id = i.id AND t.step = ?) ORDER BY i.key LIMIT ?",
        crossing,
        *kinds,
        step,
        most,
    )
