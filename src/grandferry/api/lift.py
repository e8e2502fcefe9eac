"""Items and their fields: coverage, one item, and a field's values while it is written."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field, TypeAdapter

from grandferry.core.errors import NotThere
from grandferry.core.kinds import FieldPlan, FieldType, Locator, PartPlan
from grandferry.core.lift.schema import schema_of
from grandferry.core.treatment import Treatment
from grandferry.store import crossings, lift, sort
from grandferry.work.lift.teach import teach_field
from grandferry.work.lift.tries import cover_field, kind_pages, try_field

from .common import Fates, Limit, Offset, Position, Search, Sentence, ThatCrossing, Window
from .signing import sign

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["lift"])


class ItemRow(BaseModel):
    id: int
    address: int | None
    kind: str
    key: str
    title: str
    new_path: str
    note: Sentence


class FieldRow(BaseModel):
    """One field: the machine's half (lifted) and the person's (edited); ``blocks`` edits lie over single blocks of
    it."""

    field: str
    lifted: Any
    locator: int
    nodes: list[int]
    state: str
    note: str
    edited: Any
    edited_by: str
    edited_at: str
    conflict: bool
    blocks: int


class ItemDetail(ItemRow):
    fields: list[FieldRow]
    preview: str


class GridItem(BaseModel):
    id: int
    address: int
    key: str
    title: str


class Grid(BaseModel):
    """Items of a kind, and for every field one letter an item: f filled, e empty, m many, o odd, h set by hand."""

    items: list[GridItem]
    fields: dict[str, str]


class FieldText(BaseModel):
    """A field of the plan: its treatments as a person writes them, a line each."""

    name: str
    treat: list[str]


class TryIn(BaseModel):
    """A field as it stands, and the pages to try it on; without pages, five spread over the kind's."""

    field: FieldPlan
    kind: str = Field("", max_length=40)
    addresses: list[int] = Field([], max_length=10)


class TriedRow(BaseModel):
    address: int
    key: str
    title: str
    value: Any
    state: str
    nodes: list[int]
    note: str
    steps: list[Any]  # what was read, and that after each treatment; as far as they could be applied


@router.get("/kinds/{kind}/fields")
def field_texts(crossing: ThatCrossing, kind: str) -> list[FieldText]:
    """The fields of a kind as a person writes them; the plan takes treatments in this form, too."""
    found = next((k for k in crossings.load_plan(crossing.id).every_kind if k.name == kind), None)
    return [FieldText(name=f.name, treat=[t.line for t in f.treat]) for f in (found.fields if found else [])]


@router.get("/coverage")
def coverage(crossing: ThatCrossing) -> dict[str, dict[str, dict[str, int]]]:
    """Items by kind, field and state."""
    return lift.coverage(crossing.id)


@router.get("/coverage/{kind}")
def grid(crossing: ThatCrossing, kind: str, fate: Fates) -> Grid:
    """Every item of a kind against every field."""
    found, letters = lift.grid(crossing.id, kind, fate)
    return Grid(items=[GridItem(**row._asdict()) for row in found], fields=letters)


@router.get("/items")
def items(
    crossing: ThatCrossing,
    offset: Offset = 0,
    limit: Limit = 100,
    kind: str | None = None,
    search: Search = "",
    placed: bool | None = None,
    clashing: bool = False,
) -> Window[ItemRow]:
    """Items; ``placed``: those with (or without) a new address alone; ``clashing``: those whose address has a number
    alone, since another item was first to have it."""
    total, found = lift.item_window(crossing.id, kind, search, offset, limit, placed, clashing)
    return Window[ItemRow](total=total, offset=offset, rows=[ItemRow(**row._asdict()) for row in found])


class WithoutRow(BaseModel):
    """Items of a kind that get no new address, for one reason; ``example`` is an old key."""

    kind: str
    reason: Sentence
    count: int
    example: str


@router.get("/items/without-address", tags=["route"])
def without_address(crossing: ThatCrossing) -> list[WithoutRow]:
    """What leaves items without a new address, the most first."""
    return [
        WithoutRow(kind=row.kind, reason=row.reason, count=row.items, example=row.example)
        for row in lift.without_address(crossing.id)
    ]


@router.get("/items/{item:int}")
def item(crossing: ThatCrossing, item: int) -> ItemDetail:
    """One item with all its fields, lifted and edited."""
    row = lift.item_row(crossing.id, item)
    fields = [FieldRow(**field._asdict()) for field in lift.item_fields(item)]
    return ItemDetail(**row._asdict(), fields=fields, preview=sign("page", crossing.id, row.address))


