"""What a table is for: its evidence that it holds data, or that it only arranges parts of the page.

Each observation weighs for one or the other; the sum decides, and says how sure that is. So a header cell alone makes
no table of data (old pages head a box with one), and a missing one none of layout.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from statistics import median

from ...page import Node, Page

SURE = 1.5  # a sum closer to zero is in doubt


class Sign(StrEnum):
    """An observation on a table."""

    ROLE = "role"  # it says that it is for presentation
    ALONE = "alone"  # one cell
    CAPTION = "caption"
    HEADS = "heads"  # a row or column of header cells
    SCOPE = "scope"  # cells say what they are headers of
    LABELS = "labels"  # a short word before each value
    TITLE = "title"  # one header cell over all columns
    SHORT = "short"  # few cells side by side, with nothing but short texts
    STRAY_HEAD = "stray_head"  # header cells that head no row or column
    RULES = "rules"  # lines around its cells
    GRID = "grid"  # many short cells of like length
    NESTED = "nested"  # a table in a cell
    BLOCKS = "blocks"  # headings, rules, forms or lists of blocks in cells
    PARAGRAPHS = "paragraphs"  # cells of several paragraphs
    LONG = "long"  # a cell of running text beside short or empty ones
    NARROW = "narrow"  # one row
    COLUMN = "column"  # one column
    WIDTHS = "widths"  # widths set for columns, without lines
    EMPTY = "empty"  # cells that hold nothing but space or a picture


# positive: data; negative: layout
WEIGHTS: dict[Sign, float] = {
    Sign.CAPTION: 3,
    Sign.HEADS: 3,
    Sign.SCOPE: 2,
    Sign.RULES: 1,
    Sign.GRID: 2.5,
    Sign.SHORT: 1.5,
    Sign.STRAY_HEAD: -1,
    Sign.NESTED: -3,
    Sign.BLOCKS: -2,
    Sign.PARAGRAPHS: -1,
    Sign.LONG: -2,
    Sign.NARROW: -1,
    Sign.COLUMN: -2,
    Sign.LABELS: 2.5,
    Sign.TITLE: 1,
    Sign.WIDTHS: -0.5,
    Sign.EMPTY: -1,
}
_HEAVY = frozenset("h1 h2 h3 h4 h5 h6 hr form fieldset article section main nav".split())
_PARTS = frozenset(["p", "ul", "ol", "dl", "blockquote", "pre", "div"])
_LONG = 40  # words: running text
_SHORT = 12  # words: a value
_LABEL = 5  # words: what a value is called
_FILLED = frozenset(["input", "select", "textarea", "button"])  # a picture alone says no more than an empty cell


@dataclass(frozen=True, slots=True)
class Evidence:
    """Whether a table only arranges, how sure that is (the sum of the weights, above 0 for data), and what was
    seen."""

    layout: bool
    weight: float
    signs: tuple[Sign, ...]

    @property
    def doubtful(self) -> bool:
        return abs(self.weight) < SURE


def rows_of(table: Node) -> Iterator[Node]:
    """The rows of a table itself, its head first and its foot last, wherever they are written."""
    feet: list[Node] = []
    for child in table.children:
        if child.tag == "tr":
            yield child
        elif child.tag == "tfoot":
            feet.extend(row for row in child.children if row.tag == "tr")
        elif child.tag in ("thead", "tbody"):
            yield from (row for row in child.children if row.tag == "tr")
    yield from feet


def cells_of(row: Node) -> list[Node]:
    return [cell for cell in row.children if cell.tag in ("td", "th")]


def evidence(table: Node, page: Page) -> Evidence:
    """What is seen of a table."""
    role = table.get("role").lower()
    if role in ("presentation", "none"):
        return Evidence(True, -99.0, (Sign.ROLE,))
    rows = [row for row in map(cells_of, rows_of(table)) if row]
    if sum(map(len, rows)) <= 1:
        return Evidence(True, -99.0, (Sign.ALONE,))
    if role in ("table", "grid", "treegrid"):
        return Evidence(False, 99.0, (Sign.ROLE,))
    signs = list(_signs(table, rows, page))
    weight = sum(WEIGHTS[sign] for sign in signs)
    return Evidence(weight < 0, weight, tuple(signs))


def _signs(table: Node, rows: list[list[Node]], page: Page) -> Iterator[Sign]:
    cells = [cell for row in rows for cell in row]
    if any(child.tag == "caption" for child in table.children):
        yield Sign.CAPTION
    yield from _heads(rows, cells)
    ruled = table.get("border") not in ("", "0") or "border" in table.get("style").replace("border:0", "")
    if ruled:
        yield Sign.RULES
    said = [_Said(cell, page) for cell in cells]
    if any(one.nested for one in said):
        yield Sign.NESTED
    if any(one.heavy for one in said):
        yield Sign.BLOCKS
    if sum(one.parts > 1 for one in said) * 2 > len(said):
        yield Sign.PARAGRAPHS
    sizes = [one.words for one in said]
    width = max(map(len, rows))
    longest, middle = max(sizes), median(sizes)
    if longest >= _LONG and (middle * 4 < longest or len(rows) == 1):
        yield Sign.LONG
    if width == 1:
        yield Sign.COLUMN
    elif len(rows) == 1:
        yield Sign.NARROW
    elif _labelled(rows, said):
        yield Sign.LABELS
    if width > 1 and len(rows) > 2 and longest < _LONG and sum(s <= _SHORT for s in sizes) * 5 >= 4 * len(sizes):
        yield Sign.GRID
    elif width > 1 and longest < _LONG and not any(one.parts for one in said):
        yield Sign.SHORT
    if not ruled and any(cell.get("width") for cell in cells):
        yield Sign.WIDTHS
    empty = sum(one.empty for one in said)
    if empty and (empty * 3 >= len(said) or len(rows) <= 2):
        yield Sign.EMPTY


def _heads(rows: list[list[Node]], cells: list[Node]) -> Iterator[Sign]:
    heads = [cell for cell in cells if cell.tag == "th"]
    if not heads:
        return
    if any(cell.get("scope") or cell.get("headers") for cell in cells):
        yield Sign.SCOPE
    width = max(map(len, rows))
    first = rows[0]
    top = width > 1 and len(first) > 1 and all(c.tag == "th" or not c.children for c in first) and len(rows) > 1
    tall = [row for row in rows if len(row) > 1]
    side = len(tall) > 1 and sum(row[0].tag == "th" for row in tall) * 2 > len(tall)
    lone = width == 1 and len(rows) > 2 and first[0].tag == "th"
    title = len(first) == 1 and first[0].tag == "th" and first[0].get("colspan") not in ("", "1")
    yield Sign.HEADS if top or side or lone else Sign.TITLE if title else Sign.STRAY_HEAD


def _labelled(rows: list[list[Node]], said: list[_Said]) -> bool:
    """Whether the rows that have several cells begin with a short text each."""
    at, labels = 0, []
    for row in rows:
        if len(row) > 1:
            labels.append(said[at])
        at += len(row)
    good = [one for one in labels if 0 < one.words <= _LABEL and not one.parts and not one.heavy]
    return len(labels) > 1 and len(good) * 5 >= 4 * len(labels)


class _Said:
    """What a cell holds: words, whether another table, heavy blocks, how many parts, nothing at all."""

    __slots__ = ("words", "nested", "heavy", "parts", "empty")

    def __init__(self, cell: Node, page: Page):
        self.words, self.nested, self.heavy, filled = 0, False, False, False
        for node in page.inside(cell)[1:]:
            tag = node.tag
            if not tag:
                self.words += len(node.text.split()) if node.visible else 0
            elif tag == "table":
                self.nested = True
            elif tag in _HEAVY:
                self.heavy = True
            elif tag in _FILLED:
                filled = True
        self.parts = sum(child.tag in _PARTS for child in cell.children)
        self.empty = not self.words and not filled
