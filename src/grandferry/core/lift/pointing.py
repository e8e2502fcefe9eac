"""From a node somebody pointed at to a selector that finds it, by the plainest mark that tells it apart."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Collection, Iterator, Sequence

from ..page import Node, Page

_PLAIN = re.compile(r"[A-Za-z][\w-]*\Z")
_TAG = re.compile(r"[a-z][a-z0-9-]*\Z")
_NUMBERED = re.compile(r"\d{2,}|^(?:js|is|has)-")
REACH = 6  # how far up a mark may stand


def tag_of(node: Node) -> str:
    """How a selector names an element by its tag: ``*`` for those whose tag it cannot spell (``o:p``)."""
    return node.tag if _TAG.match(node.tag) else "*"


def generated(name: str) -> bool:
    """Whether a name of an element looks made by a program."""
    return _NUMBERED.search(name) is not None


def own_marks(node: Node, any_name: bool = False, known: Collection[str] = ()) -> Iterator[str]:
    """The ways to name an element by its own id and classes, the steadiest first; those that look generated only where
    they are ``known`` from other pages, or with ``any_name``, where somebody else sees to it that they hold there."""
    name = node.get("id")
    if _PLAIN.match(name) and (any_name or not generated(name) or name in known):
        yield f"#{name}"
    for word in node.classes:
        if _PLAIN.match(word) and (any_name or not generated(word) or word in known):
            yield f"{tag_of(node)}.{word}"


def known_names(pages: Sequence[Page]) -> frozenset[str]:
    """The names that look generated, and stand on several pages: they are made once for all of them."""
    on = Counter(
        name
        for page in pages
        for name in {one for node in page.nodes if node.attrs for one in (node.get("id"), *node.classes)}
        if generated(name)
    )
    return frozenset(name for name, number in on.items() if number > 1)


def _marks(node: Node) -> Iterator[str]:
    """The ways to name an element by itself, the steadiest first; its bare name at the end."""
    yield from own_marks(node)
    yield tag_of(node)


def _nth(node: Node) -> str:
    if tag_of(node) == "*":
        beside = [n for n in (node.parent.children if node.parent else []) if n.tag]
        return f"*:nth-child({beside.index(node) + 1})" if node in beside else "*"
    siblings = [n for n in (node.parent.children if node.parent else []) if n.tag == node.tag]
    return node.tag if len(siblings) < 2 else f"{node.tag}:nth-of-type({siblings.index(node) + 1})"


def selector_of(page: Page, number: int) -> str:
    """A CSS selector that finds the element with that number and nothing else on the page, as plain as can be; with
    positions when nothing else tells it apart. A text stands for its element. Raises IndexError for no such node."""
    node = page.nodes[number]
    if not node.tag and node.parent is not None:
        node = node.parent

    def alone(selector: str) -> bool:
        return [n.n for n in page.select(selector)] == [node.n]

    own = list(_marks(node))
    for mark in own:
        if alone(mark):
            return mark
    above: list[Node] = []
    holder = node.parent
    while holder is not None and holder.tag not in ("html", "body") and len(above) < REACH:
        above.append(holder)
        holder = holder.parent
    for up in above:
        for outer in list(_marks(up))[:-1]:
            for mark in own:
                if alone(f"{outer} {mark}"):
                    return f"{outer} {mark}"
    path = [_nth(node)]
    holder = node.parent
    while holder is not None and holder.tag != "html":
        marked = next((m for m in list(_marks(holder))[:-1] if len(page.select(m)) == 1), "")
        if marked:
            return " > ".join([marked, *reversed(path)])
        path.append(_nth(holder))
        holder = holder.parent
    return " > ".join(reversed(path))
