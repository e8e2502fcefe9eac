"""Inline content to Markdown: escaping only where a character would otherwise mean something.

Emphasis is written with ``*`` / ``**``; where CommonMark's flanking rules (section 6.2) would not let
those open or close, with ``_`` / ``__``, and where neither holds, as an HTML element.
"""

from __future__ import annotations

import re
import unicodedata
from typing import Any

from ...patterns import compile_pattern, whole
from ...references import runs_script
from ..blocks import Anchor, Break, Code, Link, NoteRef, Picture, RawInline, Styled, Text
from ..choices import Odd, Writer, WrittenAs
from ..clean import clean
from ..serialise import escape_attribute
from .html import flat, inline_html, picture_html, tags
from .text import line_text

_SPECIAL = re.compile(r"[\\`*_\[\]<&~!{]")
_ENTITY = re.compile(r"&(?:#[0-9]{1,7}|#[xX][0-9a-fA-F]{1,6}|[A-Za-z][A-Za-z0-9]*);")
_ASCII_PUNCTUATION = frozenset("!\"#$%&'()*+,-./:;<=>?@[\\]^_`{|}~")
_OLDER = frozenset("\\`*_{}[]()>#+-.!")  # before which a backslash counts for every reader
_OLDER_START = re.compile(r"#|:(?=\s)|\*\[|\[[^\[\]]*\]:")  # what begins something for older readers alone
_LINE_START = re.compile(
    r"(?:#{1,6}(?=\s|$)|>|[-+*](?=\s|$)|(\d{1,9})[.)](?=\s|$)|`{3}(?=[^`]*$)|~{3}"
    r"|-(?=[-\s]*$)|=(?==*\s*$)|_(?=[_\s]*$)|\*(?=[*\s]*$)|[:|]?-[ :|-]*$)"
)
_PLAIN = re.compile(r"[\w/.~:?=#%+,;@!$'*-]+", re.A)  # of an address: nothing that Markdown reads in another way
_DEFINITION = re.compile(r"\[(?:[^\]\\]|\\.)*\]:")


class _Mark:
    """An opening or closing delimiter, settled once its neighbours are known."""

    __slots__ = ("piece", "opening", "pair", "written", "settled")

    def __init__(self, piece: Styled, opening: bool):
        self.piece = piece
        self.opening = opening
        self.pair: _Mark = self
        self.written = ""
        self.settled = False


Token = str | _Mark


def _guarded(char: str, older: bool) -> str:
    """A character that means nothing: behind a backslash, or as a reference where that would be shown."""
    return f"&#{ord(char)};" if older and char not in _OLDER else "\\" + char


def escape(text: str, *, in_link: bool, last: bool, first: bool = False, older: bool = False) -> str:
    """Text with a backslash (or reference) before each character that would be read as markup.

    ``first`` / ``last``: nothing stands before or after the text, so that nothing can join a neighbour. ``older``: for
    readers of before CommonMark.
    """
    if not _SPECIAL.search(text):
        return text
    out = []
    size = len(text)
    for at, char in enumerate(text):
        if char not in "\\`*_[]<&~!{" or (char == "{" and not older):
            out.append(char)
            continue
        before = text[at - 1] if at else (" " if first else "")
        after = text[at + 1] if at + 1 < size else ""
        edge = not after and not last
        if char == "\\":
            risky = not after or after in _ASCII_PUNCTUATION
        elif char == "`":
            risky = True
        elif char == "*":
            risky = not (before.isspace() and after.isspace())
        elif char == "_":
            risky = not ((before.isalnum() and after.isalnum()) or (before.isspace() and after.isspace()))
        elif char == "~":
            risky = not (before.isspace() and after.isspace())
        elif char == "[":
            risky = in_link or after == "^"
        elif char == "]":
            risky = in_link or edge or after in ("(", "[", ":")
        elif char == "<":
            risky = edge or after.isalpha() or after in ("/", "!", "?")
        elif char == "&":
            risky = edge or bool(_ENTITY.match(text, at)) or bool(re.match(r"&[#A-Za-z0-9]*$", text[at:]) and not last)
            risky = risky or (older and (after == "#" or after.isalnum()))  # some take a reference without its end
        elif char == "{":
            risky = True
        else:  # "!"
            risky = edge or after == "["
        out.append(_guarded(char, older) if risky else char)
    return "".join(out)


