"""What was written, read back: its words, links, pictures, anchors and code against those of the blocks.

Markdown goes through a CommonMark reader (with GFM's tables and strikethrough), and what that makes of it is read like
any page. A difference is a loss, or an addition, with its name; what the choices of a writer leave out is expected.
"""

from __future__ import annotations

import html
import re
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cache
from typing import NamedTuple
from urllib.parse import unquote

from markdown_it import MarkdownIt

from ..page import Page, parse
from ..references import media_source, picture_source, runs_script
from .anchors import anchor_name
from .blocks import (
    Anchor,
    Block,
    Button,
    CodeBlock,
    Embed,
    Form,
    Heading,
    Island,
    Link,
    Note,
    NoteRef,
    Picture,
    RawInline,
    Shot,
    walk,
)
from .choices import DEFAULTS, Odd, WrittenAs
from .clean import clean
from .write import to_html, to_text, write_markdown

SAID = 20  # of each sort that are named


class What(StrEnum):
    """What is compared."""

    WORDS = "words"
    LINKS = "links"
    PICTURES = "pictures"
    ANCHORS = "anchors"
    CODE = "code"


class Differs(NamedTuple):
    """What a text has not that the blocks have (``lost``), or has and they have not: how many, and the first of
    them."""

    what: What
    lost: bool
    number: int
    said: tuple[str, ...]


@dataclass(slots=True)
class Inventory:
    """The words in their order, and things by how often they are there."""

    words: str = ""
    things: dict[What, Counter[str]] = field(default_factory=lambda: {what: Counter() for what in What})


_HEADING_MARKS = re.compile(r"(?m)^(.*?)[ ]\{#([^{}\s]+)\}$")


@cache
def _reader() -> MarkdownIt:
    reader = MarkdownIt("commonmark", {"html": True}).enable(["table", "strikethrough"])
    reader.normalizeLink = lambda url: url  # type: ignore[method-assign]
    reader.validateLink = lambda url: True  # type: ignore[method-assign]
    return reader


def rendered(markdown: str) -> str:
    """The HTML that a CommonMark reader with GFM's tables makes of Markdown."""
    return str(_reader().render(markdown))


def of_blocks(blocks: tuple[Block, ...]) -> Inventory:
    """What blocks hold."""
    found = Inventory(to_text(blocks))
    things = found.things
    for thing in walk(blocks):
        kind = type(thing)
        if kind is Link and not runs_script(thing.href):
            things[What.LINKS][_plain(thing.href)] += 1
        elif kind is Picture and not runs_script(thing.src):
            things[What.PICTURES][_plain(thing.src)] += 1
        elif kind is Anchor:
            things[What.ANCHORS][thing.name] = 1
        elif kind is Heading and thing.id:
            things[What.ANCHORS][thing.id] = 1
        elif kind is CodeBlock:
            things[What.CODE][thing.text.removesuffix("\n")] += 1
        elif kind is Embed:
            things[What.PICTURES].update([_plain(thing.poster)] if thing.poster else [])
        elif kind is NoteRef:
            things[What.LINKS][_plain(f"#{thing.name}")] += 1
            things[What.ANCHORS] |= Counter([thing.anchor] if thing.anchor else [])
        elif kind is Note:
            things[What.ANCHORS][thing.name] = 1
        elif (kind is Shot or kind is Button) and thing.href and not runs_script(thing.href):
            things[What.LINKS][_plain(thing.href)] += 1
        elif kind is Island or kind is RawInline or kind is Form:
            inner = of_page(parse(f"<body>{clean(thing.html)}</body>"))
            for what in (What.LINKS, What.PICTURES, What.CODE):
                things[what].update(inner.things[what])
    return found


