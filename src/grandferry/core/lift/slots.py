"""Slots: places of a template that hold a short value which differs from page to page. Found by comparing a few pages
of one kind: values beside a label that stays the same, and elements with a name of their own that stand once on each
page."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import chain

from ..kinds import FieldPlan, Locator
from ..page import HEADINGS, INLINE, LEADS_AWAY, Node, Page, text_of
from .locators import is_alone, locate
from .pointing import own_marks
from .written_as import one_figure, type_of

SHARE = 0.5  # of the pages that a slot is filled on
LONGEST = 14  # words of a value
LABEL = 4  # words of a label
LARGEST = 40  # nodes of an element that holds a value
MOST = 16  # slots of a kind
BESIDE = 80  # nodes beside each other that may be labels with their values
TRIED = 60  # labels, names and places that are looked into, of each those that are on most pages
SEVERAL = 4  # pages by which a place without a name can be told, and
PLACED = 0.7  # … the share of them on which it has to be
NAMED = 0.4  # of the boxes of pages that have a name, where a template names what it fills
NAMELESS = 2  # lines of which nothing says what they are
ALIKE = 2  # places that differ in a position alone, and may be slots
_COUNTED = re.compile(r":nth-of-type\(\d+\)")
_BOXES = frozenset("div section article aside ul table".split())
_SLOTTED = frozenset("p div span b strong em i small td dd time address center font".split())
_PAIRED = frozenset(["div", "span", "p"])  # boxes that may stand as label, value, label, value
_LABELLED = frozenset(["dt", "th", "td", "b", "strong", "span", "label", "em"])
_BY = re.compile(r"(?i)by(?:line)?|author|writer")
_TERMS = re.compile(r"(?i)tags?|topics?|categor\w+|terms?|keywords?|labels?|filed")
_DATED = re.compile(r"(?i)posted|published|date|time|created|pubdate")
_ELEMENT = re.compile(r"[A-Za-z][A-Za-z0-9]*_([A-Za-z][A-Za-z0-9]*)__[\w-]+")
_CHANGED = re.compile(r"(?i)\b(?:updated|modified|changed|revised)\b")


@dataclass(slots=True)
class Slot:
    """A field for a slot, on how many pages it is filled, and the nodes that it takes on each of them."""

    plan: FieldPlan
    filled: int
    nodes: dict[int, list[int]] = field(default_factory=dict)  # by the place of the page


def slots(pages: Sequence[Page], taken: Collection[str], shared: Collection[str]) -> list[Slot]:
    """The slots of some pages of one kind. ``taken``: names of fields that there are; ``shared``: texts that stand on
    many of the pages, as labels do."""
    names = set(taken)
    found: list[Slot] = []
    held: dict[int, set[int]] = defaultdict(set)  # nodes that a slot has, by page
    for slot in chain(_labelled(pages, shared), _named(pages), _placed(pages)):
        if len(found) == MOST:
            break
        if _overlap(pages, slot, held):
            continue  # another slot has it
        name = _free(slot.plan.name, names)
        if not name:
            continue
        slot.plan = slot.plan.model_copy(update={"name": name})
        names.add(name)
        for place, nodes in slot.nodes.items():
            for n in nodes:
                # beside a date in a line there may be who wrote it
                last = n if slot.plan.type == "date" else pages[place].nodes[n].last
                held[place].update(range(n, last + 1))
        found.append(slot)
    nameless = [slot for slot in found if slot.plan.name.rstrip("_0123456789") == "line"]
    # one or two lines without a name are something; where there are more, they are the lines of a text that is alike on
    # all of the pages, as a translation is
    return [slot for slot in found if slot not in nameless] if len(nameless) > NAMELESS else found


def _free(name: str, names: Collection[str]) -> str:
    """A name that is free: one that says only what type a value is of gets a number, of others there is one."""
    if name not in names:
        return name
    if name not in ("line", "number", "published"):
        return ""
    return next(made for n in range(2, MOST + 2) if (made := f"{name}_{n}") not in names)


def _overlap(pages: Sequence[Page], slot: Slot, held: dict[int, set[int]]) -> bool:
    """Whether on most pages a slot's element stands in what is held, or holds some of it."""
    hits = sum(
        not held[place].isdisjoint(range(n, pages[place].nodes[n].last + 1))
        for place, nodes in slot.nodes.items()
        for n in nodes
    )
    return 2 * hits > sum(map(len, slot.nodes.values()))


