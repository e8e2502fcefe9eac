"""One HTML page as a tree of numbered nodes, parsed once.

Lexbor (selectolax) gives an HTML5 tree like a browser's; nodes are numbered in document order, and
everything that speaks of a place on a page (facts, locators, reader, loss account) says its number.
"""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from selectolax.lexbor import LexborHTMLParser, LexborNode, SelectolaxError

from .errors import PatternError, UnreadablePage

DEPTH_CAP = 150  # deeper nodes hang on the ancestor at this depth, as browsers do at 512; words stay
SCOPE = ":scope"  # the selector of what is read: the page's body, or a part of it (see ``Section``)
NEST_CAP = 4000  # unclosed nesting elements beyond this make any HTML5 parser quadratic
_NESTING = re.compile(
    r"<(/?)(?:div|span|font|b|i|em|strong|small|big|u|s|tt|center|blockquote|table|ul|ol|dl|section|"
    r"article|fieldset|form|object|code|strike)\b",
    re.I,
)
INVISIBLE = frozenset(
    ("head script style template noscript noframes iframe title datalist audio video object canvas").split()
)


class Node:
    """An element or a text of a page. ``tag`` is "" for a text; ``n`` is its number in document order.

    ``last`` is the number of the last node inside it, so that ``a.n <= b.n <= a.last`` says "b lies in a".
    """

    __slots__ = ("n", "tag", "attrs", "text", "children", "parent", "last", "visible")

    def __init__(self, n: int, tag: str, attrs: dict[str, str | None], text: str, parent: Node | None, visible: bool):
        self.n = n
        self.tag = tag
        self.attrs = attrs
        self.text = text
        self.children: list[Node] = []
        self.parent = parent
        self.last = n
        self.visible = visible

    def get(self, name: str) -> str:
        """The attribute's value, "" when absent or without a value."""
        return self.attrs.get(name) or ""

    @property
    def classes(self) -> list[str]:
        return (self.attrs.get("class") or "").split()

    def __repr__(self) -> str:
        return f"<{self.tag or 'text'} {self.n}>"


_NO_ATTRS: dict[str, str | None] = {}


def open_page(html: str | bytes) -> LexborHTMLParser:
    """The parser's own tree of a decoded page, or of its UTF-8. Raises UnreadablePage when it is nested beyond
    reason."""
    if (html.count(b"<") if isinstance(html, bytes) else html.count("<")) > NEST_CAP:
        open_elements = 0
        for slash in _NESTING.findall(html if isinstance(html, str) else html.decode("utf-8", "surrogatepass")):
            open_elements += -1 if slash else 1
            if open_elements > NEST_CAP:
                raise UnreadablePage(
                    f"The page nests more than {NEST_CAP:,} elements.", "It is kept as captured, but not read."
                )
    return LexborHTMLParser(html)


@dataclass(frozen=True, slots=True)
class Section:
    """A part of a page: what marks it among the others of its page, the element that it is or begins with, and the
    outermost nodes that hold what it says (what comes after the element, where it is but a heading)."""

    mark: str
    head: Node
    nodes: tuple[Node, ...]

    def holds(self, node: Node) -> bool:
        """Whether a node stands in the section."""
        return any(top.n <= node.n <= top.last for top in (self.head, *self.nodes))

    def lies_in(self, node: Node) -> bool:
        """Whether a node holds the section and more, as ``html`` and ``body`` do."""
        return node.n < self.head.n <= node.last


def after(node: Node) -> Iterator[Node]:
    """The nodes beside one that come after it."""
    beside = node.parent.children if node.parent is not None else []
    for at in range(bisect_right(beside, node.n, key=_number), len(beside)):
        yield beside[at]


_NAME = re.compile(r"[.#]((?:[\w-]|[^\x00-\x7f])+)")


def names_in(selector: str) -> list[frozenset[str]]:
    """The classes and ids that a selector asks for, in lower case, for each of what it takes (parts between commas);
    nothing where that cannot be told by looking at it."""
    if not selector or re.search(r"[:\[\\\"']", selector):
        return []
    return [frozenset(name.lower() for name in _NAME.findall(part)) for part in selector.split(",")]


def could_find(html: str, named: Sequence[frozenset[str]]) -> bool:
    """Whether a selector that asks for such names could find something in a page's text, which is told without parsing
    it: what a page does not say it cannot be called (names spelled by character references aside)."""
    text = html.lower()
    return not named or any(all(name in text for name in names) for names in named)


def before(node: Node) -> Iterator[Node]:
    """The nodes beside one that come before it, the nearest first."""
    beside = node.parent.children if node.parent is not None else []
    for at in range(bisect_left(beside, node.n, key=_number) - 1, -1, -1):
        yield beside[at]


def _number(node: Node) -> int:
    return node.n


