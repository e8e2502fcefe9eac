"""The menus of a site as a tree: which entries stand above a page.

Read as a visitor walks: from the home page along the entries, since many a menu shows what lies below an entry only on
the pages there.
"""

from __future__ import annotations

import re
from collections import Counter, deque
from collections.abc import Callable, Iterable
from typing import NamedTuple
from urllib.parse import urljoin

from selectolax.lexbor import LexborNode

from ..page import open_page
from ..survey.glance import MENUS, words_in

MOST = 400  # pages that are read
DEEPEST = 60  # elements of a menu within each other
_LISTS = frozenset(["ul", "ol", "menu"])
_HEADINGS = frozenset(["h1", "h2", "h3", "h4", "h5", "h6", "summary"])
_NO_TREE = re.compile(r"(?i)crumb|pager|pagination|share|social|lang|skip|tags?\b|prev|next")
LONGEST = 80  # characters of an entry


class Entry(NamedTuple):
    """An entry of a menu: its label, the address as it is written, from the page's base if it has one ("" for one with
    no page behind it), how deep it stands, and whether what stands deeper behind it lies below it."""

    label: str
    href: str
    level: int
    opens: bool


def menus_of(html: str | bytes) -> list[list[Entry]]:
    """The menus of a page in the order of its source, each with its entries. Raises UnreadablePage."""
    found: list[list[Entry]] = []
    inside: set[int] = set()
    page = open_page(html)
    base = _href(page.css_first("base[href]"))
    for box in page.css(MENUS):
        if box.mem_id in inside or any(_NO_TREE.search(box.attributes.get(name) or "") for name in _SAYS):
            continue
        inside |= {node.mem_id for node in box.css(MENUS)}
        entries: list[Entry] = []
        _walk(box, 0, entries, 0)
        if any(entry.href for entry in entries):
            found.append([entry._replace(href=_joined(base, entry.href)) for entry in entries] if base else entries)
    return found


def _joined(base: str, href: str) -> str:
    try:
        return urljoin(base, href) if href else ""
    except ValueError:  # no address at all
        return ""


_SAYS = ("class", "id", "aria-label")


def _walk(box: LexborNode, level: int, found: list[Entry], depth: int) -> None:
    node = box.child
    while node is not None and depth < DEEPEST:
        tag = node.tag or ""
        if tag == "li":
            _entry(node, level, found, depth)
        elif tag in _HEADINGS:
            link = node.css_first("a[href]")
            found.append(Entry(_label(node), _href(link), level, True))
        elif tag == "a":
            found.append(Entry(_label(node), _href(node), level, False))
        elif not tag.startswith("-"):
            _walk(node, level + (tag in _LISTS), found, depth + 1)
        node = node.next


def _entry(item: LexborNode, level: int, found: list[Entry], depth: int) -> None:
    """An item of a list: its first link or its own text, and below it whatever else it holds."""
    inner: list[Entry] = []
    _walk(item, level + 1, inner, depth + 1)
    own = next((n for n, entry in enumerate(inner) if entry.level == level + 1 and entry.href), None)
    if own is not None and not any(entry.level > level + 1 for entry in inner[:own]):
        first = inner.pop(own)
        found.append(Entry(first.label, first.href, level, True))
    elif inner and (label := _own_text(item)):
        found.append(Entry(label, "", level, True))
    found.extend(inner)


def _own_text(item: LexborNode) -> str:
    """What stands in an item before the list in it."""
    parts: list[str] = []
    node = item.child
    while node is not None and node.tag not in _LISTS and not (node.tag != "-text" and node.css_first("ul,ol,menu")):
        parts.append((node.text_content or "") if node.tag == "-text" else words_in(node))
        node = node.next
    return " ".join(" ".join(parts).split())[:LONGEST]


def _label(node: LexborNode) -> str:
    said = node.attributes.get("aria-label") or node.attributes.get("title") or ""
    return (words_in(node) or " ".join(said.split()))[:LONGEST]


def _href(link: LexborNode | None) -> str:
    return (link.attributes.get("href") or "").strip() if link is not None else ""


class Led(NamedTuple):
    """An entry with the old key of its page ("" for none, or one of another site)."""

    label: str
    key: str
    level: int
    opens: bool


def above(home: str, read: Callable[[str], Iterable[list[Led]]], most: int = MOST) -> dict[str, tuple[str, ...]]:
    """Old keys -> the labels of the entries above them, () for those at the top; of what stands in no menu nothing.
    ``read``: the menus of a page by its key."""
    found: dict[str, tuple[str, ...]] = {home: ()}
    labels: dict[str, str] = {}
    queue = deque([home])
    while queue and most > 0:
        page, most = queue.popleft(), most - 1
        for menu in read(page):
            base = _base(menu, page, home, found, labels)
            stack: list[tuple[int, str]] = []
            for entry in menu:
                while stack and stack[-1][0] >= entry.level:
                    stack.pop()
                if entry.key and entry.key not in found:
                    found[entry.key] = (*base, *(label for _, label in stack))
                    labels[entry.key] = entry.label
                    queue.append(entry.key)
                if entry.opens and entry.label and entry.key != home:
                    stack.append((entry.level, entry.label))
    return found


def _base(
    menu: list[Led], page: str, home: str, found: dict[str, tuple[str, ...]], labels: dict[str, str]
) -> tuple[str, ...]:
    """Where the top of a menu stands: where most of those of its entries do that are known; one that is met first on a
    page lies below that page."""
    top = min(entry.level for entry in menu)
    known = Counter(
        found[entry.key]
        for entry in menu
        if entry.level == top and entry.key in found and entry.key not in (page, home)
    )
    if known:
        return max(known, key=lambda base: (known[base], len(base)))
    return (*found[page], labels[page]) if page in labels else ()