def _code(text: str) -> str:
    longest = max((len(run) for run in re.findall(r"`+", text)), default=0)
    fence = "`" * (longest + 1)
    pad = (
        " "
        if text.startswith("`") or text.endswith("`") or (text.startswith(" ") and text.endswith(" ") and text.strip())
        else ""
    )
    return f"{fence}{pad}{text}{pad}{fence}"


class _CodeSpan(str):
    """A written code span that knows its text."""

    text: str


def _append_code(text: str, out: list[Token]) -> None:
    """A code span; two that would touch become one, since their fences would be read as text of a longer one."""
    while out and out[-1] == "":
        out.pop()
    if out and isinstance(out[-1], _CodeSpan):
        text = out.pop().text + text  # type: ignore[union-attr]
    span = _CodeSpan(_code(text))
    span.text = text
    out.append(span)


def destination(href: str) -> str:
    """A link destination, in angle brackets when its brackets do not balance or it is empty."""
    if _PLAIN.fullmatch(href):
        return href
    href = (
        href.replace("\n", "")
        .replace("\r", "")
        .replace("\t", "")
        .replace(" ", "%20")
        .replace("<", "%3C")
        .replace(">", "%3E")
    )
    href = href.replace("\\", "%5C")
    href = _ENTITY.sub(lambda m: "&amp;" + m[0][1:], href)
    depth = 0
    for char in href:
        depth += (char == "(") - (char == ")")
        if depth < 0:
            break
    return f"<{href}>" if depth else href


def _one_line(text: str) -> str:
    """A text without line breaks; on RE2, since that of a page may be nothing but blanks."""
    return str(compile_pattern(r"\s*\n\s*").sub(" ", whole(text))) if "\n" in text else text


def _title(title: str, older: bool = False) -> str:
    if not title.strip():
        return ""
    title = _ENTITY.sub(lambda m: "&amp;" + m[0][1:], title)
    title = re.sub(r'[\\"]', lambda m: f"&#{ord(m[0])};" if older else "\\" + m[0], title)
    return ' "' + title.replace("\n", "&#10;").replace("\r", "&#13;") + '"'


def _tokens(
    content: tuple[Any, ...], out: list[Token], w: Writer, breaks: str, in_link: bool, marks: frozenset[str]
) -> None:
    final = len(content) - 1
    for at, piece in enumerate(content):
        kind = type(piece)
        if kind is Text:
            outer = not in_link and not marks
            ends = {"last": at == final and outer, "first": at == 0 and outer}
            out.append(escape(piece.text, in_link=in_link, older=w.older, **ends))
        elif kind is Code and w.older and breaks == "<br>" and "|" in piece.text:  # no backslash counts in it
            out.append(_raw(inline_html((piece,))).replace("|", "&#124;"))
        elif kind is Code:
            _append_code(piece.text, out)
        elif kind is Styled:
            _styled(piece, out, w, breaks, in_link, marks)
        elif kind is Link and runs_script(piece.href):
            _tokens(piece.content, out, w, breaks, in_link, marks)
        elif kind is Link:
            inner: list[Token] = []
            _tokens(piece.content, inner, w, "<br>" if breaks == "<br>" else breaks, True, marks)
            out.append("[")
            out.extend(inner)
            out.append(f"]({destination(piece.href)}{_title(piece.title, w.older)})")
        elif kind is Picture:
            sized = bool(piece.width or piece.height)
            if runs_script(piece.src) or (sized and not w.plain(Odd.SIZES)):
                out.append(picture_html(piece))
            else:
                w.left_out.update({Odd.SIZES: 1} if sized else {})
                shown = escape(piece.alt, in_link=True, last=False, older=w.older)
                out.append(f"![{shown}]({destination(piece.src)}{_title(piece.title, w.older)})")
        elif kind is Break:
            out.append(breaks)
        elif kind is Anchor:
            if w.takes(Odd.ANCHORS) is WrittenAs.REPORT:
                w.left_out[Odd.ANCHORS] += 1
            else:
                out.append(f'<a id="{escape_attribute(piece.name)}"></a>')
        elif kind is NoteRef and w.takes(Odd.FOOTNOTES) is WrittenAs.MARKED:
            out.append(f"[^{label(piece.name)}]")
        elif kind is NoteRef:
            named = (Anchor(piece.anchor),) if piece.anchor else ()
            _tokens((*named, Link(f"#{piece.name}", piece.content)), out, w, breaks, in_link, marks)
        elif kind is RawInline:
            if w.takes(Odd.ISLANDS) is WrittenAs.REPORT:
                w.left_out[Odd.ISLANDS] += 1
            elif w.plain(Odd.ISLANDS):
                words = " ".join(" ".join(text.text for text in piece.words).split())
                out.append(escape(words, in_link=in_link, last=False, older=w.older))
            else:
                out.append(_raw(clean(piece.html)))


