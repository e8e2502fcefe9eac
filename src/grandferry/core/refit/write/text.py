"""Blocks to plain text: the words alone, one block a paragraph."""

from __future__ import annotations

from typing import assert_never

from ..blocks import (
    Anchor,
    Block,
    Break,
    Button,
    Callout,
    Code,
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
    Inline,
    Island,
    Link,
    List,
    NoteRef,
    Paragraph,
    Passage,
    Picture,
    Quote,
    RawInline,
    Styled,
    Table,
    Tabs,
    Text,
)
from .total import Writing, write_with


def line_text(content: tuple[Inline, ...]) -> str:
    """The words of inline content."""
    out = []
    for piece in content:
        if isinstance(piece, Text | Code):
            out.append(piece.text)
        elif isinstance(piece, Styled | Link | NoteRef):
            out.append(line_text(piece.content))
        elif isinstance(piece, Break):
            out.append("\n")
        elif isinstance(piece, RawInline):
            out.append(" ".join(t.text.strip() for t in piece.words))
        elif not isinstance(piece, Picture | Anchor):  # neither holds words a visitor reads in the line
            assert_never(piece)
    return "".join(out)


def _line(block: Paragraph | Heading) -> str:
    return line_text(block.content)


def _code(block: CodeBlock) -> str:
    return block.text


def _file_link(block: FileLink) -> str:
    return line_text((block.link,))


def _list(block: List) -> str:
    return "\n".join(_blocks(item.blocks, "\n") for item in block.items)


def _table(block: Table) -> str:
    rows = ["\t".join(_blocks(cell.blocks, " ") for cell in row.cells) for row in block.rows]
    return "\n".join(([line_text(block.caption)] if block.caption else []) + rows)


def _quote(block: Quote) -> str:
    return _blocks(block.blocks, "\n\n")


def _figure(block: Figure) -> str:
    return "\n".join(p for p in (_blocks(block.blocks, "\n"), line_text(block.caption)) if p)


def _definitions(block: Definitions) -> str:
    lines = []
    for entry in block.entries:
        lines += [line_text(term) for term in entry.terms] + [_blocks(m, "\n") for m in entry.meanings]
    return "\n".join(lines)


def _disclosure(block: Disclosure) -> str:
    return "\n\n".join(p for p in (line_text(block.summary), _blocks(block.blocks, "\n\n")) if p)


def _passage(block: Passage) -> str:
    return _blocks(block.blocks, "\n\n")


def _callout(block: Callout) -> str:
    return "\n\n".join(p for p in (line_text(block.title), _blocks(block.blocks, "\n\n")) if p)


def _tabs(block: Tabs) -> str:
    parts = [part for tab in block.tabs for part in (line_text(tab.label), _blocks(tab.blocks, "\n\n"))]
    return "\n\n".join(part for part in parts if part)


def _columns(block: Columns) -> str:
    return "\n\n".join(p for one in block.columns if (p := _blocks(one.blocks, "\n\n")))


def _gallery(block: Gallery) -> str:
    return "\n".join(line for shot in block.shots if (line := line_text(shot.caption)))


def _button(block: Button) -> str:
    return line_text(block.content)


def _form(block: Form) -> str:
    return " ".join(t.text.strip() for t in block.words)


def _footnotes(block: Footnotes) -> str:
    return "\n".join(_blocks(note.blocks, "\n") for note in block.notes)


def _island(block: Island) -> str:
    return " ".join(t.text.strip() for t in block.words)


def _nothing(block: Divider | Embed) -> str:
    return ""


_WRITE = Writing(
    paragraph=_line,
    heading=_line,
    list=_list,
    table=_table,
    code=_code,
    quote=_quote,
    figure=_figure,
    divider=_nothing,
    definitions=_definitions,
    disclosure=_disclosure,
    embed=_nothing,
    file_link=_file_link,
    passage=_passage,
    callout=_callout,
    tabs=_tabs,
    columns=_columns,
    gallery=_gallery,
    button=_button,
    form=_form,
    footnotes=_footnotes,
    island=_island,
)


def _block(block: Block) -> str:
    return write_with(_WRITE, block)


def _blocks(blocks: tuple[Block, ...], between: str) -> str:
    return between.join(t for b in blocks if (t := _block(b)))


def to_text(blocks: tuple[Block, ...]) -> str:
    """Plain text, paragraphs divided by an empty line."""
    text = _blocks(blocks, "\n\n")
    return text + "\n" if text else ""
