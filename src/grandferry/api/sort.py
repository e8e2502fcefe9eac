"""Kinds: what is in them, what no rule catches, and what a rule would catch while it is written."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from grandferry.core.kinds import FieldPlan, SortRule
from grandferry.core.sort.grouping import CUTS, MIDDLE
from grandferry.core.sort.miniature import Stroke
from grandferry.core.sort.rules import Condition
from grandferry.store import crossings, groups, sort
from grandferry.work.lift.first import fields_of_groups
from grandferry.work.lift.tries import try_rules
from grandferry.work.sort.group import behind
from grandferry.work.sort.joined import Joining, parted, set_aside
from grandferry.work.sort.why import why

from .common import Fates, Limit, Offset, ThatCrossing, Window
from .plan import Who

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["sort"])


class KindRow(BaseModel):
    """A kind as it is worked with. ``of``: the plan's kind it is of, of which there is one a language."""

    name: str
    label: str
    pages: int
    of: str
    makes_items: bool


class KindsOut(BaseModel):
    """The kinds; pages by the language they declare; all pages; those in a kind; those that fit more kinds than the one
    which has them."""

    kinds: list[KindRow]
    languages: dict[str, int]
    pages: int
    sorted: int
    double: int


class RulesIn(BaseModel):
    rules: list[SortRule] = Field(min_length=1, max_length=50)


class RulesCount(BaseModel):
    """Pages caught of all; of those that had to be looked into, how many were; whose pages they are now ("":
    nobody's)."""

    pages: int
    of: int
    looked: int
    to_look: int
    now: dict[str, int]
    examples: list[str]


@router.get("/kinds")
def kinds(crossing: ThatCrossing, fate: Fates) -> KindsOut:
    """The kinds with their page counts, and how many pages no rule or more than one rule catches; by
    fate, only the counts by kind are narrowed."""
    counts = sort.kind_counts(crossing.id, fate)
    plan = crossings.load_plan(crossing.id)
    return KindsOut(
        kinds=[
            KindRow(
                name=made.name,
                label=made.label or made.name,
                pages=counts.get(made.name, 0),
                of=kind.name,
                makes_items=made.makes_items,
            )
            for kind in plan.kinds
            for made in kind.by_language()
        ],
        languages=sort.languages(crossing.id),
        pages=sort.page_count(crossing.id),
        sorted=sort.sorted_count(crossing.id),
        double=sort.double_count(crossing.id),
    )


@router.post("/kinds/try")
def try_(wanted: RulesIn, crossing: ThatCrossing) -> RulesCount:
    """How many pages these rules would catch, without a run."""
    found = try_rules(crossing.id, wanted.rules)
    return RulesCount(
        pages=found.pages,
        of=found.of,
        looked=found.looked,
        to_look=found.to_look,
        now=dict(found.now or {}),
        examples=found.examples or [],
    )


Cut = Annotated[int, Query(ge=0, lt=len(CUTS), description="how coarse: 0 many groups, the last few")]


Within = Annotated[
    str | None, Query(pattern=r"^\d{1,2}\.\d{1,9}$", description="those of a group at a coarser cut, as cut.number")
]


class Drawing(BaseModel):
    """A part of the drawing of a make. ``times``: how many follow each other; ``own``: of the group, not of all."""

    what: Stroke = Stroke.BOX
    own: bool = False
    times: int = 1
    parts: list[Drawing] = []


class GroupRow(BaseModel):
    """A group of pages made alike: a page of it, a name for a kind of it, the rule that separates it (pages of the
    group that it catches and misses, pages of others that it would take), its drawing, and the kinds its pages are
    in."""

    number: int
    pages: int
    address: int
    key: str
    name: str
    rule: SortRule
    right: int
    missed: int
    wrong: int
    drawing: Drawing
    sorted: int
    kinds: dict[str, int]


class GroupsOut(BaseModel):
    """``cut``: the one asked for; ``cuts``: how many groups there are at each; ``behind``: pages have changed since;
    ``pages``: how many are captured."""

    groups: list[GroupRow]
    cut: int
    cuts: list[int]
    behind: bool
    pages: int


class GroupPageRow(BaseModel):
    address: int
    key: str
    title: str
    kind: str


