"""Bodies as blocks: totals, each body in all its forms, constructs, and what each step takes."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel

from grandferry.core.refit.account import LossAccount, LostWhy, Thing
from grandferry.core.refit.blocks import to_json
from grandferry.core.refit.choices import CHOICES, Odd, WrittenAs
from grandferry.core.refit.read.evidence import Sign
from grandferry.core.refit.write import to_html, to_markdown, write_markdown
from grandferry.core.refit.written import What, html_read_back, read_back
from grandferry.store import crossings, lift, refit
from grandferry.work.refit.preview import block_nodes, body_blocks, body_texts, table_doubts
from grandferry.work.refit.shared import on_page, shared_part

from .common import Fates, Limit, Offset, Position, Search, ThatCrossing, Window
from .signing import sign

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["refit"])


class MeasureRow(BaseModel):
    """How many there are of something in a body, on the old page and in the blocks."""

    name: str
    old: int
    new: int


class BodyThings(BaseModel):
    """Links, pictures, files, frames, anchors, or pictures behind others, over all bodies: had, taken by steps, lost,
    and by how many bodies."""

    name: str
    have: int
    removed: int
    lost: int
    bodies: int


class RefitTotals(BaseModel):
    """``lossy``: bodies that lost a word or a thing; ``in_raw_html``: of the words in blocks those that stand in raw
    HTML within Markdown."""

    bodies: int
    words: int
    in_blocks: int
    in_islands: int
    in_raw_html: int
    unaccounted: int
    lossy: int
    things: list[BodyThings]


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
    lost: int


class MissingRun(BaseModel):
    """A run of words that is not in the blocks; ``step``: that took it, else it is unaccounted."""

    text: str
    where: str
    node: int
    step: str


class LostThing(BaseModel):
    """A link, picture, file, frame, anchor or backdrop that is not in the blocks. ``open``: it is still to be looked
    at; ``says``: why it is not there."""

    what: Thing
    address: str
    where: str
    node: int
    open: bool
    says: str


class ThingCount(BaseModel):
    name: Thing
    have: int
    kept: int
    removed: int
    lost: int


class BodyAccount(BaseModel):
    """Where what stands in a body's region went: ``words`` had and kept; ``unlisted`` more things are lost than are
    named."""

    words: list[int]
    missing: list[MissingRun]
    lost: list[LostThing]
    unlisted: int
    things: list[ThingCount]
    aimed: int


class WritingDiffers(BaseModel):
    """What a form that was written, and read back, has not (``lost``) or has more than the blocks."""

    form: str
    what: What
    lost: bool
    number: int
    said: list[str]


class TableDoubt(BaseModel):
    """A table of which it is in doubt whether it holds data: as what it is read, and what was seen of it."""

    node: int
    layout: bool
    seen: list[str]


class Writing(BaseModel):
    """What Markdown makes of a body: words in raw HTML, what is left out by choice (with how often), and what a reader
    finds to differ."""

    raw_words: int
    left_out: dict[str, int]
    differs: list[WritingDiffers]


_SEEN = {
    Sign.ROLE: "its role says so",
    Sign.ALONE: "one cell",
    Sign.CAPTION: "a caption",
    Sign.HEADS: "a row or column of headers",
    Sign.SCOPE: "cells say what they head",
    Sign.LABELS: "a short label before each value",
    Sign.TITLE: "one header over all columns",
    Sign.SHORT: "few cells with short texts",
    Sign.STRAY_HEAD: "headers that head no row or column",
    Sign.RULES: "lines around its cells",
    Sign.GRID: "many short cells",
    Sign.NESTED: "a table within a cell",
    Sign.BLOCKS: "headings or forms in cells",
    Sign.PARAGRAPHS: "cells of several paragraphs",
    Sign.LONG: "running text beside short cells",
    Sign.NARROW: "one row",
    Sign.COLUMN: "one column",
    Sign.WIDTHS: "widths without lines",
    Sign.EMPTY: "empty cells",
}

_WHY = {
    LostWhy.UNEXPLAINED: "in no block",
    LostWhy.STEP: "a step",
    LostWhy.EMPTY: "nothing to click on",
    LostWhy.SCRIPT: "its address runs a script",
    LostWhy.BACKDROP: "lies under something else",
    LostWhy.NESTED: "stands around another link",
    LostWhy.SCRIPTED: "only a script uses it",
}


def _account(found: LossAccount) -> BodyAccount:
    """An account as it is told."""
    return BodyAccount(
        words=[found.words, found.kept],
        missing=[MissingRun(text=run.text, where=run.where, node=run.node, step=run.why) for run in found.missing],
        lost=[
            LostThing(
                what=row.what,
                address=row.raw,
                where=row.where,
                node=row.node,
                open=row.why.is_open,
                says=f"step “{row.step}”" if row.step else _WHY[row.why],
            )
            for row in found.lost
        ],
        unlisted=found.unlisted,
        aimed=found.aimed,
        things=[
            ThingCount(name=name, have=count.have, kept=count.kept, removed=count.removed, lost=count.lost)
            for name, count in found.things.items()
        ],
    )


class BlockNodes(BaseModel):
    """Where a block begins on the new page, and the element of the old one that it comes from (numbers of nodes; -1:
    nowhere)."""

    new: int
    old: int


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
    measures: list[MeasureRow]
    old_text: str
    new_text: str
    account: BodyAccount
    writing: Writing
    doubts: list[TableDoubt]
    block_nodes: list[BlockNodes]
    old_preview: str
    new_preview: str


class Construct(BaseModel):
    name: str
    count: int
    bodies: int
    example: int


class OddConstruct(BaseModel):
    """Something that Markdown has no mark for: how it can be written, the default first, how it is, and how often it is
    left out by that."""

    name: Odd
    can: list[WrittenAs]
    chosen: WrittenAs
    left_out: int
    bodies: int


class StepRow(BaseModel):
    """A clean-up step: how many words it took, on how many pages (``of`` with a body) it finds something, in how many
    versions; of one that says what an element is (``act``) at how many ``places``."""

    name: str
    finds: str
    act: str
    off: bool
    kinds: list[str]
    places: int
    words: int
    on: int
    of: int
    versions: int


class PartVersion(BaseModel):
    """A version of a shared part: on how many pages, one of them, and the first words that only it has, and that only
    the most frequent one has."""

    pages: int
    address: int
    key: str
    more: str
    less: str


class OnKind(BaseModel):
    """On how many pages of a kind, of those with a body, a step finds something."""

    kind: str
    on: int
    of: int


class PageWithout(BaseModel):
    address: int
    key: str
    kind: str


class SharedPart(BaseModel):
    """What a step takes of all pages, read once: in its most frequent version, as on the page ``address`` (0 where
    there is none); ``missing``: the first pages without it, of kinds most of whose pages have it."""

    name: str
    remove: str
    pages: int
    words: int
    address: int
    html: str
    markdown: str
    versions: list[PartVersion]
    versions_all: int
    kinds: list[OnKind]
    missing: list[PageWithout]
    missing_all: int


class PartOnPage(BaseModel):
    """Where a shared part stands on a page (numbers of its nodes), and the leave to preview that page."""

    address: int
    nodes: list[int]
    preview: str


@router.get("/refit")
def refit_totals(crossing: ThatCrossing) -> RefitTotals:
    """Where the words of all bodies' pages went, and the pages that lost most."""
    return RefitTotals(
        **refit.totals(crossing.id),
        lossy=refit.bodies_with_losses(crossing.id),
        things=[BodyThings(**row._asdict()) for row in refit.things(crossing.id)],
    )


