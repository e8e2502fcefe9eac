"""Which attribute of which element names another address, how it spells it, and what it shows: one table for all.

The survey, the reader, the loss account, lifting, the preview and the offline copy ask here and nowhere else, so that
none of them can miss what another finds. Sources: HTML standard (elements that fetch or link; ``srcset`` 4.8.4.2.1),
the obsolete attributes of its section 16, and the data attributes that scripts commonly fill pictures from.

An element's attributes are a mapping of lower-case names to values, None for an attribute without one.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from enum import StrEnum
from functools import partial
from typing import Any, NamedTuple

import tinycss2

from .css import with_addresses

Attributes = Mapping[str, str | None]


class Shows(StrEnum):
    """What an address is to a visitor."""

    LINK = "link"  # a place to go to
    PICTURE = "picture"
    BACKGROUND = "background"  # a picture behind what stands in the element
    MEDIA = "file"  # sound, film, a program: played in the page
    FRAME = "frame"  # another page within this one
    STYLE = "style"
    SCRIPT = "script"
    SOURCE = "source"  # where a quotation or a change comes from; nobody is led there


class Spelled(StrEnum):
    """How a value holds addresses."""

    ONE = "one"
    SET = "set"  # a srcset
    CSS = "css"  # within style declarations


class Carrier(NamedTuple):
    """An attribute that holds addresses. ``lazy``: a script moves it to where a browser looks."""

    attribute: str
    shows: Shows
    spelled: Spelled = Spelled.ONE
    lazy: bool = False


class Reference(NamedTuple):
    """An address as written, the attribute it stands in, and what it shows."""

    raw: str
    attribute: str
    shows: Shows
    spelled: Spelled
    lazy: bool


_ONE, _SET, _CSS = Spelled.ONE, Spelled.SET, Spelled.CSS
_C = Carrier
# attributes that hold addresses on certain elements
OF: dict[str, tuple[Carrier, ...]] = {
    "a": (_C("href", Shows.LINK),),
    "area": (_C("href", Shows.LINK),),
    "img": (
        _C("src", Shows.PICTURE),
        _C("srcset", Shows.PICTURE, _SET),
        _C("lowsrc", Shows.PICTURE),
        _C("longdesc", Shows.SOURCE),
    ),
    "image": (_C("href", Shows.PICTURE), _C("xlink:href", Shows.PICTURE), _C("src", Shows.PICTURE)),
    "use": (_C("href", Shows.PICTURE), _C("xlink:href", Shows.PICTURE)),
    "input": (_C("src", Shows.PICTURE),),
    "source": (_C("src", Shows.MEDIA), _C("srcset", Shows.PICTURE, _SET)),
    "track": (_C("src", Shows.MEDIA),),
    "audio": (_C("src", Shows.MEDIA),),
    "video": (_C("src", Shows.MEDIA), _C("poster", Shows.PICTURE)),
    "embed": (_C("src", Shows.MEDIA),),
    "object": (_C("data", Shows.MEDIA),),
    "frame": (_C("src", Shows.FRAME), _C("longdesc", Shows.SOURCE)),
    "iframe": (_C("src", Shows.FRAME), _C("data-src", Shows.FRAME, lazy=True)),
    "script": (_C("src", Shows.SCRIPT),),
    "link": (_C("imagesrcset", Shows.PICTURE, _SET),),  # its href means what rel says: core.survey.links
    "blockquote": (_C("cite", Shows.SOURCE),),
    "q": (_C("cite", Shows.SOURCE),),
    "ins": (_C("cite", Shows.SOURCE),),
    "del": (_C("cite", Shows.SOURCE),),
    **{
        tag: (_C("background", Shows.BACKGROUND),)
        for tag in ("body", "table", "thead", "tbody", "tfoot", "tr", "td", "th")
    },
}
# attributes that hold addresses wherever they stand (scripts and frames aside)
ANYWHERE: tuple[Carrier, ...] = (
    _C("style", Shows.BACKGROUND, _CSS),
    *(
        _C(name, Shows.PICTURE, lazy=True)
        for name in ("data-src", "data-original", "data-lazy-src", "data-lazy", "data-original-src", "data-poster")
    ),
    *(_C(name, Shows.PICTURE, _SET, lazy=True) for name in ("data-srcset", "data-lazy-srcset", "data-original-set")),
    *(_C(name, Shows.BACKGROUND, lazy=True) for name in ("data-bg", "data-background", "data-background-image")),
)
ALONE = frozenset(["script", "iframe", "frame"])  # elements on which no others are looked for
_ANYWHERE = {carrier.attribute: carrier for carrier in ANYWHERE}
_NAMES = {tag: frozenset(c.attribute for c in carriers) for tag, carriers in OF.items()}
# a reader of pages shows these pictures itself, so that one of its lazy attributes means the same picture
PICTURES = frozenset(["img", "image", "input"])
MEDIA = frozenset(["audio", "video", "embed", "object", "source", "track"])
_ALL = (*(carrier for carriers in OF.values() for carrier in carriers), *ANYWHERE)
ATTRIBUTES = frozenset(carrier.attribute for carrier in _ALL)
SETS = frozenset(carrier.attribute for carrier in _ALL if carrier.spelled is Spelled.SET)

_REFRESH = re.compile(r"^\s*[\d.]*\s*[;,]?\s*(?:url\s*=\s*)?[\"']?([^\"']*)", re.I)
_STAND_IN = re.compile(
    r"(?:^|[/_.-])(?:blank|spacer|placeholder|pixel|transparent|trans|clear|empty|dummy|loading|loader|lazy|grey|gray|1x1)"
    r"(?=[_.-]|\d|$)",
    re.I,
)
_NO_ADDRESS = re.compile(r"[\s{}\[\]<>]|^#|^[\d.,%-]*$")
_CONTROLS = re.compile(r"[\x00-\x20\x7f-\xa0\u2028\u2029\ufeff\ufffd]+")


def scheme_of(address: str) -> str:
    """The scheme of an address as a browser understands it (WHATWG URL: control characters and blanks before and within
    it do not count), lower case, "" for a relative one."""
    bare = _CONTROLS.sub("", address[:400])
    head, colon, _ = bare.partition(":")
    return head.lower() if colon and re.fullmatch(r"[A-Za-z][A-Za-z0-9+.-]*", head) else ""


def runs_script(address: str) -> bool:
    """Whether following an address would run it as a script, however it is disguised; also what opens a document made
    of the address itself."""
    if ":" not in address:
        return False
    scheme = scheme_of(address)
    if scheme == "data":  # pictures are shown, not opened
        return not re.match(r"data:image/(?!svg)", _CONTROLS.sub("", address[:400]), re.I)
    return scheme in ("javascript", "vbscript", "livescript")


def srcset(value: str) -> list[tuple[str, float]]:
    """The candidates of a ``srcset``: address and width (``800w``) or density (``2x``, 1 where none is said). Commas
    within an address are kept."""
    found = []
    rest = value
    while rest := rest.lstrip(" \t\n\r\f,"):
        url, rest = _word(rest)
        if url.endswith(","):
            found.append((url.rstrip(","), 1.0))
            continue
        said, _, rest = rest.partition(",")
        found.append((url, _size(said)))
    return [(url, size) for url, size in found if url]


def _word(text: str) -> tuple[str, str]:
    parts = text.split(None, 1)
    return parts[0], parts[1] if len(parts) > 1 else ""


def _size(said: str) -> float:
    match = re.search(r"(\d+(?:\.\d+)?)\s*[wx]\b", said[:40], re.I)
    return float(match[1]) if match else 1.0


def css_links(css: str) -> list[tuple[str, str]]:
    """(how, address) of every ``url()`` and ``@import`` in a stylesheet; how is ``css`` or ``css import``."""
    if "url(" not in css.lower() and "@import" not in css.lower():
        return []
    found: list[tuple[str, str]] = []

    def walk(tokens: list[Any]) -> None:
        importing = False
        for token in tokens:
            kind = token.type
            if kind == "at-keyword":
                importing = token.lower_value == "import"
            elif kind == "url":
                found.append(("css import" if importing else "css", token.value))
                importing = False
            elif kind == "function" and token.lower_name == "url":
                found.extend(("css", inner.value) for inner in token.arguments if inner.type == "string")
                importing = False
            elif kind == "function":
                walk(token.arguments)
            elif kind == "string" and importing:
                found.append(("css import", token.value))
                importing = False
            elif kind in ("{} block", "() block", "[] block"):
                walk(token.content)
            elif kind == "literal" and token.value == ";":
                importing = False

    walk(tinycss2.parse_component_value_list(css))
    return [(how, url) for how, url in found if url and not url.startswith("data:")]


def refresh_target(content: str) -> str:
    """The address in a meta refresh's content, "" when it only reloads."""
    if not re.search(r"[;,]", content):
        return ""
    match = _REFRESH.match(content)
    return match[1].strip() if match else ""


