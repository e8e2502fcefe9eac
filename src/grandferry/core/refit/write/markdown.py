"""Blocks to Markdown: CommonMark 0.31 with GFM tables, strikethrough and task lists.

What Markdown has no mark for is written as HTML, never dropped.
"""

from __future__ import annotations

import re
from typing import Any

from ..blocks import (
    Block,
    CodeBlock,
    Definitions,
    Disclosure,
    Divider,
    Embed,
    Figure,
    FileLink,
    Heading,
    Island,
    Link,
    List,
    ListItem,
    Paragraph,
    Quote,
    Table,
)
from .html import block_html, inline_html
from .markdown_inline import inline_markdown, paragraph_markdown
from .total import Writing, write_with

SEPARATOR = "<!-- -->"  # keeps two neighbouring lists or quotes apart


def to_markdown(blocks: tuple[Block, ...]) -> str:
    """Markdown text ending in one newline ("" for no blocks)."""
    text = _blocks(blocks)
    return text + "\n" if text else ""


def _blocks(blocks: tuple[Block, ...]) -> str:
    out: list[str] = []
    previous: Any = None
    flip = False
    for block in blocks:
        flip = isinstance(block, List) and isinstance(previous, List) and block.ordered == previous.ordered and not flip
        text = _block(block, flip)
        if not text:
            continue
        if isinstance(block, Quote) and isinstance(previous, Quote):
            out.append(SEPARATOR)
        out.append(text)
        previous = block
    return "\n\n".join(out)


def _block(block: Block, flip: bool) -> str:
    return write_with(_WRITE, block, flip)


def _paragraph(block: Paragraph, flip: bool) -> str:
    return paragraph_markdown(block.content)


def _quote(block: Quote, flip: bool) -> str:
    return "\n".join("> " + line if line else ">" for line in _blocks(block.blocks).split("\n"))


def _table(block: Table, flip: bool) -> str:
    return _gfm_table(block) or block_html(block, compact=True)


def _figure(block: Figure, flip: bool) -> str:
    if not block.caption and all(isinstance(b, Paragraph) for b in block.blocks):
        return _blocks(block.blocks)
    return block_html(block, compact=True)


def _divider(block: Divider, flip: bool) -> str:
    return "***"


def _disclosure(block: Disclosure, flip: bool) -> str:
    opened = " open" if block.open else ""
    inner = _blocks(block.blocks)
    body = f"\n\n{inner}\n\n" if inner else "\n"
    return f"<details{opened}>\n<summary>{inline_html(block.summary)}</summary>{body}</details>"


def _file_link(block: FileLink, flip: bool) -> str:
    return paragraph_markdown((block.link,))


def _island(block: Island, flip: bool) -> str:
    html = block_html(block, compact=True)
    # only known block names open an HTML block in Markdown; others are put in one that does
    return html if block.tag in _HTML_BLOCKS else f"<div>\n{html}\n</div>"


def _definitions(block: Definitions, flip: bool) -> str:
    return block_html(block, compact=True)


def _embed(block: Embed, flip: bool) -> str:
    return f"<div>{block_html(block, True)}</div>"


_HTML_BLOCKS = frozenset(["form", "iframe", "table", "fieldset", "dialog", "details"])


def _heading(block: Heading, flip: bool) -> str:
    text = inline_markdown(block.content, breaks="<br>", starts=False)
    closing = re.search(r"(?:^|\s)(#+)$", text)
    if closing:
        text = text[: closing.start(1)] + "\\" + text[closing.start(1) :]
    return ("#" * block.level + " " + text).rstrip()


def _code(block: CodeBlock, flip: bool) -> str:
    if any(isinstance(part, Link) for part in block.parts):
        return block_html(block, compact=True)  # a fence would lose the links
    text = block.text.removesuffix("\n")  # a fence ends its last line anyhow
    longest = max((len(run) for run in re.findall(r"`{3,}", text)), default=2)
    fence = "`" * (longest + 1)
    language = re.sub(r"[\s`]", "", block.language)
    return f"{fence}{language}\n{text}\n{fence}" if text else f"{fence}{language}\n{fence}"


