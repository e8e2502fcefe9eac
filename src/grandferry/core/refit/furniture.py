"""Furniture that stands in bodies: boxes that say the same on page after page, proposed as clean-up steps."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..kinds import Proposed, Step
from ..lift.pointing import own_marks
from ..page import Node, Page, text_of

BOXES = frozenset("div section aside nav header footer form ul ol dl table p center".split())
FEWEST = 3  # pages that a box has to stand on, and
SHARE = 0.5  # … of those looked at
SAME = 0.8  # of them on which it has to say the same
LABEL = 3  # words: what says less, and is not for clicking on, may be the label of something that differs
LARGEST = 400  # words; what says more is looked into, not taken as a whole
MOST = 12  # steps for a kind

Body = tuple[Page, Sequence[Node]]  # a page, and the outermost nodes of its body


@dataclass(slots=True)
class _Box:
    texts: list[str]  # one a page
    inside: list[set[int]]  # the nodes it takes, by page
    taken: list[int]  # the page of each


def shared_steps(bodies: Sequence[Body]) -> list[Step]:
    """Steps that take out what stands in most of some bodies with the same words: share boxes, notices, menus. Pages
    are to be of one kind."""
    found: dict[str, _Box] = defaultdict(lambda: _Box([], [], []))
    for number, (page, region) in enumerate(bodies):
        for selector, nodes in _boxes(page, region).items():
            box = found[selector]
            box.texts.append(" ".join(text_of(page, node) for node in nodes))
            box.inside.append({inner.n for node in nodes for inner in page.inside(node)})
            box.taken.append(number)
    least = max(FEWEST, SHARE * len(bodies))
    steps: list[Step] = []
    kept: list[_Box] = []
    # the largest first: what lies in a box that is taken needs no step of its own
    for selector, box in sorted(found.items(), key=lambda one: (-sum(map(len, one[1].inside)), one[0])):
        text, same = Counter(box.texts).most_common(1)[0]
        if len(box.texts) < least or same < SAME * len(box.texts) or not text or len(steps) == MOST:
            continue
        if any(_within(box, other) for other in kept):
            continue
        kept.append(box)
        said = Proposed(right=same, wrong=len(box.texts) - same)
        steps.append(Step(name=_name(selector, text), remove=selector, proposed=said))
    return steps


def _boxes(page: Page, region: Sequence[Node]) -> dict[str, list[Node]]:
    """The boxes in a body that furniture may be, by the selectors of which each finds them."""
    found: dict[str, list[Node]] = defaultdict(list)
    for node in _nodes(page, region):
        if node.tag not in BOXES:
            continue
        words = [inner for inner in page.inside(node) if not inner.tag and inner.visible and inner.text.strip()]
        number = sum(len(inner.text.split()) for inner in words)
        if not 0 < number <= LARGEST or (number < LABEL and not all(_clicked(inner, node) for inner in words)):
            continue
        for mark in own_marks(node):
            found[mark].append(node)
    return found


def _nodes(page: Page, region: Sequence[Node]) -> Iterator[Node]:
    for top in region:
        yield from page.inside(top)[1:]


def _clicked(node: Node, box: Node) -> bool:
    """Whether a text stands in a link or button of the box."""
    up: Node | None = node
    while up is not None and up is not box:
        if up.tag in ("a", "button"):
            return True
        up = up.parent
    return False


def _within(box: _Box, other: _Box) -> bool:
    """Whether all that a box takes lies in what another one takes."""
    theirs = dict(zip(other.taken, other.inside, strict=True))
    return all(nodes <= theirs.get(page, set()) for page, nodes in zip(box.taken, box.inside, strict=True))


def _name(selector: str, text: str) -> str:
    """What a step is called: the mark of its box, and how it begins."""
    mark = selector.rpartition("#")[2].rpartition(".")[2].replace("-", " ").replace("_", " ")
    words = text.split()
    return f"{mark}: {' '.join(words[:5])}{' …' if len(words) > 5 else ''}"[:80]
