"""Bodies as a simple model, and the many bad ways in which a twenty-year-old site writes them down.

A body is a list of tuples: ("heading", level, text), ("paragraph", text), ("list", ordered, items),
("table", rows), ("code", language, text), ("quote", text), ("figure", src, alt, caption), ("rule",),
("definitions", pairs), ("disclosure", summary, text), ("embed", src, title), ("file", href, text), ("unknown", text),
or one of ``constructs``.
Texts hold ``*emphasis*``, ``**strength**`` and ``[words](address)``; items may be (text, [inner items]).
"""

from __future__ import annotations

import re
from functools import partial
from html import escape
from typing import Any

from . import constructs

STYLES = ("clean", "shouting", "font", "unclosed", "misnested", "inline", "double", "latin", "lists", "lazy")
INLINE = re.compile(r"\*\*(.+?)\*\*|\*(.+?)\*|\[(.+?)\]\((.+?)\)")


def plain(text: str) -> str:
    """A text without its marks."""
    return INLINE.sub(lambda m: m[1] or m[2] or m[3], text)


def _inline(text: str, style: str) -> str:
    strong, em = (
        ("B", "I") if style == "shouting" else ("b", "i") if style in ("font", "misnested") else ("strong", "em")
    )

    def mark(match: re.Match[str]) -> str:
        if match[1]:
            if style == "inline":
                return f'<span style="font-family: Arial"><strong>{escape(match[1], quote=False)}</strong></span>'
            return f"<{strong}>{escape(match[1], quote=False)}</{strong}>"
        if match[2]:
            return f"<{em}>{escape(match[2], quote=False)}</{em}>"
        quote = "" if style == "shouting" and re.fullmatch(r"[\w./-]+", match[4]) else '"'
        return f"<a href={quote}{escape(match[4])}{quote}>{escape(match[3], quote=False)}</a>"

    out, at = [], 0
    for match in INLINE.finditer(text):
        out += [escape(text[at : match.start()], quote=False), mark(match)]
        at = match.end()
    html = "".join([*out, escape(text[at:], quote=False)])
    if style == "double":
        html = html.replace("£", "&amp;pound;")
    return html


def _items(items: list[Any], ordered: bool, style: str) -> str:
    tag = "ol" if ordered else "ul"
    tag = tag.upper() if style == "shouting" else tag
    end = "" if style in ("unclosed", "shouting") else "</li>"
    out = []
    for item in items:
        text, inner = item if isinstance(item, tuple) else (item, [])
        if inner and style == "lists":  # the inner list straight inside the outer one
            out.append(f"<li>{_inline(text, style)}</li>{_items(inner, ordered, style)}")
        else:
            out.append(f"<li>{_inline(text, style)}{_items(inner, ordered, style) if inner else ''}{end}")
    return f"<{tag}>\n" + "\n".join(out) + f"\n</{tag}>"


def _table(rows: list[list[Any]], style: str) -> str:
    """Cells are text or (text, colspan, rowspan); the first row is the head."""
    upper = style == "shouting"
    out = ["<TABLE BORDER=1 CELLPADDING=3>" if upper else '<table border="1">']
    for number, row in enumerate(rows):
        cells = []
        for cell in row:
            text, columns, lines = cell if isinstance(cell, tuple) else (cell, 1, 1)
            spans = (f' colspan="{columns}"' if columns > 1 else "") + (f" rowspan={lines}" if lines > 1 else "")
            name = "th" if number == 0 else "td"
            name = name.upper() if upper else name
            end = "" if style in ("unclosed", "shouting") else f"</{name}>"
            cells.append(f"<{name}{spans}>{_inline(text, style)}{end}")
        out.append(("<TR>" if upper else "<tr>") + "".join(cells) + ("" if style == "unclosed" else "</tr>"))
    out.append("</table>")
    return "\n".join(out)