def _labelled(pages: Sequence[Page], shared: Collection[str]) -> Iterator[Slot]:
    """Values beside a label that many pages have."""
    said = [labels(page) for page in pages]
    on = Counter(label for some in said for label in some)
    for label, number in on.most_common(TRIED):
        if number < _least(pages) or (len(pages) > 3 and label not in shared):
            continue
        locator = Locator(label=label)
        read = [
            [(p.node, p.text) for p in locate(page, locator, "")] if label in some else []
            for page, some in zip(pages, said, strict=True)
        ]
        slot = _slot(pages, called(label), {"label": label}, read)
        if slot is not None:
            yield slot


def labels(page: Page) -> dict[str, None]:
    """The labels that stand on a page before or beside a value, in their order."""
    return dict.fromkeys(_labels(page))


def _labels(page: Page) -> Iterator[str]:
    for node in page.nodes:
        if node.tag or not node.visible or node.parent is None:
            continue
        text = " ".join(node.text.split())
        if not text or len(text.split()) > LABEL or is_around(node):
            continue
        box = node.parent
        while box.tag in INLINE and box.parent is not None and is_alone(box):
            box = box.parent
        in_pairs = box.tag in ("td", *_PAIRED) and _leads_a_pair(box)
        if _holder(node) not in _LABELLED and not in_pairs:
            continue
        cell = _holder(node) in ("dt", "th") and node.parent.tag in ("dt", "th", *INLINE)
        if (cell or in_pairs or text.endswith(":")) and text.strip(" :*"):
            yield text.rstrip(" :*")


def _leads_a_pair(node: Node) -> bool:
    """Whether a cell is the first of two of its row, or a box the first of two of its parent's, which holds nothing but
    such pairs."""
    beside = [] if node.parent is None else node.parent.children
    if len(beside) > BESIDE:
        return False
    boxes = [one for one in beside if one.tag]
    if node.tag == "td":
        return len(boxes) == 2 and boxes[0] is node
    return (
        len(boxes) % 2 == 0
        and all(one.tag == node.tag if one.tag else not one.text.strip() for one in beside)
        and boxes.index(node) % 2 == 0
    )


def _holder(node: Node) -> str:
    """The tag of what a text stands in; of a bold text in a cell or term, that."""
    up = node.parent
    if up is not None and up.tag in INLINE and up.parent is not None and up.parent.tag in ("dt", "th"):
        return up.parent.tag
    return up.tag if up is not None else ""


def _named(pages: Sequence[Page]) -> Iterator[Slot]:
    """Elements with a class or id of their own that stand once on each page and hold a few words."""
    on: Counter[str] = Counter()
    for page in pages if len(pages) > 1 else ():  # of one page everything would differ
        on.update({m for node in page.nodes if node.tag and _may_hold(page, node) for m in own_marks(node, True)})
    for mark, number in sorted(on.items(), key=lambda one: (-one[1], one[0]))[:TRIED]:
        if number < _least(pages) or LEADS_AWAY.search(mark):
            continue
        read: list[list[tuple[int, str]]] = []
        several = False
        for page in pages:
            nodes = [node for node in page.select(mark) if not is_around(node)]
            several = several or len(nodes) > 1
            read.append([(node.n, text_of(page, node)) for node in nodes])
        if several:
            continue
        name = named_by(mark)
        slot = _terms(pages, name, mark, read)
        if slot is None and not _links(pages, read):
            slot = _slot(pages, name, {"css": mark}, read)
        if slot is not None:
            yield slot


