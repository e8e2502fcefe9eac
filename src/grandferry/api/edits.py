"""What a person sets by hand over what was found: listed, set, taken back; conflicts settled."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.errors import FerryError
from grandferry.core.plan import Edit
from grandferry.store import changes, edits
from grandferry.store.db import now
from grandferry.work.refit.content import odd_edits

from .common import ThatCrossing
from .plan import Revision, Who

router = APIRouter(prefix="/crossings/{crossing:int}/edits", tags=["lift"])


class EditRow(Edit):
    """An edit and how it lies: ``item`` 0 when none is made of its page, ``conflict`` when what is under it has
    changed."""

    item: int
    kind: str
    address: int
    conflict: bool


class EditKey(BaseModel):
    """Which edit is meant."""

    old: str
    field: str
    block: str = ""
    act: str = "set"


class EditsChange(BaseModel):
    """Edits to set and to take away as one change. An edit without ``over`` is laid over what is there now."""

    set: list[Edit] = Field([], max_length=5000)
    drop: list[EditKey] = Field([], max_length=5000)
    text: str = Field("set by hand", max_length=300)


@router.get("")
def list_edits(crossing: ThatCrossing) -> list[EditRow]:
    """Everything that was set by hand, in order of the old keys."""
    odd = odd_edits(crossing.id)
    return [
        EditRow(
            **laid.edit.model_dump(),
            item=laid.item,
            kind=laid.kind,
            address=laid.address,
            conflict=laid.conflict or edits.key_of(laid.edit) in odd,
        )
        for laid in edits.laid(crossing.id)
    ]


@router.post("")
def set_edits(wanted: EditsChange, crossing: ThatCrossing, by: Who) -> Revision:
    """Set and take away edits as one change that can be taken back."""
    if not wanted.set and not wanted.drop:
        raise FerryError("No edit is given, so nothing was changed.")
    at = now()
    made = []
    for edit in wanted.set:
        over = edit.over or ("" if edit.block else edits.lies_over(crossing.id, edit.old, edit.field))
        made.append(edit.model_copy(update={"by": edit.by or by, "at": edit.at or at, "over": over}))
    drop = [(key.old, key.field, key.block, key.act) for key in wanted.drop]
    number = changes.change_edits(crossing.id, made, drop, by, wanted.text)
    return Revision(revision=number)
