"""A small drawing of a make: the regions, headings, texts, tables, lists, pictures and forms that the pages of a group
share, as they follow each other on one of its pages."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from enum import StrEnum

from selectolax.lexbor import LexborNode

from ..page import INLINE, INVISIBLE
from .make import place_traits, step

MOST = 40  # strokes of a drawing
DEEPEST = 60
LONGEST = 6  # strokes of one sort in a row that are told apart
_UNDRAWN = INVISIBLE - {"audio", "video", "object", "iframe"} | {"br", "hr", "wbr", "input", "noscript"}


class Stroke(StrEnum):
    """What is drawn: something that holds others, one of them below the other or beside it, or one of the rest."""

    BOX = "box"
    ROW = "row"
    HEADING = "heading"
    TEXT = "text"
    LIST = "list"
    TABLE = "table"
    PICTURE = "picture"
    FORM = "form"
    MEDIA = "media"


_LEAVES = {
    **dict.fromkeys(("h1", "h2", "h3", "h4", "h5", "h6"), Stroke.HEADING),
    **dict.fromkeys(("ul", "ol", "dl", "menu"), Stroke.LIST),
    **dict.fromkeys(("img", "figure", "picture", "svg", "map"), Stroke.PICTURE),
    **dict.fromkeys(("video", "audio", "object", "iframe", "embed", "canvas"), Stroke.MEDIA),
    **dict.fromkeys(("p", "pre", "blockquote", "address"), Stroke.TEXT),
    "form": Stroke.FORM,
}
_LAID_OUT = frozenset("table div h1 h2 p ul img form".split())  # in a cell they say that the table only lays out


@dataclass(slots=True)
class Drawn:
    """``times``: how many follow each other; ``own``: it is the group's own, not what all pages share."""

    what: Stroke
    own: bool = False
    times: int = 1
    parts: list[Drawn] = field(default_factory=list)


def draw(body: LexborNode, shared: Collection[int], furniture: Collection[int]) -> Drawn:
    """Draw one page of a group. ``shared``: traits that the group's pages share, ``furniture``: that all pages do."""
    left = [MOST]
    return Drawn(Stroke.BOX, parts=_parts(body, 0, shared, furniture, 0, left))


def _parts(
    node: LexborNode, place: int, shared: Collection[int], furniture: Collection[int], depth: int, left: list[int]
) -> list[Drawn]:
    found: list[Drawn] = []
    if depth > DEEPEST:
        return found
    for kid in node.iter():
        tag = kid.tag or ""
        here = step(tag, place)
        traits = place_traits(here)
        if left[0] <= 0 or tag in _UNDRAWN or not (traits[0] in shared or traits[1] in shared):
            continue
        own = traits[0] not in furniture and traits[1] not in furniture
        leaf = _LEAVES.get(tag)
        if tag == "table" and not _lays_out(kid):
            leaf = Stroke.TABLE
        if leaf is None and tag in INLINE:
            leaf = Stroke.PICTURE if kid.css_first("img") is not None else Stroke.TEXT
        if leaf is not None:
            _add(found, Drawn(leaf, own), left)
            continue
        inner = _parts(kid, here, shared, furniture, depth + 1, left)
        if not inner:
            if (kid.text(deep=False) or "").strip():
                _add(found, Drawn(Stroke.TEXT, own), left)
        elif tag == "tr" and len(inner) > 1:
            _add(found, Drawn(Stroke.ROW, own, parts=inner), left)
        elif len(inner) == 1:
            _add(found, inner[0], left)
        else:
            _add(found, Drawn(Stroke.BOX, own, parts=inner), left)
    return found


def _add(found: list[Drawn], one: Drawn, left: list[int]) -> None:
    last = found[-1] if found else None
    if last is not None and (last.what, last.own, last.parts) == (one.what, one.own, one.parts):
        last.times = min(LONGEST, last.times + 1)
        return
    found.append(one)
    left[0] -= not one.parts


def _lays_out(table: LexborNode) -> bool:
    return any(node.tag in _LAID_OUT for cell in table.css("td") for node in cell.iter())