@router.get("/groups")
def groups_(crossing: ThatCrossing, cut: Cut = MIDDLE, within: Within = None) -> GroupsOut:
    """The groups of pages that are made alike, the largest first."""
    coarser = None if within is None else (int(within.partition(".")[0]), int(within.partition(".")[2]))
    return GroupsOut(
        groups=[GroupRow.model_validate(group._asdict()) for group in groups.groups(crossing.id, cut, coarser)],
        cut=cut,
        cuts=groups.counts(crossing.id),
        behind=behind(crossing.id),
        pages=sort.page_count(crossing.id),
    )


@router.get("/groups/{number:int}/pages")
def group_pages(
    crossing: ThatCrossing, number: int, offset: Offset = 0, limit: Limit = 100, cut: Cut = MIDDLE
) -> Window[GroupPageRow]:
    """The pages of a group, in order of their keys."""
    total, found = groups.group_pages(crossing.id, cut, number, offset, limit)
    rows = [GroupPageRow.model_validate(page._asdict()) for page in found]
    return Window(total=total, offset=offset, rows=rows)


class FirstFieldOut(BaseModel):
    """A proposed field, and on how many of the pages looked at it is filled."""

    field: FieldPlan
    filled: int
    of: int


class GroupsIn(BaseModel):
    """Groups at a cut, by their numbers."""

    cut: int = Field(MIDDLE, ge=0, lt=len(CUTS))
    numbers: list[int] = Field(min_length=1, max_length=200)


class AsideIn(GroupsIn):
    reason: str = Field(max_length=500)


class ToldRow(BaseModel):
    """A rule: how many of the pages meant it catches and misses, and how many others it takes."""

    rule: SortRule
    right: int
    missed: int
    wrong: int


class JoinedOut(BaseModel):
    """Groups taken together: a name for a kind of them, how many pages, the simplest rule that separates them, and one
    by their make alone."""

    name: str
    pages: int
    by_rule: ToldRow
    by_make: ToldRow


class Parted(BaseModel):
    """The cut at which a group comes apart."""

    cut: int


class SetAsideOut(BaseModel):
    pages: int
    text: str


@router.post("/groups/fields")
def group_fields(wanted: GroupsIn, crossing: ThatCrossing) -> list[FirstFieldOut]:
    """The fields that a kind made of groups would begin with."""
    return [
        FirstFieldOut(field=one.field, filled=one.filled, of=one.of)
        for one in fields_of_groups(crossing.id, wanted.cut, wanted.numbers)
    ]


@router.post("/groups/joined")
def join(wanted: GroupsIn, crossing: ThatCrossing) -> JoinedOut:
    """Some groups as one kind, by a rule or by their make."""
    found = Joining(crossing.id).join([(wanted.cut, number) for number in wanted.numbers])
    return JoinedOut(
        name=found.name,
        pages=found.pages,
        by_rule=ToldRow.model_validate(found.by_rule._asdict()),
        by_make=ToldRow.model_validate(found.by_make._asdict()),
    )


@router.post("/groups/{number:int}/divide")
def divide(crossing: ThatCrossing, number: int, cut: Cut = MIDDLE) -> Parted:
    """Where a group comes apart; nothing is changed."""
    return Parted(cut=parted(crossing.id, cut, number))


@router.post("/groups/aside")
def aside(wanted: AsideIn, crossing: ThatCrossing, by: Who) -> SetAsideOut:
    """Set the pages of groups aside for a reason."""
    pages, text = set_aside(crossing.id, wanted.cut, wanted.numbers, wanted.reason, by)
    return SetAsideOut(pages=pages, text=text)


class ConditionOut(BaseModel):
    condition: Condition
    wanted: str
    holds: bool


class RuleOut(BaseModel):
    """A rule of a kind held against a page. ``has``: this rule is why the kind has the page (the first that holds)."""

    kind: str
    rule: int
    holds: bool
    has: bool
    checks: list[ConditionOut]


@router.get("/addresses/{address:int}/kinds")
def kinds_of_address(crossing: ThatCrossing, address: int) -> list[RuleOut]:
    """Every rule held against a page: which conditions hold, and which do not."""
    found = why(crossing.id, address)
    first = next((one for one in found if one.holds), None)
    return [
        RuleOut(
            kind=one.kind,
            rule=one.rule,
            holds=one.holds,
            has=one is first,
            checks=[ConditionOut.model_validate(check._asdict()) for check in one.checks],
        )
        for one in found
    ]
