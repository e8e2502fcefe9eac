"""What the survey reads off a page at one glance: facts, references, and whether it is content at all.

Asked of the parser by selectors, without numbering the page's nodes as later stages need them: a survey reads every
page of a site, and most of its time would go there.
"""

from __future__ import annotations

import json
from dataclasses import dataclass, field

from selectolax.lexbor import LexborNode

from ..page import INLINE, INVISIBLE, open_page
from ..references import Attributes
from ..sort.make import make_of
from . import secrets
from .bare import MOST_WORDS, is_bare
from .facts import Facts
from .fingerprint import words_of
from .links import MARKED, Link, carriers, element_links
from .marks import Marks

_UNSEEN = [(tag, f"<{tag}") for tag in sorted(INVISIBLE - {"head", "title"})] + [("title", "<svg")]
# pieces that a page holds, by the words that templates use for them: where they may stand, and what says that one does
_PIECES = {
    "comment": "li[class*=comment i],div[class*=comment i],article[class*=comment i],[id^='comment-' i]",
    "<nav": "nav",
    "nav": "#nav,ul.nav",
    "menu": "#menu,ul.menu",
    "navigation": "[role=navigation]",
}
MENUS = ",".join(selector for mark, selector in _PIECES.items() if mark != "comment")  # blocks of navigation
_MARKS = Marks([*(mark for _, mark in _UNSEEN), *MARKED, *secrets.MARKS, *_PIECES])
PIECE = "\x1f"  # white space, to whoever counts words
_MOST = 40  # of a page's first-level headings, structured types and secrets are noted


@dataclass(slots=True)
class Glance:
    """``base``: the page's ``<base href>``, "" when it has none; ``links`` in document order; ``asks_password``: it
    holds a field for one; ``seen``: the text a visitor sees, as it stands in the source, PIECE between its pieces."""

    facts: Facts
    base: str = ""
    links: list[Link] = field(default_factory=list)
    asks_password: bool = False
    seen: str = ""
    code: int = 0  # scripts that stand in the page itself
    plays: int = 0  # frames, films and sounds that a visitor is shown
    declared: str = ""  # the type that it declares as Open Graph has it
    make: bytes = b""  # its traits (sort/make.py)


def glance(html: str | bytes) -> Glance:
    """Read a page's decoded source, or its UTF-8. Raises UnreadablePage when it is nested beyond reason."""
    source = html if isinstance(html, bytes) else html.encode("utf-8", "surrogatepass")
    parser = open_page(source)
    marks = _MARKS.within(source)
    found = Glance(Facts())
    links: list[Link] = []
    plain = 0
    done: set[int] = set()
    comments: list[LexborNode] = []
    menus: list[LexborNode] = []
    pieces = [selector for mark, selector in _PIECES.items() if mark in marks]
    commented = "comment" in marks
    for node in parser.css(",".join([carriers(marks), *pieces])):
        place = node.mem_id
        if place in done:
            continue
        done.add(place)
        tag = node.tag or ""
        attrs = node.attributes
        if tag == "a" and len(attrs) == 1:  # most of them; whatever else it may carry stands in other attributes
            plain += 1
            if href := attrs.get("href"):
                links.append(Link(href, "a", False, words_in(node)[:200]))
            continue
        if commented and _is_comment(tag, attrs):
            comments.append(node)
        elif pieces and _is_menu(tag, attrs):
            menus.append(node)
        links.extend(element_links(node, tag, attrs, words_in))
        _note(found, node, tag, attrs)
    facts = found.facts
    facts.links += plain
    facts.comments, facts.menus = _apart(comments), _apart(menus)
    facts.secrets = secrets.secrets_in(source, marks)[:_MOST]
    found.base = found.base.strip()
    found.links = [link for link in links if not link.raw.isspace() and not link.raw.startswith("data:")]
    body = parser.body or parser.root
    if body is not None:
        unseen = ",".join(tag for tag, mark in _UNSEEN if mark in marks)
        if unseen:
            for node in body.css(unseen):
                if node.mem_id != body.mem_id:
                    node.decompose()
        found.seen = body.text(separator=PIECE)
        found.make = make_of(body, [*facts.structured, *([found.declared] if found.declared else [])]).tobytes()
    facts.words, facts.words_hash, facts.near = words_of(found.seen)
    if body is not None and (facts.scripts or found.code) and not found.plays and facts.words < MOST_WORDS:
        facts.bare = is_bare(body)
    return found


