"""Blocks to Markdown: CommonMark 0.31 with GFM tables, strikethrough and task lists.

What Markdown has no mark for is written as HTML, never dropped.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise
from typing import Any, NamedTuple

from ..blocks import (
    Anchor,
    Block,
    Break,
    Button,
    Callout,
    CodeBlock,
    Columns,
    Definitions,
    Disclosure,
    Divider,
    Embed,
    Entry,
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
    ListItem,
    Note,
    Paragraph,
    Passage,
    Quote,
    Styled,
    Table,
    Tabs,
    Text,
)
from ..choices import DEFAULTS, Odd, Writer, WrittenAs
from ..serialise import escape_attribute
from .html import block_html, inline_html
from .markdown_inline import inline_markdown, label, paragraph_markdown
from .markdown_table import gfm_table
from .text import line_text, to_text
from .total import Writing, write_with

SEPARATOR = "<!-- -->"  # says nothing; keeps what stands beside it apart


class Written(NamedTuple):
    """Markdown, how many words of it stand in blocks of raw HTML, and what was left out by choice, by how often."""

    text: str
    raw_words: int
    left_out: Mapping[Odd, int]


def write_markdown(
    blocks: tuple[Block, ...], choices: Mapping[Odd, WrittenAs] = DEFAULTS, older: bool = False
) -> Written:
    """Markdown text ending in one newline ("" for no blocks), as the choices want it; ``older``: for readers of before
    CommonMark."""
    writer = Writer(choices, older)
    text = _blocks(blocks, writer)
    return Written(text + "\n" if text else "", writer.raw_words, dict(writer.left_out))


def to_markdown(blocks: tuple[Block, ...], choices: Mapping[Odd, WrittenAs] = DEFAULTS, older: bool = False) -> str:
    """The text of it alone."""
    return write_markdown(blocks, choices, older).text


def _blocks(blocks: tuple[Block, ...], w: Writer) -> str:
    out: list[str] = []
    previous: Any = None
    flip = False
    for block in blocks:
        if isinstance(block, Definitions) and w.plain(Odd.DEFINITIONS):
            block = _as_list(block)
        flip = isinstance(block, List) and isinstance(previous, List) and block.ordered == previous.ordered and not flip
        text = _block(block, flip, w)
        if not text:
            continue
        if isinstance(block, Quote) and isinstance(previous, Quote):
            out.append(SEPARATOR)
        elif w.older and isinstance(block, List) and isinstance(previous, List):
            out.append(SEPARATOR)  # another mark begins no list of its own there
        out.append(text)
        previous = block
    return "\n\n".join(out)


def _block(block: Block, flip: bool, w: Writer) -> str:
    return write_with(_WRITE, block, flip, w)


def _html(block: Block, w: Writer) -> str:
    """A block in tags, its words counted."""
    w.raw_words += len(to_text((block,)).split())
    return block_html(block, compact=True)


def _paragraph(block: Paragraph, flip: bool, w: Writer) -> str:
    return paragraph_markdown(block.content, w)


def _quote(block: Quote, flip: bool, w: Writer) -> str:
    w.within += 1
    inner = _blocks(block.blocks, w)
    w.within -= 1
    return "\n".join("> " + line if line else ">" for line in inner.split("\n"))


def _table(block: Table, flip: bool, w: Writer) -> str:
    captioned = bool(block.caption) and w.takes(Odd.CAPTIONS) is WrittenAs.HTML
    written = "" if captioned else gfm_table(block, w)
    if not written:
        return _html(block, w)
    return f"{paragraph_markdown(block.caption, w)}\n\n{written}" if block.caption else written


def _figure(block: Figure, flip: bool, w: Writer) -> str:
    if not block.caption:
        return _blocks(block.blocks, w)
    if w.takes(Odd.CAPTIONS) is WrittenAs.HTML:
        return _html(block, w)
    only = block.blocks[0] if len(block.blocks) == 1 else None
    if isinstance(only, Paragraph):
        return paragraph_markdown((*only.content, Break(), *block.caption), w)
    return _blocks((*block.blocks, Paragraph(block.caption)), w)


def _divider(block: Divider, flip: bool, w: Writer) -> str:
    return "***"


def _disclosure(block: Disclosure, flip: bool, w: Writer) -> str:
    if w.plain(Odd.FOLDING):
        return _blocks((Paragraph(in_bold(block.summary)), *block.blocks), w)
    opened = " open" if block.open else ""
    w.raw_words += len(line_text(block.summary).split())
    inner = _blocks(block.blocks, w)
    body = f"\n\n{inner}\n\n" if inner else "\n"
    return f"<details{opened}{_read(w)}>\n<summary>{inline_html(block.summary)}</summary>{body}</details>"


def _read(w: Writer) -> str:
    """What says that there is Markdown within a tag, to readers that have to be told."""
    return ' markdown="1"' if w.older else ""


def _file_link(block: FileLink, flip: bool, w: Writer) -> str:
    return paragraph_markdown((block.link,), w)


def _passage(block: Passage, flip: bool, w: Writer) -> str:
    inner = _blocks(block.blocks, w)
    if w.plain(Odd.PASSAGES):
        w.left_out[Odd.PASSAGES] += 1
        return inner
    said = (f' lang="{escape_attribute(block.language)}"' if block.language else "") + (
        f' dir="{block.direction}"' if block.direction else ""
    )
    return f"<div{said}{_read(w)}>\n\n{inner}\n\n</div>"


def _callout(block: Callout, flip: bool, w: Writer) -> str:
    choice = w.takes(Odd.CALLOUTS)
    if choice is WrittenAs.HTML:
        return _html(block, w)
    title = (Paragraph(in_bold(block.title)),) if block.title else ()
    quoted = _quote(Quote((*title, *block.blocks)), flip, w)
    if choice is WrittenAs.PLAIN:
        return quoted
    same = line_text(block.title).strip(" :.!").lower() == block.sort  # its readers write that themselves
    inner = _quote(Quote(block.blocks), flip, w) if same else quoted
    return f"> [!{block.sort.upper()}]\n{inner}"


def _tabs(block: Tabs, flip: bool, w: Writer) -> str:
    if w.takes(Odd.TABS) is WrittenAs.HTML:
        return _html(block, w)
    return _blocks(tuple(b for tab in block.tabs for b in (Paragraph(in_bold(tab.label)), *tab.blocks)), w)


def _columns(block: Columns, flip: bool, w: Writer) -> str:
    if w.takes(Odd.COLUMNS) is WrittenAs.HTML:
        return _html(block, w)
    return _blocks(tuple(b for column in block.columns for b in column.blocks), w)


def _gallery(block: Gallery, flip: bool, w: Writer) -> str:
    if w.takes(Odd.GALLERIES) is WrittenAs.HTML:
        return _html(block, w)
    lines = []
    for shot in block.shots:
        shown: Inline = Link(shot.href, (shot.picture,)) if shot.href else shot.picture
        lines.append(Paragraph((shown, *((Break(), *shot.caption) if shot.caption else ()))))
    return _blocks(tuple(lines), w)


def _button(block: Button, flip: bool, w: Writer) -> str:
    if w.takes(Odd.BUTTONS) is WrittenAs.HTML:
        return _html(block, w)
    return paragraph_markdown((Link(block.href, block.content),) if block.href else block.content, w)


def _form(block: Form, flip: bool, w: Writer) -> str:
    if w.takes(Odd.FORMS) is WrittenAs.REPORT:
        w.left_out[Odd.FORMS] += 1
        return ""
    return _html(block, w)


def _footnotes(block: Footnotes, flip: bool, w: Writer) -> str:
    if w.takes(Odd.FOOTNOTES) is WrittenAs.MARKED:
        notes = (f"[^{label(note.name)}]: " + _indented(_without_calls(note), w) for note in block.notes)
        return "\n\n".join(notes)
    return _list(List(block.ordered, tuple(ListItem(note.blocks) for note in block.notes)), flip, w)


def _indented(blocks: tuple[Block, ...], w: Writer) -> str:
    lines = _blocks(blocks, w).split("\n")
    return "\n".join([lines[0], *("    " + line if line else "" for line in lines[1:])])


def _without_calls(note: Note) -> tuple[Block, ...]:
    """What a note says, without its own anchor and the links back to where it is called, which readers of notes write
    themselves."""
    back = {f"#{name}" for name in note.calls}

    def bare(content: tuple[Inline, ...]) -> tuple[Inline, ...]:
        out = []
        for piece in content:
            if isinstance(piece, Link) and piece.href in back or isinstance(piece, Anchor) and piece.name == note.name:
                continue
            if isinstance(piece, Styled):
                inner = bare(piece.content)
                if not inner:
                    continue
                piece = replace(piece, content=inner)
            out.append(piece)
        return tuple(out)

    return tuple(replace(b, content=bare(b.content)) if isinstance(b, Paragraph) else b for b in note.blocks)


def _island(block: Island, flip: bool, w: Writer) -> str:
    choice = w.takes(Odd.ISLANDS)
    if choice is WrittenAs.REPORT:
        w.left_out[Odd.ISLANDS] += 1
        return ""
    if choice is WrittenAs.PLAIN:
        return paragraph_markdown((Text(" ".join(" ".join(text.text for text in block.words).split())),), w)
    html = _html(block, w)
    # only known block names open an HTML block in Markdown; others are put in one that does
    return html if block.tag in _HTML_BLOCKS else f"<div>\n{html}\n</div>"


def _definitions(block: Definitions, flip: bool, w: Writer) -> str:
    choice = w.takes(Odd.DEFINITIONS)
    if choice is WrittenAs.HTML:
        return _html(block, w)
    if choice is WrittenAs.MARKED:
        return "\n\n".join(_marked_entry(entry, w) for entry in block.entries)
    return _list(_as_list(block), flip, w)


def _as_list(block: Definitions) -> List:
    return List(False, tuple(_as_item(entry) for entry in block.entries))


def _as_item(entry: Entry) -> ListItem:
    """Terms and their meanings as an item of a list, the terms in bold."""
    lines: list[Inline] = []
    for term in filter(None, entry.terms):
        lines += [Break(), *in_bold(term)] if lines else in_bold(term)
    rest = [block for meaning in entry.meanings for block in meaning]
    if lines and len(rest) == 1 and isinstance(only := rest[0], Paragraph):
        return ListItem((Paragraph((*lines, Break(), *only.content)),))
    return ListItem((*([Paragraph(tuple(lines))] if lines else []), *rest))


def _marked_entry(entry: Entry, w: Writer) -> str:
    terms = [inline_markdown(term, w, breaks="<br>") or "&nbsp;" for term in entry.terms] or ["&nbsp;"]
    meanings = [_hang(": ", _blocks(meaning, w)) for meaning in entry.meanings]
    return "\n".join([*terms, *(["", "\n\n".join(meanings)] if meanings else [])])


def _hang(marker: str, body: str) -> str:
    lines = body.split("\n")
    indent = " " * 4 if marker == ": " else " " * len(marker)
    first = ":   " + lines[0] if marker == ": " else marker + lines[0]
    return "\n".join([first, *(indent + line if line else "" for line in lines[1:])])


def in_bold(content: tuple[Inline, ...]) -> tuple[Inline, ...]:
    """A line in bold, the anchors before it outside."""
    at = 0
    while at < len(content) and isinstance(content[at], Anchor):
        at += 1
    return (*content[:at], Styled("strong", content[at:])) if at < len(content) else content


def _embed(block: Embed, flip: bool, w: Writer) -> str:
    choice = w.takes(Odd.EMBEDS)
    if choice is WrittenAs.REPORT:
        w.left_out[Odd.EMBEDS] += 1
        return ""
    if choice is WrittenAs.PLAIN:
        return paragraph_markdown((Link(block.src, (Text(block.title or block.src),)),), w)
    return f"<div>{block_html(block, True)}</div>"


_HTML_BLOCKS = frozenset(["form", "iframe", "table", "fieldset", "dialog", "details"])


def _heading(block: Heading, flip: bool, w: Writer) -> str:
    content, name = block.content, ""
    if w.takes(Odd.ANCHORS) is WrittenAs.MARKED:
        named = [piece.name for piece in content if isinstance(piece, Anchor)]
        name = block.id or next(iter(named), "")
        content = tuple(p for p in content if not (isinstance(p, Anchor) and p.name == name))
    text = inline_markdown(content, w, breaks="<br>", starts=False)
    closing = re.search(r"(?:^|\s)(#+)$", text)
    if closing:
        text = text[: closing.start(1)] + "\\" + text[closing.start(1) :]
    if name:
        text += " {#" + name + "}"
    return ("#" * block.level + " " + text).rstrip()


def _code(block: CodeBlock, flip: bool, w: Writer) -> str:
    links = sum(isinstance(part, Link) for part in block.parts)
    if links and w.takes(Odd.CODE_LINKS) is WrittenAs.HTML:
        return _html(block, w)  # a fence would lose the links
    w.left_out.update({Odd.CODE_LINKS: links} if links else {})
    text = block.text.removesuffix("\n")  # a fence ends its last line anyhow
    if w.older and w.within:  # where a fence is read as text
        return "\n".join("    " + line for line in text.split("\n"))
    longest = max((len(run) for run in re.findall(r"`{3,}", text)), default=2)
    fence = "`" * (longest + 1)
    language = re.sub(r"[^\w#.+-]" if w.older else r"[\s`]", "", block.language)
    return f"{fence}{language}\n{text}\n{fence}" if text else f"{fence}{language}\n{fence}"


def _tight(block: List, w: Writer) -> bool:
    """Whether the list can be written without empty lines between its items, and within them."""
    if w.older and any(type(b) is not (List if n else Paragraph) for i in block.items for n, b in enumerate(i.blocks)):
        return False
    if block.loose and any(isinstance(inner, Paragraph) for item in block.items for inner in item.blocks):
        return False
    return all(_close(item) for item in block.items)


def _close(item: ListItem) -> bool:
    """Whether the blocks of an item can follow each other without an empty line (CommonMark 0.31, sections 4 and 5:
    what can interrupt a paragraph)."""
    for before, after in pairwise(item.blocks):
        if isinstance(after, List):
            if isinstance(before, List | Quote) or not _can_interrupt(after):
                return False
        elif not isinstance(after, Quote | CodeBlock | Heading | Divider):
            # a paragraph would go on with what stands before it, unless that is closed by itself
            if not (isinstance(after, Paragraph) and isinstance(before, Heading | CodeBlock | Divider)):
                return False
        elif isinstance(before, List) or (isinstance(before, Quote) and isinstance(after, Quote)):
            return False
        if isinstance(after, Paragraph | CodeBlock | Table) and any(isinstance(p, Link) for p in _code_parts(after)):
            return False
        if isinstance(before, Table | Definitions | Island | Disclosure | Embed | Figure):
            return False
    return not any(isinstance(b, Table | Definitions | Island | Disclosure | Embed | Figure) for b in item.blocks)


def _code_parts(block: Block) -> tuple[Any, ...]:
    return block.parts if isinstance(block, CodeBlock) else ()


def _can_interrupt(block: List) -> bool:
    """A list may follow a paragraph without an empty line when it begins with 1 and with words."""
    first = block.items[0]
    number = block.start if first.value is None or first.value < 0 else first.value
    return (not block.ordered or number == 1) and bool(first.blocks)


def _list(block: List, flip: bool, w: Writer) -> str:
    tight = _tight(block, w)
    flip = flip and not w.older
    number = max(0, block.start)  # no number of a list of Markdown is negative
    out = []
    for item in block.items:
        if block.ordered:
            number = item.value if item.value is not None and item.value >= 0 else number
            marker = f"{min(number, 999_999_999)}{')' if flip else '.'} "
            number += 1
        else:
            marker = "+ " if flip else "- "
        out.append(_item(item, marker, tight, w))
    return ("\n" if tight else "\n\n").join(out)


def _item(item: ListItem, marker: str, tight: bool, w: Writer) -> str:
    w.within += 1
    body = _of_item(item, tight, w)
    w.within -= 1
    indent = " " * (4 if w.older else len(marker))
    if not body:
        return f"{marker}{SEPARATOR}" if w.older else marker.rstrip()
    if w.older and not isinstance(item.blocks[0], Paragraph | List):
        body = f"{SEPARATOR}\n\n{body}"  # only text and lists are read right behind the mark
    lines = body.split("\n")
    if item.checked is None and re.match(r"\[[ xX]\](?=\s|$)", body):
        lines[0] = "\\" + lines[0]
    if set(marker + lines[0]) <= {"-", " "} and (marker + lines[0]).count("-") > 2:
        lines[0] = f"{lines[0].rstrip()} {SEPARATOR}"  # empty items within each other are no divider
    return "\n".join([marker + lines[0]] + [indent + line if line else "" for line in lines[1:]])


def _of_item(item: ListItem, tight: bool, w: Writer) -> str:
    """What stands in an item, its box first."""
    if tight:
        parts = [_block(inner, False, w) for inner in item.blocks]
        body = "\n".join(part for part in parts if part)
    else:
        body = _blocks(item.blocks, w)
    if item.checked is not None:
        body = ("[x] " if item.checked else "[ ] ") + body
    return body


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