Order = Annotated[str, Query(max_length=20, description="a column, with “-” before it for descending")]


@router.get("/bodies")
def bodies_(
    crossing: ThatCrossing,
    fate: Fates,
    search: Search = "",
    order: Order = "-unaccounted",
    offset: Offset = 0,
    limit: Limit = 100,
    construct: Search = "",
) -> Window[BodyRow]:
    """Refitted bodies; ``construct``: those that hold it."""
    total, found = refit.bodies_window(crossing.id, fate, search, order, offset, limit, construct)
    return Window[BodyRow](total=total, offset=offset, rows=[BodyRow(**row._asdict()) for row in found])


@router.get("/bodies/position")
def body_position(
    crossing: ThatCrossing,
    item: int,
    fate: Fates,
    field: Search = "",
    search: Search = "",
    order: Order = "-unaccounted",
    construct: Search = "",
) -> Position:
    """Where a body stands; without a field, the first body of the item."""
    return Position(position=refit.body_position(crossing.id, fate, search, order, item, field, construct))


@router.get("/bodies/{item:int}/{field}")
def body(crossing: ThatCrossing, item: int, field: str) -> BodyDetail:
    blocks, _ = body_blocks(crossing.id, item, field)
    row = lift.item_row(crossing.id, item)
    texts = body_texts(crossing.id, item, field)
    choices = crossings.load_plan(crossing.id).refit.choices
    written = write_markdown(blocks, choices)
    differs = {"Markdown": read_back(blocks, written.text, choices), "HTML": html_read_back(blocks)}
    return BodyDetail(
        item=item,
        address=row.address,
        key=row.key,
        title=row.title,
        new_path=row.new_path,
        field=field,
        markdown=written.text,
        html=to_html(blocks),
        blocks=to_json(blocks),
        old_text=texts.old,
        new_text=texts.new,
        measures=[MeasureRow(**one._asdict()) for one in texts.measures],
        account=_account(refit.loss_account(item, field)),
        writing=Writing(
            raw_words=written.raw_words,
            left_out={odd.value: number for odd, number in written.left_out.items()},
            differs=[
                WritingDiffers(form=form, **row._asdict() | {"said": list(row.said)})
                for form, rows in differs.items()
                for row in rows
            ],
        ),
        doubts=[
            TableDoubt(node=one.node, layout=one.seen.layout, seen=[_SEEN[sign] for sign in one.seen.signs])
            for one in table_doubts(crossing.id, item, field)
        ],
        block_nodes=[BlockNodes(**one._asdict()) for one in block_nodes(crossing.id, item, field)],
        old_preview=sign("page", crossing.id, row.address),
        new_preview=sign("body", crossing.id, item, field),
    )


