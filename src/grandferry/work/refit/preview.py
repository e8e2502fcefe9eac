"""Captured pages and refitted bodies made ready to be looked at."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from grandferry.core.base import base_of
from grandferry.core.encoding import decode
from grandferry.core.errors import NotThere, UnreadablePage
from grandferry.core.kinds import steps_of
from grandferry.core.page import Page, direction_of, parse, text_of
from grandferry.core.preview import preview_html, safe_css
from grandferry.core.refit.blocks import Block
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.measure import Measure, measured
from grandferry.core.refit.page import numbered
from grandferry.core.refit.read.base import TableInDoubt
from grandferry.core.refit.write import to_html, to_text
from grandferry.core.side import Side
from grandferry.core.survey.glance import glance
from grandferry.core.survey.scope import scope_of
from grandferry.store import bodies, edits, lift, refit
from grandferry.store.crossings import load_plan
from grandferry.store.survey import captures
from grandferry.work.pages import content_type, page_of
from grandferry.work.refit.content import Lying, finished, lying, stored_body

SHOWN_TYPES = re.compile(
    r"(image/(png|jpeg|gif|webp|avif|bmp|svg\+xml|x-icon|vnd\.microsoft\.icon)|font/[\w-]+|text/css)\Z"
)


TEXT_CAP = 20_000  # words of a capture that are compared on screen


@dataclass(frozen=True, slots=True)
class Shown:
    """A captured answer to be looked at: its side and URL, and its body."""

    side: Side
    url: str
    mime: str
    body: bytes
    type: str


def captured(crossing: int, address: int, raw: bool = False) -> Shown:
    """The latest capture of an address: as a browser built it where one did, or ``raw`` as the server sent it. Raises
    NotThere."""
    found = captures.latest(crossing, address, raw)
    if found is None:
        raise NotThere(f"Nothing is captured of address {address} in this crossing.")
    side = Side(crossing, found.side)
    return Shown(side, found.url, found.mime, bodies.get(found.body), content_type(found.headers))


def resources(side: Side, base: str, address_of: Callable[[int], str]) -> Callable[[str], str]:
    """A function from a reference as written on ``base`` to the address under which our own store shows it."""
    scope = scope_of(load_plan(side.crossing).side(side.name))

    def find(raw: str) -> str:
        if raw.startswith("data:image/") and len(raw) < 100_000:
            return raw
        address = scope.normal(raw, base)
        found = captures.captured_at(side, str(address)) if address is not None else None
        return address_of(found) if found else ""

    return find


def page_preview(
    crossing: int,
    address: int,
    head: str,
    address_of: Callable[[int], str],
    with_losses: bool = False,
    raw: bool = False,
) -> str:
    """A captured page as safe HTML; with losses, the words that its refit did not carry are set off. Raises NotThere,
    UnreadablePage."""
    capture = captured(crossing, address, raw)
    text = decode(capture.body, capture.type).text
    marks: dict[int, tuple[str, str]] = {}
    if with_losses:
        for account in refit.accounts_of(address):
            for missing in account.missing:
                why = missing.why
                mark = (
                    ("step", f"taken out by the step “{why}”") if why else ("lost", "in no block, and no step took it")
                )
                for node in missing.nodes:
                    marks[node] = mark
    page = parse(text)
    has_doctype = text.lstrip("\ufeff \t\r\n")[:9].lower() == "<!doctype"
    base = base_of(page, capture.url, scope_of(load_plan(crossing).side(capture.side.name)))
    find = resources(capture.side, base, address_of)
    return preview_html(page, find, head=head, doctype=has_doctype, marks=marks)


def capture_texts(crossing: int, address: int, earlier: int, later: int) -> tuple[str, str]:
    """The visible words of two captures of an address. Raises NotThere, UnreadablePage."""
    texts = []
    for number in (earlier, later):
        found = captures.number(crossing, address, number)
        if found is None:
            raise NotThere(f"Capture {number} of address {address} holds no content.")
        body, headers = found
        seen = glance(decode(bodies.get(body), content_type(headers)).text)
        texts.append(" ".join([seen.facts.title, *seen.seen.split()[:TEXT_CAP]]))
    return texts[0], texts[1]


def file_preview(crossing: int, address: int, address_of: Callable[[int], str]) -> tuple[str, bytes]:
    """(type, bytes) of a captured picture, font or style sheet; a style sheet's own references are rewritten. Raises
    NotThere for any other type."""
    capture = captured(crossing, address)
    if not SHOWN_TYPES.match(capture.mime):
        raise NotThere(f"A file of type {capture.mime or 'unknown'} is not shown here.")
    if capture.mime == "text/css":
        css = decode(capture.body, capture.type).text
        return "text/css; charset=utf-8", safe_css(css, resources(capture.side, capture.url, address_of)).encode()
    return capture.mime, capture.body


def body_blocks(crossing: int, item: int, field: str) -> tuple[tuple[Block, ...], str]:
    """(blocks with what a person changed in them, old url) of an item's refitted body. Raises NotThere."""
    stored = refit.stored(crossing, item, field)
    blocks, _ = finished(stored_body(stored.body), edits.of_item(item, field), stored.url)
    return blocks, stored.url


