"""Furniture: boxes around the bodies of pages, and boxes in them that say the same on page after page; each proposed as
a clean-up step.

What stands around a body is furniture also where it varies (the list of the latest, a menu with its entry marked):
nothing that is lifted is in it. What stands in a body has to say the same on all pages that have it. No step may
take anything from the body of a page of another kind, so all kinds are looked at together.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

from ..kinds import Proposed, Step
from ..lift.pointing import own_marks
from ..page import AROUND, HEADING_SIGNS, HEADINGS, LEADS_AWAY, Node, Page, text_of

SHOWN = frozenset("img picture svg video audio iframe object embed input canvas".split())
BOXES = frozenset("div section aside nav header footer form ul ol dl table p center".split())
FEWEST = 3  # pages that a box in bodies has to stand on,
PAIR = 2  # … one around them, and
SHARE = 0.5  # … of those looked at
LEAST_LINKS = 3  # that a menu has
ALIKE = 0.7  # of its entries that are those of many of such boxes, and
ALIKE_ON = 0.25  # … the share of the boxes that so many are
SENTENCE = 14  # words of a paragraph in one, at most
LABEL = 3  # words: what says less, and is not for clicking on, may be the label of something that differs
LARGEST = 400  # words; what says more is looked into, not taken as a whole
MOST = 12  # steps of each sort for a kind


class Body:
    """A page, the outermost nodes of its body, the numbers of nodes that other fields were read from, and its title
    with the selector that it was read by ("" for none)."""

    def __init__(self, page: Page, region: Sequence[Node], read: Sequence[int] = (), title: str = "", by: str = ""):
        self.page, self.region = page, region
        self.title, self.title_by = " ".join(title.split()), by
        self._read = frozenset(read)
        self._found: dict[str, list[Node]] = {}

    @cached_property
    def kept(self) -> frozenset[int]:
        """The nodes that go over, and all that they stand in."""
        found: set[int] = set()
        for start in (*self.region, *(self.page.nodes[n] for n in self._read if n >= 0)):
            up: Node | None = start
            while up is not None and up.n not in found:
                found.add(up.n)
                up = up.parent
        return frozenset(found)

    def select(self, selector: str) -> list[Node]:
        """What a selector finds on the page."""
        if selector not in self._found:
            self._found[selector] = self.page.select(selector)
        return self._found[selector]

    def inside(self, node: Node) -> bool:
        """Whether an element stands in the body."""
        return any(top.n <= node.n <= top.last for top in self.region)

    def reads(self, node: Node) -> bool:
        """Whether a field is read from an element."""
        return node.n in self._read

    def spares(self, selector: str) -> bool:
        """Whether a selector leaves alone all that goes over."""
        return not any(node.n in self.kept or self.inside(node) for node in self.select(selector))

    def says(self, selector: str) -> str:
        """The words of what a selector finds in the body."""
        return " ".join(text_of(self.page, node) for node in self.select(selector) if self.inside(node))


@dataclass(frozen=True, slots=True)
class _Box:
    selector: str
    text: str  # "" of a box around bodies, or of a menu
    said: Proposed
    where: str = "around the body"


def furniture_steps(kinds: Sequence[Sequence[Body]]) -> list[Step]:
    """Steps that take out furniture; a few pages of each kind are given."""
    every = [body for bodies in kinds for body in bodies]
    steps: list[Step] = []
    had: set[str] = set()
    for bodies in kinds:
        around = _around(bodies, every)
        within = [box for box in _within(bodies) if all(body.says(box.selector) in ("", box.text) for body in every)]
        for found in (around, _menus(bodies, every), within, _links(bodies, every)):
            new = [box for box in found if box.selector not in had][:MOST]
            had.update(box.selector for box in new)
            steps += [Step(name=_name(box), remove=box.selector, proposed=box.said) for box in new]
    return steps


def title_steps(bodies: Sequence[Body]) -> list[Step]:
    """Steps that take the title out of bodies, since it is a field of its own: by the selectors that it is read by, of
    those that find it, and nothing else, in the bodies of all kinds."""
    on = Counter(
        body.title_by for body in bodies if body.title_by and any(map(body.inside, body.select(body.title_by)))
    )
    steps = []
    for selector, number in on.most_common():
        heads = [(body, node) for body in bodies for node in body.select(selector) if body.inside(node)]
        said = [(" ".join(text_of(body.page, node).split()), body.title) for body, node in heads]
        if number >= PAIR and all(text == title or text.rstrip(f" {HEADING_SIGNS}") == title for text, title in said):
            steps.append(Step(name="the title, a field of its own", remove=selector, proposed=Proposed(right=number)))
    return steps


def _around(bodies: Sequence[Body], every: Sequence[Body]) -> list[_Box]:
    """The largest boxes of which nothing goes over on any page, the most frequent first; each box under one name."""
    on: Counter[str] = Counter()
    nodes: dict[str, set[tuple[int, int]]] = defaultdict(set)
    for place, body in enumerate(bodies):
        names: set[str] = set()
        for node in _outer(body.page.body, body):
            if any(inner.text.strip() for inner in body.page.inside(node) if not inner.tag and inner.visible):
                for mark in (*own_marks(node), *([node.tag] if node.tag in AROUND else [])):
                    names.add(mark)
                    nodes[mark].add((place, node.n))
        on.update(names)
    least = max(PAIR, SHARE * len(bodies))
    found: list[_Box] = []
    taken: set[tuple[int, int]] = set()
    for selector, number in sorted(on.items(), key=lambda one: (-one[1], -len(nodes[one[0]]), one[0])):
        if (number < least and selector not in AROUND) or nodes[selector] <= taken:
            continue
        if all(body.spares(selector) for body in every):
            taken |= nodes[selector]
            found.append(_Box(selector, "", Proposed(right=number, missed=len(bodies) - number)))
    return found


def _outer(node: Node, body: Body) -> Iterator[Node]:
    """The outermost elements in a node of which nothing goes over."""
    for child in node.children:
        if not child.tag:
            continue
        if child.n not in body.kept:
            yield child
        elif not body.inside(child) and not body.reads(child):
            yield from _outer(child, body)


def _within(bodies: Sequence[Body]) -> list[_Box]:
    """The boxes that say the same in all bodies that have them, the largest first; what lies in one of them needs no
    step of its own."""
    texts: dict[str, list[str]] = defaultdict(list)
    spans: dict[str, list[set[tuple[int, int]]]] = defaultdict(list)
    for number, body in enumerate(bodies):
        for selector, boxes in _boxes(body).items():
            texts[selector].append(" ".join(text_of(body.page, node) for node in boxes))
            spans[selector].append({(number, inner.n) for node in boxes for inner in body.page.inside(node)})
    least = max(FEWEST, SHARE * len(bodies))
    found: list[_Box] = []
    taken: set[tuple[int, int]] = set()
    for selector in sorted(spans, key=lambda one: (-sum(map(len, spans[one])), one)):
        text, number = texts[selector][0], len(texts[selector])
        nodes: set[tuple[int, int]] = set().union(*spans[selector])
        if number < least or len(set(texts[selector])) > 1 or not text or nodes <= taken:
            continue
        taken |= nodes
        found.append(_Box(selector, text, Proposed(right=number)))
    return found


def _menus(bodies: Sequence[Body], every: Sequence[Body]) -> list[_Box]:
    """Boxes in bodies that hold hardly anything but links, and are called as what leads through a site is, or have the
    same entries on most pages: also where these lead elsewhere from page to page."""
    on: Counter[str] = Counter()
    entries: dict[str, list[set[str]]] = defaultdict(list)
    for body in bodies:
        marks: set[str] = set()
        until = -1
        for node in (inner for top in body.region for inner in body.page.inside(top)[1:]):
            if node.n > until and _is_menu(body.page, node):
                until = node.last  # what lies in it needs no step of its own
                for mark in own_marks(node):
                    marks.add(mark)
                    entries[mark].append(_entries(body.page, node))
        on.update(marks)
    on = Counter({mark: n for mark, n in on.items() if LEADS_AWAY.search(mark) or _are_alike(entries[mark])})
    found = []
    for selector, pages in on.most_common():
        if pages < max(PAIR, SHARE * len(bodies)):
            break
        if all(_holds_links(body.page, node) for body in every for node in body.select(selector) if body.inside(node)):
            found.append(_Box(selector, "", Proposed(right=pages, missed=len(bodies) - pages), "a menu in the body"))
    return found


def _entries(page: Page, node: Node) -> set[str]:
    """The texts of the links in an element."""
    return {text_of(page, inner) for inner in page.inside(node) if inner.tag == "a" and inner.get("href")}


def _are_alike(boxes: Sequence[set[str]]) -> bool:
    """Whether most of what each of some boxes holds is in many of them."""
    on = Counter(text for box in boxes for text in box)
    least = max(FEWEST, ALIKE_ON * len(boxes))
    alike = sum(on[text] >= least for box in boxes for text in box)
    return alike > ALIKE * on.total()


def _is_menu(page: Page, node: Node) -> bool:
    """Whether a named box holds links, with at least half of its words in them."""
    if node.tag not in BOXES or not (node.get("id") or node.get("class")):
        return False
    links, linked, words = _counted(page, node)
    return links >= LEAST_LINKS and linked >= words


def _counted(page: Page, node: Node) -> tuple[int, int, int]:
    """The links in an element, the words in them, and those beside them."""
    links = linked = words = 0
    until = -1  # the last node of the link that is open
    for inner in page.inside(node):
        if inner.tag == "a" and inner.get("href"):
            links, until = links + 1, inner.last
        elif not inner.tag and inner.visible:
            number = sum(any(c.isalnum() for c in word) for word in inner.text.split())  # no signs between links
            linked, words = (linked + number, words) if inner.n <= until else (linked, words + number)
    return links, linked, words


def _holds_links(page: Page, node: Node) -> bool:
    """Whether a box holds links, and no paragraph of a text beside them."""
    inside = page.inside(node)
    texts = (_counted(page, inner)[2] for inner in inside if inner.tag == "p")
    return any(inner.tag == "a" and inner.get("href") for inner in inside) and all(n <= SENTENCE for n in texts)


def _links(bodies: Sequence[Body], every: Sequence[Body]) -> list[_Box]:
    """Links in bodies that are but a sign (to the heading they stand at), the same everywhere, or in a heading without
    any words."""
    signs: dict[str, list[int]] = defaultdict(list)
    for number, body in enumerate(bodies):
        for top in body.region:
            for node in body.page.inside(top):
                if node.tag != "a":
                    continue
                if _is_sign(text := text_of(body.page, node)):
                    for mark in own_marks(node):
                        signs[mark].append(number)
                elif not text and (box := _wordless(body.page, node)) is not None:
                    for mark in own_marks(box):
                        signs[mark].append(number)
    found = []
    for selector, on in signs.items():
        pages = len(set(on))
        if pages < max(PAIR, SHARE * len(bodies)):
            continue
        nodes = [(body.page, node) for body in every for node in body.select(selector)]
        texts = {text_of(page, node) for page, node in nodes}
        text = next(iter(texts))
        if len(texts) == 1 and (_is_sign(text) or (not text and not any(_shows(*one) for one in nodes))):
            said = Proposed(right=pages, missed=len(bodies) - pages)
            found.append(_Box(selector, text, said, "links without words in headings"))
    return found


def _wordless(page: Page, link: Node) -> Node | None:
    """The outermost box in a heading that holds a link and no words; None where it stands in no heading."""
    box, up = link, link.parent
    while up is not None and up.tag not in HEADINGS:
        if up is page.body or text_of(page, up):
            return box if any(outer.tag in HEADINGS for outer in _above(up)) else None
        box, up = up, up.parent
    return box if up is not None else None


def _above(node: Node) -> Iterator[Node]:
    up: Node | None = node
    while up is not None:
        yield up
        up = up.parent


def _shows(page: Page, node: Node) -> bool:
    """Whether an element shows something else than words."""
    return any(inner.tag in SHOWN for inner in page.inside(node))


def _is_sign(text: str) -> bool:
    return 0 < len(text) <= 2 and not any(c.isalnum() for c in text)


def _boxes(body: Body) -> dict[str, list[Node]]:
    """The boxes in a body that furniture may be, by the selectors of which each finds them."""
    found: dict[str, list[Node]] = defaultdict(list)
    for top in body.region:
        for node in body.page.inside(top)[1:]:
            if node.tag not in BOXES or node.last - node.n > LARGEST * 4:
                continue
            words = [
                inner for inner in body.page.inside(node) if not inner.tag and inner.visible and inner.text.strip()
            ]
            number = sum(len(inner.text.split()) for inner in words)
            if not 0 < number <= LARGEST or (number < LABEL and not all(_clicked(inner, node) for inner in words)):
                continue
            for mark in own_marks(node):
                found[mark].append(node)
    return found


def _clicked(node: Node, box: Node) -> bool:
    """Whether a text stands in a link or button of the box."""
    up: Node | None = node
    while up is not None and up is not box:
        if up.tag in ("a", "button"):
            return True
        up = up.parent
    return False


def _name(box: _Box) -> str:
    """What a step is called: the mark of its box, and how it begins or where it stands."""
    mark = box.selector.rpartition("#")[2].rpartition(".")[2].replace("-", " ").replace("_", " ")
    words = box.text.split()
    return f"{mark}: {' '.join(words[:5])}{' …' if len(words) > 5 else ''}"[:80] if words else f"{mark}, {box.where}"