def _placed(pages: Sequence[Page]) -> Iterator[Slot]:
    """Elements without a name that stand in the same place on nearly all pages, and always hold a few words. Of
    translations of one page every paragraph is such a place."""
    spoken = Counter(language for page in pages if (language := _language(page)))
    if len(pages) < SEVERAL or (spoken and 2 * spoken.most_common(1)[0][1] < spoken.total()):
        return
    named = _names(pages)
    on: dict[str, list[list[tuple[int, str]]]] = {}
    long: set[str] = set()
    for place, page in enumerate(pages):
        for node, path in _paths(page):
            if node.last - node.n > LARGEST:
                long.add(path)
                continue
            words = text_of(page, node)
            if not words or is_around(node) or _leads_away(node):
                continue
            if not _may_hold(page, node):
                long.add(path)
                continue
            on.setdefault(path, [[] for _ in pages])[place].append((node.n, words))
    likely = [path for path, read in on.items() if path not in long and sum(map(bool, read)) >= PLACED * len(pages)]
    shaped = {path: _COUNTED.sub("", path) for path in likely}
    beside = Counter(shaped.values())
    for path in likely[:TRIED]:
        if beside[shaped[path]] > ALIKE:
            continue  # short paragraphs one after the other: somebody's text
        read = on[path]
        slot = _terms(pages, "", path, read)
        if slot is None and not _links(pages, read):
            slot = _slot(pages, "", {"css": path}, read)
        if slot is not None and (slot.plan.type != "line" or not named):
            yield slot


def _names(pages: Sequence[Page]) -> bool:
    """Whether the template of some pages gives its boxes names: what has none is somebody's text then."""
    boxes = [node for page in pages for node in page.inside(page.body) if node.tag in _BOXES]
    return sum(any(own_marks(node, True)) for node in boxes) > NAMED * len(boxes)


def _language(page: Page) -> str:
    """The language that a page declares, as its primary subtag."""
    said = page.root.get("lang") or page.root.get("xml:lang") or page.body.get("lang")
    return said.lower().replace("_", "-").partition("-")[0]


def _links(pages: Sequence[Page], read: list[list[tuple[int, str]]]) -> bool:
    """Whether what was read is a menu on most pages: several links, and hardly a word beside them."""
    menus = number = 0
    for page, one in zip(pages, read, strict=True):
        for n, text in one[:1]:
            links = [node for node in page.inside(page.nodes[n]) if node.tag == "a"]
            linked = sum(_words(text_of(page, link)) for link in links)
            number += 1
            menus += bool(links) and 5 * linked > 3 * _words(text.rpartition(":")[2])
    return 2 * menus > number


def _words(text: str) -> int:
    return sum(any(c.isalnum() for c in word) for word in text.split())


def _paths(page: Page) -> Iterator[tuple[Node, str]]:
    """The elements of a page without any name, with their places."""
    stack = [(page.body, "body")]
    while stack:
        node, path = stack.pop()
        counts: Counter[str] = Counter()
        below: list[tuple[Node, str]] = []
        for child in node.children:
            if not child.tag:
                continue
            counts[child.tag] += 1
            below.append((child, f"{path} > {child.tag}:nth-of-type({counts[child.tag]})"))
        for child, at in below:
            if child.tag in _SLOTTED and not any(own_marks(child, True)):
                yield child, at
        stack += reversed(below)


def _may_hold(page: Page, node: Node) -> bool:
    if node.tag in HEADINGS or node.tag in ("a", "body", "html", "script", "style", "code", "pre"):
        return False
    if node.last - node.n > LARGEST or _in_figure(node):
        return False
    inner = page.inside(node)
    if any(one.tag in HEADINGS for one in inner):
        return False
    number = sum(len(one.text.split()) for one in inner if not one.tag and one.visible)
    return 0 < number <= LONGEST and not is_around(node) and not _in_prose(page, node)


def _in_prose(page: Page, node: Node) -> bool:
    """Whether an element is but a word or two of somebody's sentences."""
    up = node
    while up.tag in INLINE and up.parent is not None:
        up = up.parent
    if up is node or up.tag in ("body", "html") or up.last - up.n > 4 * LARGEST:
        return False
    words = sum(len(one.text.split()) for one in page.inside(up) if not one.tag and one.visible)
    return words > 2 * LONGEST and any(not c.tag and len(c.text.split()) > 2 for c in up.children)


def _in_figure(node: Node) -> bool:
    """Whether an element is, or stands in, a figure: what it says is said of a picture."""
    up: Node | None = node
    while up is not None and up.tag not in ("figure", "body"):
        up = up.parent
    return up is not None and up.tag == "figure"


