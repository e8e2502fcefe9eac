"""Blocks: the clean structure of a body. Every block and text knows the node it came from.

``node`` is the number of the element or text on the captured page (-1 when made by hand).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, fields, replace
from typing import Any, Literal

from .serialise import with_addresses

FORMAT = 1  # of blocks as JSON

# --- inline ---------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Text:
    text: str
    node: int = -1


@dataclass(frozen=True, slots=True)
class Code:
    """Code within a line; ``parts`` are the texts it was read from."""

    parts: tuple[Text, ...]

    @property
    def text(self) -> str:
        return "".join(part.text for part in self.parts)


StyleName = Literal[
    "strong",
    "em",
    "sub",
    "sup",
    "strike",
    "underline",
    "inserted",
    "highlight",
    "abbreviation",
    "keyboard",
    "language",
    "small",
    "cite",
    "quote",
    "variable",
    "sample",
    "definition",
    "time",
    "direction",
]


@dataclass(frozen=True, slots=True)
class Styled:
    """Marked text. ``detail``: an abbreviation's meaning, a language tag, a time's machine form, a direction."""

    style: StyleName
    content: tuple[Inline, ...]
    detail: str = ""


@dataclass(frozen=True, slots=True)
class Link:
    href: str
    content: tuple[Inline, ...]
    title: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Picture:
    src: str
    alt: str = ""
    title: str = ""
    width: str = ""
    height: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Break:
    pass


@dataclass(frozen=True, slots=True)
class Anchor:
    """A place that links of the same page point to."""

    name: str
    node: int = -1


@dataclass(frozen=True, slots=True)
class RawInline:
    """Markup inside a line that has no mark of its own; ``words`` are the texts in it."""

    html: str
    words: tuple[Text, ...]
    tag: str
    node: int = -1


@dataclass(frozen=True, slots=True)
class NoteRef:
    """Where a footnote is called: the note's name, what stands there, and the place that the note leads back to."""

    name: str
    content: tuple[Inline, ...]
    anchor: str = ""
    node: int = -1


Inline = Text | Code | Styled | Link | Picture | Break | Anchor | NoteRef | RawInline