def label(name: str) -> str:
    """A note's name as a footnote's label may be written."""
    return re.sub(r"[^\w-]+", "-", name)


def _raw(html: str) -> str:
    """Raw markup within a line. Between its tags Markdown still reads, so what means something there is written as
    character references."""
    parts = compile_pattern(r"(<[^>]*>)").split(whole(_one_line(html)))
    for at in range(0, len(parts), 2):
        parts[at] = re.sub(r"[\\`*_\[\]~!]", lambda m: f"&#{ord(m[0])};", parts[at])
    return "".join(parts)


def _styled(piece: Styled, out: list[Token], w: Writer, breaks: str, in_link: bool, marks: frozenset[str]) -> None:
    style = piece.style
    if style in marks and style == "strike":  # within itself it says nothing new
        _tokens(piece.content, out, w, breaks, in_link, marks)
        return
    called = style == "sup" and all(isinstance(inner, NoteRef) for inner in piece.content)
    if called and w.takes(Odd.FOOTNOTES) is WrittenAs.MARKED:  # its readers raise it themselves
        _tokens(piece.content, out, w, breaks, in_link, marks)
        return
    if style not in ("strong", "em", "strike") or (style == "strike" and w.older):
        opening, closing = tags(piece) if w.takes(Odd.MARKS) is WrittenAs.HTML else ("", "")
        if not opening:
            w.left_out[Odd.MARKS] += 1
        out.append(opening)
        _tokens(piece.content, out, w, breaks, in_link, marks | {style})
        out.append(closing)
        return
    opened, closed = _Mark(piece, True), _Mark(piece, False)
    opened.pair, closed.pair = closed, opened
    inner: list[Token] = []
    _tokens(piece.content, inner, w, breaks, in_link, marks | {style})
    # white space at the edges moves outside, or the mark could not open or close
    lead = trail = ""
    if inner and isinstance(inner[0], str):
        stripped = inner[0].lstrip()
        lead, inner[0] = inner[0][: len(inner[0]) - len(stripped)], stripped
    if inner and isinstance(inner[-1], str):
        stripped = inner[-1].rstrip()
        trail, inner[-1] = inner[-1][len(stripped) :], stripped
        if trail and (len(stripped) - len(stripped.rstrip("\\"))) % 2:
            inner[-1] = stripped + "\\"  # what stood before a blank now stands before the mark
    if not any(isinstance(t, _Mark) or t for t in inner):
        out.append(lead + trail)
        return
    out.append(lead)
    out.append(opened)
    out.extend(inner)
    out.append(closed)
    out.append(trail)


def _is_space(char: str) -> bool:
    return char == "" or char.isspace()


def _is_punctuation(char: str) -> bool:
    return char != "" and (char in _ASCII_PUNCTUATION or unicodedata.category(char)[0] in "PS")


def _flanks(inside: str, outside: str) -> bool:
    """Whether a delimiter run opens (or, mirrored, closes) between these two characters."""
    return not _is_space(inside) and (not _is_punctuation(inside) or _is_space(outside) or _is_punctuation(outside))


_FORMS = {"strong": ("**", "__"), "em": ("*", "_"), "strike": ("~~",)}


def _settle(tokens: list[Token]) -> str:
    """Choose how each mark is written, from the outside in, and join everything."""
    marks = [at for at, token in enumerate(tokens) if isinstance(token, _Mark)]
    if not marks:
        return "".join(tokens)  # type: ignore[arg-type]
    where = {id(tokens[at]): at for at in marks}
    around: list[_Mark] = []  # that are open
    for at in marks:
        token = tokens[at]
        assert isinstance(token, _Mark)
        if not token.opening:
            around.pop()
            continue
        alike = [mark for mark in around if mark.piece.style == token.piece.style]
        same = alike[-1] if alike else None
        around.append(token)
        end = where[id(token.pair)]
        before, first = _neighbour(tokens, at, -1), _neighbour(tokens, at, 1)
        last, after = _neighbour(tokens, end, -1), _neighbour(tokens, end, 1)
        for form in _FORMS[token.piece.style]:
            sign = form[0]
            if sign in (before, first, last, after) or (same is not None and sign == same.written[:1]):
                continue
            if not (_flanks(first, before) and _flanks(last, after)):
                continue
            if alike and any(mark.written[:1] == sign for mark in alike) and not (first.isalnum() and last.isalnum()):
                continue  # it would close the one around it
            if sign == "_" and (before.isalnum() or after.isalnum()):
                continue
            token.written = token.pair.written = form
            break
        else:
            # the same mark within itself says nothing new
            token.written, token.pair.written = tags(token.piece) if same is None else ("", "")
            token.settled = token.pair.settled = True
    return "".join(t.written if isinstance(t, _Mark) else t for t in tokens)