def css_addresses(declarations: str) -> list[str]:
    """The addresses in style declarations, embedded data aside."""
    return [url for _, url in css_links(declarations)]


def addresses(carrier: Carrier, value: str) -> list[str]:
    """The addresses that a value of an attribute holds, as written; none where the value is no address at all."""
    if carrier.spelled is Spelled.SET:
        return [url for url, _ in srcset(value)]
    if carrier.spelled is Spelled.CSS:
        return css_addresses(value)
    value = value.strip()
    if carrier.lazy:
        if value[:4].lower() == "url(":
            return css_addresses(value)
        if _NO_ADDRESS.search(value) or not ("/" in value or "." in value):
            return []  # a colour, a number, a word that only a script understands
    return [value] if value else []


def carriers_of(tag: str, attrs: Attributes) -> Iterator[tuple[Carrier, str]]:
    """The attributes of an element that hold addresses, with their values."""
    for carrier in OF.get(tag, ()):
        value = attrs.get(carrier.attribute)
        if value:
            yield carrier, value
    if tag in ALONE or _ANYWHERE.keys().isdisjoint(attrs):
        return
    own = _NAMES.get(tag, ())
    for name, value in attrs.items():
        if value and name in _ANYWHERE and name not in own:
            carrier = _ANYWHERE[name]
            if carrier.shows is Shows.PICTURE and tag in MEDIA and carrier.spelled is _ONE:
                carrier = carrier._replace(shows=Shows.PICTURE if name == "data-poster" else Shows.MEDIA)
            yield carrier, value