def lying_blocks(crossing: int, item: int, field: str) -> list[Lying]:
    """The blocks of an item's body with what a person laid over each. Raises NotThere."""
    return lying(stored_body(refit.stored(crossing, item, field).body), edits.of_item(item, field))


def old_direction(crossing: int, item: int) -> str:
    """The direction in which the old page of an item is read, "" when it does not say."""
    try:
        capture = captured(crossing, lift.source_of(item))
        return direction_of(parse(decode(capture.body, capture.type).text))
    except (NotThere, UnreadablePage):
        return ""


def _body_page(crossing: int, item: int, blocks: Sequence[Block]) -> Page:
    """Blocks below their title, as a page."""
    escaped = lift.title(item).replace("&", "&amp;").replace("<", "&lt;")
    heading = f"<h1>{escaped}</h1>" if escaped else ""
    direction = old_direction(crossing, item)
    said = f' dir="{direction}"' if direction else ""
    return parse(f"<html{said}><body>{heading}{to_html(tuple(blocks))}</body>")


def body_preview(crossing: int, item: int, field: str, head: str, address_of: Callable[[int], str]) -> str:
    """A refitted body as a plain page, its pictures from the store, cleaned the same way as a captured page."""
    blocks, url = body_blocks(crossing, item, field)
    find = resources(Side(crossing), url, address_of)
    return preview_html(_body_page(crossing, item, blocks), find, head=head)


class BlockNodes(NamedTuple):
    """Where a block begins in the preview of its body (the number of a node), and the element of the old page that it
    comes from, -1 of what was written by hand."""

    new: int
    old: int


def block_nodes(crossing: int, item: int, field: str) -> list[BlockNodes]:
    """The blocks of a body in their order, each with its place on the new page and on the old one. Raises NotThere."""
    blocks, _ = body_blocks(crossing, item, field)
    capture = captured(crossing, lift.source_of(item))
    old = page_of(capture.body, capture.type)
    page = _body_page(crossing, item, blocks)
    tops = [node.n for node in page.body.children if node.tag][bool(lift.title(item)) :]
    found: list[BlockNodes] = []
    for block in blocks:
        shown = sum(bool(node.tag) for node in parse(f"<body>{to_html((block,))}</body>").body.children)
        here, tops = tops[:shown], tops[shown:]
        node = old.nodes[block.node] if 0 <= block.node < len(old.nodes) else None
        if node is not None and not node.tag:
            node = node.parent  # a loose text stands for what holds it
        found.append(BlockNodes(here[0] if here else -1, node.n if node is not None else -1))
    return found


def table_doubts(crossing: int, item: int, field: str) -> list[TableInDoubt]:
    """The tables of a body of which it is in doubt whether they hold data, but for those that a step decides."""
    capture = captured(crossing, lift.source_of(item))
    page = page_of(capture.body, capture.type)
    steps = steps_of(load_plan(crossing).refit.steps, lift.item_row(crossing, item).kind)
    return list(refit_nodes(page, numbered(page, lift.body_nodes(item, field)), steps=steps).doubts)


class BodyTexts(NamedTuple):
    """The visible text of an item's body on the captured page, that of its blocks, and what both hold, counted."""

    old: str
    new: str
    measures: list[Measure]


def body_texts(crossing: int, item: int, field: str) -> BodyTexts:
    """An item's body old against new. Raises NotThere, UnreadablePage."""
    blocks, _ = body_blocks(crossing, item, field)
    capture = captured(crossing, lift.source_of(item))
    page = parse(decode(capture.body, capture.type).text)
    region = [page.nodes[n] for n in lift.body_nodes(item, field) if 0 <= n < len(page.nodes)]
    old = " ".join(text_of(page, node) for node in region)
    return BodyTexts(old, " ".join(to_text(blocks).split()), measured(page, region, blocks))
