"""Every reference a page or stylesheet carries, with the element it stands in.

Which attributes hold addresses is said in core.references; here is what ``link``, ``meta`` and JSON-LD say besides
(HTML standard 4.2.4, 4.2.5; meta refresh 4.2.5.3).
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from typing import NamedTuple

import re2
from selectolax.lexbor import LexborNode

from ..css import laid
from ..references import (
    ANYWHERE,
    OF,
    Attributes,
    Reference,
    Shows,
    Spelled,
    css_links,
    may_refer,
    references,
    refresh_target,
)


class Link(NamedTuple):
    """A reference as written. ``how``: where it stands (``a``, ``img``, ``css``, …); ``words``: its text or alt.

    ``wants_file``: the element asks for a file, not for a page to go to.
    """

    raw: str
    how: str
    wants_file: bool
    words: str = ""


CODE = "code"  # how an address stands that a script of the page holds


_LINK_FILES = frozenset(
    ["stylesheet", "icon", "shortcut", "apple-touch-icon", "mask-icon", "preload", "modulepreload", "manifest"]
)
_FEED = re.compile(r"application/(?:rss|atom)\+xml|application/feed\+json", re.I)
_LD_KEYS = frozenset("url @id image logo contentUrl thumbnailUrl embedUrl item mainEntityOfPage".split())


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


# an address as a whole piece of text in a script; what follows it there may be put together only when the script runs
_IN_CODE = re2.compile(
    r"""["'`]((?:https?:)?//(?:[A-Za-z0-9_-]+\.)+[A-Za-z0-9-]+(?::[0-9]+)?(?:[/?#][^\s"'`<>\\{}$]*)?)"""
)
_NAMES_ALONE = (
    "www.w3.org",
    "schema.org",
    "purl.org",
    "ogp.me",
    "xmlns.com",
)  # names of formats; nothing is asked there
_MOST_IN_CODE = 50


def _in_code(text: str) -> Iterator[str]:
    """The addresses that stand in a script of a page, each once."""
    if "//" not in text.replace("\\/", "/"):
        return
    found = dict.fromkeys(match.group(1) for match in _IN_CODE.finditer(text.replace("\\/", "/")))
    for url in list(found)[:_MOST_IN_CODE]:
        if url.partition("//")[2].partition("/")[0].lower() not in _NAMES_ALONE:
            yield url


_FOLLOWED = frozenset([Shows.LINK, Shows.FRAME, Shows.SOURCE])  # what is gone to or read; all else is a file


def _how(tag: str, ref: Reference) -> str:
    """How a reference was written, in a word: the element, or what its attribute is called."""
    if ref.spelled is Spelled.SET:
        return "srcset"
    if ref.spelled is Spelled.CSS:
        return "css"
    if ref.lazy and tag != "iframe":
        return "lazy " + tag
    return "background" if ref.shows is Shows.BACKGROUND else tag


def element_links(node: LexborNode, tag: str, attrs: Attributes, words: Callable[[LexborNode], str]) -> Iterator[Link]:
    """The references of one element. ``words`` gives the text a visitor sees in it."""
    if may_refer(tag, attrs):
        said = (attrs.get("alt") or "")[:200]
        for ref in references(tag, attrs):
            told = words(node)[:200] if tag == "a" and ref.shows is Shows.LINK else said
            if ref.spelled is Spelled.CSS:
                told = laid(attrs.get(ref.attribute) or "")
            yield Link(ref.raw, _how(tag, ref), ref.shows not in _FOLLOWED, told)
    if tag == "link":
        yield from _of_link(attrs)
    elif tag == "meta":
        yield from _of_meta(attrs)
    elif tag == "style":
        for how, url in css_links(node.text()):
            yield Link(url, how, True)
    elif tag == "script" and (attrs.get("type") or "").lower() == "application/ld+json":
        for url in _json_ld(node.text()):
            yield Link(url, "JSON-LD", False)
    elif tag == "script" and not attrs.get("src"):
        for url in _in_code(node.text()):
            yield Link(url, CODE, True)


# What carries references or facts: elements that most pages have, and elements and attributes that are asked only of a
# page whose source holds their mark at all.
_COMMON = tuple("a link meta script img h1 title html".split())
_SHOWING = {tag for tag, named in OF.items() if any(c.shows is not Shows.BACKGROUND for c in named)}
_RARE = sorted((_SHOWING | {"style", "form", "base"}) - {*_COMMON})
_LAZY = [carrier.attribute for carrier in ANYWHERE if carrier.lazy]
_BACKED = sorted(tag for tag, named in OF.items() if any(c.attribute == "background" for c in named))
MARKED = {
    "data-": ",".join(f"[{name}]" for name in _LAZY),
    "srcset": "[srcset],[imagesrcset]",
    "background=": ",".join(f"{tag}[background]" for tag in _BACKED),
    "url(": "[style*='url(' i]",
    **{f"<{tag}": tag for tag in _RARE},
}


def carriers(marks: frozenset[str]) -> str:
    """A selector for all elements of a page that may carry references or facts; ``marks``: those of ``MARKED`` that its
    source holds."""
    return ",".join([*_COMMON, *(selector for mark, selector in MARKED.items() if mark in marks)])