def _neighbour(tokens: list[Token], at: int, step: int) -> str:
    """The character next to a mark. A mark not yet settled counts as ``*``: the sign it would take."""
    at += step
    while 0 <= at < len(tokens):
        token = tokens[at]
        if isinstance(token, _Mark):
            shown = token.written
            if not shown and token.settled:
                at += step
                continue
            if not shown:
                # an inner mark that comes later: it will take another sign, and is punctuation either way
                return "("
            return shown[-1] if step < 0 else shown[0]
        if token:
            return token[-1] if step < 0 else token[0]
        at += step
    return ""


def inline_markdown(content: tuple[Any, ...], w: Writer, *, breaks: str = "\\\n", starts: bool = True) -> str:
    """One line of inline content. ``starts``: it begins a paragraph, so its first characters are guarded."""
    if len(content) == 1 and type(content[0]) is Text:
        text = escape(content[0].text, in_link=False, last=True, first=True, older=w.older)
    else:
        tokens: list[Token] = []
        _tokens(content, tokens, w, "  \n" if w.older and breaks == "\\\n" else breaks, False, frozenset())
        text = _settle(tokens)
    if starts:
        text = "\n".join(_guard(line, w.older) for line in text.split("\n"))
    return text


def _guard(line: str, older: bool) -> str:
    """A backslash before what would begin a block at the start of a line. Between breaks, a line of nothing but
    no-break spaces is written as references: some readers strip it, and the break before it would be read as text."""
    if line.isspace():
        return "".join(f"&#{ord(char)};" for char in line.strip(" \t"))
    line = line.lstrip(" ") if line[:1] == " " else line
    if older and _OLDER_START.match(line):
        return _guarded(line[0], older) + line[1:]
    match = _LINE_START.match(line)
    if not match:
        if line[:1] == "|":
            return _guarded("|", older) + line[1:]
        if line[:1] == "[" and _DEFINITION.match(line):
            return "\\" + line
        return line
    if match[1]:
        return match[1] + "\\" + line[len(match[1]) :]
    return _guarded(line[0], older) + line[1:]


_BLOCK_START = re.compile(
    r"</?(?:address|article|aside|base|basefont|blockquote|body|caption|center|col|colgroup|dd|details|dialog|dir|div|"
    r"dl|dt|fieldset|figcaption|figure|footer|form|frame|frameset|h[1-6]|head|header|hr|html|iframe|legend|li|link|"
    r"main|menu|menuitem|nav|noframes|ol|optgroup|option|p|param|search|section|summary|table|tbody|td|tfoot|th|thead|"
    r"title|tr|track|ul|script|pre|style|textarea)(?=[\s/>]|$)",
    re.I,
)


def paragraph_markdown(content: tuple[Any, ...], w: Writer) -> str:
    """A paragraph's text; as ``<p>`` where its first element would open an HTML block (CommonMark 4.6), or its first
    link be read as a definition."""
    text = inline_markdown(content, w)
    if "]:" in text and any(isinstance(piece, Link) for piece in content):
        # a link whose text would make a link reference definition of the line (section 4.7) must not be escaped
        bare = inline_markdown(content, Writer(w.choices, w.older), starts=False)
        if any(_DEFINITION.match(line) for line in bare.split("\n")):
            return _tagged(content, w)
    if "<" in text and any(_BLOCK_START.match(line) for line in text.split("\n")):
        return _tagged(content, w)
    return text


def _tagged(content: tuple[Any, ...], w: Writer) -> str:
    w.raw_words += len(line_text(content).split())
    return flat(f"<p>{inline_html(content)}</p>")
