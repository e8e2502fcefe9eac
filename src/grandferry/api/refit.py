"""Bodies as blocks: totals, each body in all its forms, constructs, and what each step takes."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel

from grandferry.core.refit.blocks import from_json, to_json, walk
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.store import bodies, crossings, lift, refit
from grandferry.store.db import rows
from grandferry.work.preview import body_blocks, body_texts

from .common import Limit, Offset, ThatCrossing, Window
from .signing import sign

router = APIRouter(prefix="/crossings/{crossing}", tags=["refit"])
BLOCKS_COUNTED = 5000  # bodies whose constructs are counted


class RefitTotals(BaseModel):
    bodies: int
    words: int
    in_blocks: int
    in_islands: int
    unaccounted: int
    worst: list[dict[str, Any]]


class BodyRow(BaseModel):
    item: int
    address: int
    kind: str
    key: str
    title: str
    new_path: str
    field: str
    words: int
    in_blocks: int
    in_islands: int
    unaccounted: int
    removed: int


class BodyDetail(BaseModel):
    """A body in all its forms, its account, and the leave to preview the old page and the new one."""

    item: int
    address: int
    key: str
    title: str
    new_path: str
    field: str
    markdown: str
    html: str
    blocks: Any
    old_text: str
    new_text: str
    account: dict[str, Any]
    old_preview: str
    new_preview: str


class Construct(BaseModel):
    name: str
    count: int
    bodies: int
    example: int


class StepRow(BaseModel):
    name: str
    remove: str
    pages: int
    words: int


@router.get("/refit")
def refit_totals(crossing: ThatCrossing) -> RefitTotals:
    """Where the words of all bodies' pages went, and the pages that lost most."""
    return RefitTotals(**refit.totals(crossing.id), worst=refit.worst(crossing.id))


@router.get("/bodies")
def bodies_(
    crossing: ThatCrossing,
    order: Annotated[str, Query(pattern="^(loss|key)$")] = "loss",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[BodyRow]:
    total, found = refit.bodies_window(crossing.id, order, offset, limit)
    return Window[BodyRow](total=total, offset=offset, rows=[BodyRow(**row) for row in found])


@router.get("/bodies/{item}/{field}")
def body(crossing: ThatCrossing, item: int, field: str) -> BodyDetail:
    blocks, _ = body_blocks(crossing.id, item, field)
    row = lift.item_row(crossing.id, item)
    old_text, new_text = body_texts(crossing.id, item, field)
    account = rows("SELECT account FROM refit WHERE item_id = ? AND field = ?", item, field)[0][0]
    return BodyDetail(
        item=item,
        address=row["address"],
        key=row["key"],
        title=row["title"],
        new_path=row["new_path"],
        field=field,
        markdown=to_markdown(blocks),  # type: ignore[arg-type]
        html=to_html(blocks),  # type: ignore[arg-type]
        blocks=to_json(blocks),
        old_text=old_text,
        new_text=new_text,
        account=json.loads(account),
        old_preview=sign("page", crossing.id, row["address"]),
        new_preview=sign("body", crossing.id, item, field),
    )


@router.get("/constructs")
def constructs(crossing: ThatCrossing) -> list[Construct]:
    """What is in the bodies, by count: blocks by type, islands by element. ``example`` is an item that has it."""
    found: dict[str, list[int]] = {}
    for item, blocks in list(refit.blocks_of(crossing.id).items())[:BLOCKS_COUNTED]:
        seen: dict[str, int] = {}
        for stored in blocks.values():
            for thing in walk(from_json(json.loads(bodies.get(stored)))):
                name = type(thing).__name__
                if name in ("Text", "Paragraph", "ListItem", "Cell"):
                    continue
                if name in ("Island", "RawInline"):
                    name = f"{name} <{thing.tag}>"
                elif name == "Styled":
                    name = f"Styled {thing.style}"
                seen[name] = seen.get(name, 0) + 1
        for name, count in seen.items():
            entry = found.setdefault(name, [0, 0, item])
            entry[0] += count
            entry[1] += 1
    return [
        Construct(name=name, count=count, bodies=number, example=example)
        for name, (count, number, example) in sorted(found.items(), key=lambda pair: (-pair[1][0], pair[0]))
    ]


@router.get("/steps")
def steps(crossing: ThatCrossing) -> list[StepRow]:
    """The plan's steps in order, with what each took at the last refit."""
    taken = refit.removed_by_step(crossing.id)
    return [
        StepRow(name=s.name, remove=s.remove, pages=taken.get(s.name, (0, 0))[0], words=taken.get(s.name, (0, 0))[1])
        for s in crossings.load_plan(crossing.id).refit.steps
    ]
