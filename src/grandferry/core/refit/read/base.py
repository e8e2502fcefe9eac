"""What a rule of the chain sees of the reader: all that it may ask, and nothing of how it is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, Protocol

from ...page import Node, Page
from ..blocks import Anchor, Block, Inline, Text
from .evidence import Evidence


class Wrap(NamedTuple):
    """What an element around blocks lays around every line in them; ``link``: it is a link, which reaches into
    tables."""

    lay: Callable[[tuple[Inline, ...]], tuple[Inline, ...]]
    link: bool = False


class TableInDoubt(NamedTuple):
    """A table of which the evidence does not say enough."""

    node: int
    seen: Evidence


@dataclass(frozen=True, slots=True)
class Calls:
    """The footnotes of a page: each link that calls one -> (the note's name, the place that the note leads back to);
    each element that holds one -> (its name, the places that call it)."""

    calls: dict[int, tuple[str, str]] = field(default_factory=dict)
    notes: dict[int, tuple[str, tuple[str, ...]]] = field(default_factory=dict)


class Reader(Protocol):
    """``link`` makes an href or src absolute or leaves it; ``removed`` are the nodes (with all inside them) that a step
    takes out; ``claimed`` were read already by a rule that looked ahead; ``in_code`` is above 0 within code;
    ``treated``: what steps say that an element is; ``doubts``: the tables of which it is in doubt;
    ``switches``: the elements that may switch another one, ``tab_rows`` those that may be rows of tabs, in order."""

    page: Page
    link: Callable[[str], str]
    removed: frozenset[int]
    wraps: list[Wrap]
    in_code: int
    claimed: set[int]
    treated: Mapping[int, str]
    doubts: list[TableInDoubt]
    footnotes: Calls
    switches: list[int]
    tab_rows: list[int]

    def holds(self, numbers: list[int], node: Node) -> bool:
        """Whether one of these nodes is this one, or stands in it."""
        ...

    def flow(self, children: Sequence[Node]) -> list[Block]:
        """The blocks of a run of sibling nodes."""
        ...

    def block(self, node: Node) -> Sequence[Block]:
        """The blocks of one element that is not part of a line."""
        ...

    def inside(self, node: Node) -> list[Block]:
        """The blocks within a part that has a place of its own (an item, a cell, a meaning), its anchor first."""
        ...

    def inline(self, node: Node, out: list[Inline]) -> None:
        """Append the inline content of one node to ``out``."""
        ...

    def inline_children(self, node: Node, out: list[Inline]) -> None:
        """Append the inline content of all that a node holds."""
        ...

    def line(self, node: Node) -> tuple[Inline, ...]:
        """All content of an element as one line (for headings, captions, terms)."""
        ...

    def named_line(self, node: Node) -> tuple[Inline, ...]:
        """The same, its own anchor first."""
        ...

    def laid(self, content: tuple[Inline, ...]) -> tuple[Inline, ...]:
        """A line with what the elements around it lay around every line in them."""
        ...

    def raw_inline(self, node: Node) -> Inline:
        """An element as raw markup within a line."""
        ...

    def words(self, node: Node) -> tuple[Text, ...]:
        """The texts a visitor sees in an element, for the account of islands."""
        ...

    def anchor(self, node: Node) -> Anchor | None:
        """The node's id or name, when a link of the crossing leads to it."""
        ...


class Rule(Protocol):
    """A module of the chain."""

    TAGS: frozenset[str]

    def read(self, node: Node, reader: Reader) -> Sequence[Block] | None:
        """The blocks of one element, or None to let the next rule try."""
        ...
