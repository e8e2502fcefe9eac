"""Bodies as they go over: the blocks that were refitted, with what a person changed in them."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

from grandferry.core.plan import Edit
from grandferry.core.refit.blocks import Block
from grandferry.core.refit.body import Body, Change, body_from_json, changed, placed_of
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.page import linker
from grandferry.store import bodies, edits, lift, refit


def stored_body(name: str) -> Body:
    """A refitted body by the hash it is kept under."""
    return body_from_json(json.loads(bodies.get(name)))


def as_change(edit: Edit, base: str) -> Change:
    """An edit of a body as a change of its blocks; what was written in HTML is read as a page's is, keys
    in it left as a person wrote them. ``base``: the old page's address, to which its links are joined. Raises
    UnreadablePage."""
    written = edit.value if isinstance(edit.value, str) else ""
    blocks = refit_html(written, link=linker(base), mask=False, places=True).blocks if written else ()
    nowhere = tuple(replace(block, node=-1) for block in blocks)  # they stand on no captured page
    return Change(edit.block, edit.act, nowhere, edit.over)


def finished(body: Body, mine: Sequence[Edit], base: str) -> tuple[tuple[Block, ...], list[Change]]:
    """(the blocks that go over, the changes that no longer fit what lies under them)."""
    return changed(body, [as_change(edit, base) for edit in mine])


class Lying(NamedTuple):
    """A block of a body as it was found, and what a person laid over it: another text (``value``, HTML), nothing at all
    (``dropped``), something after it (``after``, HTML). ``laid``: by the act the block that the edit names, which is
    another one when the block has moved since. What lies over no block any more has no ``found``, and is ``odd``."""

    id: str
    found: Block | None
    hash: str
    value: str | None
    dropped: bool
    after: str | None
    odd: bool
    laid: dict[str, str]


def lying(body: Body, mine: Sequence[Edit]) -> list[Lying]:
    """The blocks of a body in their order, then what lies over none of them."""
    over: dict[str, dict[str, Edit]] = {}
    adrift: dict[str, dict[str, Edit]] = {}
    for edit in mine:
        if edit.block:
            at = placed_of(body, Change(edit.block, edit.act, (), edit.over))
            (over if at else adrift).setdefault(at or edit.block, {})[edit.act] = edit
    made = [_lying(one.id, one.block, one.hash, over.get(one.id, {})) for one in body.blocks]
    return made + [_lying(block, None, "", acts) for block, acts in adrift.items()]


def _lying(id_: str, found: Block | None, hash_: str, acts: Mapping[str, Edit]) -> Lying:
    said = {act: str(edit.value) for act, edit in acts.items() if act != "drop"}
    laid = {act: edit.block for act, edit in acts.items()}
    return Lying(id_, found, hash_, said.get("set"), "drop" in acts, said.get("after"), found is None, laid)


def odd_edits(crossing: int) -> set[edits.Key]:
    """The edits of blocks that no longer fit their body as it was refitted."""
    odd: set[edits.Key] = set()
    by_body: dict[tuple[str, str], list[Edit]] = {}
    for edit in edits.edits(crossing):
        if edit.block:
            by_body.setdefault((edit.old, edit.field), []).append(edit)
    if not by_body:
        return odd
    made = lift.made(crossing)
    stored = refit.blocks_of(crossing)
    for (old, field), mine in by_body.items():
        name = stored.get(made[old].item, {}).get(field) if old in made else None
        if name is None:
            continue
        _, unfit = changed(stored_body(name), [Change(e.block, e.act, (), e.over) for e in mine])
        unfit_keys = {(change.block, change.act) for change in unfit}
        odd.update(edits.key_of(edit) for edit in mine if (edit.block, edit.act) in unfit_keys)
    return odd