def may_refer(tag: str, attrs: Attributes) -> bool:
    """Whether an element has attributes at all that may hold addresses."""
    return tag in OF or not _ANYWHERE.keys().isdisjoint(attrs)


def references(tag: str, attrs: Attributes) -> Iterator[Reference]:
    """Every address that an element's attributes name. What a ``link`` or ``meta`` says is core.survey.links' to
    read."""
    for carrier, value in carriers_of(tag, attrs):
        for raw in addresses(carrier, value):
            yield Reference(raw, carrier.attribute, carrier.shows, carrier.spelled, carrier.lazy)


def picture_source(tag: str, attrs: Attributes) -> str:
    """The picture an element shows in the end, "" when it shows none: its own address, unless that only keeps the place
    of one that a script loads later; else the largest of its set. Pictures behind an element do not count."""
    own = lazy = ""
    choice: list[tuple[str, float]] = []
    for carrier, value in carriers_of(tag, attrs):
        if carrier.shows is not Shows.PICTURE or carrier.attribute == "lowsrc":
            continue
        if carrier.spelled is Spelled.SET:
            choice += [(url, size) for url, size in srcset(value) if not stands_in(url)]
        elif found := addresses(carrier, value):
            if carrier.lazy:
                lazy = lazy or found[0]
            else:
                own = own or found[0]
    best = _largest(choice)
    if own and not stands_in(own):
        return best if len(choice) > 1 or (best and best != own) else own
    return best or lazy or own


