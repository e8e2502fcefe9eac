"""What a body holds, counted old against new: of the captured page as it is written, and of the blocks that go over."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from ..page import Node, Page
from ..references import picture_source
from .blocks import Block, Button, Heading, Link, List, Picture, Shot, Table, walk
from .write import to_text

_HEADINGS = frozenset(f"h{n}" for n in range(1, 7))


class Measure(NamedTuple):
    """How many there are of something on the old page, and in the blocks."""

    name: str
    old: int
    new: int


def measured(page: Page, region: Iterable[Node], blocks: Sequence[Block]) -> list[Measure]:
    """Words, headings, pictures, links, lists and tables of a body. Steps, tables that only arrange, and what a person
    changed make them differ; nothing is said of whether that is right."""
    old = dict.fromkeys(("words", "headings", "pictures", "links", "lists", "tables"), 0)
    for node in (inner for top in region for inner in page.inside(top)):
        if not node.visible:
            continue
        if not node.tag:
            old["words"] += len(node.text.split())
        elif node.tag in _HEADINGS:
            old["headings"] += 1
        elif node.tag in ("ul", "ol", "menu", "dir"):
            old["lists"] += 1
        elif node.tag == "table":
            old["tables"] += 1
        elif node.tag == "a":
            old["links"] += bool(node.get("href"))
        elif node.tag == "img":
            old["pictures"] += bool(picture_source(node.tag, node.attrs))
    new = dict.fromkeys(old, 0) | {"words": len(to_text(tuple(blocks)).split())}
    for thing in walk(tuple(blocks)):
        match thing:
            case Heading():
                new["headings"] += 1
            case Picture():
                new["pictures"] += 1
            case Link() | Button() | Shot():
                new["links"] += bool(thing.href)
            case List():
                new["lists"] += 1
            case Table():
                new["tables"] += 1
    return [Measure(name, old[name], new[name]) for name in old]