def _one(block: tuple[Any, ...], style: str, number: int) -> str:
    kind = block[0]
    upper = style == "shouting"
    if kind == "heading":
        tag = f"H{block[1]}" if upper else f"h{block[1]}"
        return f"<{tag}>{_inline(block[2], style)}</{tag}>"
    if kind == "unknown":  # what no standard knows, from some editor of long ago
        return f"<rail-signal><p>{_inline(block[1], style)}</p></rail-signal>"
    if kind == "paragraph":
        text = _inline(block[1], style)
        if upper:
            return f"<P ALIGN=left>{text}"
        if style == "font":
            return f'<center><font face="Verdana" size="2" color="#333333"><p align="left">{text}</p></font></center>'
        if style == "unclosed":
            return f"<p>{text}"
        if style == "misnested":
            first, _, rest = text.partition(" ")
            return f"<p><b><i>{first}</b></i> {rest}</p>"
        if style == "inline":
            return (
                f'<p style="margin:0 0 12pt"><span style="font-size:10pt">{text}</span><span></span></p><p>&nbsp;</p>'
            )
        return f"<p>{text}</p>"
    if kind == "list":
        return _items(block[2], block[1], style)
    if kind == "table":
        return _table(block[1], style)
    if kind == "code":
        language = f' class="language-{block[1]}"' if block[1] else ""
        return f"<pre><code{language}>{escape(block[2], quote=False)}</code></pre>"
    if kind == "quote":
        return f"<blockquote><p>{_inline(block[1], style)}</p></blockquote>"
    if kind == "figure":
        _, src, alt, caption = block
        shown = f'data-src="{escape(src)}" src="/img/blank.gif"' if style == "lazy" else f'src="{escape(src)}"'
        return f'<figure><img {shown} alt="{escape(alt)}"><figcaption>{_inline(caption, style)}</figcaption></figure>'
    if kind == "rule":
        return "<HR NOSHADE>" if upper else "<hr>"
    if kind == "definitions":
        end = "" if style in ("unclosed", "shouting") else "</dd>"
        return "<dl>" + "\n".join(f"<dt>{escape(t)}<dd>{_inline(d, style)}{end}" for t, d in block[1]) + "</dl>"
    if kind == "disclosure":
        name = f"answer{number}"
        return (
            f'<div class="q" onclick="flip(\'{name}\')">{_inline(block[1], style)}</div>'
            f'<div class="a" id="{name}" style="display:none"><p>{_inline(block[2], style)}</p></div>'
        )
    if kind == "embed":
        return f'<iframe src="{escape(block[1])}" title="{escape(block[2])}" width="400" height="300"></iframe>'
    if kind == "file":
        return f'<p><a href="{escape(block[1])}">{_inline(block[2], style)}</a></p>'
    return constructs.render(block, partial(_inline, style=style))


def render(body: list[tuple[Any, ...]], style: str) -> str:
    """A body in one of the ``STYLES``, every one of which a browser shows alike."""
    return "\n".join(_one(block, style, number) for number, block in enumerate(body))


def words_of(body: list[tuple[Any, ...]]) -> list[str]:
    """All words of a body in the order in which they are read (the ground truth of refitting)."""
    out: list[str] = []

    def items(values: list[Any]) -> None:
        for value in values:
            text, inner = value if isinstance(value, tuple) else (value, [])
            out.extend(plain(text).split())
            items(inner)

    for block in body:
        kind = block[0]
        if kind == "heading":
            out += plain(block[2]).split()
        elif kind in ("paragraph", "quote", "unknown"):
            out += plain(block[1]).split()
        elif kind == "list":
            items(block[2])
        elif kind == "table":
            for row in block[1]:
                for cell in row:
                    out += plain(cell[0] if isinstance(cell, tuple) else cell).split()
        elif kind == "code":
            out += block[2].split()
        elif kind == "figure":
            out += plain(block[3]).split()
        elif kind == "definitions":
            for term, meaning in block[1]:
                out += term.split() + plain(meaning).split()
        elif kind == "disclosure":
            out += plain(block[1]).split() + plain(block[2]).split()
        elif kind == "file":
            out += plain(block[2]).split()
        else:
            out += [word for text in constructs.texts_of(block) for word in plain(text).split()]
    return out
