"""The field for a group: what each of its members holds, as parts with names in words."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Collection, Sequence
from typing import Any

from ..kinds import FieldPlan
from ..page import HEADINGS, Node, Page, text_of
from ..references import media_source, picture_source, stands_in
from .pointing import own_marks, tag_of
from .slots import LABEL, LONGEST, Slot, called, named_by
from .types import is_moment
from .written_as import type_of

SORTS = 20  # sorts of what repeats in members that are looked into
PARTS = 2  # things that each of them has, at least
MOST_PARTS = 8
EACH = 0.7  # of the members that have a part once
REST = 0.5  # of the members that say more than their parts
TAGS = frozenset("div li article section tr dd figure a p details table".split())
BOXES = frozenset("div article section figure details".split())
WRITTEN = frozenset("p ul ol dl table blockquote pre figure h1 h2 h3 h4 h5 h6".split())
_OPENS = ("aria-controls", "aria-expanded", "onclick")  # attributes of what opens a panel
_CALLED = {"summary": "heading", "figcaption": "caption"}  # parts by their elements
_PLURALS = {"li": "entries", "tr": "rows", "a": "links", "": "entries", "details": "panels", "dt": "terms"}
_LAYOUT = frozenset("rows items cells boxes columns cols elements blocks lists".split())  # words that say little
_TEXTS = frozenset("b strong em i span p div time td small cite figcaption summary".split())

Key = tuple[str, str, str]  # a selector below the member, the attribute that is read, the sort of value


def sort_of(node: Node, known: Collection[str]) -> str:
    """What an element beside others is told by: a class of its own, else that it opens something, else its tag."""
    opens = (f"{node.tag}[{name}]" for name in _OPENS if name in node.attrs)
    return next((mark for mark in own_marks(node, known=known) if not mark.startswith("#")), next(opens, node.tag))


def group_of(
    pages: Sequence[Page],
    selector: str,
    members: Sequence[Sequence[Node]],
    taken: Collection[str],
    least: int = PARTS,
    follows: str | None = None,
    known: Collection[str] = (),
    inner: bool = False,
) -> Slot | None:
    """A field for some members; what follows them, what repeats in them, and what they say beside their parts, are
    parts as well. ``inner``: they are themselves what repeats in others."""
    values: dict[Key, list[str]] = defaultdict(list)
    on: Counter[Key] = Counter()
    number = 0
    for page, nodes in zip(pages, members, strict=True):
        for node in nodes:
            number += 1
            once: Counter[Key] = Counter()
            said: dict[Key, str] = {}
            for key, text in _things(page, node, known):
                once[key] += 1
                said[key] = text
            for key, times in once.items():
                if times == 1:
                    on[key] += 1
                    values[key].append(said[key])
    parts: list[dict[str, Any]] = []
    names: set[str] = set()
    texts: set[tuple[str, ...]] = set()
    if all(node.tag == "details" for nodes in members for node in nodes):
        on = Counter({key: times for key, times in on.items() if key[0].partition(".")[0] == "summary"})
    if follows is not None:
        asked = _asked(pages, members)
        names |= {"question", "answer"} if asked else {"heading", "body"}
        parts.append({"name": "question" if asked else "heading", "type": "line"})
        parts.append({"name": "answer" if asked else "body", "type": "blocks", "css": follows, "follows": True})
        on.clear()
    treat: list[dict[str, Any]]
    for key, times in on.most_common():
        if times < EACH * number or len(set(values[key])) < min(2, number) or len(parts) == MOST_PARTS:
            continue
        css, attribute, sort = key
        same = tuple(values[key])
        if not attribute and same in texts:
            continue  # the same words, in an element within another
        texts.add(same)
        if sort == "blocks" or (attribute and sort != "date") or (sort == "date" and all(map(is_moment, values[key]))):
            type_, treat = sort, []
        else:
            type_, treat = type_of(values[key])
        name = _part_name(css, sort, type_, names)
        names.add(name)
        parts.append({"name": name, "type": type_, "css": css, "attribute": attribute or None, "treat": treat})
    if not inner and follows is None and (held := _repeats(pages, members, known)) is not None:
        held["name"] = _free(held["name"], names)
        names.add(held["name"])
        parts.append(held)
    if not inner and parts and follows is None and len(parts) < MOST_PARTS and _says_more(pages, members, parts):
        parts.append({"name": _free("body", names), "type": "blocks"})
    if len(parts) < least:
        return None
    asked_for = "questions" if follows is not None and "question" in names else ""
    several = _plural(selector)
    headed = _headed(pages, members) if several in _LAYOUT or not several else ""
    name = _free(asked_for or headed or several or "entries", taken)
    plan = {"name": name, "type": "group", "locators": [{"css": selector}], "parts": parts}
    return Slot(FieldPlan.model_validate(plan), sum(map(bool, members)))


def _repeats(pages: Sequence[Page], members: Sequence[Sequence[Node]], known: Collection[str]) -> dict[str, Any] | None:
    """A part for what stands several times in most members, and has parts of its own: the dishes of a course, the pages
    below an entry of a menu."""
    number = sum(map(len, members))
    on: Counter[str] = Counter()
    found: dict[str, list[list[Node]]] = defaultdict(lambda: [[] for _ in members])
    for place, (page, nodes) in enumerate(zip(pages, members, strict=True)):
        for node in nodes:
            several: dict[str, list[Node]] = defaultdict(list)
            for parent in (one for one in page.inside(node) if one.tag):
                for kid in parent.children:
                    if kid.tag in TAGS:
                        sort = sort_of(kid, known)
                        several[sort if "." in sort else f"{tag_of(parent)} > {sort}"].append(kid)
            for css, kids in several.items():
                found[css][place] += kids
                on[css] += len(kids) > 1
    for css, times in on.most_common(SORTS):
        if times < EACH * number:
            break
        slot = group_of(pages, css, found[css], (), known=known, inner=True)
        if slot is not None:
            parts = [part.model_dump(exclude_defaults=True, exclude={"parts"}) for part in slot.plan.parts]
            return {"name": slot.plan.name, "type": "group", "css": css, "parts": parts}
    return None


def _plural(selector: str) -> str:
    """What several of what a selector finds are called, "" where neither a class nor a tag says it."""
    last = re.split(r"[>\s]", selector)[-1]
    has_name = re.search("[.#]", last) is not None
    word = named_by(last) if has_name else called(last)
    if has_name and not word:
        return ""
    if word in _PLURALS or ("." not in last and word == "div") or not _speaks(word):
        return _PLURALS.get(word, "")
    if word.endswith("s"):
        return word
    return re.sub(r"(?<=[^aeiou])y$", "ie", re.sub(r"(sh|ch|x|z)$", r"\1e", word)) + "s"


def _speaks(name: str) -> bool:
    """Whether a class is a word, and not made by a program."""
    return len(name) > 1 and not any(c.isdigit() for c in name)


def _headed(pages: Sequence[Page], members: Sequence[Sequence[Node]]) -> str:
    """A name from the heading before the members, where it is the same on most pages that have one."""
    said: Counter[str] = Counter()
    for page, nodes in zip(pages, members, strict=True):
        up: Node | None = nodes[0] if nodes else None
        for _ in range(2):  # before the first member, or before what they stand in
            if up is None or up.parent is None:
                break
            above = up.parent
            before = [one for one in above.children if one.tag and one.n < up.n]
            if before and before[-1].tag in HEADINGS:
                said[text_of(page, before[-1])] += 1
                break
            up = above
    text, times = said.most_common(1)[0] if said else ("", 0)
    return called(text) if 2 * times > said.total() and len(text.split()) <= LABEL else ""


def _asked(pages: Sequence[Page], members: Sequence[Sequence[Node]]) -> bool:
    """Whether most members end as questions do."""
    texts = [text_of(page, node) for page, nodes in zip(pages, members, strict=True) for node in nodes]
    return 2 * sum(text.rstrip().endswith(("?", "？", "؟", ";")) for text in texts) > len(texts)


def _says_more(pages: Sequence[Page], members: Sequence[Sequence[Node]], parts: Sequence[dict[str, Any]]) -> bool:
    """Whether members say more than their parts, which is not the same in all of them."""
    if any(part["type"] == "line" and not part["css"] and not part["attribute"] for part in parts):
        return False  # one of them is all that a member says
    texts: list[str] = []
    number = 0
    for page, nodes in zip(pages, members, strict=True):
        number += len(nodes)
        if not nodes:
            continue
        read = [node for part in parts if part["css"] for node in page.select(part["css"])]
        spans = {n for node in read for n in range(node.n, node.last + 1)}
        for node in nodes:
            left = [n.text for n in page.inside(node) if not n.tag and n.visible and n.n not in spans]
            said = " ".join(" ".join(left).split())
            if any(c.isalnum() for c in said):
                texts.append(said)
    return len(texts) >= REST * number and len(set(texts)) >= min(2, len(texts))


def _things(page: Page, member: Node, known: Collection[str]) -> list[tuple[Key, str]]:
    """What a member holds: links, pictures, headings, short texts with the element that they stand in."""
    found: list[tuple[Key, str]] = []
    for node in page.inside(member):
        if not node.tag:
            continue
        css = (
            "" if node is member else next((m for m in own_marks(node, known=known) if not m.startswith("#")), node.tag)
        )
        plain = node is member and not any(kid.tag for kid in node.children)
        if node.tag == "a" and node.get("href") and not node.get("href").startswith("#"):
            found.append(((css, "href", "link"), node.get("href")))
        shown = picture_source(node.tag, node.attrs) if node.tag == "img" else ""
        if shown and not stands_in(shown):
            found.append(((css, "src", "picture"), shown))
        if (media := media_source(node.tag, node.attrs)) and node.get("src"):
            found.append(((css, "src", "link"), media))
        if node.tag == "time" and node.get("datetime"):
            found.append(((css, "datetime", "date"), node.get("datetime")))
            continue
        if node is not member and node.tag in BOXES and any(kid.tag in WRITTEN for kid in node.children):
            found.append(((css, "", "blocks"), text_of(page, node)))
            continue
        if plain or (css and (node.tag in _TEXTS or node.tag in HEADINGS or node.tag == "a")):
            text = text_of(page, node)
            if 0 < len(text.split()) <= LONGEST * 3:
                found.append(((css, "", "line"), text))
    return found


def _part_name(css: str, sort: str, type_: str, names: Collection[str]) -> str:
    word = named_by(css) if "." in css else ""
    word = word if _speaks(word) else ""
    if sort in ("link", "picture"):
        name = sort
    elif word:
        name = word
    elif sort == "blocks":
        name = "body"
    elif css.partition(".")[0] in (*HEADINGS, "a", ""):
        name = "title"
    else:
        name = _CALLED.get(css, "text") if type_ == "line" else type_
    return _free(name, names)


def _free(name: str, names: Collection[str]) -> str:
    free, number = name, 1
    while free in names:
        number += 1
        free = f"{name}_{number}"
    return free
