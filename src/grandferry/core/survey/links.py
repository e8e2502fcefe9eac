"""Every reference a page or stylesheet carries, with the element it stands in.

Sources: HTML standard (elements that fetch or link), srcset grammar (HTML 4.8.4.2), meta refresh
(HTML 4.2.5.3), CSS ``url()`` and ``@import`` (CSS Syntax 3 through tinycss2), JSON-LD.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import tinycss2

from ..page import Node, Page, text_of

FILE_ENDINGS = frozenset(
    (
        "jpg jpeg png gif svg webp avif ico bmp tif tiff css js mjs json xml rss atom pdf doc docx xls xlsx "
        "ppt pptx odt ods odp rtf txt csv zip gz tgz bz2 xz 7z rar tar mp3 m4a ogg oga wav flac mp4 m4v webm "
        "ogv mov avi mkv woff woff2 ttf otf eot swf ics vcf epub map"
    ).split()
)


@dataclass(frozen=True, slots=True)
class Link:
    """A reference as written. ``how``: where it stands (``a``, ``img``, ``css``, …); ``words``: its text or alt.

    ``wants_file``: the element asks for a file, not for a page to go to.
    """

    node: int
    raw: str
    how: str
    wants_file: bool
    words: str = ""


def looks_like_file(path: str) -> bool:
    """Whether a path ends like a file that is no page."""
    tail = path.rsplit("/", 1)[-1]
    return "." in tail and tail.rsplit(".", 1)[-1].lower() in FILE_ENDINGS


# element -> attributes: (attribute, wants_file)
_PLAIN: dict[str, tuple[tuple[str, bool], ...]] = {
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
_LAZY = (
    "data-src",
    "data-original",
    "data-lazy-src",
    "data-lazy",
    "data-bg",
    "data-background",
    "data-background-image",
)
_SETS = ("srcset", "data-srcset", "data-lazy-srcset", "imagesrcset")
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


def _of_link(node: Node) -> Iterator[Link]:
    href = node.get("href")
    if not href:
        return
    rel = set(node.get("rel").lower().split())
    if rel & {"dns-prefetch", "preconnect"}:
        return
    if "alternate" in rel and _FEED.search(node.get("type")):
        yield Link(node.n, href, "feed", True, node.get("title"))
    elif "canonical" in rel:
        yield Link(node.n, href, "canonical", False)
    elif "alternate" in rel and "stylesheet" not in rel:
        yield Link(node.n, href, "alternate", False, node.get("hreflang"))
    else:
        yield Link(node.n, href, "link", bool(rel & _LINK_FILES), node.get("title"))


def _of_meta(node: Node) -> Iterator[Link]:
    if node.get("http-equiv").lower() == "refresh":
        target = refresh_target(node.get("content"))
        if target:
            yield Link(node.n, target, "meta refresh", False)
    elif (node.get("property") or node.get("name")).lower() in ("og:image", "og:video", "og:audio", "twitter:image"):
        if node.get("content"):
            yield Link(node.n, node.get("content"), "meta", True)
    elif node.get("property").lower() == "og:url" and node.get("content"):
        yield Link(node.n, node.get("content"), "meta", False)


def _inner_text(node: Node) -> str:
    return "".join(child.text for child in node.children if not child.tag)


def _of_style(node: Node) -> Iterator[Link]:
    for how, url in css_links(_inner_text(node)):
        yield Link(node.n, url, how, True)


def _of_script(node: Node) -> Iterator[Link]:
    if node.get("type").lower() == "application/ld+json":
        for url in _json_ld(_inner_text(node)):
            yield Link(node.n, url, "JSON-LD", False)


_SPECIAL: dict[str, Callable[[Node], Iterator[Link]]] = {
    "link": _of_link,
    "meta": _of_meta,
    "style": _of_style,
    "script": _of_script,
}


def page_links(page: Page) -> tuple[str, list[Link]]:
    """The page's ``<base href>`` ("" when it has none) and all references, in document order."""
    base = ""
    found: list[Link] = []
    add = found.append
    for node in page.nodes:
        tag = node.tag
        if not tag:
            continue
        attrs = node.attrs
        if not attrs and tag not in ("style", "script"):
            continue
        for name, wants_file in _PLAIN.get(tag, ()):
            value = attrs.get(name)
            if value:
                words = text_of(page, node) if tag == "a" else (attrs.get("alt") or "")
                add(Link(node.n, value, tag, wants_file, words[:200]))
        special = _SPECIAL.get(tag)
        if special:
            found.extend(special(node))
        elif tag == "base" and not base:
            base = attrs.get("href") or ""
        if tag not in ("script", "iframe"):
            for name in attrs:
                value = attrs[name]
                if not value:
                    continue
                if name in _SETS:
                    found.extend(Link(node.n, url, "srcset", True, attrs.get("alt") or "") for url in srcset(value))
                elif name in _LAZY:
                    add(Link(node.n, value.strip(), "lazy " + tag, True, attrs.get("alt") or ""))
                elif name == "style" and "url(" in value.lower():
                    found.extend(Link(node.n, url, how, True) for how, url in css_links(value))
                elif name == "background" and tag in _BACKGROUND:
                    add(Link(node.n, value, "background", True))
    return base.strip(), [link for link in found if link.raw.strip() and not link.raw.startswith("data:")]
