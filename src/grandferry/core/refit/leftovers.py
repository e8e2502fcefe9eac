"""What an old system left in its pages for nobody to read: short codes that were never expanded, texts and pictures
that only keep a place, paragraphs that stand there twice."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import fields, is_dataclass, replace
from enum import StrEnum
from typing import Any

from ..page import Node, Page, parse
from ..patterns import compile_pattern
from ..references import keeps_a_place
from .blocks import Block, Form, Island, Paragraph, Picture, RawInline, Text, walk
from .read.boxes import no_name
from .serialise import serialise

_VALUE = r"""(?:"[^"\]]*"|'[^'\]]*'|[^\s"'\]]+)"""
# a name and what it is given; or an end. A word in brackets is no short code: people write those, too
_CODE = rf"\[(?:[a-z][\w-]*(?:\s+[\w-]+={_VALUE})+\s*/?|/[a-z][\w-]*)\]"
_ALONE = rf"\s*(?:{_CODE}\s*)+"
_DUMMY = r"(?i)\blorem\s+ipsum\b|\bdolor\s+sit\s+amet\b|\bconsectetur\s+adipi"
LEAST = 160  # characters of a paragraph that is no chance when it stands there twice: references repeat sentences


class Leftover(StrEnum):
    """Constructs that want a person's look."""

    CODE = "Short code"
    DUMMY = "Dummy text"
    TWICE = "Paragraph that stands there twice"
    STAND_IN = "Picture that keeps a place"
    NO_TAG = "Tag that is none"


def short_code_nodes(page: Page) -> list[int]:
    """The numbers of texts that are short codes and nothing else."""
    alone = compile_pattern(_ALONE)
    return [n.n for n in page.nodes if not n.tag and "[" in n.text and n.visible and alone.fullmatch(n.text)]


def stray_tags(page: Page, region: Sequence[Node]) -> dict[str, int]:
    """How many elements in a region have a name that none has, colons aside: an address between ``<`` and ``>``, which
    no visitor sees."""
    number = sum(":" not in node.tag and no_name(node.tag) for top in region for node in page.inside(top) if node.tag)
    return {Leftover.NO_TAG: number} if number else {}


def leftovers(blocks: Sequence[Block]) -> dict[str, int]:
    """How much of each there is in a body."""
    code, dummy = compile_pattern(_CODE), compile_pattern(_DUMMY)
    found: dict[str, int] = {}
    seen: set[str] = set()

    def note(what: Leftover, number: int = 1) -> None:
        if number:
            found[what] = found.get(what, 0) + number

    for thing in walk(tuple(blocks)):
        if isinstance(thing, Picture) and keeps_a_place(thing.src):
            note(Leftover.STAND_IN)
        elif isinstance(thing, Paragraph):
            text = "".join(one.text for one in walk(thing.content) if isinstance(one, Text))
            if "[" in text:
                note(Leftover.CODE, len(code.findall(text)))
            if dummy.search(text):
                note(Leftover.DUMMY)
            said = " ".join(text.split())
            if len(said) >= LEAST and said in seen:
                note(Leftover.TWICE)
            seen.add(said)
    return found


_LOOKS = frozenset("style class align valign bgcolor color face size border cellpadding cellspacing background".split())


def unstyled(blocks: tuple[Block, ...]) -> tuple[tuple[Block, ...], int]:
    """Raw markup without what only gives it looks (styles, classes, colours, sizes of type); gives how many attributes
    went."""
    gone = 0

    def bare(html: str) -> str:
        nonlocal gone
        page = parse(f"<body>{html}")
        for node in page.inside(page.body):
            looks = node.attrs.keys() & _LOOKS if node.tag else set()
            gone += len(looks)
            for name in looks:
                del node.attrs[name]
        return "".join(serialise(node) for node in page.body.children)

    return tuple(_bared(block, bare) for block in blocks), gone


def _bared(value: Any, bare: Callable[[str], str]) -> Any:
    if isinstance(value, tuple):
        return tuple(_bared(one, bare) for one in value)
    if isinstance(value, Island | RawInline | Form):
        made = bare(value.html)
        return value if made == value.html else replace(value, html=made)
    if not is_dataclass(value) or isinstance(value, type):
        return value
    inner: Mapping[str, Any] = {
        part.name: _bared(had, bare) for part in fields(value) if isinstance(had := getattr(value, part.name), tuple)
    }
    return replace(value, **inner) if inner else value