def _tight(block: List) -> bool:
    """Whether the list can be written without empty lines between its items."""
    for item in block.items:
        for at, inner in enumerate(item.blocks):
            if at == 0 and isinstance(inner, Paragraph | FileLink | List):
                if isinstance(inner, List) and not _tight(inner):
                    return False
                continue
            if isinstance(inner, List) and _tight(inner) and _can_interrupt(inner):
                if at and isinstance(item.blocks[at - 1], List):
                    return False
                continue
            return False
    return True


def _can_interrupt(block: List) -> bool:
    """A list may follow a paragraph without an empty line when it begins with 1 and with words."""
    return (not block.ordered or block.start == 1) and bool(block.items[0].blocks)


def _list(block: List, flip: bool) -> str:
    tight = _tight(block)
    number = min(block.start, 999_999_999)
    out = []
    for item in block.items:
        if block.ordered:
            marker = f"{min(number, 999_999_999)}{')' if flip else '.'} "
            number += 1
        else:
            marker = "+ " if flip else "- "
        out.append(_item(item, marker, tight))
    return ("\n" if tight else "\n\n").join(out)


def _item(item: ListItem, marker: str, tight: bool) -> str:
    if tight:
        parts = [_block(inner, False) for inner in item.blocks]
        body = "\n".join(part for part in parts if part)
    else:
        body = _blocks(item.blocks)
    if item.checked is not None:
        body = ("[x] " if item.checked else "[ ] ") + body
    if not body:
        return marker.rstrip()
    lines = body.split("\n")
    if item.checked is None and re.match(r"\[[ xX]\]", body):
        lines[0] = "\\" + lines[0]
    indent = " " * len(marker)
    return "\n".join([marker + lines[0]] + [indent + line if line else "" for line in lines[1:]])


def _gfm_table(block: Table) -> str:
    """A GFM table, or "" when the table holds what GFM cannot say (spans, blocks, a caption, headers inside)."""
    rows = block.rows
    width = len(rows[0].cells)
    if block.caption or not width:
        return ""
    header = all(cell.header for cell in rows[0].cells)
    for number, row in enumerate(rows):
        if len(row.cells) != width:
            return ""
        for cell in row.cells:
            if cell.colspan > 1 or cell.rowspan > 1 or len(cell.blocks) > 1:
                return ""
            if cell.header and not (number == 0 and header):
                return ""
            if cell.blocks and not isinstance(cell.blocks[0], Paragraph | FileLink):
                return ""
    lines = [_table_row(row.cells) for row in rows]
    marks = {"left": ":--", "right": "--:", "center": ":-:"}
    columns = [rows[0].cells[k].align or (rows[-1].cells[k].align if len(rows) > 1 else "") for k in range(width)]
    rule = "| " + " | ".join(marks.get(align, "---") for align in columns) + " |"
    if header:
        return "\n".join([lines[0], rule, *lines[1:]])
    return "\n".join(["|" + "  |" * width, rule, *lines])


def _table_row(cells: tuple[Any, ...]) -> str:
    shown = []
    for cell in cells:
        inner = cell.blocks[0] if cell.blocks else None
        content = () if inner is None else (inner.link,) if isinstance(inner, FileLink) else inner.content
        text = inline_markdown(content, breaks="<br>", starts=False)
        shown.append(text.replace("|", "\\|").replace("\n", " "))
    return "| " + " | ".join(shown) + " |"


_WRITE = Writing(
    paragraph=_paragraph,
    heading=_heading,
    list=_list,
    table=_table,
    code=_code,
    quote=_quote,
    figure=_figure,
    divider=_divider,
    definitions=_definitions,
    disclosure=_disclosure,
    embed=_embed,
    file_link=_file_link,
    island=_island,
)