_WIDEST = 2600  # pixels: wider ones are for screens that hardly anybody has
_DENSEST = 3


def _largest(choice: list[tuple[str, float]]) -> str:
    """Of the candidates of a set the largest that fits, the smallest where none does."""
    if not choice:
        return ""
    widths = any(size > 10 for _, size in choice)  # else they are densities
    most = _WIDEST if widths else _DENSEST
    fitting = [one for one in choice if one[1] <= most]
    return max(fitting, key=lambda one: one[1])[0] if fitting else min(choice, key=lambda one: one[1])[0]


def background_source(tag: str, attrs: Attributes) -> str:
    """The picture behind an element, "" when there is none; one that a script loads later before one that is there."""
    found = [ref for ref in references(tag, attrs) if ref.shows is Shows.BACKGROUND]
    real = [ref for ref in found if not stands_in(ref.raw)]
    return next((ref.raw for ref in real if ref.lazy), real[0].raw if real else "")


def media_source(tag: str, attrs: Attributes) -> str:
    """The address an element plays or frames, "" when it names none."""
    for ref in references(tag, attrs):
        if ref.shows in (Shows.MEDIA, Shows.FRAME) and ref.raw.strip() not in ("about:blank", ""):
            return ref.raw
    return ""


POSTED = ("action", "formaction")  # where a form goes; no reference, since nobody is led there without filling it in


def readdressed(
    tag: str,
    attrs: Attributes,
    link: Callable[[str], str],
    source: Callable[[str], str],
    posts: Callable[[str], str] | None = None,
) -> Attributes:
    """Attributes with every place that is gone to through ``link``, everything shown in the page through ``source`` and
    where forms post through ``posts`` ("" takes that attribute away); the same mapping where nothing changes."""
    made: dict[str, str | None] | None = None
    for name in POSTED:
        if value := (attrs.get(name) or "").strip():
            made = dict(attrs) if made is None else made
            made[name] = (posts or link)(value)
            if not made[name]:
                del made[name]
    for carrier, value in carriers_of(tag, attrs):
        change = link if carrier.shows in (Shows.LINK, Shows.FRAME, Shows.SOURCE) else source
        if not addresses(carrier, value):
            continue
        if carrier.spelled is Spelled.SET:
            parts = [(url, _described(value, url)) for url, _ in srcset(value)]
            new = ", ".join(f"{change(url)} {said}".rstrip() for url, said in parts)
        elif carrier.spelled is Spelled.CSS:
            new = with_addresses(value, partial(_changed, change))
        else:
            new = change(value.strip())
        if new != value:
            made = dict(attrs) if made is None else made
            made[carrier.attribute] = new
    return attrs if made is None else made


def _changed(change: Callable[[str], str], url: str) -> str:
    return change(url) if url and not url.startswith("data:") else url


def _described(value: str, url: str) -> str:
    """What is said of a candidate's size in a set."""
    rest = value.partition(url)[2]
    said = rest.partition(",")[0].strip()
    return said if re.fullmatch(r"\d+(?:\.\d+)?[wxh]", said) else ""


_COLOURS = re.compile(r"gr[ea]y", re.I)
_TINY = 300  # characters of embedded data that can be no more than a dot or two


def keeps_a_place(address: str) -> bool:
    """Whether a picture without any other source keeps a place and shows nothing: what is but named for a colour, or
    embeds more than a dot, shows something."""
    if scheme_of(address) in ("data", "about"):
        return len(address) <= _TINY
    return stands_in(address) and not _COLOURS.search(address.rpartition("/")[2])


def stands_in(address: str) -> bool:
    """Whether a picture's address seems to keep the place of another: embedded data, or named as such."""
    if scheme_of(address) in ("data", "about"):
        return True
    return bool(_STAND_IN.search(address.partition("?")[0].rpartition("/")[2]))
