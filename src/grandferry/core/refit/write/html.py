"""Blocks to clean HTML5. ``compact`` writes without any blank line, so that it can stand in Markdown."""

from __future__ import annotations

import re
from dataclasses import replace
from itertools import pairwise
from typing import assert_never

from ...references import runs_script
from ..blocks import (
    Anchor,
    Block,
    Break,
    Button,
    Callout,
    Cell,
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
    Source,
    Styled,
    Table,
    Tabs,
    Text,
    Track,
)
from ..clean import clean
from ..serialise import escape_attribute, escape_text
from .total import Writing, write_with

ELEMENTS = {
    "strong": "strong",
    "em": "em",
    "sub": "sub",
    "sup": "sup",
    "strike": "s",
    "underline": "u",
    "inserted": "ins",
    "highlight": "mark",
    "abbreviation": "abbr",
    "keyboard": "kbd",
    "language": "span",
    "small": "small",
    "cite": "cite",
    "quote": "q",
    "variable": "var",
    "sample": "samp",
    "definition": "dfn",
    "time": "time",
    "direction": "bdo",
}
_DETAILS = {"abbreviation": "title", "language": "lang", "time": "datetime", "direction": "dir"}


def tags(piece: Styled) -> tuple[str, str]:
    """The opening and closing tag of a mark."""
    name = ELEMENTS[piece.style]
    attribute = _DETAILS.get(piece.style)
    shown = f' {attribute}="{escape_attribute(piece.detail)}"' if attribute and piece.detail else ""
    return f"<{name}{shown}>", f"</{name}>"


def picture_html(piece: Picture) -> str:
    if runs_script(piece.src):
        return escape_text(piece.alt)
    extra = "".join(
        f' {name}="{escape_attribute(value)}"'
        for name, value in (("title", piece.title), ("width", piece.width), ("height", piece.height))
        if value
    )
    return f'<img src="{escape_attribute(piece.src)}" alt="{escape_attribute(piece.alt)}"{extra}>'


def inline_html(content: tuple[Inline, ...]) -> str:
    """Inline content as HTML."""
    out = []
    for piece in content:
        if isinstance(piece, Text):
            out.append(escape_text(piece.text))
        elif isinstance(piece, Code):
            out.append(f"<code>{escape_text(piece.text)}</code>")
        elif isinstance(piece, Styled):
            opening, closing = tags(piece)
            out.append(opening + inline_html(piece.content) + closing)
        elif isinstance(piece, Link) and runs_script(piece.href):
            out.append(inline_html(piece.content))
        elif isinstance(piece, Link):
            title = f' title="{escape_attribute(piece.title)}"' if piece.title else ""
            out.append(f'<a href="{escape_attribute(piece.href)}"{title}>{inline_html(piece.content)}</a>')
        elif isinstance(piece, Picture):
            out.append(picture_html(piece))
        elif isinstance(piece, Break):
            out.append("<br>")
        elif isinstance(piece, Anchor):
            out.append(f'<a id="{escape_attribute(piece.name)}"></a>')
        elif isinstance(piece, NoteRef):
            named = f' id="{escape_attribute(piece.anchor)}"' if piece.anchor else ""
            inner = inline_html(piece.content)
            out.append(f'<a href="#{escape_attribute(piece.name)}"{named} role="doc-noteref">{inner}</a>')
        elif isinstance(piece, RawInline):
            out.append(clean(piece.html))
        else:
            assert_never(piece)
    return "".join(out)


def _cell(cell: Cell, compact: bool) -> str:
    name = "th" if cell.header else "td"
    spans = (f' colspan="{cell.colspan}"' if cell.colspan > 1 else "") + (
        f' rowspan="{cell.rowspan}"' if cell.rowspan > 1 else ""
    )
    side = f' style="text-align: {cell.align}"' if cell.align else ""
    only = cell.blocks[0] if len(cell.blocks) == 1 else None
    line = _line(only) if only is not None else None
    inner = _blocks(cell.blocks, compact) if line is None else inline_html(line)
    return f"<{name}{spans}{side}>{inner}</{name}>"


def _item(blocks: tuple[Block, ...], compact: bool, loose: bool = False) -> str:
    """A list item's inside: unless the list is loose, lines stand without ``<p>`` where no two follow each other."""
    lines = [_line(block) for block in blocks]
    if loose or any(one is not None and other is not None for one, other in pairwise(lines)):
        return _blocks(blocks, compact)
    parts = [
        block_html(block, compact) if line is None else inline_html(line)
        for block, line in zip(blocks, lines, strict=True)
    ]
    return "\n".join(parts)


def _line(block: Block) -> tuple[Inline, ...] | None:
    """What a block that is no more than a line says, None of others."""
    return block.content if isinstance(block, Paragraph) else (block.link,) if isinstance(block, FileLink) else None


