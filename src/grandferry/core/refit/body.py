"""A body: the region of a page it was read from, its blocks with their places, and what a person changed in it.

A block's id comes from where it stands (the way of element names and ordinals from its region), so that it is the same
after the words have changed; the hash of its words says whether they have. A change made over a block applies to the
block of that id while its hash is the same; when the block has moved, to the only other one with that hash; else it is
a conflict for a person.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal, NamedTuple

from ..page import Node, Page
from .blocks import Block, CodeBlock, Text, from_json, to_json
from .page import Region, region_of
from .write.text import to_text

Act = Literal["set", "drop", "after"]


@dataclass(frozen=True, slots=True)
class Placed:
    """A block of a body with its id and the place it came from. ``kept``: its hash where that is known already."""

    id: str
    place: str
    block: Block
    kept: str = ""

    @property
    def hash(self) -> str:
        return self.kept or block_hash(self.block)


@dataclass(frozen=True, slots=True)
class Body:
    """``blocks`` in order."""

    region: Region
    blocks: tuple[Placed, ...]

    @property
    def content(self) -> tuple[Block, ...]:
        """The blocks alone, as writers take them."""
        return tuple(placed.block for placed in self.blocks)


@dataclass(frozen=True, slots=True)
class Change:
    """What a person did to a body: ``set`` (with block "": all of it), ``drop``, or set something ``after`` a block.
    ``over``: hash of what lay under it, "" when that is not known."""

    block: str
    act: Act
    blocks: tuple[Block, ...]
    over: str


_NODES = re.compile(r', "(?:node|switch)": \d+')


def block_hash(block: Block) -> str:
    """A hash of a block's type and all it holds, the numbers of its nodes aside, and of code the last line break, which
    earlier versions did not keep."""
    if isinstance(block, CodeBlock) and block.parts and isinstance(last := block.parts[-1], Text):
        text = last.text.removesuffix("\n")
        parts = (*block.parts[:-1], replace(last, text=text)) if text else block.parts[:-1]
        block = replace(block, parts=parts)
    return _hash_of(to_json(block))


def _hash_of(data: Any) -> str:
    text = _NODES.sub("", json.dumps(data, ensure_ascii=False))
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=6).hexdigest()


def body_of(page: Page, region: Sequence[Node], blocks: Sequence[Block]) -> Body:
    """The body of these blocks, read from ``region`` of ``page``."""
    ways = _Ways(page, region)
    seen: dict[str, int] = {}
    placed = []
    for block in blocks:
        place = ways.to(_first_node(block))
        key = f"{place} {type(block).__name__}"
        seen[key] = seen.get(key, 0) + 1
        text = f"{key} {seen[key]}".encode()
        placed.append(Placed(hashlib.blake2b(text, digest_size=5).hexdigest(), place, block))
    return Body(region_of(page, region), tuple(placed))


def _first_node(block: Any) -> int:
    node = getattr(block, "node", -1)
    if node < 0:
        link = getattr(block, "link", None)
        node = getattr(link, "node", -1)
    return int(node)


class _Ways:
    """Ways from a region to its nodes: element names, each with its ordinal among its like."""

    def __init__(self, page: Page, region: Sequence[Node]):
        self._page = page
        self._tops = {node.n: f"{at}" for at, node in enumerate(region)}
        self._known: dict[int, str] = {}

    def to(self, number: int) -> str:
        if not 0 <= number < len(self._page.nodes):
            return ""
        node: Node | None = self._page.nodes[number]
        if node is not None and not node.tag:
            node = node.parent
        parts: list[str] = []
        while node is not None:
            if node.n in self._tops:
                parts.append(self._tops[node.n])
                break
            if node.n not in self._known:
                self._name_all(node.parent.children if node.parent is not None else [node])
            parts.append(self._known[node.n])
            node = node.parent
        return "/".join(reversed(parts))

    def _name_all(self, beside: Sequence[Node]) -> None:
        """The steps of all that stand beside each other, at once."""
        counts: dict[str, int] = {}
        for node in beside:
            if node.tag:
                ordinal = counts[node.tag] = counts.get(node.tag, 0) + 1
                name = node.get("id")
                self._known[node.n] = f"{node.tag}#{name}" if name else f"{node.tag}{ordinal}"


class Part(NamedTuple):
    """What became of one block of a body: what stands in its place, and after it."""

    placed: Placed
    here: tuple[Block, ...]
    after: tuple[Block, ...]


def parts_of(body: Body, changes: Sequence[Change]) -> tuple[list[Part], list[Change]]:
    """(what a person made of each block, the changes that find no block of their own)."""
    odd: list[Change] = []
    by_place: dict[int, list[Change]] = {}
    for change in changes:
        at = _find(body, change)
        if at is None:
            odd.append(change)
        else:
            by_place.setdefault(at, []).append(change)
    made = []
    for at, placed in enumerate(body.blocks):
        here: tuple[Block, ...] = (placed.block,)
        after: tuple[Block, ...] = ()
        for change in by_place.get(at, []):
            if change.act == "drop":
                here = ()
            elif change.act == "set":
                here = change.blocks
            else:
                after += change.blocks
        made.append(Part(placed, here, after))
    return made, odd


def whole_of(changes: Sequence[Change]) -> Change | None:
    """The change that sets all of a body."""
    return next((change for change in changes if not change.block and change.act == "set"), None)


def changed(body: Body, changes: Sequence[Change]) -> tuple[tuple[Block, ...], list[Change]]:
    """(the blocks as a person wants them, the changes that no longer fit what lies under them).

    A change that sets all of a body holds whatever lies under it, and is named as well when that has changed; one that
    finds no block of its own is left out and named.
    """
    whole = whole_of(changes)
    if whole is not None:
        return whole.blocks, [whole] if whole.over and whole.over != body.region.words else []
    parts, odd = parts_of(body, changes)
    return tuple(block for part in parts for block in (*part.here, *part.after)), odd


def placed_of(body: Body, change: Change) -> str:
    """The id of the block that a change is about, "" when there is none any more."""
    at = _find(body, change)
    return "" if at is None else body.blocks[at].id


def _find(body: Body, change: Change) -> int | None:
    same = [at for at, placed in enumerate(body.blocks) if placed.id == change.block]
    if same and (not change.over or body.blocks[same[0]].hash == change.over):
        return same[0]
    moved = [at for at, placed in enumerate(body.blocks) if placed.hash == change.over]
    return moved[0] if len(moved) == 1 else None


# --- as JSON -------------------------------------------------------------------------------------------


def body_to_json(body: Body) -> dict[str, Any]:
    """The stored form: its type is said by its key ``body``, not by how it looks."""
    blocks = []
    for placed in body.blocks:
        data = to_json(placed.block)
        blocks.append({"id": placed.id, "place": placed.place, "hash": placed.kept or _hash_of(data), "block": data})
    return {
        "body": 1,
        "region": {"nodes": list(body.region.nodes), "words": body.region.words},
        "blocks": blocks,
    }


def body_from_json(data: Any) -> Body:
    """The inverse. A list is what versions before this kept: blocks alone, without places."""
    if isinstance(data, list):
        return Body(Region((), ""), tuple(Placed(f"{at}", "", block) for at, block in enumerate(from_json(data))))
    region = Region(tuple(data["region"]["nodes"]), data["region"]["words"])
    return Body(region, tuple(Placed(p["id"], p["place"], from_json(p["block"]), p["hash"]) for p in data["blocks"]))


def shown_words(block: Block) -> str:
    """A block's words in one line, for lists of changes."""
    return " ".join(to_text((block,)).split())
