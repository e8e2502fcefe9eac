"""Members of a group: what each of them holds, part by part; a part may be a group itself."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from typing import Any

from ..address import Scope
from ..base import base_of
from ..kinds import InnerPart, PartPlan
from ..page import HEADINGS, Node, Page, after, text_of
from ..refit.page import absolute, outermost
from ..refit.read import PageReader, make_reader
from ..refit.write import to_html
from .treatments import TreatmentFailed, treat
from .types import picture, typed
from .value import SAYS_ITS_WORDS

UPWARDS = 3  # holders of a member after which something may follow, where nothing does in them
_WHOLE = ("passage", "blocks")  # types that take all that is there


def members(
    page: Page, parts: Sequence[InnerPart], numbers: Sequence[int], base: str, scope: Scope
) -> tuple[list[dict[str, Any]], tuple[int, ...]]:
    """What the members (numbers of their nodes, in order) hold, those that hold nothing left out; and the nodes that
    it was read from."""
    heads = [page.nodes[n] for n in numbers]
    after: list[list[Node]] = [[] for _ in heads]
    if any(part.follows for part in parts):
        after = [what_follows(head, numbers) for head in heads]
    found: list[dict[str, Any]] = [{} for _ in heads]
    read: list[list[int]] = [[] for _ in heads]
    whole = [part for part in parts if part.type in _WHOLE and not part.css]
    readers = _Readers(page, base, scope, read)
    for part in (*(p for p in parts if p not in whole), *whole):
        picked = page.select(part.css) if part.css else []
        starts = [node.n for node in picked]
        for k, (head, follows) in enumerate(zip(heads, after, strict=True)):
            where = follows if part.follows else [head]
            if part.css:
                first = 0 if part.follows else 1  # a member does not stand in itself
                where = [
                    node
                    for top in where
                    for node in outermost(picked[bisect_left(starts, top.n + first) : bisect_right(starts, top.last)])
                ]
            value, nodes = _value(page, part, where, read[k], readers)
            found[k][part.name] = value
            if value is not None:
                read[k] += nodes
    kept = [k for k, said in enumerate(found) if any(value is not None for value in said.values())]
    order = [part.name for part in parts]
    return (
        [{name: found[k][name] for name in order} for k in kept],
        tuple(dict.fromkeys(n for k in kept for n in sorted(read[k]))),
    )


class _Readers:
    """A page's readers: one for all that stands there, one for what no other part was read from; each made when it is
    first asked for."""

    def __init__(self, page: Page, base: str, scope: Scope, read: Sequence[Sequence[int]]):
        self.own, self.base, self.scope = base, base_of(page, base, scope), scope
        self._page, self._read = page, read
        self._made: dict[bool, PageReader] = {}

    def html(self, nodes: Sequence[Node], rest: bool) -> str:
        if rest not in self._made:
            removed = frozenset(n for some in self._read for n in some) if rest else frozenset()
            self._made[rest] = make_reader(self._page, link=self.link, removed=removed)
        return to_html(tuple(self._made[rest].flow(nodes))).strip()

    def link(self, raw: str) -> str:
        return absolute(raw, self.base, self.scope, self.own)


def _rank(node: Node) -> int:
    """1 to 6 of a heading, the higher the smaller; 7 of anything else."""
    return int(node.tag[1]) if node.tag in HEADINGS else 7


def siblings_after(node: Node, elements: bool = False) -> Iterator[Node]:
    """The nodes beside one that come after it; ``elements``: without texts."""
    return (one for one in after(node) if one.tag or not elements)


def what_follows(head: Node, numbers: Sequence[int]) -> list[Node]:
    """What comes after a member up to the next one, or to a heading that stands above it."""
    rank = _rank(head)
    at: Node | None = head
    for _ in range(UPWARDS):
        if at is None or at.parent is None or at.tag == "body":
            break
        found: list[Node] = []
        for node in siblings_after(at):
            next_member = bisect_left(numbers, node.n)
            if next_member < len(numbers) and numbers[next_member] <= node.last:
                break
            if _rank(node) < rank:
                break
            found.append(node)
        if any(node.tag or node.text.strip() for node in found):
            return found
        at = at.parent
    return []


def _value(
    page: Page, part: InnerPart, where: Sequence[Node], read: Sequence[int], readers: _Readers
) -> tuple[Any, list[int]]:
    """A part's value in some places, in its type where it can be read as that, else as it stands; and the nodes that
    it was read from."""
    if not where:
        return None, []
    if isinstance(part, PartPlan) and part.type == "group":
        inner, of_inner = members(page, part.parts, [node.n for node in where if node.tag], readers.base, readers.scope)
        return inner or None, list(of_inner)
    if part.type == "blocks":
        own = not part.css and not part.follows  # the member stands for what is in it
        nodes = [child for node in where for child in node.children] if own else list(where)
        return readers.html(nodes, rest=own) or None, [node.n for node in _pieces(where, read if own else ())]
    if part.type == "passage" and not part.css:
        pieces = _pieces(where, read)
        texts = [line for node in pieces if (line := text_of(page, node).strip())]
        return "\n".join(texts) or None, [node.n for node in pieces]
    node = where[0]
    if part.type == "picture":
        return picture(page, node.n, readers.base, readers.scope), [node.n]
    raw = node.get(part.attribute) if part.attribute else text_of(page, node)
    if not part.attribute and (part.type == "passage" or (part.follows and not part.css)):
        raw = "\n".join(line for one in where if (line := text_of(page, one).strip()))
    if not raw.strip():
        return None, []
    if part.attribute and part.attribute not in SAYS_ITS_WORDS:
        numbers = []  # the words of the element do not go over with it
    else:
        numbers = [one.n for one in where] if part.type == "passage" else [node.n]
    if part.type == "link":
        return readers.link(raw.strip()), numbers
    try:
        return typed(part.type, [treat(raw, part.treat)])[0], numbers
    except TreatmentFailed:
        return raw.strip(), numbers


def _pieces(where: Sequence[Node], read: Sequence[int]) -> list[Node]:
    """The largest nodes in some places that nothing else was read from."""
    had = set(read)
    found: list[Node] = []

    def look(node: Node) -> None:
        if node.n in had:
            return
        if any(node.n < n <= node.last for n in had):
            for child in node.children:
                look(child)
        else:
            found.append(node)

    for node in where:
        look(node)
    return found
