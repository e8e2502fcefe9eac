"""Locators: how a field finds its places on a page. One function each, in a table by name."""

from __future__ import annotations

import json
import re
from typing import Any

from ..kinds import Locator
from ..page import SCOPE, Node, Page, Section, text_of
from ..patterns import compile_pattern
from ..xpath import by_xpath

_ON_PAGE = frozenset(["css", "xpath", "label"])  # ways that read what stands on the page itself
MOST_THINGS = 200  # that a page declares


class Place:
    """A found place: the node it stands in (-1: in the address) and the raw text read there; without a text given, that
    of the element, read off its page when somebody asks for it."""

    __slots__ = ("_page", "_text", "node")

    def __init__(self, node: int, text: str | None = None, page: Page | None = None):
        self.node, self._text, self._page = node, text, page

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Place) and (self.node, self.text) == (other.node, other.text)

    def __hash__(self) -> int:
        return hash((self.node, self.text))

    @property
    def text(self) -> str:
        if self._text is None:
            self._text = "" if self._page is None else _spaced(self._page, self._page.nodes[self.node])
        return self._text


def tidy(label: str) -> str:
    """A label or a short text as it is compared."""
    return " ".join(label.split()).rstrip(" :*").casefold()


def _by_css(page: Page, locator: Locator, key: str) -> list[Place]:
    assert locator.css is not None
    scope = page.section if locator.css.strip() == SCOPE else None
    found = page.select(locator.css) if scope is None else list(scope.nodes)
    if locator.attribute:
        return [Place(n.n, n.get(locator.attribute)) for n in found if n.get(locator.attribute)]
    # a match inside another match is the same thing once more
    outer: list[Node] = []
    for node in found:
        if not outer or node.n > outer[-1].last:
            outer.append(node)
    return [Place(n.n, page=page) for n in outer]


def _spaced(page: Page, node: Node) -> str:
    """Text with one line per block-level part, so that treatments can tell parts apart."""
    if node.tag == "meta":
        return node.get("content")
    if node.tag in ("script", "style", "title"):
        return "".join(child.text for child in node.children if not child.tag)
    return text_of(page, node)


def _by_xpath(page: Page, locator: Locator, key: str) -> list[Place]:
    assert locator.xpath is not None
    found = by_xpath(page, locator.xpath)
    return [Place(n, _spaced(page, page.nodes[n]) if text is None else text) for n, text in found]


def _by_meta(page: Page, locator: Locator, key: str) -> list[Place]:
    assert locator.meta is not None
    wanted = locator.meta.lower()
    if wanted == "title":
        return [Place(n.n, text_of(page, n, hidden=True)) for n in page.nodes if n.tag == "title"][:1]
    return [
        Place(node.n, node.get("content"))
        for node in page.nodes
        if node.tag == "meta"
        and wanted in (node.get("name").lower(), node.get("property").lower(), node.get("itemprop").lower())
        and node.get("content")
    ]


def _next_element(node: Node) -> Node | None:
    siblings = node.parent.children if node.parent else []
    for sibling in siblings[siblings.index(node) + 1 :]:
        if sibling.tag:
            return sibling
    return None


def _value_column(page: Page, label: Node) -> Node | None:
    """The cell or definition beside a label cell or term."""
    beside = _next_element(label)
    if label.tag == "dt":
        return beside if beside is not None and beside.tag == "dd" else None
    return beside if beside is not None and beside.tag in ("td", "th", "dd", "span", "div", "p") else None


def _by_label(page: Page, locator: Locator, key: str) -> list[Place]:
    """The value beside a label: ``th|td``, ``dt/dd``, a labelled element, or ``Label: value`` in one text."""
    assert locator.label is not None
    wanted = tidy(locator.label)
    first = wanted[:1]
    initials = {first, first.upper(), first.title()}
    places = []
    for node in page.nodes:
        if node.tag or not node.visible:
            continue
        initial = node.text.lstrip()[:1]  # says enough of most texts
        if initial in initials or (not initial.isascii() and initial.casefold()[:1] == first):
            text = tidy(node.text)
            if text == wanted and node.parent is not None:
                holder = node.parent
                while holder.tag not in ("dt", "th", "td") and holder.parent is not None and is_alone(holder):
                    holder = holder.parent
                after, value = _after(page, holder)
                beside = _value_column(page, holder)
                if value:
                    places.append(Place(after, value))
                elif beside is not None:
                    places.append(Place(beside.n, text_of(page, beside)))
            elif text.startswith(wanted):
                match = re.match(rf"\s*{_loose(locator.label)}\s*:\s*(\S.*?)\s*$", node.text, re.I | re.S)
                if match:
                    places.append(Place(node.n, match[1]))
    return places