def _code(block: CodeBlock, compact: bool) -> str:
    text = inline_html(block.parts)
    if compact:
        text = text.replace("\n", "&#10;")
    language = f' class="language-{escape_attribute(block.language)}"' if block.language else ""
    return f"<pre><code{language}>{text}</code></pre>"


def _embed(block: Embed, compact: bool) -> str:
    if runs_script(block.src):
        return f"<p>{escape_text(block.title)}</p>" if block.title else ""
    src, title = escape_attribute(block.src), f' title="{escape_attribute(block.title)}"' if block.title else ""
    if block.sort in ("video", "audio"):
        poster = f' poster="{escape_attribute(block.poster)}"' if block.poster else ""
        more = "".join(map(_source, block.sources)) + "".join(map(_track, block.tracks))
        return f'<{block.sort} src="{src}"{title}{poster} controls>{more}</{block.sort}>'
    if block.sort == "object":
        return f'<object data="{src}"{title}></object>'
    return f'<iframe src="{src}"{title}></iframe>'


def _source(source: Source) -> str:
    mime = f' type="{escape_attribute(source.mime)}"' if source.mime else ""
    return "" if runs_script(source.src) else f'<source src="{escape_attribute(source.src)}"{mime}>'


def _track(track: Track) -> str:
    said = (("kind", track.sort), ("srclang", track.language), ("label", track.label))
    extra = "".join(f' {name}="{escape_attribute(value)}"' for name, value in said if value)
    return "" if runs_script(track.src) else f'<track src="{escape_attribute(track.src)}"{extra}>'


def _paragraph(block: Paragraph, compact: bool) -> str:
    return f"<p>{inline_html(block.content)}</p>"


def _heading(block: Heading, compact: bool) -> str:
    content, named = block.content, block.id
    if not named and content and isinstance(first := content[0], Anchor):
        named = first.name
    content = tuple(piece for piece in content if not (isinstance(piece, Anchor) and piece.name == named))
    name = f' id="{escape_attribute(named)}"' if named else ""
    return f"<h{block.level}{name}>{inline_html(content)}</h{block.level}>"


def _list(block: List, compact: bool) -> str:
    tag = "ol" if block.ordered else "ul"
    first = len(block.items) if block.falling else 1
    start = f' start="{block.start}"' if block.ordered and block.start != first else ""
    start += (f' type="{block.numbers}"' if block.numbers else "") + (" reversed" if block.falling else "")
    items = []
    for item in block.items:
        box = ""
        if item.checked is not None:
            box = f'<input type="checkbox" disabled{" checked" if item.checked else ""}> '
        value = f' value="{item.value}"' if item.value is not None else ""
        items.append(f"<li{value}>{box}{_item(item.blocks, compact, block.loose)}</li>")
    return f"<{tag}{start}>\n" + "\n".join(items) + f"\n</{tag}>"


def _quote(block: Quote, compact: bool) -> str:
    cite = f' cite="{escape_attribute(block.cite)}"' if block.cite and not runs_script(block.cite) else ""
    return f"<blockquote{cite}>\n{_blocks(block.blocks, compact)}\n</blockquote>"


def _figure(block: Figure, compact: bool) -> str:
    caption = f"\n<figcaption>{inline_html(block.caption)}</figcaption>" if block.caption else ""
    only = block.blocks[0] if len(block.blocks) == 1 else None
    inner = inline_html(only.content) if isinstance(only, Paragraph) else _blocks(block.blocks, compact)
    return f"<figure>\n{inner}{caption}\n</figure>"


def _divider(block: Divider, compact: bool) -> str:
    return "<hr>"


def _definitions(block: Definitions, compact: bool) -> str:
    lines = []
    for entry in block.entries:
        lines += [f"<dt>{inline_html(term)}</dt>" for term in entry.terms]
        lines += [f"<dd>{_item(meaning, compact)}</dd>" for meaning in entry.meanings]
    return "<dl>\n" + "\n".join(lines) + "\n</dl>"


def _disclosure(block: Disclosure, compact: bool) -> str:
    opened = " open" if block.open else ""
    inner = _blocks(block.blocks, compact)
    return f"<details{opened}>\n<summary>{inline_html(block.summary)}</summary>\n{inner}\n</details>"


def _file_link(block: FileLink, compact: bool) -> str:
    return f"<p>{inline_html((block.link,))}</p>"


def _passage(block: Passage, compact: bool) -> str:
    said = (f' lang="{escape_attribute(block.language)}"' if block.language else "") + (
        f' dir="{block.direction}"' if block.direction else ""
    )
    return f"<div{said}>\n{_blocks(block.blocks, compact)}\n</div>"