def is_around(node: Node) -> bool:
    """Whether an element stands in what is never content. The head and the foot of an article are its own (HTML,
    section 4.3)."""
    up: Node | None = node
    ended = False  # the head or foot of the page, or of an article in it
    while up is not None:
        if up.tag in ("nav", "aside", "form"):
            return True
        if up.tag in ("header", "footer"):
            ended = True
        elif up.tag in ("article", "main", "section"):
            ended = False
        up = up.parent
    return ended


def _leads_away(node: Node) -> bool:
    """Whether an element stands in a small box that is called as what leads through a site is."""
    up = node.parent
    while up is not None and up.last - up.n <= 2 * LARGEST:
        if up.attrs and LEADS_AWAY.search(f"{up.get('id')} {up.get('class')}"):
            return True
        up = up.parent
    return False


def _least(pages: Sequence[Page]) -> float:
    return max(1.0, SHARE * len(pages))


def _terms(pages: Sequence[Page], name: str, mark: str, read: list[list[tuple[int, str]]]) -> Slot | None:
    """A slot of several links, with the same words before them on every page: tags, topics, categories."""
    values: list[tuple[str, ...]] = []
    rests: Counter[str] = Counter()
    nodes: dict[int, list[int]] = {}
    for place, (page, one) in enumerate(zip(pages, read, strict=True)):
        if not one:
            continue
        holder = page.nodes[one[0][0]]
        links = [node for node in page.inside(holder) if node.tag == "a"]
        words = tuple(text_of(page, link) for link in links)
        rest = " ".join(text_of(page, holder).split())
        for text in words:
            rest = rest.replace(text, "", 1)
        rests[re.sub(r"[\W_]+", " ", rest).strip()] += 1
        if words:
            values.append(words)
            nodes[place] = [holder.n]
    said, times = rests.most_common(1)[0] if rests else ("", 0)
    named = _TERMS.search(name) or _TERMS.search(said)
    if not named or len(values) < _least(pages) or times < SHARE * sum(rests.values()) or len(set(values)) < 2:
        return None
    made = {"name": "topics" if "topics" in name else "tags", "type": "list", "locators": [{"css": f"{mark} a"}]}
    return Slot(FieldPlan.model_validate(made), len(values), nodes)


def _slot(pages: Sequence[Page], name: str, locator: dict[str, str], read: list[list[tuple[int, str]]]) -> Slot | None:
    """A slot for what was read on each page, when it is one value on most of them and differs."""
    single = {place: one[0] for place, one in enumerate(read) if len(one) == 1 and one[0][1].strip()}
    single = {place: one for place, one in single.items() if any(c.isalnum() for c in one[1])}  # a dash says nothing
    texts = [text for _, text in single.values()]
    if len(texts) < _least(pages) or len(set(texts)) < min(2, len(pages)):
        return None
    if any(len(text.split()) > LONGEST for text in texts) or 2 * sum(t.endswith(":") for t in texts) > len(texts):
        return None  # somebody's sentences, or the label of something else
    type_, treat = type_of(texts, figures=one_figure(texts))
    if type_ == "date" and name != "date" and (_DATED.search(name) or not name):
        name = "modified" if all(map(_CHANGED.search, texts)) else "published"
    elif _BY.fullmatch(name) and type_ == "line":
        name, treat = "author", [{"replace": [r"^(?:[Bb]y|[Vv]on|[Pp]ar)\s+(.*)$", r"\1"]}]
    made = {"name": name or type_, "type": type_, "locators": [locator], "treat": treat}
    nodes = {place: [n] for place, (n, _) in single.items() if n >= 0}
    return Slot(FieldPlan.model_validate(made), len(texts), nodes)


def named_by(mark: str) -> str:
    """A field's name from the class or id in a selector; "" of one that a program made. Of a class that names a part,
    an element of it and a hash (``Card_title__e4``) it is the element."""
    word = re.split(r"[.#]", mark)[-1]
    if match := _ELEMENT.fullmatch(word):
        word = match[1]
    return "" if any(map(str.isdigit, word)) else called(word)


def called(text: str) -> str:
    """A field's name from a label or a class."""
    name = re.sub(r"[^a-z0-9]+", "_", text.lower()).strip("_")[:40]
    return name if re.match(r"[a-z]", name) else ""
