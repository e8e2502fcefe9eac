"""One table from every type of block to what writes it: a writer that lacks one is a type error, and fails when
made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Concatenate, ParamSpec

from ..blocks import (
    Block,
    Button,
    Callout,
    CodeBlock,
    Columns,
    Definitions,
    Disclosure,
    Divider,
    Embed,
    Figure,
    FileLink,
    Footnotes,
    Form,
    Gallery,
    Heading,
    Island,
    List,
    Paragraph,
    Passage,
    Quote,
    Table,
    Tabs,
)

P = ParamSpec("P")


@dataclass(frozen=True, slots=True)
class Writing:
    """What writes each type of block. Every function takes the block and what the writer hands on with it."""

    paragraph: Callable[Concatenate[Paragraph, ...], str]
    heading: Callable[Concatenate[Heading, ...], str]
    list: Callable[Concatenate[List, ...], str]
    table: Callable[Concatenate[Table, ...], str]
    code: Callable[Concatenate[CodeBlock, ...], str]
    quote: Callable[Concatenate[Quote, ...], str]
    figure: Callable[Concatenate[Figure, ...], str]
    divider: Callable[Concatenate[Divider, ...], str]
    definitions: Callable[Concatenate[Definitions, ...], str]
    disclosure: Callable[Concatenate[Disclosure, ...], str]
    embed: Callable[Concatenate[Embed, ...], str]
    file_link: Callable[Concatenate[FileLink, ...], str]
    passage: Callable[Concatenate[Passage, ...], str]
    callout: Callable[Concatenate[Callout, ...], str]
    tabs: Callable[Concatenate[Tabs, ...], str]
    columns: Callable[Concatenate[Columns, ...], str]
    gallery: Callable[Concatenate[Gallery, ...], str]
    button: Callable[Concatenate[Button, ...], str]
    form: Callable[Concatenate[Form, ...], str]
    footnotes: Callable[Concatenate[Footnotes, ...], str]
    island: Callable[Concatenate[Island, ...], str]


# the name under which a Writing holds what writes a type
NAMES: dict[type, str] = {
    Paragraph: "paragraph",
    Heading: "heading",
    List: "list",
    Table: "table",
    CodeBlock: "code",
    Quote: "quote",
    Figure: "figure",
    Divider: "divider",
    Definitions: "definitions",
    Disclosure: "disclosure",
    Embed: "embed",
    FileLink: "file_link",
    Passage: "passage",
    Callout: "callout",
    Tabs: "tabs",
    Columns: "columns",
    Gallery: "gallery",
    Button: "button",
    Form: "form",
    Footnotes: "footnotes",
    Island: "island",
}


def write_with(writing: Writing, block: Block, *more: Any) -> str:
    """A block written by the function of its type."""
    return str(getattr(writing, NAMES[type(block)])(block, *more))