# --- blocks ---------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Paragraph:
    content: tuple[Inline, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Heading:
    level: int
    content: tuple[Inline, ...]
    id: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class ListItem:
    """An item; ``value``: its number where that is not the next one; ``mark``: texts of the page that the list's own
    mark stands for now."""

    blocks: tuple[Block, ...]
    checked: bool | None = None
    node: int = -1
    value: int | None = None
    mark: tuple[Text, ...] = ()


@dataclass(frozen=True, slots=True)
class List:
    """A list; ``loose``: its items are paragraphs, with space between them; ``numbers``: how they are written (HTML's
    ``type``: a, A, i, I); ``falling``: they count down."""

    ordered: bool
    items: tuple[ListItem, ...]
    start: int = 1
    node: int = -1
    loose: bool = False
    numbers: str = ""
    falling: bool = False


@dataclass(frozen=True, slots=True)
class Cell:
    blocks: tuple[Block, ...]
    header: bool = False
    colspan: int = 1
    rowspan: int = 1
    align: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Row:
    cells: tuple[Cell, ...]


@dataclass(frozen=True, slots=True)
class Table:
    rows: tuple[Row, ...]
    caption: tuple[Inline, ...] = ()
    node: int = -1


@dataclass(frozen=True, slots=True)
class CodeBlock:
    """Code kept byte for byte (line ends as LF, the first and the last of them too); links inside it stay links.
    ``numbers``: those of its lines, which the page writes beside it and readers of code write themselves."""

    parts: tuple[Text | Link, ...]
    language: str = ""
    node: int = -1
    numbers: tuple[Text, ...] = ()

    @property
    def text(self) -> str:
        return "".join(thing.text for thing in walk(self.parts) if isinstance(thing, Text))


@dataclass(frozen=True, slots=True)
class Quote:
    blocks: tuple[Block, ...]
    cite: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Figure:
    blocks: tuple[Block, ...]
    caption: tuple[Inline, ...] = ()
    node: int = -1


@dataclass(frozen=True, slots=True)
class Divider:
    node: int = -1


@dataclass(frozen=True, slots=True)
class Entry:
    """Terms and what they mean."""

    terms: tuple[tuple[Inline, ...], ...]
    meanings: tuple[tuple[Block, ...], ...]


@dataclass(frozen=True, slots=True)
class Definitions:
    entries: tuple[Entry, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Disclosure:
    """A folding section: the line that is always seen, and what it opens; ``switch``: the node of what opened it, where
    that is a link."""

    summary: tuple[Inline, ...]
    blocks: tuple[Block, ...]
    open: bool = False
    node: int = -1
    switch: int = -1


@dataclass(frozen=True, slots=True)
class Source:
    """A film or sound in another form: its address and media type."""

    src: str
    mime: str = ""


@dataclass(frozen=True, slots=True)
class Track:
    """Captions, or another text along a film: HTML's kind, language and label of a track."""

    src: str
    sort: str = ""
    language: str = ""
    label: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Passage:
    """Blocks in another language than what is around them, or read in another direction."""

    blocks: tuple[Block, ...]
    language: str = ""
    direction: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Embed:
    """Something played or shown from elsewhere: ``sort`` is frame, video, audio or object; ``poster`` the picture that
    stands for a film until it plays; ``sources``: the same in other forms, ``tracks``: its captions."""

    src: str
    sort: str
    title: str = ""
    poster: str = ""
    node: int = -1
    sources: tuple[Source, ...] = ()
    tracks: tuple[Track, ...] = ()

    @property
    def without_picture(self) -> bool:
        """Whether it is a film of which nothing is seen until it plays."""
        return self.sort == "video" and not self.poster


@dataclass(frozen=True, slots=True)
class Callout:
    """A box set off from the text: ``sort`` is note, tip, important, warning or caution; ``title`` stands at its
    head."""

    sort: str
    title: tuple[Inline, ...]
    blocks: tuple[Block, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Tab:
    """A panel with its label; ``switch``: the node of what opened it."""

    label: tuple[Inline, ...]
    blocks: tuple[Block, ...]
    node: int = -1
    switch: int = -1


@dataclass(frozen=True, slots=True)
class Tabs:
    """Panels of which one is seen at a time, each behind its label."""

    tabs: tuple[Tab, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Column:
    blocks: tuple[Block, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Columns:
    """Parts that stand side by side, in the order of reading."""

    columns: tuple[Column, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Shot:
    """A picture of a gallery with its caption, and where it leads ("" nowhere; ``node`` of that link)."""

    picture: Picture
    caption: tuple[Inline, ...] = ()
    href: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class Gallery:
    shots: tuple[Shot, ...]
    node: int = -1


@dataclass(frozen=True, slots=True)
class Button:
    """A link that looks like a button; without an address it is for a script."""

    content: tuple[Inline, ...]
    href: str = ""
    node: int = -1


@dataclass(frozen=True, slots=True)
class FormField:
    """A field of a form: its name and label, HTML's type of it (also ``select`` and ``textarea``), whether it must be
    filled, and what can be chosen."""

    name: str = ""
    label: str = ""
    sort: str = "text"
    required: bool = False
    options: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Form:
    """The place of a form, which a person has to wire up anew: what it asks, where it posts, and how it looked;
    ``words`` are the texts in it."""

    fields: tuple[FormField, ...]
    html: str
    words: tuple[Text, ...]
    action: str = ""
    method: str = "get"
    node: int = -1


@dataclass(frozen=True, slots=True)
class Note:
    """A footnote: its name, what it says, and the places that call it."""

    name: str
    blocks: tuple[Block, ...]
    calls: tuple[str, ...] = ()
    node: int = -1


@dataclass(frozen=True, slots=True)
class Footnotes:
    notes: tuple[Note, ...]
    ordered: bool = True
    node: int = -1


@dataclass(frozen=True, slots=True)
class FileLink:
    """A line that is nothing but a link to a document."""

    link: Link
    node: int = -1


@dataclass(frozen=True, slots=True)
class Island:
    """Raw markup for which there is no block; counted, never dropped."""

    html: str
    words: tuple[Text, ...]
    tag: str
    node: int = -1


Block = (
    Paragraph
    | Heading
    | List
    | Table
    | CodeBlock
    | Quote
    | Figure
    | Divider
    | Definitions
    | Disclosure
    | Embed
    | FileLink
    | Passage
    | Callout
    | Tabs
    | Columns
    | Gallery
    | Button
    | Form
    | Footnotes
    | Island
)

_TYPES: dict[str, type] = {
    cls.__name__: cls
    for cls in (
        Text,
        Code,
        Styled,
        Link,
        Picture,
        Break,
        Anchor,
        RawInline,
        Paragraph,
        Heading,
        ListItem,
        List,
        Cell,
        Row,
        Table,
        CodeBlock,
        Quote,
        Figure,
        Divider,
        Entry,
        Definitions,
        Disclosure,
        NoteRef,
        Source,
        Track,
        Passage,
        Callout,
        Tab,
        Tabs,
        Column,
        Columns,
        Shot,
        Gallery,
        Button,
        FormField,
        Form,
        Note,
        Footnotes,
        Embed,
        FileLink,
        Island,
    )
}
_FIELDS: dict[type, tuple[str, ...]] = {cls: tuple(f.name for f in fields(cls)) for cls in _TYPES.values()}


# later than the others: what says nothing is left out, so that older bodies keep their hashes
_UNSAID = frozenset(["loose", "falling", "mark", "sources", "tracks", "required", "options", "numbers"])


def to_json(value: Any) -> Any:
    """Blocks as JSON-ready data: each object carries its ``type``; empty and unknown values are left out."""
    if isinstance(value, tuple):
        return [to_json(v) for v in value]
    names = _FIELDS.get(type(value))
    if names is None:
        return value
    data: dict[str, Any] = {"type": type(value).__name__}
    for name in names:
        inner = getattr(value, name)
        if inner in ("", None) or (name in ("node", "switch") and inner == -1) or (name in _UNSAID and not inner):
            continue
        data[name] = to_json(inner)
    return data


def from_json(data: Any) -> Any:
    """The inverse of ``to_json``. Raises KeyError on an unknown type."""
    if isinstance(data, list):
        return tuple(from_json(d) for d in data)
    if isinstance(data, dict) and "type" in data:
        cls = _TYPES[data["type"]]
        return cls(**{name: from_json(v) for name, v in data.items() if name != "type"})
    return data


# the fields of each type that hold blocks or inlines, the last first
_HOLDING: dict[type, tuple[str, ...]] = {
    cls: tuple(f.name for f in reversed(fields(cls)) if "tuple" in str(f.type) or f.type in ("Link", "Picture"))
    for cls in _TYPES.values()
}
_HOLDING[ListItem] = ("blocks", "mark")  # what the mark stands for comes first on the page


def walk(value: Any) -> Iterator[Any]:
    """Every block and inline in ``value`` (a block, an inline or tuples of them), outermost first, in order."""
    waiting = [value]
    while waiting:
        thing = waiting.pop()
        if type(thing) is tuple:
            waiting.extend(thing[::-1])
            continue
        names = _HOLDING.get(type(thing))
        if names is None:
            continue
        yield thing
        for name in names:
            inner = getattr(thing, name)
            if inner:
                waiting.append(inner)


FILM = "Film without a picture"  # a construct that stands beside that of the film
_PLAIN = ("Text", "Paragraph", "ListItem", "Cell")  # what every body is made of


def constructs(blocks: Any) -> dict[str, int]:
    """How often each construct stands in these blocks: blocks and inlines by type, islands by element, styled runs by
    style; plain text, paragraphs, items and cells are not told."""
    found: dict[str, int] = {}
    for thing in walk(blocks):
        name = type(thing).__name__
        if name in _PLAIN:
            continue
        if isinstance(thing, Embed) and thing.without_picture:
            found[FILM] = found.get(FILM, 0) + 1
        if isinstance(thing, Island | RawInline):
            name = f"{name} <{thing.tag}>"
        elif isinstance(thing, Styled):
            name = f"{name} {thing.style}"
        found[name] = found.get(name, 0) + 1
    return found


def readdress(
    value: Any,
    link: Callable[[str], str],
    source: Callable[[str], str],
    shown: Callable[[Any], Any] = lambda thing: thing,
    posts: Callable[[str], str] | None = None,
) -> Any:
    """The same blocks with every link through ``link`` and every picture or embed source through ``source``; each
    picture and embed through ``shown`` before that. ``posts`` says where forms go: where that is nowhere ("") a form
    still tells where it went, and its markup does not."""
    if isinstance(value, tuple):
        return tuple(readdress(v, link, source, shown, posts) for v in value)
    names = _FIELDS.get(type(value))
    if names is None:
        return value
    if isinstance(value, Picture | Embed):
        value = shown(value)
    changed: dict[str, Any] = {}
    for name in names:
        inner = getattr(value, name)
        if isinstance(inner, tuple) or type(inner) in _FIELDS:
            changed[name] = readdress(inner, link, source, shown, posts)
    if isinstance(value, Link | Shot | Button) and (value.href or isinstance(value, Link)):
        changed["href"] = link(value.href)
    elif isinstance(value, Picture | Embed):
        changed["src"] = source(value.src)
        if isinstance(value, Embed) and value.poster:
            changed["poster"] = source(value.poster)
    elif isinstance(value, Source | Track):
        changed["src"] = source(value.src)
    elif isinstance(value, Quote) and value.cite:
        changed["cite"] = link(value.cite)
    elif isinstance(value, Form):
        changed["action"] = ((posts or link)(value.action) or value.action) if value.action else ""
        changed["html"] = with_addresses(value.html, link, source, posts)
    elif isinstance(value, Island | RawInline):
        changed["html"] = with_addresses(value.html, link, source, posts)
    return replace(value, **changed) if changed else value