@router.post("/fields/try")
def try_(wanted: TryIn, crossing: ThatCrossing) -> list[TriedRow]:
    """What a field would read, without a run."""
    pages = wanted.addresses or kind_pages(crossing.id, wanted.kind, 5)
    tried = []
    for found in try_field(crossing.id, wanted.field, pages):
        value = found.value
        tried.append(
            TriedRow(
                address=found.address,
                key=found.key,
                title=found.title,
                value=value.value if value else None,
                state=value.state if value else "odd",
                nodes=[n for n in value.nodes if n >= 0] if value else [],
                note=value.note if value else found.problem,
                steps=found.steps,
            )
        )
    return tried


class CoverIn(BaseModel):
    """A field as it stands, and the position among the kind's pages to go on at."""

    field: FieldPlan
    kind: str = Field(max_length=60)
    start: int = Field(0, ge=0)


class NotFilled(BaseModel):
    address: int
    key: str
    title: str
    state: str
    note: Sentence


class CoveredRows(BaseModel):
    """How many pages, from ``start`` up to ``looked`` of ``of``, a field fills (``states``), and the first on which it
    does not."""

    of: int
    looked: int
    states: dict[str, int]
    fails: list[NotFilled]


@router.post("/fields/cover")
def cover(wanted: CoverIn, crossing: ThatCrossing) -> CoveredRows:
    """On how many pages of a kind a field is filled, without a run; a part of the pages at a time."""
    found = cover_field(crossing.id, wanted.field, wanted.kind, wanted.start)
    fails = [NotFilled(address=a, key=k, title=t, state=s, note=n) for a, k, t, s, n in found.fails]
    return CoveredRows(of=found.of, looked=found.looked, states=dict(found.states), fails=fails)


class SamplePage(BaseModel):
    """A page of a kind; ``item`` is what was made of it, 0 for none; ``why`` there is none, where that is decided."""

    item: int
    address: int
    key: str
    title: str
    why: Sentence
    preview: str


@router.get("/kinds/{kind}/pages", tags=["sort"])
def pages(crossing: ThatCrossing, kind: str, fate: Fates, offset: Offset = 0, limit: Limit = 100) -> Window[SamplePage]:
    """The pages sorted into a kind, with the leave to preview each."""
    total, found = sort.kind_pages(crossing.id, kind, fate, offset, limit)
    rows = [SamplePage(**row._asdict(), preview=sign("page", crossing.id, row.address)) for row in found]
    return Window[SamplePage](total=total, offset=offset, rows=rows)


@router.get("/kinds/{kind}/pages/position", tags=["sort"])
def page_position(crossing: ThatCrossing, kind: str, address: int, fate: Fates) -> Position:
    return Position(position=sort.kind_position(crossing.id, kind, fate, address))


@router.get("/kinds/{kind}/schema")
def kind_schema(crossing: ThatCrossing, kind: str) -> dict[str, Any]:
    """The JSON Schema of a kind: what an item of it holds."""
    found = next((one for one in crossings.load_plan(crossing.id).every_kind if one.name == kind), None)
    if found is None:
        raise NotThere(f"There is no kind “{kind}” in the plan.")
    return schema_of(found)


class ExampleIn(BaseModel):
    """A place on a captured page: the number of the node that was clicked."""

    address: int
    node: int = Field(ge=0)


class TeachIn(BaseModel):
    """Places at which a field of a type stands."""

    kind: str = Field(max_length=60)
    type: FieldType = "line"
    examples: list[ExampleIn] = Field(min_length=1, max_length=12)


class FailingRow(BaseModel):
    address: int
    key: str
    title: str
    why: Literal["none", "several"]


class OfferRow(BaseModel):
    """Ways of reading, tried in turn, and how many of the examples they agree with; on how many pages they find one
    place, none, more than one; the type and treatments (a line each) of what they read; the parts of a group."""

    locators: list[Locator]
    agreed: int
    one: int
    none: int
    several: int
    name: str  # what the field may be called, "" for nothing
    type: FieldType
    treat: list[str]
    parts: list[PartPlan]
    fails: list[FailingRow]


class TaughtRows(BaseModel):
    """What may be read by, the best first, out of ``pages`` that were looked at."""

    pages: int
    offers: list[OfferRow]


@router.post("/fields/teach")
def teach(wanted: TeachIn, crossing: ThatCrossing) -> TaughtRows:
    """Ways to read what stands at these places, on all pages of the kind."""
    found = teach_field(crossing.id, wanted.kind, wanted.type, [(e.address, e.node) for e in wanted.examples])
    rows = [
        OfferRow(
            locators=offer.locators,
            agreed=offer.agreed,
            one=len(offer.one),
            none=len(offer.none),
            several=len(offer.several),
            name=offer.name,
            type=TypeAdapter(FieldType).validate_python(offer.type),
            treat=[Treatment.model_validate(one).line for one in offer.treat],
            parts=[PartPlan.model_validate(part) for part in offer.parts],
            fails=[FailingRow.model_validate(one._asdict()) for one in fails],
        )
        for offer, fails in found.offers
    ]
    return TaughtRows(pages=found.pages, offers=rows)
