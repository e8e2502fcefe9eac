"""What clean-up steps take out of a page, as one part each: what it says and where it leads, so that the same part is
known again on other pages, and read once for all of them."""

from __future__ import annotations

import hashlib
from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from ..kinds import Step
from ..page import Node, Page, text_of
from ..references import references
from .blocks import Block
from .page import outermost
from .read import make_reader

SAID = 12  # words in which two versions differ that are told


class Taken(NamedTuple):
    """A part on a page: a 63-bit hash of its words and of the addresses in it, and how many words it has."""

    version: int
    words: int


def taken(page: Page, removed: Mapping[int, str], link: Callable[[str], str]) -> dict[str, Taken]:
    """The part that each step takes; ``removed``: number of each element that a step finds -> the step's name;
    ``link``: gives the address of a reference, whatever the page writes for it."""
    nodes: dict[str, list[Node]] = defaultdict(list)
    for number, step in sorted(removed.items()):
        nodes[step].append(page.nodes[number])
    return {step: _taken(page, outermost(found), link) for step, found in nodes.items()}


def _taken(page: Page, nodes: Sequence[Node], link: Callable[[str], str]) -> Taken:
    digest, words = hashlib.blake2b(digest_size=8), 0
    for node in nodes:
        for inner in page.inside(node):
            if inner.tag:
                said = " ".join(link(reference.raw) for reference in references(inner.tag, inner.attrs))
            else:
                said = " ".join(inner.text.split()) if inner.visible else ""
                words += len(said.split())
            if said:
                digest.update(said.encode("utf-8", "surrogatepass") + b"\n")
    return Taken(int.from_bytes(digest.digest(), "big") >> 1, words)


def part_of(page: Page, step: Step) -> list[Node]:
    """Where a step finds its part on a page: the outermost elements."""
    return outermost(page.select(step.finds)) if step.finds else []


def read_part(page: Page, step: Step, link: Callable[[str], str]) -> tuple[Block, ...]:
    """The part as blocks, read as a body is."""
    reader = make_reader(page, link=link, removed=frozenset())
    return tuple(block for node in part_of(page, step) for block in reader.flow([node]))


def words_of(page: Page, step: Step) -> Counter[str]:
    """The words of the part, each as often as it is there."""
    return Counter(word for node in part_of(page, step) for word in text_of(page, node).split())


def apart(one: Counter[str], other: Counter[str]) -> tuple[str, str]:
    """The first words that only one version has, and that only the other has."""
    more, less = (" ".join(list((a - b).elements())[:SAID]) for a, b in ((one, other), (other, one)))
    return more, less
