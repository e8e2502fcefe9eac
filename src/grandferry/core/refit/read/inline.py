"""Inline elements, and the collapsing of white space over a finished line."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from ...page import Node
from ...references import ATTRIBUTES, MEDIA, PICTURES, background_source, picture_source, runs_script
from ..anchors import anchor_name
from ..blocks import Anchor, Break, Code, Inline, Link, NoteRef, Picture, RawInline, Styled, StyleName, Text, walk
from .base import Reader
from .pictures import shown_picture

InlineRule = Callable[[Node, Reader, list[Inline]], None]
SHOWING = PICTURES | MEDIA | frozenset(["svg", "canvas", "iframe", "frame", "input", "button", "select", "textarea"])
_SPACES = re.compile(r"[ \t\n\r\f]+")


_DIRECTIONS = frozenset(["ltr", "rtl"])
# what a style that stands for a mark says (CSS Fonts 4, CSS Text Decoration 4)
_DECLARED: tuple[tuple[StyleName, re.Pattern[str]], ...] = (
    ("strong", re.compile(r"(?<![\w-])font-weight:(?:bold|bolder|[6-9]00)")),
    ("em", re.compile(r"(?<![\w-])font-style:(?:italic|oblique)")),
    ("strike", re.compile(r"(?<![\w-])text-decoration(?:-line)?:[^;]*line-through")),
    ("underline", re.compile(r"(?<![\w-])text-decoration(?:-line)?:[^;]*underline")),
    ("sub", re.compile(r"(?<![\w-])vertical-align:sub")),
    ("sup", re.compile(r"(?<![\w-])vertical-align:sup")),
)
_UNMARKED = {
    "b": re.compile(r"(?<![\w-])font-weight:(?:normal|lighter|[1-4]00)"),
    "strong": re.compile(r"(?<![\w-])font-weight:(?:normal|lighter|[1-4]00)"),
    "i": re.compile(r"(?<![\w-])font-style:normal"),
    "em": re.compile(r"(?<![\w-])font-style:normal"),
}


def _declared(style: str) -> str:
    return style.lower().replace(" ", "")


def styles_of(style: str) -> tuple[StyleName, ...]:
    """The marks that declarations of style stand for, the innermost first."""
    said = _declared(style)
    return tuple(name for name, pattern in _DECLARED if pattern.search(said))


def unmarked(node: Node) -> bool:
    """Whether a mark says by its style that it is none (as some editors wrap whole texts)."""
    pattern = _UNMARKED.get(node.tag)
    return pattern is not None and "style" in node.attrs and bool(pattern.search(_declared(node.get("style"))))


def _styled(style: StyleName, attribute: str = "") -> InlineRule:
    def rule(node: Node, reader: Reader, out: list[Inline]) -> None:
        inner: list[Inline] = []
        reader.inline_children(node, inner)
        if inner and unmarked(node):
            out.extend(inner)
        elif inner:
            out.append(Styled(style, tuple(inner), node.get(attribute) if attribute else ""))

    return rule


def _code(node: Node, reader: Reader, out: list[Inline]) -> None:
    # code is a mode, not a wrapper, so that links and marks inside it survive around the code
    reader.in_code += 1
    reader.inline_children(node, out)
    reader.in_code -= 1


def _pre(node: Node, reader: Reader, out: list[Inline]) -> None:
    """A block of code where only a line can stand: its lines as code of the line."""
    inner: list[Inline] = []
    reader.in_code += 1
    reader.inline_children(node, inner)
    reader.in_code -= 1
    for piece in inner:
        if not isinstance(piece, Code):
            out.append(piece)
            continue
        for at, text in enumerate(piece.text.strip("\n").split("\n")):
            out.extend([Break()] if at else [])
            out.append(Code((Text(text, piece.parts[0].node),)))


def _link(node: Node, reader: Reader, out: list[Inline]) -> None:
    href = node.get("href").strip()
    if "href" not in node.attrs or runs_script(href):
        reader.inline_children(node, out)
        return
    inner: list[Inline] = []
    reader.inline_children(node, inner)
    if all(isinstance(piece, Text) and not piece.text.strip() for piece in inner):
        named = _shown_without_words(node, reader)
        if not named:  # a link around nothing is a leftover of mended markup
            out.extend(inner)
        inner = named
    if any(isinstance(piece, Link) for piece in walk(tuple(inner))):
        out.extend(inner)  # a link around another one: a browser goes where that leads
    elif inner and node.n in reader.footnotes.calls:
        name, anchor = reader.footnotes.calls[node.n]
        out.append(NoteRef(name, tuple(inner), anchor if anchor_name(node) == anchor else "", node.n))
        if out[-2:-1] and isinstance(before := out[-2], Anchor) and before.name == anchor:
            del out[-2]  # it is the call's own
    elif inner:
        out.append(Link(reader.link(href), tuple(inner), node.get("title"), node.n))


def _shown_without_words(node: Node, reader: Reader) -> list[Inline]:
    """What stands for a link that shows no words: a picture behind it, or what it is called for those who cannot see
    it."""
    behind = background_picture(node, reader)
    named = " ".join((node.get("aria-label") or node.get("title")).split())
    if behind is not None:
        return [behind]
    return [Text(named)] if named else []


def background_picture(node: Node, reader: Reader) -> Picture | None:
    """The picture behind an element that holds nothing else: there it is what the element shows. One that a script
    puts into the element counts as well."""
    if ATTRIBUTES.isdisjoint(node.attrs):
        return None
    source = background_source(node.tag, node.attrs) or picture_source(node.tag, node.attrs)
    if not source or any(n.tag in SHOWING or n.text.strip() for n in reader.page.inside(node)[1:]):
        return None
    alt = " ".join((node.get("aria-label") or node.get("title")).split())
    return Picture(reader.link(source), alt, node=node.n)


def _picture(node: Node, reader: Reader, out: list[Inline]) -> None:
    source = shown_picture(node, reader.page)
    if not source:
        return
    if "usemap" in node.attrs:  # its areas are raw markup, and point at it
        out.append(reader.raw_inline(node))
        return
    out.append(
        Picture(
            reader.link(source),
            " ".join(node.get("alt").split()),
            node.get("title"),
            node.get("width"),
            node.get("height"),
            node.n,
        )
    )


def _break(node: Node, reader: Reader, out: list[Inline]) -> None:
    out.append(Break())


def _nothing(node: Node, reader: Reader, out: list[Inline]) -> None:
    pass


def _raw(node: Node, reader: Reader, out: list[Inline]) -> None:
    out.append(reader.raw_inline(node))


def _span(node: Node, reader: Reader, out: list[Inline]) -> None:
    behind = background_picture(node, reader)
    if behind is not None:
        out.append(behind)
    language = node.get("lang") or node.get("xml:lang")
    direction = node.get("dir").lower()
    styles = styles_of(node.get("style")) if "style" in node.attrs else ()
    if not (language or direction in _DIRECTIONS or styles):
        reader.inline_children(node, out)
        return
    inner: list[Inline] = []
    reader.inline_children(node, inner)
    if not inner:
        return
    for style in styles:
        inner = [Styled(style, tuple(inner))]
    if direction in _DIRECTIONS:
        inner = [Styled("direction", tuple(inner), direction)]
    out.extend([Styled("language", tuple(inner), language)] if language else inner)


INLINE_RULES: dict[str, InlineRule] = {
    "a": _link,
    "img": _picture,
    "image": _picture,
    "br": _break,
    "wbr": _nothing,
    "span": _span,
    "font": _span,
    "area": _raw,
    "code": _code,
    "tt": _code,
    "pre": _pre,
    "listing": _pre,
    "strong": _styled("strong"),
    "b": _styled("strong"),
    "em": _styled("em"),
    "i": _styled("em"),
    "sub": _styled("sub"),
    "sup": _styled("sup"),
    "s": _styled("strike"),
    "strike": _styled("strike"),
    "del": _styled("strike"),
    "u": _styled("underline"),
    "ins": _styled("inserted"),
    "mark": _styled("highlight"),
    "abbr": _styled("abbreviation", "title"),
    "acronym": _styled("abbreviation", "title"),
    "kbd": _styled("keyboard"),
    "small": _styled("small"),
    "cite": _styled("cite"),
    "q": _styled("quote"),
    "var": _styled("variable"),
    "samp": _styled("sample"),
    "dfn": _styled("definition"),
    "time": _styled("time", "datetime"),
    "bdo": _styled("direction", "dir"),
    "map": _raw,
    "svg": _raw,
    "math": _raw,
    "ruby": _raw,
    "input": _raw,
    "button": _raw,
    "select": _raw,
    "textarea": _raw,
    "progress": _raw,
    "meter": _raw,
    "iframe": _raw,
    "object": _raw,
    "embed": _raw,
    "video": _raw,
    "audio": _raw,
    "canvas": _raw,
    "form": _raw,
}


def join_code(content: list[Inline]) -> list[Inline]:
    """Neighbouring pieces of code become one."""
    joined: list[Inline] = []
    for piece in content:
        if isinstance(piece, Code) and joined and isinstance(joined[-1], Code):
            joined[-1] = Code(joined[-1].parts + piece.parts)
        else:
            joined.append(piece)
    return joined


def _kept_blanks(run: re.Match[str]) -> str:
    """White space within code: as it is, unless the line is broken there."""
    return " " if any(sign in run[0] for sign in "\n\r\f") else run[0].replace("\t", " ")


class _Spaces:
    """Collapses white space as CSS ``white-space: normal`` does, across element borders."""

    def __init__(self) -> None:
        self.blank = True  # the last character written was white space (or the line began)

    def text(self, text: str) -> str:
        text = _SPACES.sub(" ", text)
        if self.blank and text.startswith(" "):
            text = text[1:]
        if text:
            self.blank = text.endswith(" ")
        return text

    def code(self, text: str) -> str:
        """A piece of code: what is broken over lines becomes one blank, others are kept."""
        if "\n" in text and self.blank and not text.strip():
            return ""
        text = _SPACES.sub(_kept_blanks, text)
        if text:
            self.blank = False
        return text

    def run(self, content: tuple[Inline, ...] | list[Inline]) -> list[Inline]:
        out: list[Inline] = []
        for piece in content:
            kind = type(piece)
            if kind is Text:
                text = self.text(piece.text)  # type: ignore[union-attr]
                if text:
                    out.append(Text(text, piece.node))  # type: ignore[union-attr]
            elif isinstance(piece, Code):
                parts = tuple(Text(t, part.node) for part in piece.parts if (t := self.code(part.text)))
                if parts:
                    out.append(Code(parts))
            elif isinstance(piece, Styled):
                inner = self.run(piece.content)
                # line breaks at the edges of a mark move outside: no mark can hold on to them
                while inner and isinstance(inner[0], Break):
                    out.append(inner.pop(0))
                after: list[Inline] = []
                while inner and (isinstance(inner[-1], Break) or not _shows(inner[-1])):
                    after.insert(0, inner.pop())
                if inner:
                    out.append(Styled(piece.style, tuple(inner), piece.detail))
                out.extend(after)
            elif isinstance(piece, Link):
                out.append(Link(piece.href, tuple(self.run(piece.content)), piece.title, piece.node))
            elif isinstance(piece, NoteRef):
                out.append(replace(piece, content=tuple(self.run(piece.content))))
            elif isinstance(piece, Break):
                _trim_end(out)
                out.append(piece)
                self.blank = True
            else:
                if isinstance(piece, Picture | RawInline):
                    self.blank = False
                out.append(piece)
        return join_code(out)


def _shows(piece: Inline) -> bool:
    """Whether a piece is more than ordinary white space."""
    return not (isinstance(piece, Text) and not piece.text.strip(" "))


def _trim_end(content: list[Inline]) -> None:
    """Take the white space off the end of a run, going into marks; empty texts fall away."""
    while content:
        last = content[-1]
        if isinstance(last, Text):
            text = last.text.rstrip(" ")
            if text:
                if text != last.text:
                    content[-1] = Text(text, last.node)
                return
            content.pop()
        elif isinstance(last, Styled | Link):
            inner = list(last.content)
            _trim_end(inner)
            if isinstance(last, Styled) and not inner:
                content.pop()
                continue
            if len(inner) != len(last.content) or inner and inner[-1] != last.content[-1]:
                content[-1] = (
                    Styled(last.style, tuple(inner), last.detail)
                    if isinstance(last, Styled)
                    else Link(last.href, tuple(inner), last.title, last.node)
                )
            return
        elif isinstance(last, Anchor) and len(content) > 1 and isinstance(content[-2], Text):
            anchor = content.pop()
            _trim_end(content)
            content.append(anchor)
            return
        else:
            return


def tidy(content: list[Inline]) -> tuple[Inline, ...]:
    """A finished line: white space collapsed and trimmed, breaks at its ends dropped."""
    out = _Spaces().run(content)
    _trim_end(out)
    while out and isinstance(out[-1], Break):
        out.pop()
        _trim_end(out)
    while out and isinstance(out[0], Break):
        del out[0]
    return tuple(out)
