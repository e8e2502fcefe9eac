"""Blocks to plain text: the words alone, one block a paragraph."""

from __future__ import annotations

from typing import Any

from ..blocks import (
    Break,
    Code,
    CodeBlock,
    Definitions,
    Disclosure,
    Figure,
    FileLink,
    Heading,
    Island,
    Link,
    List,
    Paragraph,
    Quote,
    RawInline,
    Styled,
    Table,
    Text,
)


def line_text(content: tuple[Any, ...]) -> str:
    """The words of inline content."""
    out = []
    for piece in content:
        if isinstance(piece, Text | Code):
            out.append(piece.text)
        elif isinstance(piece, Styled | Link):
            out.append(line_text(piece.content))
        elif isinstance(piece, Break):
            out.append("\n")
        elif isinstance(piece, RawInline):
            out.append(" ".join(t.text.strip() for t in piece.words))
    return "".join(out)


def _block(block: Any) -> str:
    if isinstance(block, Paragraph | Heading):
        return line_text(block.content)
    if isinstance(block, CodeBlock):
        return block.text
    if isinstance(block, FileLink):
        return line_text((block.link,))
    if isinstance(block, List):
        return "\n".join(_blocks(item.blocks, "\n") for item in block.items)
    if isinstance(block, Table):
        rows = ["\t".join(_blocks(cell.blocks, " ") for cell in row.cells) for row in block.rows]
        return "\n".join(([line_text(block.caption)] if block.caption else []) + rows)
    if isinstance(block, Quote):
        return _blocks(block.blocks, "\n\n")
    if isinstance(block, Figure):
        return "\n".join(p for p in (_blocks(block.blocks, "\n"), line_text(block.caption)) if p)
    if isinstance(block, Definitions):
        lines = []
        for entry in block.entries:
            lines += [line_text(term) for term in entry.terms] + [_blocks(m, "\n") for m in entry.meanings]
        return "\n".join(lines)
    if isinstance(block, Disclosure):
        return "\n\n".join(p for p in (line_text(block.summary), _blocks(block.blocks, "\n\n")) if p)
    if isinstance(block, Island):
        return " ".join(t.text.strip() for t in block.words)
    return ""


def _blocks(blocks: tuple[Any, ...], between: str) -> str:
    return between.join(t for b in blocks if (t := _block(b)))


def to_text(blocks: tuple[Any, ...]) -> str:
    """Plain text, paragraphs divided by an empty line."""
    text = _blocks(blocks, "\n\n")
    return text + "\n" if text else ""