def _callout(block: Callout, compact: bool) -> str:
    title = f'<p class="callout-title">{inline_html(block.title)}</p>\n' if block.title else ""
    inner = _blocks(block.blocks, compact)
    return f'<aside class="callout" role="note" data-callout="{block.sort}">\n{title}{inner}\n</aside>'


def _tabs(block: Tabs, compact: bool) -> str:
    """Each panel below its label, so that nothing is hidden where no script runs."""
    panels = "\n".join(
        f'<section class="tab">\n<p class="tab-label">{inline_html(tab.label)}</p>\n{_blocks(tab.blocks, compact)}\n'
        "</section>"
        for tab in block.tabs
    )
    return f'<div class="tabs" data-tabs="">\n{panels}\n</div>'


def _columns(block: Columns, compact: bool) -> str:
    inner = "\n".join(f'<div class="column">\n{_blocks(one.blocks, compact)}\n</div>' for one in block.columns)
    return f'<div class="columns" data-columns="">\n{inner}\n</div>'


def _gallery(block: Gallery, compact: bool) -> str:
    shots = []
    for shot in block.shots:
        picture = picture_html(shot.picture)
        if shot.href and not runs_script(shot.href):
            picture = f'<a href="{escape_attribute(shot.href)}">{picture}</a>'
        caption = f"\n<figcaption>{inline_html(shot.caption)}</figcaption>" if shot.caption else ""
        shots.append(f"<figure>\n{picture}{caption}\n</figure>")
    return '<div class="gallery" data-gallery="">\n' + "\n".join(shots) + "\n</div>"


def _button(block: Button, compact: bool) -> str:
    inner = inline_html(block.content)
    if block.href and not runs_script(block.href):
        return f'<p><a class="button" role="button" href="{escape_attribute(block.href)}">{inner}</a></p>'
    return f'<p><button type="button">{inner}</button></p>'


def _form(block: Form, compact: bool) -> str:
    return flat(clean(block.html)) if compact else clean(block.html)


def _footnotes(block: Footnotes, compact: bool) -> str:
    tag = "ol" if block.ordered else "ul"
    notes = "\n".join(
        f'<li id="{escape_attribute(note.name)}">{_item(_unnamed(note.blocks, note.name), compact)}</li>'
        for note in block.notes
    )
    return f'<{tag} class="footnotes" role="doc-endnotes">\n{notes}\n</{tag}>'


def _unnamed(blocks: tuple[Block, ...], name: str) -> tuple[Block, ...]:
    """Blocks without the anchor at their beginning that what is around them has as its id."""
    first = blocks[0] if blocks else None
    if not isinstance(first, Paragraph):
        return blocks
    content = tuple(piece for piece in first.content if not (isinstance(piece, Anchor) and piece.name == name))
    return (replace(first, content=content), *blocks[1:])


def _island(block: Island, compact: bool) -> str:
    return flat(clean(block.html)) if compact else clean(block.html)


def _table(block: Table, compact: bool) -> str:
    first = block.rows[0].cells
    said = block.caption or (len(first) > 1 and any(cell.header for cell in first))
    out = ["<table>" if said else '<table role="table">']  # that it is no layout cannot be seen otherwise
    if block.caption:
        out.append(f"<caption>{inline_html(block.caption)}</caption>")
    head = 0
    while head < len(block.rows) - 1 and all(cell.header for cell in block.rows[head].cells):
        head += 1
    for part, rows in (("thead", block.rows[:head]), ("tbody", block.rows[head:])):
        if rows:
            out.append(f"<{part}>")
            out += ["<tr>" + "".join(_cell(cell, compact) for cell in row.cells) + "</tr>" for row in rows]
            out.append(f"</{part}>")
    out.append("</table>")
    return "\n".join(out)


_PRE = re.compile(r"(<(pre|textarea|script|style)\b[^>]*>)(.*?)(</\2>)", re.S | re.I)
_EMPTY_LINES = re.compile(r"\n[ \t\r\f]*(?=\n)")


def flat(html: str) -> str:
    """Markup without blank lines (line ends inside preformatted text become character references)."""

    def keep(match: re.Match[str]) -> str:
        if match[2].lower() in ("pre", "textarea"):
            return match[1] + match[3].replace("\n", "&#10;") + match[4]
        return match[1] + _EMPTY_LINES.sub("", match[3]) + match[4]

    return _EMPTY_LINES.sub("", _PRE.sub(keep, html)).strip()


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


def block_html(block: Block, compact: bool = False) -> str:
    """One block as HTML."""
    return write_with(_WRITE, block, compact)


def _blocks(blocks: tuple[Block, ...], compact: bool) -> str:
    return "\n".join(block_html(block, compact) for block in blocks)


def to_html(blocks: tuple[Block, ...]) -> str:
    """Clean HTML5, one block a line."""
    return "".join(block_html(block) + "\n" for block in blocks)
