"""Redirects: what is open, rules and their states, the try-box, rounds, and the map written out."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi.responses import PlainTextResponse, Response
from pydantic import BaseModel, Field

from grandferry.core.address import to_key
from grandferry.core.because import seen_sentence
from grandferry.core.errors import NotThere
from grandferry.core.plan import RouteRule
from grandferry.core.route.fate import OF_CONTENT
from grandferry.core.route.sound import Fault, Mend
from grandferry.store import rounds, route, suggested
from grandferry.store.crossings import load_plan
from grandferry.work.lift.tries import ask_map, try_redirect
from grandferry.work.names import file_name
from grandferry.work.route.evidence import TURNS, compared, note_written, round_story, rule_states
from grandferry.work.route.likely import likely
from grandferry.work.route.maps import SAID, map_files, map_zip, servers
from grandferry.work.route.opened import decide_shape, open_groups
from grandferry.work.route.soundness import soundness
from grandferry.work.route.suggesting import accept

from .addresses import Acted
from .common import Limit, Offset, Search, Sentence, ThatCrossing, Window, binary
from .plan import Who

LEFT_OUT = 200
STEPS = (0.99, 0.95, 0.9, 0.8, 0.5, 0.0)  # how sure, for the counts

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


class MapFileRow(BaseModel):
    name: str
    bytes: int
    lines: int


class LeftOut(BaseModel):
    """A line that a server cannot answer as the map says, and why."""

    old: str
    why: str


class MapAbout(BaseModel):
    """The map as a server's files. ``lines``: of the map; ``spelled``: how many of them stand for rules that the server
    cannot compute; ``changed``: the day of its last change; ``left_out``: the first of the lines that it cannot answer
    at all."""

    files: list[MapFileRow]
    lines: int
    spelled: int
    changed: str
    bounds: list[str]
    left_out: list[LeftOut]
    left_out_count: int


class LikelyRow(BaseModel):
    """A new address that an old one is likely to have become, how sure that is (0 to 1), and why."""

    new: str
    confidence: float
    reasons: list[str]


class ShapeGroup(BaseModel):
    """Open addresses of one shape (as a pattern, its varying parts captured), the first of them as rows. ``level`` 0 is
    folded over by nothing; what a shape is folded over follows it, one level deeper; ``folders``: in how many it is."""

    shape: str
    pattern: str
    level: int
    folders: int
    folded: bool
    count: int
    unaccounted: int
    visits: int
    rows: list[OpenRow]


class ShapeAct(BaseModel):
    """What to do with all unaccounted addresses of a shape."""

    shape: str = Field(max_length=4000)
    what: Literal["retire", "move", "stay", "aside"]
    to: str = Field("", max_length=2000)
    reason: str = Field("", max_length=300)


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
    """What a rule would do: counts by effect (settles, agrees, disagrees, hides, already), and the catches."""

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


class RoundRow(BaseModel):
    id: int
    base: str
    started: str
    ended: str
    counts: dict[str, int]
    checked: int
    open: int
    before: int | None
    fixed_by: dict[str, int]
    broken: list[dict[str, str]]
    stays: int
    taken_over: int


class TurnRow(BaseModel):
    """What became of an address between two rounds (fixed, broken, still open, still proven)."""

    address: int
    key: str
    before: str
    now: str
    what: str
    by: str


class Turns(Window[TurnRow]):
    """``counts``: of all addresses that both rounds asked."""

    counts: dict[str, int]


class VerdictRow(BaseModel):
    address: int
    key: str
    verdict: str
    status: int
    hops: list[tuple[int, str]]
    final: str
    seen: str
    accepted: str


class Family(BaseModel):
    """A sort of thing on the old site: how many addresses (of what stands within pages: how many pieces), and whether
    they are left out on purpose."""

    name: str
    count: int
    left_out: bool


@router.get("/families")
def families(crossing: ThatCrossing) -> list[Family]:
    """What there is to carry, by family."""
    out = load_plan(crossing.id).leave_out
    return [Family(name=name, count=n, left_out=name in out) for name, n in route.family_counts(crossing.id).items()]


@router.get("/likely")
def likely_places(crossing: ThatCrossing, address: Annotated[str, Query(max_length=4000)]) -> list[LikelyRow]:
    """The new addresses that an old one (its key) is likely to have become, the best first."""
    return [
        LikelyRow(
            new=one.new,
            confidence=one.confidence,
            reasons=one.why,
        )
        for one in likely(crossing.id, address)
    ]


class SuggestedRow(BaseModel):
    """An open address with its likeliest new one, how sure that is, why, and the next best."""

    id: int
    key: str
    title: str
    visits: int
    new: str
    confidence: float
    reasons: list[str]
    others: list[LikelyRow]


class SuggestedWindow(Window[SuggestedRow]):
    """``counts``: how many are at least so sure as each of ``steps``."""

    steps: list[float]
    counts: list[int]


class SuggestedRuleRow(BaseModel):
    """A rule behind pairs: how many addresses it settles, the pairs it disagrees with, those it would wrongly catch."""

    old: str
    new: str
    settles: int
    disagrees: list[str]
    catches: list[str]


class SuggestedPairs(BaseModel):
    """Which are taken: those of ``ids``, else all that are at least so sure."""

    ids: Annotated[list[int], Field(max_length=5000)] = []
    at_least: Annotated[float, Field(ge=0.5, le=1)] = 0.9


class SuggestedTaken(BaseModel):
    taken: int
    revision: int


@router.get("/suggested")
def suggested_pairs(
    crossing: ThatCrossing,
    at_least: Annotated[float, Query(ge=0, le=1)] = 0,
    search: Search = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> SuggestedWindow:
    """What open addresses have likely become, the surest first."""
    total, found = suggested.window(crossing.id, at_least, 1.0, search, offset, limit)
    return SuggestedWindow(
        total=total,
        offset=offset,
        rows=[
            SuggestedRow(
                **one._asdict()
                | {
                    "reasons": [f"{why}: {what}" if what else why for why, what in one.reasons],
                    "others": [LikelyRow(new=new, confidence=sure, reasons=[]) for new, sure in one.others],
                }
            )
            for one in found
        ],
        steps=list(STEPS),
        counts=suggested.counts(crossing.id, STEPS),
    )


@router.get("/suggested/rules")
def suggested_rules(crossing: ThatCrossing) -> list[SuggestedRuleRow]:
    """Rules behind what is decided and what is likely, in the order in which they have to stand."""
    return [SuggestedRuleRow(**one._asdict()) for one in suggested.rules(crossing.id)]


@router.post("/suggested")
def take_suggested(wanted: SuggestedPairs, crossing: ThatCrossing, by: Who) -> SuggestedTaken:
    """Take suggestions as pairs, as one change that can be taken back; each pair says that it was suggested."""
    taken, revision = accept(crossing.id, by, wanted.at_least, wanted.ids)
    return SuggestedTaken(taken=taken, revision=revision)


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


@router.get("/redirects", tags=["route"])
def redirect_servers(crossing: ThatCrossing) -> list[str]:
    """The servers and tables the map can be written for."""
    return servers()


@router.get("/redirects/{server}", response_class=PlainTextResponse)
def redirects(
    crossing: ThatCrossing,
    server: str,
    file: Annotated[str, Query(max_length=80, description="one of its files; all, one after the other, without")] = "",
    most: Annotated[int, Query(ge=1, le=10_000_000, description="so many lines from the top")] = 10_000_000,
) -> str:
    """The redirect map written for a server, as text."""
    return map_files(crossing.id, server).text(file, most)


@router.get("/redirects/{server}/about")
def redirects_about(crossing: ThatCrossing, server: str) -> MapAbout:
    """The files of the map for a server, and what that server cannot do of it."""
    made = map_files(crossing.id, server)
    return MapAbout(
        files=[
            MapFileRow(name=name, bytes=len(content), lines=content.count(b"\n"))
            for name, content in made.files.items()
        ],
        lines=made.lines,
        spelled=made.spelled,
        changed=made.changed,
        bounds=[SAID[bound] for bound in made.bounds],
        left_out=[LeftOut(old=one.line.old, why=SAID[one.why]) for one in made.left_out[:LEFT_OUT]],
        left_out_count=len(made.left_out),
    )


@router.get("/redirects/{server}/files", response_class=Response, responses=binary("application/zip"))
def redirects_files(crossing: ThatCrossing, server: str) -> Response:
    """The files of the map for a server, as a zip."""
    name = f"{file_name(crossing.name)}-{file_name(server)}.zip"
    held = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(map_zip(crossing.id, server), media_type="application/zip", headers=held)


@router.post("/redirects/{server}/handed")
def handed(crossing: ThatCrossing, server: str) -> list[RuleRow]:
    """Note that the map was handed over for this server; the rules' states after it."""
    map_files(crossing.id, server)
    note_written(crossing.id, server)
    return rules(crossing)


