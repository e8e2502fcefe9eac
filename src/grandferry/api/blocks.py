"""The blocks of a body, to be changed by hand."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_html, to_text
from grandferry.work.refit.content import Lying
from grandferry.work.refit.preview import lying_blocks

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["refit"])
SHOWN_TEXT = 400  # characters of a block's words


class BlockRow(BaseModel):
    """A block as it was found (``found``, HTML; "" where there is none any more), and as it is with what a person laid
    over it: ``html``, ``text`` its words, ``type`` of its first block; ``after``: what follows it by hand. ``laid``: by
    the act the block that the edit names. ``hash`` is what an edit of it lies over."""

    id: str
    hash: str
    type: str
    text: str
    html: str
    found: str
    edited: bool
    dropped: bool
    after: str
    conflict: bool
    laid: dict[str, str]


@router.get("/bodies/{item:int}/{field}/blocks")
def lying_over(crossing: ThatCrossing, item: int, field: str) -> list[BlockRow]:
    """The blocks of a body, to be changed by hand (``edits``, by the id of a block)."""
    return [_lying(one) for one in lying_blocks(crossing.id, item, field)]


def _lying(one: Lying) -> BlockRow:
    found = (one.found,) if one.found is not None else ()
    shown = found if one.value is None else refit_html(one.value, mask=False, places=True).blocks
    return BlockRow(
        id=one.id,
        hash=one.hash,
        type=type(shown[0]).__name__ if shown else "",
        text=" ".join(to_text(shown).split())[:SHOWN_TEXT],
        html=to_html(found).strip() if one.value is None else one.value,
        found=to_html(found).strip(),
        edited=one.value is not None,
        dropped=one.dropped,
        after=one.after or "",
        conflict=one.odd,
        laid=one.laid,
    )
