"""Groups of repeated parts: cards, entries of a list, comments. Found as elements of one sort that stand beside each
other, each with the same few things in it."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Collection, Sequence
from typing import Any

from ..kinds import FieldPlan
from ..page import HEADINGS, Node, Page, text_of
from .pointing import own_marks, selector_of
from .slots import LONGEST, Slot, called, is_around, type_of

FEWEST = 3  # members beside each other
PARTS = 2  # things that each of them has, at least
MOST_PARTS = 8
SHARE = 0.5  # of the pages that have such members
EACH = 0.7  # of the members that have a part once
LARGEST = 120  # nodes of a member
MOST = 2  # groups of a kind
MAIN = 0.4  # of a page's own words that members without a name hold, at least
UPWARDS = 3
TRIED = 20
_TAGS = frozenset("div li article section tr dd figure a p".split())
_PLURALS = {"li": "entries", "tr": "rows", "a": "links", "": "entries"}
_TEXTS = frozenset("b strong i em span p div time td small cite".split())

Key = tuple[str, str, str]  # a selector below the member, the attribute that is read, the sort of value


def groups(pages: Sequence[Page], taken: Collection[str], shared: Collection[str]) -> list[Slot]:
    """Fields for the groups that some pages of one kind have. ``taken``: names of fields that there are; ``shared``:
    texts that stand on many pages, of which no group is made."""
    members: dict[str, list[list[Node]]] = {}
    for place, page in enumerate(pages):
        for selector, beside in _beside(page).items():
            members.setdefault(selector, [[] for _ in pages])[place] += beside
    found: list[Slot] = []
    held: list[set[int]] = [set() for _ in pages]
    names = set(taken)
    by_size = sorted(members.items(), key=lambda one: (-sum(map(len, one[1])), one[0]))
    for selector, nodes in by_size[:TRIED]:
        if sum(map(bool, nodes)) < SHARE * len(pages) or len(found) == MOST:
            continue
        if sum(n.n in held[place] for place, some in enumerate(nodes) for n in some) * 2 > sum(map(len, nodes)):
            continue
        if _is_known(pages, nodes, shared, named=">" not in selector):
            continue
        slot = _group(pages, selector, nodes, names)
        if slot is None:
            continue
        names.add(slot.plan.name)
        found.append(slot)
        for place, some in enumerate(nodes):
            held[place].update(inner for n in some for inner in range(n.n, n.last + 1))
    return found


def _beside(page: Page) -> dict[str, list[Node]]:
    """Elements of one sort beside each other, by the selector that finds them: a class of theirs, else their place in
    an element with a name."""
    found: dict[str, list[Node]] = {}
    for parent in page.nodes:
        if not parent.tag or is_around(parent):
            continue
        sorts: dict[str, list[Node]] = defaultdict(list)
        for child in parent.children:
            if child.tag in _TAGS and child.last - child.n <= LARGEST:
                marks = [mark for mark in own_marks(child) if not mark.startswith("#")]
                sorts[marks[0] if marks else child.tag].append(child)
        for sort, nodes in sorts.items():
            if len(nodes) < FEWEST:
                continue
            selector = sort if "." in sort else _below(parent, sort)
            if selector:
                found.setdefault(selector, []).extend(nodes)
    return found


def group_at(pages: Sequence[Page], pointed: Sequence[tuple[int, Node]]) -> list[tuple[FieldPlan, list[int]]]:
    """Groups of which a member, or something in it, was pointed at (positions of pages, and elements on them): a field
    for each way of naming the members, and the positions of the pages that have some."""
    selectors: dict[str, None] = {}
    for place, node in pointed:
        up: Node | None = node
        while up is not None and up.parent is not None and up.tag != "body" and up.last - up.n <= LARGEST:
            like = [n for n in up.parent.children if n.tag == up.tag]
            if len(like) > 1 and up.tag in _TAGS:
                marks = [mark for mark in own_marks(up, any_name=True) if not mark.startswith("#")]
                named = _below(up.parent, up.tag) or f"{selector_of(pages[place], up.parent.n)} > {up.tag}"
                selectors.update(dict.fromkeys([*marks, named]))
            up = up.parent
    found = []
    for selector in list(selectors)[:TRIED]:
        members = [_outer(page.select(selector)) for page in pages]
        slot = _group(pages, selector, members, (), least=1)
        if slot is not None:
            found.append((slot.plan, [place for place, some in enumerate(members) if some]))
    return found


def _outer(nodes: Sequence[Node]) -> list[Node]:
    kept: list[Node] = []
    for node in nodes:
        if not kept or node.n > kept[-1].last:
            kept.append(node)
    return kept


def _below(parent: Node, sort: str) -> str:
    """A selector for elements of one tag in an element, by its name or that of what it stands in; "" without any."""
    if outer := next(own_marks(parent), ""):
        return f"{outer} > {sort}"
    up = parent.parent
    for _ in range(UPWARDS):
        if up is None or up.tag in ("body", "html"):
            break
        if outer := next(own_marks(up), ""):
            return f"{outer} {parent.tag} > {sort}"
        up = up.parent
    return f"main {parent.tag} > {sort}" if up is not None and up.tag == "main" else ""


def _is_known(pages: Sequence[Page], members: Sequence[Sequence[Node]], shared: Collection[str], named: bool) -> bool:
    """Whether what some members say stands on many pages; of members without a name also, whether they are but a small
    part of their pages: a list in a text."""
    said = own = all_ = 0
    for page, nodes in zip(pages, members, strict=True):
        if not nodes:
            continue
        for node in (inner for member in nodes for inner in page.inside(member)):
            if not node.tag and node.visible and (words := " ".join(node.text.split())):
                said += len(words.split())
                own += len(words.split()) if words not in shared else 0
        texts = (" ".join(n.text.split()) for n in page.nodes if not n.tag and n.visible)
        all_ += sum(len(text.split()) for text in texts if text not in shared)
    return 2 * own < said or (not named and own < MAIN * all_)


def _group(
    pages: Sequence[Page], selector: str, members: Sequence[Sequence[Node]], taken: Collection[str], least: int = PARTS
) -> Slot | None:
    values: dict[Key, list[str]] = defaultdict(list)
    on: Counter[Key] = Counter()
    number = 0
    for page, nodes in zip(pages, members, strict=True):
        for node in nodes:
            number += 1
            once: Counter[Key] = Counter()
            said: dict[Key, str] = {}
            for key, text in _things(page, node):
                once[key] += 1
                said[key] = text
            for key, times in once.items():
                if times == 1:
                    on[key] += 1
                    values[key].append(said[key])
    parts: list[dict[str, Any]] = []
    names: set[str] = set()
    texts: set[tuple[str, ...]] = set()
    for key, times in on.most_common():
        if times < EACH * number or len(set(values[key])) < min(2, number) or len(parts) == MOST_PARTS:
            continue
        css, attribute, sort = key
        same = tuple(values[key])
        if not attribute and same in texts:
            continue  # the same words, in an element within another
        texts.add(same)
        type_, treat = (sort, []) if attribute else type_of(values[key])
        name = _part_name(css, sort, type_, names)
        names.add(name)
        parts.append({"name": name, "type": type_, "css": css, "attribute": attribute or None, "treat": treat})
    if len(parts) < least:
        return None
    word = called(re.split(r"[.#>]", selector)[-1].strip())
    name = _PLURALS.get(word) or (word if word.endswith("s") else f"{word}s")
    if name in taken:
        return None
    plan = {"name": name, "type": "group", "locators": [{"css": selector}], "parts": parts}
    return Slot(FieldPlan.model_validate(plan), sum(map(bool, members)))


def _things(page: Page, member: Node) -> list[tuple[Key, str]]:
    """What a member holds: links, pictures, headings, short texts with the element that they stand in."""
    found: list[tuple[Key, str]] = []
    for node in page.inside(member):
        if not node.tag:
            continue
        css = "" if node is member else next((m for m in own_marks(node) if not m.startswith("#")), node.tag)
        if node.tag == "a" and node.get("href"):
            found.append(((css, "href", "link"), node.get("href")))
        if node.tag == "img" and node.get("src"):
            found.append(((css, "src", "picture"), node.get("src")))
        if css and (node.tag in _TEXTS or node.tag in HEADINGS or node.tag == "a"):
            text = text_of(page, node)
            if 0 < len(text.split()) <= LONGEST * 3:
                found.append(((css, "", "line"), text))
    return found


def _part_name(css: str, sort: str, type_: str, names: Collection[str]) -> str:
    word = called(css.rpartition(".")[2]) if "." in css else ""
    if sort in ("link", "picture"):
        name = sort
    elif word:
        name = word
    elif css.partition(".")[0] in (*HEADINGS, "a"):
        name = "title"
    else:
        name = "text" if type_ == "line" else type_
    free, number = name, 1
    while free in names:
        number += 1
        free = f"{name}_{number}"
    return free
