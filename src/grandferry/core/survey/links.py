"""Every reference a page or stylesheet carries, with the element it stands in.

Sources: HTML standard (elements that fetch or link), srcset grammar (HTML 4.8.4.2), meta refresh
(HTML 4.2.5.3), CSS ``url()`` and ``@import`` (CSS Syntax 3 through tinycss2), JSON-LD.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from typing import Any, NamedTuple

import tinycss2
from selectolax.lexbor import LexborNode

FILE_ENDINGS = frozenset(
    (
        "jpg jpeg png gif svg webp avif ico bmp tif tiff css js mjs json xml rss atom pdf doc docx xls xlsx "
        "ppt pptx odt ods odp rtf txt csv zip gz tgz bz2 xz 7z rar tar mp3 m4a ogg oga wav flac mp4 m4v webm "
        "ogv mov avi mkv woff woff2 ttf otf eot swf ics vcf epub map"
    ).split()
)


class Link(NamedTuple):
    """A reference as written. ``how``: where it stands (``a``, ``img``, ``css``, …); ``words``: its text or alt.

    ``wants_file``: the element asks for a file, not for a page to go to.
    """

    raw: str
    how: str
    wants_file: bool
    words: str = ""


def looks_like_file(path: str) -> bool:
    """Whether a path ends like a file that is no page."""
    tail = path.rsplit("/", 1)[-1]
    return "." in tail and tail.rsplit(".", 1)[-1].lower() in FILE_ENDINGS


# element -> attributes: (attribute, wants_file)
PLAIN: dict[str, tuple[tuple[str, bool], ...]] = {
    "a": (("href", False),),
    "area": (("href", False),),
    "frame": (("src", False), ("longdesc", False)),
    "iframe": (("src", False), ("data-src", False)),
    "img": (("src", True), ("longdesc", False)),
    "input": (("src", True),),
    "script": (("src", True),),
    "source": (("src", True),),
    "track": (("src", True),),
    "audio": (("src", True),),
    "video": (("src", True), ("poster", True)),
    "embed": (("src", True),),
    "object": (("data", True),),
    "image": (("href", True), ("xlink:href", True)),
    "use": (("href", True), ("xlink:href", True)),
    "blockquote": (("cite", False),),
    "q": (("cite", False),),
    "ins": (("cite", False),),
    "del": (("cite", False),),
}
LAZY = (
    "data-src",
    "data-original",
    "data-lazy-src",
    "data-lazy",
    "data-bg",
    "data-background",
    "data-background-image",
)
SETS = ("srcset", "data-srcset", "data-lazy-srcset", "imagesrcset")
_BACKGROUND = frozenset(["body", "table", "td", "th", "tr"])
_LINK_FILES = frozenset(
    ["stylesheet", "icon", "shortcut", "apple-touch-icon", "mask-icon", "preload", "modulepreload", "manifest"]
)
_FEED = re.compile(r"application/(?:rss|atom)\+xml|application/feed\+json", re.I)
_REFRESH = re.compile(r"^\s*[\d.]*\s*[;,]?\s*(?:url\s*=\s*)?[\"']?([^\"']*)", re.I)
_LD_KEYS = frozenset("url @id image logo contentUrl thumbnailUrl embedUrl item mainEntityOfPage".split())


def srcset(value: str) -> list[str]:
    """The addresses of a ``srcset`` (commas inside an address are kept)."""
    found = []
    rest = value.strip()
    while rest:
        rest = rest.lstrip(" \t\n\r\f,")
        if not rest:
            break
        url, _, rest = rest.partition(" ") if not re.search(r"[\t\n\r\f]", rest) else _first_word(rest)
        if url.endswith(","):
            found.append(url.rstrip(","))
            continue
        found.append(url)
        rest = rest.partition(",")[2]
    return [url for url in found if url]


def _first_word(text: str) -> tuple[str, str, str]:
    word = text.split(None, 1)
    return word[0], " ", word[1] if len(word) > 1 else ""


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


def _json_ld(text: str) -> Iterator[str]:
    try:
        data = json.loads(text)
    except ValueError:
        return
    stack = [data]
    while stack:
        value = stack.pop()
        if isinstance(value, list):
            stack.extend(value)
        elif isinstance(value, dict):
            for key, inner in value.items():
                if key in _LD_KEYS and isinstance(inner, str) and inner.startswith(("http://", "https://", "/")):
                    yield inner
                elif isinstance(inner, dict | list):
                    stack.append(inner)


Attributes = dict[str, str | None]


def _of_link(attrs: Attributes) -> Iterator[Link]:
    href = attrs.get("href")
    if not href:
        return
    rel = set((attrs.get("rel") or "").lower().split())
    if rel & {"dns-prefetch", "preconnect"}:
        return
    title = attrs.get("title") or ""
    if "alternate" in rel and _FEED.search(attrs.get("type") or ""):
        yield Link(href, "feed", True, title)
    elif "canonical" in rel:
        yield Link(href, "canonical", False)
    elif "alternate" in rel and "stylesheet" not in rel:
        yield Link(href, "alternate", False, attrs.get("hreflang") or "")
    else:
        yield Link(href, "link", bool(rel & _LINK_FILES), title)


def _of_meta(attrs: Attributes) -> Iterator[Link]:
    content = attrs.get("content") or ""
    named = (attrs.get("property") or attrs.get("name") or "").lower()
    if (attrs.get("http-equiv") or "").lower() == "refresh":
        target = refresh_target(content)
        if target:
            yield Link(target, "meta refresh", False)
    elif named in ("og:image", "og:video", "og:audio", "twitter:image"):
        if content:
            yield Link(content, "meta", True)
    elif named == "og:url" and content:
        yield Link(content, "meta", False)


def element_links(node: LexborNode, tag: str, attrs: Attributes, words: Callable[[LexborNode], str]) -> Iterator[Link]:
    """The references of one element. ``words`` gives the text a visitor sees in it."""
    if tag == "a":
        if attrs.get("href"):
            yield Link(attrs["href"] or "", tag, False, words(node)[:200])
    else:
        for name, wants_file in PLAIN.get(tag, ()):
            value = attrs.get(name)
            if value:
                yield Link(value, tag, wants_file, (attrs.get("alt") or "")[:200])
    if tag == "link":
        yield from _of_link(attrs)
    elif tag == "meta":
        yield from _of_meta(attrs)
    elif tag == "style":
        for how, url in css_links(node.text()):
            yield Link(url, how, True)
    elif tag == "script":
        if (attrs.get("type") or "").lower() == "application/ld+json":
            for url in _json_ld(node.text()):
                yield Link(url, "JSON-LD", False)
        return
    elif tag == "iframe":
        return
    if len(attrs) > 1 or tag not in ("a", "link", "meta", "img"):
        for name, value in attrs.items():
            if not value:
                continue
            if name in SETS:
                for url in srcset(value):
                    yield Link(url, "srcset", True, attrs.get("alt") or "")
            elif name in LAZY:
                yield Link(value.strip(), "lazy " + tag, True, attrs.get("alt") or "")
            elif name == "style" and "url(" in value.lower():
                for how, url in css_links(value):
                    yield Link(url, how, True)
            elif name == "background" and tag in _BACKGROUND:
                yield Link(value, "background", True)


# What carries references or facts: elements that most pages have, and elements and attributes that are asked only of a
# page whose source holds their mark at all.
_COMMON = tuple("a link meta script img h1 title html".split())
_RARE = sorted({*PLAIN, "style", "form", "base"} - {*_COMMON})
MARKED = {
    "data-": ",".join(f"[{name}]" for name in (*LAZY, "data-srcset", "data-lazy-srcset")),
    "srcset": "[srcset],[imagesrcset]",
    "background=": ",".join(f"{tag}[background]" for tag in sorted(_BACKGROUND)),
    "url(": "[style*='url(' i]",
    **{f"<{tag}": tag for tag in _RARE},
}


def carriers(marks: frozenset[str]) -> str:
    """A selector for all elements of a page that may carry references or facts; ``marks``: those of ``MARKED`` that its
    source holds."""
    return ",".join([*_COMMON, *(selector for mark, selector in MARKED.items() if mark in marks)])