@router.get("/rounds")
def every_round(crossing: ThatCrossing) -> list[RoundRow]:
    """Every round against the one before it."""
    return [RoundRow(**{**row, "counts": json.loads(row["counts"])}) for row in round_story(crossing.id)]


@router.get("/rounds/{round:int}/against/{before:int}")
def against(
    crossing: ThatCrossing,
    round: int,
    before: int,
    what: Annotated[str, Query(max_length=20, description="only addresses of which this became")] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Turns:
    """Any two rounds: what was fixed by what, what broke, what is as it was."""
    turns = compared(crossing.id, round, before)
    found = [turn for turn in turns if what in ("", turn.what)]
    rows = [TurnRow(**asdict(turn)) for turn in found[offset : offset + limit]]
    number = Counter(turn.what for turn in turns)
    return Turns(total=len(found), offset=offset, rows=rows, counts={name: number[name] for name in TURNS})


@router.get("/rounds/{round:int}/verdicts")
def verdicts(
    crossing: ThatCrossing,
    round: int,
    verdict: Annotated[str, Query(max_length=40)] = "",
    offset: Offset = 0,
    limit: Limit = 100,
) -> Window[VerdictRow]:
    """What a round found, address by address."""
    if not any(row.id == round for row in rounds.round_rows(crossing.id)):
        raise NotThere(f"There is no round {round} in this crossing.")
    total, found = rounds.verdict_rows(round, verdict, offset, limit)
    accepted = load_plan(crossing.id).route.accepting()
    read = [
        VerdictRow(
            **row._asdict()
            | {
                "hops": json.loads(row.hops),
                "seen": seen_sentence(*row.seen.split("\t")) if row.seen else "",
                "accepted": accepted(row.key) if row.verdict in OF_CONTENT else "",
            }
        )
        for row in found
    ]
    return Window[VerdictRow](total=total, offset=offset, rows=read)