@router.get("/constructs")
def constructs(crossing: ThatCrossing) -> list[Construct]:
    """What is in the bodies, by count: blocks by type, islands by element. ``example`` is an item that has it."""
    return [Construct(**row._asdict()) for row in refit.constructs(crossing.id)]


@router.get("/markdown")
def markdown_choices(crossing: ThatCrossing) -> list[OddConstruct]:
    """What Markdown has no mark for, and how the plan has it written."""
    chosen = crossings.load_plan(crossing.id).refit.choices
    out = {row.name: row for row in refit.left_out(crossing.id)}
    return [
        OddConstruct(
            name=odd,
            can=list(can),
            chosen=chosen.get(odd, can[0]),
            left_out=out[odd].count if odd in out else 0,
            bodies=out[odd].bodies if odd in out else 0,
        )
        for odd, can in CHOICES.items()
    ]


@router.get("/steps")
def steps(crossing: ThatCrossing) -> list[StepRow]:
    """The plan's steps in order, with what each took at the last refit."""
    in_bodies, parts = refit.removed_by_step(crossing.id), refit.taken(crossing.id)
    treated = refit.treated_by_step(crossing.id)
    bodies = refit.totals(crossing.id)["bodies"]
    rows = []
    for step in crossings.load_plan(crossing.id).refit.steps:
        _, words = in_bodies.get(step.name, (0, 0))
        on, _, versions = parts.get(step.name, (0, 0, 0))
        on_treated, places = treated.get(step.name, (0, 0))
        rows.append(
            StepRow(
                name=step.name,
                finds=step.finds,
                act=step.treats,
                off=step.off,
                kinds=step.kinds,
                places=places,
                words=words,
                on=on if step.remove else on_treated,
                of=bodies,
                versions=versions,
            )
        )
    return rows


@router.get("/steps/{place:int}")
def step_part(crossing: ThatCrossing, place: int) -> SharedPart:
    """What the step at a place (from 0 on) takes of all pages: read once, where it differs, where it is missing."""
    found = shared_part(crossing.id, place)
    return SharedPart(
        name=found.step.name,
        remove=found.step.finds,
        pages=found.pages,
        words=found.words,
        address=found.address,
        html=to_html(found.blocks),
        markdown=to_markdown(found.blocks),
        versions=[PartVersion(**asdict(one)) for one in found.versions],
        versions_all=found.versions_all,
        kinds=[OnKind(kind=kind, on=on, of=of) for kind, on, of in found.kinds],
        missing=[PageWithout(**row._asdict()) for row in found.missing],
        missing_all=found.missing_all,
    )


@router.get("/steps/{place:int}/pages/{address:int}")
def step_on_page(crossing: ThatCrossing, place: int, address: int) -> PartOnPage:
    """Where the step at a place finds its part on a captured page."""
    return PartOnPage(
        address=address,
        nodes=on_page(crossing.id, place, address),
        preview=sign("page", crossing.id, address),
    )
