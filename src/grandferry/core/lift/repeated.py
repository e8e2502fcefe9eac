"""Groups of repeated parts: cards, entries of a list, comments, folding panels, questions with their answers, slides.
Found as elements of one sort that stand beside each other, each with the same few things in it or after it."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Collection, Sequence

from ..kinds import FieldPlan
from ..page import HEADINGS, LEADS_AWAY, Node, Page, text_of
from .grouped import BOXES, TAGS, WRITTEN, group_of, sort_of
from .members import siblings_after
from .pointing import known_names, own_marks, selector_of
from .slots import LONGEST, Slot, is_around

FEWEST = 3  # members beside each other
SHARE = 0.5  # of the pages that have such members,
SOME, SOME_SHARE = 2, 0.15  # … or so many pages, where members are what these are for
LARGEST = 120  # nodes of a member
MOST = 4  # groups of a kind
SECTION = 60  # words that each of some boxes with a heading has where they are the sections of a text
PROSE = 0.25  # of the words of a list that the paragraphs beside it have where it is part of a text
MAIN = 0.4  # of a page's own words that members without a name hold, at least
UPWARDS = 3
TRIED = 20
LAYOUT = 0.6  # of the words of boxes right in the body, in one of them: they are the parts of a page
BESIDE = 3  # elements that may stand beside headings and the paragraph after each, where these are a list
SWITCH = 25  # words of what stands before a panel or an answer
DEEPEST = 12  # elements in a path to members without any name
STRAYS = 2.0  # times as many as the members that were seen: so many may be found by their selector
SECTIONS, NESTED = frozenset(["div", "section", "article"]), 0.2  # boxes, and how many of them may lie in others
_SWITCHES = frozenset("div p dt button summary".split()) | HEADINGS


def groups(pages: Sequence[Page], taken: Collection[str], shared: Collection[str]) -> list[Slot]:
    """Fields for the groups that some pages of one kind have. ``taken``: names of fields that there are; ``shared``:
    texts that stand on many pages, of which no group is made."""
    # by the selectors of them and of what comes after each (None: nothing is looked for there), page by page
    members: dict[tuple[str, str | None], list[list[Node]]] = defaultdict(lambda: [[] for _ in pages])
    known = known_names(pages)
    for place, page in enumerate(pages):
        for named_by, beside in (*_beside(page, known).items(), *_switches(page, known).items()):
            members[named_by][place] += beside
    found: list[Slot] = []
    held: list[set[int]] = [set() for _ in pages]
    names = set(taken)
    by_size = sorted(members.items(), key=lambda one: (-sum(map(_size, one[1])), one[0][0]))
    for (selector, follows), nodes in by_size[:TRIED]:
        on = sum(map(bool, nodes))
        if (
            len(found) == MOST
            or on < min(max(SOME, SOME_SHARE * len(pages)), len(pages))
            or sum(map(len, nodes)) < FEWEST
            or max(map(len, nodes)) < min(2, len(pages))
        ):
            continue
        if sum(n.n in held[place] for place, here in enumerate(nodes) for n in here) * 2 > sum(map(len, nodes)):
            continue
        whole = [[*here, *_following(here)] if follows is not None else here for here in nodes]
        by_parent = {id(node.parent): node for here in nodes for node in here}  # one of those beside each other
        boxed = all(_boxed(node, known) for node in by_parent.values())
        named = boxed or (">" not in selector and on >= SHARE * len(pages))
        if _is_known(pages, whole, shared, named=named) or not _finds_them(pages, selector, nodes):
            continue
        slot = group_of(pages, selector, nodes, names, follows=follows, known=known)
        if slot is None:
            continue
        same = next((one for one in found if one.plan.parts == slot.plan.parts), None)
        if same is None:
            names.add(slot.plan.name)
            found.append(slot)
        else:  # a list that another template lays out: another locator, tried where the first finds nothing
            same.plan = same.plan.model_copy(update={"locators": [*same.plan.locators, *slot.plan.locators]})
        for place, here in enumerate(whole):
            held[place].update(inner for n in here for inner in range(n.n, n.last + 1))
    for slot in found:
        _fill(pages, slot)
    return found


def _fill(pages: Sequence[Page], slot: Slot) -> None:
    """Note the members that a group has on each page, also on those with few of them, and what follows them."""
    follows = any(part.follows for part in slot.plan.parts)
    for place, page in enumerate(pages):
        found = next((nodes for one in slot.plan.locators if (nodes := page.select(one.css or ""))), [])
        slot.nodes[place] = [node.n for node in (*found, *(_following(found) if follows else ()))]
    slot.filled = sum(map(bool, slot.nodes.values()))


def _size(nodes: Sequence[Node]) -> int:
    """How much some members hold."""
    return sum(1 + node.last - node.n for node in nodes)


def _following(heads: Sequence[Node]) -> list[Node]:
    """The elements that come right after some elements."""
    return [after for head in heads if (after := next(siblings_after(head, elements=True), None)) is not None]


def _beside(page: Page, known: Collection[str]) -> dict[tuple[str, None], list[Node]]:
    """Elements of one sort beside each other, by the selector that finds them: a class of theirs, else their place."""
    found: dict[tuple[str, None], list[Node]] = {}
    for parent in page.nodes:
        if not parent.tag or is_around(parent) or _leads_away(page, parent):
            continue
        sorts: dict[str, list[Node]] = defaultdict(list)
        for child in parent.children:
            if child.tag in TAGS and child.last - child.n <= LARGEST:
                sorts[sort_of(child, known)].append(child)
        for sort, nodes in sorts.items():
            # fewer of them are members where they have a name and a list of their own, as comments do
            few = nodes[0].tag in ("li", "article", "div") and "." in sort and _boxed(nodes[0], known)
            if (len(nodes) < FEWEST and not few) or _in_text(page, nodes) or _are_parts_of_page(page, nodes):
                continue
            selector = sort if "." in sort else _below(parent, sort, known)
            if selector:
                found.setdefault((selector, None), []).extend(nodes)
    return found


def _leads_away(page: Page, node: Node) -> bool:
    """Whether an element stands in a box, not most of the page, that is called as what leads through a site is, and
    holds links (a menu may be one of dishes)."""
    up: Node | None = node
    while up is not None and 2 * (up.last - up.n) < len(page.nodes):
        if up.attrs and LEADS_AWAY.search(f"{up.get('id')} {up.get('class')}"):
            return any(one.tag == "a" and one.get("href") for one in page.inside(up))
        up = up.parent
    return False


def _in_text(page: Page, nodes: Sequence[Node]) -> bool:
    """Whether some elements beside each other are part of a running text: a list between its paragraphs, or its
    sections."""
    said = sum(_said(page, node) for node in nodes)
    if nodes[0].tag in ("div", "section", "article") and any(n.tag in HEADINGS for n in page.inside(nodes[0])[1:]):
        return said > SECTION * len(nodes)
    if nodes[0].tag not in ("li", "dt", "dd", "tr", "p", "a"):
        return False
    top = nodes[0].parent
    if nodes[0].tag == "a" and top is not None and _said(page, top) > 2 * said:
        return True  # links of a paragraph
    while top is not None and top.parent is not None and top.tag != "body":
        beside = [kid for kid in top.parent.children if kid.tag and kid is not top]
        if any(kid.tag not in HEADINGS for kid in beside):
            prose = (words for kid in beside if kid.tag == "p" and (words := _said(page, kid)) > LONGEST)
            return sum(prose) > PROSE * said
        top = top.parent
    return False


def _are_parts_of_page(page: Page, nodes: Sequence[Node]) -> bool:
    """Whether boxes right in the body are the parts of a page, one of which holds most of it."""
    if nodes[0].parent is not page.body or nodes[0].tag not in (*BOXES, "table"):
        return False
    said = [_said(page, node) for node in nodes]
    return max(said) > LAYOUT * sum(said)


def _said(page: Page, node: Node) -> int:
    """How many words a visitor reads in an element."""
    return sum(len(one.text.split()) for one in page.inside(node) if not one.tag and one.visible)


def _boxed(node: Node, known: Collection[str]) -> bool:
    """Whether an element stands among others of its sort alone, and they or their box have a name: a list of entries
    with a class, boxes in a box."""
    sort = sort_of(node, known)
    if node.parent is None or any(sort_of(kid, known) != sort for kid in node.parent.children if kid.tag):
        return False
    return "." in sort or (node.tag in BOXES and _named(node.parent, known))


def _named(node: Node, known: Collection[str]) -> bool:
    return next(own_marks(node, known=known), "") != ""


def _switches(page: Page, known: Collection[str]) -> dict[tuple[str, str], list[Node]]:
    """Elements of one sort that take turns with those of another, as panels do with what opens them, and questions with
    their answers; by the selectors of both."""
    found: dict[tuple[str, str], list[Node]] = {}
    for parent in page.nodes:
        if not parent.tag or is_around(parent):
            continue
        kids = [child for child in parent.children if child.tag]
        sorts = [sort_of(kid, known) for kid in kids]
        times = Counter(sorts)
        turns: dict[tuple[str, str], list[Node]] = defaultdict(list)
        for kid, first, second in zip(kids, sorts, sorts[1:], strict=False):
            if kid.tag in _SWITCHES:
                turns[first, second].append(kid)
        for (first, second), nodes in turns.items():
            alone = len(nodes) >= FEWEST and first != second and len(nodes) == times[first]
            if not alone or any(len(text_of(page, node).split()) > SWITCH for node in nodes):
                continue
            if nodes[0].tag in HEADINGS and second in WRITTEN and len(kids) > 2 * len(nodes) + BESIDE:
                continue  # … whatever they are called
            if not re.search(r"[.\[]", first) and nodes[0].tag != "dt" and (second in WRITTEN or nodes[0].tag == "p"):
                continue  # a text with headings in it
            selector = first if re.search(r"[.\[]", first) else _below(parent, first, known)
            if selector:
                found.setdefault((selector, second), []).extend(nodes)
    return found


def group_at(pages: Sequence[Page], pointed: Sequence[tuple[int, Node]]) -> list[tuple[FieldPlan, list[int]]]:
    """Groups of which a member, or something in it, was pointed at (positions of pages, and elements on them): a field
    for each way of naming the members, and the positions of the pages that have some."""
    selectors: dict[str, None] = {}
    known = known_names(pages)
    for place, node in pointed:
        up: Node | None = node
        while up is not None and up.parent is not None and up.tag != "body" and up.last - up.n <= LARGEST:
            like = [n for n in up.parent.children if n.tag == up.tag]
            if len(like) > 1 and up.tag in TAGS:
                marks = [mark for mark in own_marks(up, any_name=True) if not mark.startswith("#")]
                named = _below(up.parent, up.tag, known) or f"{selector_of(pages[place], up.parent.n)} > {up.tag}"
                selectors.update(dict.fromkeys([*marks, named]))
            up = up.parent
    found = []
    for selector in list(selectors)[:TRIED]:
        members = [_outer(page.select(selector)) for page in pages]
        slot = group_of(pages, selector, members, (), least=1, known=known)
        if slot is not None:
            found.append((slot.plan, [place for place, some in enumerate(members) if some]))
    return found


def _outer(nodes: Sequence[Node]) -> list[Node]:
    kept: list[Node] = []
    for node in nodes:
        if not kept or node.n > kept[-1].last:
            kept.append(node)
    return kept


def _below(parent: Node, sort: str, known: Collection[str]) -> str:
    """A selector for elements of one tag in an element, by its name or that of what it stands in, else by its path from
    the body on; "" where that is too long to hold."""
    if outer := next(own_marks(parent, known=known), ""):
        return f"{outer} > {sort}"
    up = parent.parent
    for _ in range(UPWARDS):
        if up is None or up.tag in ("body", "html"):
            break
        if outer := next(own_marks(up, known=known), ""):
            return f"{outer} {parent.tag} > {sort}"
        up = up.parent
    if up is not None and up.tag == "main":
        return f"main {parent.tag} > {sort}"
    path = [sort]
    at: Node | None = parent
    while at is not None and at.tag != "body":
        beside = [node for node in (at.parent.children if at.parent is not None else []) if node.tag == at.tag]
        path.append(at.tag if len(beside) < 2 else f"{at.tag}:nth-of-type({beside.index(at) + 1})")
        at = at.parent
    return " > ".join(["body", *reversed(path)]) if at is not None and len(path) <= DEEPEST else ""


def _finds_them(pages: Sequence[Page], selector: str, members: Sequence[Sequence[Node]]) -> bool:
    """Whether a selector finds some members and not many others (links here, and in all of the text as well), nor boxes
    that lie in one another (the sections of a text)."""
    number = found = nested = 0
    for page, nodes in zip(pages, members, strict=True):
        if not nodes:
            continue
        there = page.select(selector)
        number, found = number + len(nodes), found + len(there)
        if nodes[0].tag in SECTIONS:
            nested += len(there) - len(_outer(there))
    return found <= STRAYS * number and nested <= NESTED * found


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
