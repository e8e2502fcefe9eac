"""Lists that are written as paragraphs: each begins with a bullet, or office programs say that it is an item.

Texts that the list's own mark stands for now are kept with the item, so that the account knows where they went.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from ...page import Node, Page
from ..blocks import Anchor, Block, Break, Inline, Link, List, ListItem, Paragraph, Styled, Text

BULLETS = "•‣◦▪▫●○■□▸►▶➢➤➔✓✔❖⁃∙"
_BULLET = re.compile(rf"[{BULLETS}][ \u00a0\t]*")
_DOT = re.compile(r"·[ \u00a0\t]+")  # also used within words and numbers, so a blank must follow
_LEVEL = re.compile(r"mso-list:\s*l(\d+)\s+level(\d+)", re.I)
_NUMBERED = re.compile(r"[(]?(?:\d{1,3}|[a-zA-Z]|[ivxIVX]{1,6})[.)]?\s*\Z")
LEAST = 2  # paragraphs in a row; one alone is a paragraph


@dataclass(frozen=True, slots=True)
class _Item:
    """A paragraph that is an item: its level (1 outermost), whether it is numbered, what it says, its mark."""

    level: int
    ordered: bool
    content: tuple[Inline, ...]
    mark: tuple[Text, ...]
    node: int


def gathered(blocks: list[Block], page: Page, office: bool) -> list[Block]:
    """Blocks with runs of paragraphs that are items as lists."""
    if not office and not any(_may_be(block) for block in blocks):
        return blocks
    found = [_item(block, page, office) for block in blocks]
    if not any(found):
        return blocks
    out: list[Block] = []
    at = 0
    while at < len(blocks):
        if (first := found[at]) is None:
            out.append(blocks[at])
            at += 1
            continue
        end = at
        run: list[_Item] = []
        while end < len(blocks) and (item := found[end]) is not None:
            run += item
            end += 1
        if len(run) >= LEAST or first[0].level > 1 or _said_so(blocks[at], page, office):
            out.extend(_lists(run))
        else:
            out.extend(blocks[at:end])
        at = end
    return out


_FIRST = frozenset(BULLETS + "·")


def _may_be(block: Block) -> bool:
    """Whether a block may begin with a bullet."""
    if type(block) is not Paragraph:
        return False
    first: Any = block.content[0]
    while type(first) is Styled or type(first) is Link:
        first = first.content[0] if first.content else None
    return type(first) is Anchor or (type(first) is Text and first.text[:1] in _FIRST)


def _said_so(block: Block, page: Page, office: bool) -> bool:
    return office and isinstance(block, Paragraph) and _office_level(block, page) is not None


def _item(block: Block, page: Page, office: bool) -> list[_Item] | None:
    """The items that a paragraph is: one, or one for each line of it."""
    if not isinstance(block, Paragraph):
        return None
    said = _office_level(block, page) if office else None
    if said is not None:
        return [_office_item(block, said)]
    lines = _lines(block.content)
    items = []
    for line in lines:
        cut = _without_bullet(line)
        if cut is None:
            return None
        items.append(_Item(1, False, cut[0], cut[1], block.node))
    return items


def _lines(content: tuple[Inline, ...]) -> list[tuple[Inline, ...]]:
    lines: list[list[Inline]] = [[]]
    for piece in content:
        if isinstance(piece, Break):
            lines.append([])
        else:
            lines[-1].append(piece)
    return [tuple(line) for line in lines]


def _without_bullet(line: tuple[Inline, ...]) -> tuple[tuple[Inline, ...], tuple[Text, ...]] | None:
    """A line without the bullet it begins with, and that; None where it begins with none, or says nothing else."""
    at = 0
    while at < len(line) and isinstance(line[at], Anchor):
        at += 1
    if at == len(line):
        return None
    first = line[at]
    if isinstance(first, Styled | Link):
        alone = first.content[0] if len(first.content) == 1 else None
        if isinstance(alone, Text) and alone.text.strip("· \u00a0") == "" and "·" in alone.text:
            return _without_bullet((*line[:at], alone, *line[at + 1 :]))
        inner = _without_bullet(first.content)
        if inner is None:
            if isinstance(alone, Text) and _BULLET.fullmatch(alone.text):
                return _without_bullet((*line[:at], alone, *line[at + 1 :]))
            return None
        rest: tuple[Inline, ...] = (replace(first, content=inner[0]),) if inner[0] else ()
        return (*line[:at], *rest, *line[at + 1 :]), inner[1]
    if not isinstance(first, Text):
        return None
    after = line[at + 1] if at + 1 < len(line) else None
    apart = first.text == "·" and isinstance(after, Text) and after.text[:1] in (" ", "\u00a0")
    match = _BULLET.match(first.text) or _DOT.match(first.text) or (re.match("·", first.text) if apart else None)
    if match is None:
        return None
    left = first.text[match.end() :]
    mark = Text(match[0], first.node)
    kept: list[Inline] = list(line[at + 1 :])
    if left:
        kept.insert(0, replace(first, text=left))
    else:
        while kept and isinstance(kept[0], Text) and not kept[0].text.strip():
            kept.pop(0)
        if kept and isinstance(head := kept[0], Text):
            kept[0] = replace(head, text=head.text.lstrip(" \u00a0"))
    return ((*line[:at], *kept), (mark,)) if kept else None


def _office_level(block: Paragraph, page: Page) -> tuple[int, int] | None:
    """(list, level) of a paragraph that an office program wrote as an item."""
    node: Node | None = page.nodes[block.node] if 0 <= block.node < len(page.nodes) else None
    while node is not None and node.tag not in ("p", "li", "div", "h1", "h2", "h3", "h4", "h5", "h6", "td", "body"):
        node = node.parent
    if node is None or node.tag != "p":
        return None
    match = _LEVEL.search(node.get("style"))
    return (int(match[1]), int(match[2])) if match else None


def _office_item(block: Paragraph, said: tuple[int, int]) -> _Item:
    """A paragraph with the mark that an office program wrote into it taken off: a bullet, a letter or a number, in a
    part of its own, and the blanks after it."""
    content = list(block.content)
    marks: list[Text] = []
    ordered = False
    at = sum(1 for piece in content[:3] if isinstance(piece, Anchor))
    first = content[at] if at < len(content) else None
    if isinstance(first, Text):
        head_text, blank, rest = _split_mark(first.text)
        if blank:
            marks.append(Text(head_text, first.node))
            ordered = bool(re.search(r"\w", head_text)) and head_text.strip() not in ("o", "§", "Ø", "ü", "v")
            if rest:
                content[at] = replace(first, text=rest)
            else:
                del content[at]
        while at < len(content) and isinstance(head := content[at], Text) and not head.text.strip(" \u00a0"):
            del content[at]
    return _Item(said[1], ordered, tuple(content), tuple(marks), block.node)


def _split_mark(text: str) -> tuple[str, str, str]:
    """(mark, blanks after it, the rest); no blanks where it begins with no mark."""
    match = re.match(r"([^\s\u00a0]{1,6})([\s\u00a0]+|\Z)", text)
    if match is None:
        return "", "", text
    mark = match[1]
    if len(mark) == 1 and not mark.isalnum() or mark in ("o", "§", "Ø", "ü", "v") or _NUMBERED.match(mark):
        return match[0], match[2] or " ", text[match.end() :]
    return "", "", text


def _lists(run: Sequence[_Item]) -> list[Block]:
    """Items as lists, those of a deeper level in the item before them."""
    made, _ = _nested(run, 0, min(item.level for item in run))
    return made


def _nested(run: Sequence[_Item], at: int, level: int) -> tuple[list[Block], int]:
    lists: list[Block] = []
    items: list[ListItem] = []
    ordered = run[at].ordered
    node = run[at].node

    def close() -> None:
        if items:
            lists.append(List(ordered, tuple(items), 1, node))
            items.clear()

    while at < len(run) and run[at].level >= level:
        one = run[at]
        if one.level > level and items:
            inner, at = _nested(run, at, one.level)
            items[-1] = replace(items[-1], blocks=(*items[-1].blocks, *inner))
            continue
        if one.ordered != ordered:
            close()
            ordered, node = one.ordered, one.node
        items.append(ListItem((Paragraph(one.content, one.node),), None, one.node, None, one.mark))
        at += 1
    close()
    return lists, at