def of_page(page: Page) -> Inventory:
    """What a page shows."""
    found = Inventory(" ".join(n.text for n in page.inside(page.body) if not n.tag and n.visible))
    things = found.things
    for node in page.inside(page.body):
        tag = node.tag
        if not tag:
            continue
        if name := anchor_name(node):
            things[What.ANCHORS][name] = 1
        if tag in ("a", "area") and "href" in node.attrs and not runs_script(href := node.get("href").strip()):
            things[What.LINKS][_plain(href)] += 1
        elif tag == "pre":
            text = "".join("\n" if n.tag == "br" else n.text for n in page.inside(node))
            things[What.CODE][text.removesuffix("\n")] += 1
        source = picture_source(tag, node.attrs) if tag != "source" else ""
        if source and not runs_script(source) and not (tag in ("iframe", "audio") and media_source(tag, node.attrs)):
            things[What.PICTURES][_plain(source)] += 1
    return found


def _plain(address: str) -> str:
    """An address as two writers agree on it: decoded, without line breaks."""
    return unquote(html.unescape(address) if "&" in address else address).translate(_BREAKS).strip()


_BREAKS = dict.fromkeys(map(ord, "\n\r\t"))


def read_back(blocks: tuple[Block, ...], markdown: str, choices: Mapping[Odd, WrittenAs] = DEFAULTS) -> list[Differs]:
    """The differences between Markdown that was written and its blocks. What the choices leave out on purpose does not
    count."""
    page = parse(f"<body>{rendered(markdown)}</body>")
    has, wanted = of_page(page), of_blocks(blocks)
    if choices.get(Odd.CODE_LINKS) is WrittenAs.PLAIN:
        in_code = [t for b in walk(blocks) if isinstance(b, CodeBlock) for t in walk(b.parts) if isinstance(t, Link)]
        wanted.things[What.LINKS].subtract(_plain(link.href) for link in in_code)
    anchors = choices.get(Odd.ANCHORS)
    if anchors is WrittenAs.REPORT:
        wanted.things[What.ANCHORS].clear()
    else:  # the names of headings to which nothing leads need no anchor
        aimed = {thing.name for thing in walk(blocks) if isinstance(thing, Anchor)}
        if choices.get(Odd.FOOTNOTES) is not WrittenAs.MARKED:
            aimed |= {thing.anchor for thing in walk(blocks) if isinstance(thing, NoteRef) and thing.anchor}
        wanted.things[What.ANCHORS] = Counter(aimed)
        if anchors is WrittenAs.MARKED:
            has.things[What.ANCHORS].update(m[2] for m in _HEADING_MARKS.finditer(has.words))
            has.words = _HEADING_MARKS.sub(r"\1", has.words)
        has.things[What.ANCHORS] &= wanted.things[What.ANCHORS]
    return _compared(wanted, has)


def html_read_back(blocks: tuple[Block, ...], written: str | None = None) -> list[Differs]:
    """The differences between HTML that was written and its blocks."""
    text = to_html(blocks) if written is None else written
    has, wanted = of_page(parse(f"<body>{text}</body>")), of_blocks(blocks)
    has.things[What.ANCHORS] &= wanted.things[What.ANCHORS]
    return _compared(wanted, has)


def markdown_differs(blocks: tuple[Block, ...], choices: Mapping[Odd, WrittenAs] = DEFAULTS) -> list[Differs]:
    """Blocks written as Markdown, and read back."""
    return read_back(blocks, write_markdown(blocks, choices).text, choices)


def _compared(wanted: Inventory, has: Inventory) -> list[Differs]:
    found: list[Differs] = []
    if "".join(wanted.words.split()) != "".join(has.words.split()):
        mine, theirs = Counter(wanted.words.split()), Counter(has.words.split())
        # a word in parts, by marks within it, is the same word
        if Counter("".join(mine.elements())) != Counter("".join(theirs.elements())):
            found += _both(What.WORDS, mine, theirs)
    for what, things in wanted.things.items():
        if what is not What.WORDS and +things != has.things[what]:
            found += _both(what, things, has.things[what])
    return found


def _both(what: What, wanted: Counter[str], has: Counter[str]) -> Iterable[Differs]:
    for lost, gone in ((True, wanted - has), (False, has - wanted)):
        if gone:
            yield Differs(what, lost, sum(gone.values()), tuple(list(gone.elements())[:SAID]))