def _is_comment(tag: str, attrs: Attributes) -> bool:
    """Whether an element is one comment of a visitor."""
    if (attrs.get("id") or "").lower().startswith("comment-"):
        return True
    return tag in ("li", "div", "article") and "comment" in (attrs.get("class") or "").lower().split()


def _is_menu(tag: str, attrs: Attributes) -> bool:
    """Whether an element is a block of navigation."""
    if tag == "nav" or attrs.get("role") == "navigation" or attrs.get("id") in ("nav", "menu"):
        return True
    return tag == "ul" and not {"menu", "nav"}.isdisjoint((attrs.get("class") or "").split())


def _apart(found: list[LexborNode]) -> int:
    """How many elements, those within another of them not counted."""
    if len(found) < 2:
        return len(found)
    places = {node.mem_id for node in found}
    number = 0
    for node in found:
        above, depth = node.parent, 0
        while above is not None and above.mem_id not in places and depth < 100:
            above, depth = above.parent, depth + 1
        number += above is None or above.mem_id not in places
    return number


def words_in(node: LexborNode) -> str:
    """The text a visitor sees in an element, its white space collapsed, blocks kept apart by a blank."""
    only = node.child
    if only is not None and only.next is None and only.tag == "-text":
        return " ".join((only.text_content or "").split())
    parts: list[str] = []
    _collect(node, parts, 0)
    return " ".join("".join(parts).split())


def _collect(node: LexborNode, parts: list[str], depth: int) -> None:
    child = node.child
    while child is not None:
        tag = child.tag or "-"
        if tag == "-text":
            parts.append(child.text_content or "")
        elif tag[0] != "-" and tag not in INVISIBLE and depth < 60:
            apart = tag not in INLINE
            if apart:
                parts.append(" ")
            _collect(child, parts, depth + 1)
            if apart:
                parts.append(" ")
        child = child.next


def _note(found: Glance, node: LexborNode, tag: str, attrs: Attributes) -> None:
    facts = found.facts
    if tag == "a":
        facts.links += 1
    elif tag == "img":
        facts.pictures += 1
        if "alt" not in attrs:
            facts.pictures_without_alt += 1
    elif tag == "meta":
        name = (attrs.get("name") or attrs.get("property") or "").lower()
        content = (attrs.get("content") or "").strip()
        if name == "description":
            facts.description = content
        elif name == "generator":
            facts.generator = content
        elif name == "og:type":
            found.declared = content
        elif name == "robots":
            facts.robots = content
        elif (attrs.get("http-equiv") or "").lower() == "refresh" and ";" in content:
            facts.refresh = content
    elif tag == "link":
        rel = (attrs.get("rel") or "").lower().split()
        if "canonical" in rel:
            facts.canonical = attrs.get("href") or ""
        elif "alternate" in rel and attrs.get("hreflang"):
            facts.alternates += 1
    elif tag == "h1":
        if len(facts.headings) < _MOST:
            facts.headings.append(words_in(node))
    elif tag == "script":
        if attrs.get("src"):
            facts.scripts += 1
        elif (attrs.get("type") or "").lower() == "application/ld+json":
            facts.structured.extend(t for t in _types(node.text()) if t not in facts.structured)
        else:
            found.code += 1
    elif tag == "title":
        if not facts.title and (node.parent is None or node.parent.tag != "svg"):
            facts.title = " ".join(node.text().split())
    elif tag == "form":
        facts.forms += 1
    elif tag in ("iframe", "embed", "object", "video", "audio"):
        facts.embeds += tag not in ("video", "audio")
        found.plays += node.parent is None or node.parent.tag != "noscript"
    elif tag == "html":
        facts.language = attrs.get("lang") or attrs.get("xml:lang") or ""
    elif tag == "base":
        found.base = found.base or attrs.get("href") or ""
    elif tag == "input" and (attrs.get("type") or "").lower() == "password":
        found.asks_password = True


def _types(text: str) -> list[str]:
    """The types that a piece of JSON-LD names, at any depth."""
    try:
        stack = [json.loads(text)]
    except (ValueError, RecursionError):
        return []
    named: list[str] = []
    while stack and len(named) < _MOST:
        value = stack.pop()
        if isinstance(value, list):
            stack.extend(value)
        elif isinstance(value, dict):
            kinds = value.get("@type")
            named.extend(k for k in (kinds if isinstance(kinds, list) else [kinds]) if isinstance(k, str))
            stack.extend(v for v in value.values() if isinstance(v, dict | list))
    return named
