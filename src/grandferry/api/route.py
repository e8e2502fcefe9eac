"""Redirects: what is open by shape, rules with their states and faults, the try-box."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from grandferry.core.address import to_key
from grandferry.core.filetypes import looks_like_file
from grandferry.core.kinds import KindPlan
from grandferry.core.plan import RouteRule
from grandferry.core.route.sound import Fault, Mend
from grandferry.store import route
from grandferry.store.crossings import load_plan
from grandferry.work.lift.tries import ask_map, try_redirect
from grandferry.work.route.evidence import rule_states
from grandferry.work.route.made import made_by
from grandferry.work.route.opened import decide_shape, open_groups
from grandferry.work.route.soundness import soundness
from grandferry.work.route.spelt import as_lines, gather, said_by

from .addresses import Acted
from .common import Sentence, ThatCrossing
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["route"])


class OpenRow(BaseModel):
    id: int
    key: str
    title: str
    fate: str
    proven: bool
    why: Sentence
    decision: str
    decision_target: str
    verdict: str
    visits: int
    in_links: int
    shape: str


class UnsoundRow(BaseModel):
    """A fault of the rule of this ``number`` (from 1; 0: of the whole). ``mend``: take the rule out, put it before the
    ``other``, lead straight ``to`` the end of a chain."""

    fault: Fault
    number: int
    other: int
    text: str
    count: int
    examples: list[str]
    mend: Mend
    to: str


class ShapeGroup(BaseModel):
    """Open addresses of one shape (as a pattern, its varying parts captured), the first of them as rows. ``level`` 0 is
    folded over by nothing; what a shape is folded over follows it, one level deeper; ``folders``: in how many it is;
    ``files``: they end as files do."""

    shape: str
    pattern: str
    level: int
    folders: int
    folded: bool
    files: bool
    count: int
    unaccounted: int
    visits: int
    rows: list[OpenRow]


class ShapeAct(BaseModel):
    """What to do with all unaccounted addresses of a shape; ``holder``: files go to the pages they stand on; ``ask``
    puts ``reason`` to the owner and leads ``to`` for now."""

    shape: str = Field(max_length=4000)
    what: Literal["retire", "move", "stay", "aside", "ask", "holder"]
    to: str = Field("", max_length=2000)
    reason: str = Field("", max_length=2000)


class RuleRow(BaseModel):
    number: int
    old: str
    new: str
    match: str
    status: int
    reason: str
    state: str
    handed_at: str
    server: str
    expected: int
    visits: int
    measured: int
    others: list[dict[str, str]]
    host: str


class CatchRow(BaseModel):
    address: int
    key: str
    to: str
    effect: str
    had: str


class RuleTried(BaseModel):
    """What a rule would do: counts by effect (settles, agrees, disagrees, hides, already), the visits of what it
    settles (visits), and the catches."""

    counts: dict[str, int]
    rows: list[CatchRow]


class Asked(BaseModel):
    """What the map answers to one address; ``status`` 0 when it says nothing."""

    request: str
    status: int
    location: str
    match: str
    line: str


class AskIn(BaseModel):
    address: str


class Family(BaseModel):
    """A sort of thing on the old site: how many addresses (of what stands within pages: how many pieces), and whether
    they are left out on purpose."""

    name: str
    count: int
    left_out: bool


class MadeRow(BaseModel):
    """The new address that an item would have, and what there is to say of it."""

    key: str
    title: str
    path: str
    note: Sentence


class MadeAddresses(BaseModel):
    """What a kind would make of its items: how many, how many get a number since another was first, how many get none;
    the first of each."""

    items: int
    clashes: int
    without: int
    rows: list[MadeRow]


@router.post("/addresses/made")
def made(wanted: KindPlan, crossing: ThatCrossing) -> MadeAddresses:
    """The new addresses that the items of a kind would have, before it is saved."""
    found = made_by(crossing.id, wanted)
    rows = [MadeRow(key=key, title=place.title, path=place.path, note=place.note) for key, place in found.rows]
    return MadeAddresses(items=found.items, clashes=found.clashes, without=found.without, rows=rows)


@router.get("/families")
def families(crossing: ThatCrossing) -> list[Family]:
    """What there is to carry, by family."""
    out = load_plan(crossing.id).leave_out
    return [Family(name=name, count=n, left_out=name in out) for name, n in route.family_counts(crossing.id).items()]


@router.get("/open")
def open_(crossing: ThatCrossing) -> list[ShapeGroup]:
    """Unaccounted and merely planned addresses by shape, equal shapes folded over folders."""
    return [
        ShapeGroup(
            shape=fold.shape,
            pattern=fold.pattern,
            level=level,
            folders=fold.folders,
            folded=bool(fold.inner),
            files=looks_like_file(fold.shape),
            count=fold.weight.count,
            unaccounted=fold.weight.unaccounted,
            visits=fold.weight.visits,
            rows=[OpenRow(**row._asdict()) for row in rows],
        )
        for fold, level, rows in open_groups(crossing.id)
    ]


@router.post("/open/act")
def open_act(wanted: ShapeAct, crossing: ThatCrossing, by: Who) -> Acted:
    """Decide over all unaccounted addresses of a shape at once, at any height."""
    number, text = decide_shape(crossing.id, wanted.shape, wanted.what, wanted.to, wanted.reason, by)
    return Acted(addresses=number, text=text)


@router.get("/rules")
def rules(crossing: ThatCrossing) -> list[RuleRow]:
    """The rules with their states: written, handed over, seen working."""
    return [
        RuleRow(**{name: getattr(state, name) for name in RuleRow.model_fields}) for state in rule_states(crossing.id)
    ]


@router.get("/rules/sound")
def sound(crossing: ThatCrossing) -> list[UnsoundRow]:
    """What is wrong with the rules before anything is written: each with what mends it, where something does."""
    return [
        UnsoundRow(
            fault=said.fault.fault,
            number=said.fault.at + 1,
            other=said.fault.other + 1,
            text=said.text,
            count=said.fault.count,
            examples=list(said.fault.examples),
            mend=said.fault.mend,
            to=said.fault.to,
        )
        for said in soundness(crossing.id)
    ]


@router.get("/rules/{number:int}/pairs")
def rule_pairs(crossing: ThatCrossing, number: int) -> list[str]:
    """The old addresses of pairs that a rule says as well."""
    return said_by(crossing.id, number)


@router.post("/rules/{number:int}/lines")
def rule_as_lines(crossing: ThatCrossing, number: int, by: Who) -> Acted:
    """Put single lines in the place of a rule: a pair for every old address that it answers."""
    made, text = as_lines(crossing.id, number, by)
    return Acted(addresses=made, text=text)


@router.post("/rules/{number:int}/gather")
def rule_gathers(crossing: ThatCrossing, number: int, by: Who) -> Acted:
    """Leave to a rule the pairs that it says as well: their single lines go."""
    made, text = gather(crossing.id, number, by)
    return Acted(addresses=made, text=text)


@router.post("/rules/try")
def try_(wanted: RouteRule, crossing: ThatCrossing) -> RuleTried:
    """Every old address a rule would catch, before it is saved."""
    counts, catches = try_redirect(crossing.id, wanted)
    rows = [CatchRow(address=c.address, key=c.key, to=c.to, effect=c.effect, had=c.had) for c in catches]
    return RuleTried(counts=counts, rows=rows)


@router.post("/ask")
def ask(wanted: AskIn, crossing: ThatCrossing) -> Asked:
    """The try-box: what the map says to an address as somebody would paste it."""
    key = to_key(wanted.address.strip())
    answer = ask_map(crossing.id, key)
    if answer is None:
        return Asked(request=key, status=0, location="", match="", line="")
    line = answer.redirect
    return Asked(request=key, status=answer.status, location=answer.location, match=line.match, line=line.old)
