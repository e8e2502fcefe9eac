"""Captured pages and refitted bodies made ready to be looked at."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from dataclasses import dataclass

from grandferry.core.encoding import decode
from grandferry.core.errors import NotThere, UnreadablePage
from grandferry.core.page import direction_of, parse, text_of
from grandferry.core.preview import preview_html, safe_css
from grandferry.core.refit.blocks import Block
from grandferry.core.refit.write import to_html, to_text
from grandferry.core.survey.glance import glance
from grandferry.store import bodies, edits, refit
from grandferry.store.crossings import load_plan
from grandferry.store.db import one, rows
from grandferry.work.jobs.context import scope_of
from grandferry.work.pages import content_type
from grandferry.work.refit.content import finished, stored_body

SHOWN_TYPES = re.compile(
    r"(image/(png|jpeg|gif|webp|avif|bmp|svg\+xml|x-icon|vnd\.microsoft\.icon)|font/[\w-]+|text/css)\Z"
)


TEXT_CAP = 20_000  # words of a capture that are compared on screen


@dataclass(frozen=True, slots=True)
class Captured:
    url: str
    mime: str
    body: bytes
    type: str


def captured(crossing: int, address: int, raw: bool = False) -> Captured:
    """The latest capture of an address: as a browser built it where one did, or ``raw`` as the server sent it. Raises
    NotThere."""
    found = rows(
        f"SELECT a.url, a.mime, c.{'body' if raw else 'content'}, c.headers FROM address a JOIN capture c ON c.id = "
        "a.capture WHERE a.crossing_id = ? AND a.id = ? AND c.body != ''",
        crossing,
        address,
    )
    if not found:
        raise NotThere(f"Nothing is captured of address {address} in this crossing.")
    url, mime, body, headers = found[0]
    return Captured(url, mime, bodies.get(body), content_type(headers))


def resources(crossing: int, base: str, address_of: Callable[[int], str]) -> Callable[[str], str]:
    """A function from a reference as written on ``base`` to the address under which our own store shows it."""
    scope = scope_of(load_plan(crossing))

    def find(raw: str) -> str:
        if raw.startswith("data:image/") and len(raw) < 100_000:
            return raw
        address = scope.normal(raw, base)
        if address is None:
            return ""
        id_ = one(
            "SELECT id FROM address WHERE crossing_id = ? AND side = 'old' AND url = ? AND capture IS NOT NULL",
            crossing,
            str(address),
        )
        return address_of(int(id_)) if id_ else ""

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
        for (account,) in rows(
            "SELECT r.account FROM refit r JOIN item_source s ON s.item_id = r.item_id WHERE s.address_id = ?", address
        ):
            for missing in json.loads(account)["missing"]:
                why = missing["why"]
                mark = (
                    ("step", f"taken out by the step “{why}”") if why else ("lost", "in no block, and no step took it")
                )
                for node in missing.get("nodes", [missing["node"]]):
                    marks[node] = mark
    page = parse(text)
    has_doctype = text.lstrip("\ufeff \t\r\n")[:9].lower() == "<!doctype"
    find = resources(crossing, capture.url, address_of)
    return preview_html(page, find, head=head, doctype=has_doctype, marks=marks)


def capture_texts(crossing: int, address: int, earlier: int, later: int) -> tuple[str, str]:
    """The visible words of two captures of an address. Raises NotThere, UnreadablePage."""
    texts = []
    for number in (earlier, later):
        found = rows(
            "SELECT c.content, c.headers FROM capture c WHERE c.crossing_id = ? AND c.address_id = ? AND c.id = ? AND "
            "c.body != ''",
            crossing,
            address,
            number,
        )
        if not found:
            raise NotThere(f"Capture {number} of address {address} holds no content.")
        body, headers = found[0]
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
        return "text/css; charset=utf-8", safe_css(css, resources(crossing, capture.url, address_of)).encode()
    return capture.mime, capture.body


def body_blocks(crossing: int, item: int, field: str) -> tuple[tuple[Block, ...], str]:
    """(blocks with what a person changed in them, old url) of an item's refitted body. Raises NotThere."""
    stored = refit.stored(crossing, item, field)
    blocks, _ = finished(stored_body(stored.body), edits.of_item(item, field), stored.url)
    return blocks, stored.url


def old_direction(crossing: int, item: int) -> str:
    """The direction in which the old page of an item is read, "" when it does not say."""
    address = one("SELECT min(address_id) FROM item_source WHERE item_id = ?", item)
    try:
        capture = captured(crossing, int(address or 0))
        return direction_of(parse(decode(capture.body, capture.type).text))
    except (NotThere, UnreadablePage):
        return ""


def body_preview(crossing: int, item: int, field: str, head: str, address_of: Callable[[int], str]) -> str:
    """A refitted body as a plain page, its pictures from the store, cleaned the same way as a captured page."""
    blocks, url = body_blocks(crossing, item, field)
    find = resources(crossing, url, address_of)
    html = to_html(blocks)
    title = one("SELECT title FROM item WHERE id = ?", item) or ""
    escaped = str(title).replace("&", "&amp;").replace("<", "&lt;")
    heading = f"<h1>{escaped}</h1>" if escaped else ""
    direction = old_direction(crossing, item)
    said = f' dir="{direction}"' if direction else ""
    return preview_html(parse(f"<html{said}><body>{heading}{html}</body>"), find, head=head)


def body_texts(crossing: int, item: int, field: str) -> tuple[str, str]:
    """(old, new): the visible text of an item's body on the captured page, and that of its blocks."""
    blocks, _ = body_blocks(crossing, item, field)
    found = rows(
        "SELECT f.lifted, s.address_id FROM item_field f JOIN item_source s ON s.item_id = f.item_id WHERE f.item_id "
        "= ? AND f.field = ?",
        item,
        field,
    )
    capture = captured(crossing, found[0][1])
    page = parse(decode(capture.body, capture.type).text)
    nodes = json.loads(found[0][0])["nodes"]
    old = " ".join(text_of(page, page.nodes[n]) for n in nodes if 0 <= n < len(page.nodes))
    return old, " ".join(to_text(blocks).split())