def _loose(label: str) -> str:
    return r"\s+".join(re.escape(word) for word in label.rstrip(" :").split())


def is_alone(node: Node) -> bool:
    """Whether nothing else with words stands beside a node."""
    siblings = node.parent.children if node.parent else []
    return all(s is node or (not s.tag and not s.text.strip()) for s in siblings)


def _after(page: Page, holder: Node) -> tuple[int, str]:
    """The text that follows a bold label up to the next line break or label of the same sort, and its number."""
    siblings = holder.parent.children if holder.parent else []
    following = siblings[siblings.index(holder) + 1 :]
    first = next((s for s in following if s.tag or s.text.strip(" \t\n\r\f:")), None)
    if first is None or first.tag:
        return -1, ""
    parts = []
    for sibling in following:
        if sibling.tag in ("br", holder.tag):
            break
        parts.append(text_of(page, sibling))
    return first.n, " ".join(" ".join(parts).lstrip(" :").split())


def _by_address(page: Page, locator: Locator, key: str) -> list[Place]:
    assert locator.address is not None
    match = compile_pattern(locator.address).search(key)
    return [Place(-1, match[1])] if match and match[1] is not None else []


def _by_json_ld(page: Page, locator: Locator, key: str) -> list[Place]:
    """What the objects that a page declares (JSON-LD 1.1, section 8) say at a path of names; the first name may be the
    type of the object. A declaration that cannot be read says nothing."""
    assert locator.json_ld is not None
    names = locator.json_ld.split(".")
    places = []
    for node in page.nodes:
        if node.tag != "script" or node.get("type").lower() != "application/ld+json":
            continue
        for thing in declared("".join(child.text for child in node.children)):
            path = names[1:] if names[0] in types_of(thing) else names
            places += [Place(node.n, text) for text in _at(thing, path)]
    return places


def declared(text: str) -> list[dict[str, Any]]:
    """The objects of a declaration: itself, those in a list of it, those in its graph."""
    try:
        stack = [json.loads(text)]
    except (ValueError, RecursionError):
        return []
    found: list[dict[str, Any]] = []
    while stack and len(found) < MOST_THINGS:
        value = stack.pop(0)
        if isinstance(value, list):
            stack += value
        elif isinstance(value, dict):
            found.append(value)
            graph = value.get("@graph")
            stack += graph if isinstance(graph, list) else []
    return found


def types_of(thing: dict[str, Any]) -> list[Any]:
    said = thing.get("@type")
    return said if isinstance(said, list) else [said]


def _at(value: Any, names: list[str]) -> list[str]:
    """The texts at a path of names, through lists."""
    if isinstance(value, list):
        return [text for one in value[:MOST_THINGS] for text in _at(one, names)]
    if not names:
        plain = isinstance(value, str | int | float) and not isinstance(value, bool)
        return [str(value)] if plain and str(value).strip() else []
    return _at(value.get(names[0]), names[1:]) if isinstance(value, dict) else []


def _by_record(page: Page, locator: Locator, key: str) -> list[Place]:
    assert locator.record is not None
    return [Place(-1, text) for text in _at(page.record or {}, locator.record.split("."))]


def _by_fixed(page: Page, locator: Locator, key: str) -> list[Place]:
    assert locator.fixed is not None
    return [Place(-1, locator.fixed)]


_READERS = {
    "css": _by_css,
    "xpath": _by_xpath,
    "meta": _by_meta,
    "label": _by_label,
    "address": _by_address,
    "json_ld": _by_json_ld,
    "record": _by_record,
    "fixed": _by_fixed,
}


def _of_section(section: Section, node: Node, locator: Locator) -> bool:
    """Whether what a locator found is of a section: it stands there, or an attribute says it of what holds it."""
    return section.holds(node) or (locator.attribute is not None and section.lies_in(node))


def locate(page: Page, locator: Locator, key: str) -> list[Place]:
    """All places a locator finds on a page whose address key is ``key``."""
    for name, reader in _READERS.items():
        if getattr(locator, name) is not None:
            places = reader(page, locator, key)
            if page.section is None or name not in _ON_PAGE:
                return places
            return [one for one in places if _of_section(page.section, page.nodes[one.node], locator)]
    return []