class Page:
    """A parsed page. ``nodes[k].n == k``; ``root`` is ``<html>`` (or the first element); ``record``: what a file
    that was handed over says of its address, where one does."""

    record: Mapping[str, Any] | None = None
    section: Section | None = None  # the part of the page that is read, None: all of it
    _base: str | None = None

    def __init__(self, html: str):
        """Parse ``html`` (text, decoded, without a BOM). Raises UnreadablePage when nested beyond reason."""
        self.nodes: list[Node] = []
        self._parser = open_page(html)
        top = self._parser.root
        if top is None:
            raise UnreadablePage("The page holds no element.")
        self.root = Node(0, top.tag or "html", top.attributes or _NO_ATTRS, "", None, True)
        self.nodes.append(self.root)
        self._numbers = {top.mem_id: 0}  # Lexbor's own node ids -> our numbers
        self._take(top, self.root, True, 0)
        self.root.last = len(self.nodes) - 1

    @property
    def base(self) -> str:
        """The address that the page names for its references to be joined to, as written; "" when it names none."""
        if self._base is None:
            self._base = next((node.get("href") for node in self.select("base[href]")[:1]), "")
        return self._base

    def _take(self, raw: LexborNode, node: Node, visible: bool, depth: int) -> None:
        """Number everything inside ``raw``, which ``node`` stands for (the hot loop of every page)."""
        nodes, siblings, numbers = self.nodes, node.children, self._numbers
        child = raw.child
        while child is not None:
            tag = child.tag or "-"
            if tag == "-text":
                made = Node(len(nodes), "", _NO_ATTRS, child.text_content or "", node, visible)
                nodes.append(made)
                siblings.append(made)
            elif tag[0] != "-":
                if depth >= DEPTH_CAP:
                    self._flatten(child, node, visible)
                else:
                    seen = visible and tag not in INVISIBLE
                    made = Node(len(nodes), tag, child.attributes or _NO_ATTRS, "", node, seen)
                    numbers[child.mem_id] = made.n
                    nodes.append(made)
                    siblings.append(made)
                    self._take(child, made, seen, depth + 1)
                    made.last = len(nodes) - 1
            child = child.next

    def _flatten(self, raw: LexborNode, home: Node, visible: bool) -> None:
        """Hang everything below the depth cap on one ancestor, in order, without going deeper."""
        for inner in raw.traverse(include_text=True):
            tag = inner.tag or ""
            if tag == "-text":
                node = Node(len(self.nodes), "", _NO_ATTRS, inner.text_content or "", home, visible)
            elif tag[:1] != "-":
                node = Node(len(self.nodes), tag, inner.attributes or _NO_ATTRS, "", home, visible)
            else:
                continue
            self._numbers[inner.mem_id] = node.n
            self.nodes.append(node)
            home.children.append(node)

    @property
    def body(self) -> Node:
        """``<body>``, or the root when there is none (a frameset)."""
        for child in self.root.children:
            if child.tag == "body":
                return child
        return self.root

    def inside(self, node: Node) -> list[Node]:
        """The node and all that lies in it, in document order."""
        return self.nodes[node.n : node.last + 1]

    def select(self, selector: str, within: Node | None = None) -> list[Node]:
        """The elements a CSS selector finds, in document order. Raises PatternError on a bad selector."""
        if selector.strip() == SCOPE:
            return [self.body]
        numbers = self._numbers
        try:
            found = self._parser.css(selector)
        except SelectolaxError:
            raise PatternError(f"The selector “{selector}” cannot be read.", "Write a CSS selector.") from None
        picked = sorted({numbers[f.mem_id] for f in found if f.mem_id in numbers})
        nodes = [self.nodes[k] for k in picked]
        if within is not None:
            nodes = [node for node in nodes if within.n <= node.n <= within.last]
        return nodes

    def first(self, tag: str) -> Node | None:
        """The first element of that name."""
        for node in self.nodes:
            if node.tag == tag:
                return node
        return None


# languages written from right to left, by their primary subtag (Unicode CLDR, layout orientation)
_RIGHT_TO_LEFT = frozenset("ar arc ckb dv fa he iw ji khw ks ps sd syr ug ur yi".split())


def direction_of(page: Page) -> str:
    """``rtl`` or ``ltr``: what a page says of itself, else what its language is written in; "" when nothing says it."""
    for node in (page.root, page.body):
        said = node.get("dir").strip().lower()
        if said in ("rtl", "ltr"):
            return said
    language = (page.root.get("lang") or page.root.get("xml:lang")).strip().lower().replace("_", "-")
    parts = language.split("-")
    if "arab" in parts[1:] or "hebr" in parts[1:]:
        return "rtl"
    return ("rtl" if parts[0] in _RIGHT_TO_LEFT else "ltr") if language else ""


def parse(html: str) -> Page:
    """Parse decoded HTML text into numbered nodes."""
    return Page(html)


def check_selector(selector: str) -> None:
    """Raise PatternError when ``selector`` is no CSS selector that can be read."""
    parse("<p></p>").select(selector)


def text_of(page: Page, node: Node, *, hidden: bool = False) -> str:
    """The text a visitor sees in ``node``, its white space collapsed, blocks kept apart by a blank."""
    if not node.tag:
        return " ".join(node.text.split())
    parts = []
    ends: list[int] = []  # of the blocks that are open: what comes after one stands apart from it as well
    for inner in page.inside(node):
        while ends and inner.n > ends[-1]:
            ends.pop()
            parts.append(" ")
        if not inner.tag:
            if inner.visible or hidden:
                parts.append(inner.text)
        elif inner.tag not in INLINE:
            parts.append(" ")
            ends.append(inner.last)
    return " ".join("".join(parts).split())


HEADINGS = frozenset(["h1", "h2", "h3", "h4", "h5", "h6"])
HEADING_SIGNS = "¶§#∞🔗"  # of a link to a heading, behind its words
PARTING_SIGNS = "|·•»/–—-"  # what parts a site's name from the title beside it
AROUND = frozenset(["nav", "header", "footer", "aside"])  # elements that say that they stand around the content
# in names of what leads through a site, and stands around its content
LEADS_AWAY = re.compile(r"(?i)nav|menu|header|footer|crumb|pager|pagination|sidebar|cookie|share|social")
INLINE = frozenset(
    (
        "a abbr acronym b bdi bdo big cite code data del dfn em font i ins kbd label mark nobr q rb rp rt "
        "ruby s samp small span strike strong sub sup time tt u var wbr"
    ).split()
)
