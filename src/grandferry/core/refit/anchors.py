"""Anchors: the places within a page that links lead to (HTML standard 7.4.6.4, "finding a potential indicated
element").

A place is kept when a link of the whole crossing aims at it. A fragment is compared as it is written and decoded, and
of several elements of one name the first counts, as in a browser.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from urllib.parse import unquote

from ..page import Node, Page
from .blocks import (
    Anchor,
    Block,
    Cell,
    Definitions,
    Disclosure,
    Entry,
    FileLink,
    Form,
    Heading,
    Inline,
    Island,
    List,
    ListItem,
    Paragraph,
    Quote,
    Row,
    Table,
)

Aimed = Mapping[str, int]  # the name of a place -> how many links lead to it


def anchor_name(node: Node) -> str:
    """What a fragment calls an element: its id, or the name of an ``a``."""
    return node.get("id") or (node.get("name") if node.tag == "a" else "")


def names_of(fragment: str) -> tuple[str, ...]:
    """What a fragment may call a place: as it is written, and decoded."""
    decoded = unquote(fragment)
    return (fragment,) if decoded == fragment else (fragment, decoded)


def aimed_at(page: Page, link: Callable[[str], str], elsewhere: Aimed | None = None) -> dict[str, int]:
    """The names that links lead to within a page: from the page itself, whatever it writes for its own address, or from
    ``elsewhere`` (those of other pages, or of all pages of the crossing, this one among them)."""
    found: Counter[str] = Counter()
    for node in page.nodes:
        if node.tag in ("a", "area") and "#" in (href := node.get("href").strip()):
            led = link(href)
            if led.startswith("#") and len(led) > 1:
                found.update(names_of(led[1:]))
    for fragment, links in (elsewhere or {}).items():
        for name in names_of(fragment):
            found[name] = max(found[name], links)
    return dict(found)


def places_of(page: Page, aimed: Aimed) -> dict[int, str]:
    """The elements of a page that are a place aimed at, with the name of each."""
    found: dict[int, str] = {}
    if not aimed:
        return found
    seen: set[str] = set()
    for node in page.nodes:
        if node.attrs:
            name = node.attrs.get("id") or (node.attrs.get("name") if node.tag == "a" else "")
            if name and name in aimed and name not in seen:
                seen.add(name)
                found[node.n] = name
    return found


def led_to(page: Page, region: Node, link: Callable[[str], str], aimed: Aimed) -> bool:
    """Whether links lead to a region itself other than those around it on its own page, by which a visitor skips what
    is around it."""
    name = region.get("id")
    within = {node.n for node in page.inside(region)}
    skipping = sum(
        node.tag in ("a", "area") and node.n not in within and name in names_of(link(href)[1:])
        for node in page.nodes
        if "#" in (href := node.get("href").strip()) and link(href).startswith("#")
    )
    return aimed.get(name, 0) > skipping


def placed(anchor: Anchor, found: Sequence[Block], node: int) -> list[Block]:
    """Blocks with an anchor at their beginning: in the first line they have, or in a paragraph of its own before
    them. Raw markup has the names of its elements in it."""
    if found and isinstance(found[0], Island | Form) and found[0].node == anchor.node:
        return list(found)
    if found and (first := _in_first(anchor, found[0])) is not None:
        return [first, *found[1:]]
    return [Paragraph((anchor,), node), *found]


def _line(anchor: Anchor, content: tuple[Inline, ...]) -> tuple[Inline, ...]:
    if any(isinstance(piece, Anchor) and piece.name == anchor.name for piece in content[:4]):
        return content
    return (anchor, *content)


def _in_first(anchor: Anchor, block: Block) -> Block | None:
    """A block with the anchor in its first line, None when it has none that an anchor can stand in."""
    if isinstance(block, Heading):
        named = Anchor(block.id, block.node)  # its own name, which the new one takes the place of
        content = _line(named, block.content) if block.id not in ("", anchor.name) else block.content
        return replace(block, content=_line(anchor, content), id=anchor.name)
    if isinstance(block, Paragraph):
        return replace(block, content=_line(anchor, block.content))
    if isinstance(block, FileLink):
        return Paragraph((anchor, block.link), block.node)
    if isinstance(block, Quote) and block.blocks:
        return replace(block, blocks=tuple(placed(anchor, block.blocks, block.node)))
    if isinstance(block, Disclosure) and block.summary:
        return replace(block, summary=_line(anchor, block.summary))
    if isinstance(block, List):
        item = block.items[0]
        first: ListItem = replace(item, blocks=tuple(placed(anchor, item.blocks, item.node)))
        return replace(block, items=(first, *block.items[1:]))
    if isinstance(block, Definitions) and block.entries[0].terms:
        entry = block.entries[0]
        terms = (_line(anchor, entry.terms[0]), *entry.terms[1:])
        return replace(block, entries=(Entry(terms, entry.meanings), *block.entries[1:]))
    if isinstance(block, Table) and block.caption:
        return replace(block, caption=_line(anchor, block.caption))
    if isinstance(block, Table):
        cell = block.rows[0].cells[0]
        made: Cell = replace(cell, blocks=tuple(placed(anchor, cell.blocks, cell.node)))
        return replace(block, rows=(Row((made, *block.rows[0].cells[1:])), *block.rows[1:]))
    return None
