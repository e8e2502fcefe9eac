"""Kinds and what they are made of, as parts of a plan: rules, fields with their locators and treatments, clean-up
steps; and what says that the tool proposed one of them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BeforeValidator, Field, model_validator

from .errors import FerryError
from .page import check_selector
from .patterns import compile_pattern
from .route.slug import PLAIN, Slugs
from .strict import Pattern, Strict
from .treatment import Treatment, treatment_of
from .xpath import check_xpath


def _good_selector(value: str) -> str:
    try:
        check_selector(value)
    except FerryError as problem:
        raise ValueError(str(problem)) from None
    return value


def _good_xpath(value: str) -> str:
    try:
        check_xpath(value)
    except FerryError as problem:
        raise ValueError(str(problem)) from None
    return value


XPath = Annotated[str, AfterValidator(_good_xpath), Field(description="XPath 1.0", max_length=2000)]
Selector = Annotated[str, AfterValidator(_good_selector), Field(description="CSS selector")]
Language = Annotated[str, Field(pattern=r"^[a-z]{2,3}$")]  # a primary subtag (BCP 47)
Name = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=40)]


class Proposed(Strict):
    """That a part of the plan is the tool's own proposal, to which nobody has said yes. Of the pages that it was looked
    up on: ``right`` for so many, ``missed`` by it though they are meant, ``wrong``: taken though they are not."""

    right: int = Field(ge=0)
    missed: int = Field(default=0, ge=0)
    wrong: int = Field(default=0, ge=0)

    @property
    def confidence(self) -> float:
        """F1, from 0 to 1."""
        return 2 * self.right / max(1, 2 * self.right + self.missed + self.wrong)


class MadeLike(Strict):
    """That a page is made as those of a group: traits, the evidence of each where a page ``has`` it and where it
    ``lacks`` it, and what these have to come to at ``least``. ``name``: by which a person knows the group."""

    name: str = Field(min_length=1, max_length=200)
    traits: list[int] = Field(min_length=1, max_length=200)
    has: list[float]
    lacks: list[float]
    least: float

    @model_validator(mode="after")
    def _even(self) -> MadeLike:
        if not len(self.traits) == len(self.has) == len(self.lacks):
            raise ValueError("a make says of each trait what it tells where a page has it, and where it lacks it")
        if not all(0 <= trait < 1 << 32 for trait in self.traits):
            raise ValueError("a trait is a number of 32 bits")
        return self


class Conditions(Strict):
    """All that is given must hold: ``address`` (RE2, anchored at both ends, over path?query), ``below`` (path prefix by
    whole parts), ``element`` (a CSS selector that finds something; with ``attribute`` that has it, with ``says`` in
    whose text, or attribute, that RE2 pattern is found), ``language`` (of the page), ``declares`` (a type by JSON-LD or
    Open Graph), ``answer`` (RE2, found in a line of the server's answer: its status, a header as ``name: value``),
    ``make`` (made as the pages of a group), ``record`` (RE2, anchored at both ends, over ``kind/state`` of what a file
    that was handed over says of the page). A record of which no page is captured is taken by rules alone that ask for
    it."""

    address: Pattern | None = None
    below: str | None = None
    element: Selector | None = None
    attribute: str | None = Field(default=None, min_length=1, max_length=100)
    says: Pattern | None = None
    language: Language | None = None
    declares: str | None = Field(default=None, min_length=1, max_length=200)
    answer: Pattern | None = None
    make: MadeLike | None = None
    record: Pattern | None = None

    @model_validator(mode="after")
    def _some(self) -> Self:
        asked = (self.address, self.below, self.element, self.language, self.declares, self.answer, self.make)
        if not any((*asked, self.record)):
            raise ValueError(
                "a rule needs an address, a folder (below), an element, a language, a declared type, an answer, a make "
                "or a record"
            )
        if (self.attribute or self.says) and not self.element:
            raise ValueError("attribute and says go with an element")
        return self


class SortRule(Conditions):
    """A rule of a kind: its conditions hold, and those in ``unless`` do not, none of them."""

    unless: list[Conditions] = Field(default=[], max_length=20)


EVERYTHING = SortRule(below="/")  # the rule of a kind that takes what is left

WAYS = ("css", "xpath", "meta", "label", "address", "json_ld", "record", "fixed")  # of which a locator is one


class Locator(Strict):
    """How a value is read: exactly one of ``css`` (with ``attribute`` for an attribute), ``xpath`` (1.0), ``meta``,
    ``label`` (the value beside that label), ``address`` (RE2 with one group, over path?query), ``json_ld`` (names from
    an object that the page declares down to the value, as ``author.name``; the first may be its type), ``record``
    (names down to a value of what a file that was handed over says of the page's address, as ``author`` or
    ``fields.price``) or ``fixed`` (the same on every page)."""

    css: Selector | None = None
    attribute: str | None = None
    xpath: XPath | None = None
    meta: str | None = None
    label: str | None = None
    address: Pattern | None = None
    json_ld: str | None = Field(default=None, pattern=r"^[^.\s][^.]*(?:\.[^.]+)*$", max_length=200)
    record: str | None = Field(default=None, pattern=r"^[^.\s][^.]*(?:\.[^.]+)*$", max_length=200)
    fixed: str | None = Field(default=None, min_length=1, max_length=2000)

    @model_validator(mode="after")
    def _one(self) -> Locator:
        if sum(getattr(self, name) is not None for name in WAYS) != 1:
            raise ValueError(f"a locator is exactly one of {', '.join(WAYS)}")
        if self.attribute and self.css is None:
            raise ValueError("attribute goes with css")
        if self.address is not None and compile_pattern(self.address).groups < 1:
            raise ValueError("an address locator needs one group in brackets")
        return self


FieldType = Literal[
    "line", "passage", "number", "date", "yes_no", "choice", "link", "picture", "file", "reference", "list", "blocks",
    "group",
]  # fmt: skip
ADDRESSES = frozenset(["link", "file", "reference"])  # types whose values are addresses


class InnerPart(Strict):
    """A value that each member of a group has: what the selector finds in the member (the member itself without one),
    its text or an attribute. ``passage`` and ``blocks`` (clean HTML) without a selector are what no other part is read
    from. With ``follows`` it stands not in the member, but in what comes after it, up to the next one."""

    name: Name
    type: Literal["line", "passage", "number", "date", "link", "picture", "blocks"] = "line"
    css: Selector | Literal[""] = ""
    attribute: str | None = None
    treat: list[Annotated[Treatment, BeforeValidator(treatment_of)]] = []
    follows: bool = False


class PartPlan(InnerPart):
    """A part of a group; of the type ``group`` it is one itself: the selector finds the members of it in the member,
    and each of them has the ``parts``."""

    type: Literal["line", "passage", "number", "date", "link", "picture", "blocks", "group"] = "line"  # type: ignore[assignment]
    parts: list[InnerPart] = []

    @model_validator(mode="after")
    def _group(self) -> PartPlan:
        if (self.type == "group") != bool(self.parts):
            raise ValueError("a part that is a group has parts of its own, and no other has")
        if self.type == "group" and (not self.css or self.attribute or self.treat):
            raise ValueError("the members of a group are found by CSS")
        _once(self.parts)
        return self


def _once(parts: Iterable[InnerPart]) -> None:
    names = [part.name for part in parts]
    if len(set(names)) < len(names):
        raise ValueError("two parts of a group have one name")


class FieldPlan(Strict):
    """A typed slot of a kind and how it is read. Of a group the locators (CSS) find the members, and each of them has
    the ``parts``."""

    name: Name
    type: FieldType
    locators: list[Locator] = Field(min_length=1)
    treat: list[Annotated[Treatment, BeforeValidator(treatment_of)]] = []
    required: bool = False
    choices: list[str] = []
    parts: list[PartPlan] = []
    proposed: Proposed | None = None

    @model_validator(mode="after")
    def _parts(self) -> FieldPlan:
        if (self.type == "group") != bool(self.parts):
            raise ValueError("a group, and nothing else, has parts")
        if self.parts and any(locator.css is None or locator.attribute for locator in self.locators):
            raise ValueError("the members of a group are found by CSS")
        _once(self.parts)
        return self

    @model_validator(mode="after")
    def _placed(self) -> FieldPlan:
        if self.type in ("blocks", "group") and any(one.record for one in self.locators):
            raise ValueError("a body or a group stands on the page; a record gives single values")
        return self

    @model_validator(mode="after")
    def _choices(self) -> FieldPlan:
        if self.type == "choice" and not self.choices:
            raise ValueError("a choice field needs its choices")
        return self


class KindPlan(Strict):
    """A content type: which pages, which fields, which new address.

    ``items: none`` sorts pages without making items of them (lists that the new system makes itself); ``each`` makes an
    item of every section of a page that the selector in ``each`` finds: of what is in it, or where it ``leads`` (a
    heading) of it and what comes after it, up to the next one. Fields are read within it, ``:scope`` is all of it.
    ``address`` is the new path, with ``{slug}``, ``{field}`` or ``{field:%Y}`` for parts of a date; ``slugs`` says how
    its parts are made readable. With ``languages``
    the kind is had once for each of them, under its own name (``story_de``); ``{language}`` in its address is filled.
    """

    name: Name
    label: str = ""
    rules: list[SortRule] = Field(min_length=1)
    items: Literal["one", "none", "each"] = "one"
    each: Selector | Literal[""] = ""
    leads: bool = False
    fields: list[FieldPlan] = []
    address: str | None = Field(None, pattern=r"^/")
    slug_from: str = "title"
    slugs: Slugs = PLAIN
    languages: list[Language] = []
    proposed: Proposed | None = None

    def by_language(self) -> list[KindPlan]:
        """The kind as it is worked with: once for each of its languages, itself when it names none."""
        if not self.languages:
            return [self]
        return [
            self.model_copy(
                update={
                    "name": f"{self.name}_{language}",
                    "label": f"{self.label or self.name} ({language})",
                    "rules": [rule.model_copy(update={"language": language}) for rule in self.rules],
                    "address": self.address and self.address.replace("{language}", language),
                    "languages": [],
                }
            )
            for language in dict.fromkeys(self.languages)
        ]

    @property
    def makes_items(self) -> bool:
        return self.items != "none"

    @model_validator(mode="after")
    def _sections(self) -> KindPlan:
        if (self.items == "each") != bool(self.each):
            raise ValueError("items of sections need the selector of the sections, and no other kind has one")
        return self

    @model_validator(mode="after")
    def _names(self) -> KindPlan:
        names = [f.name for f in self.fields]
        twice = {n for n in names if names.count(n) > 1}
        if twice:
            raise ValueError(f"the field “{sorted(twice)[0]}” is named twice")
        return self


_FIRST = ("address", "below", "element")  # of a rule, what it could always say


def rests_on(kinds: Iterable[KindPlan]) -> list[dict[str, Any]]:
    """Kinds as what a finding rests on: what came later is left out where it says nothing, so that findings of before
    there was such a thing still agree. How addresses are made readable is nothing they rest on."""
    made = []
    for kind in kinds:
        later = {"languages": kind.languages, "each": kind.each, "leads": kind.leads}
        without = {name for name, value in later.items() if not value} | {"slugs"}
        said = kind.model_dump(mode="json", exclude=without)
        said["rules"] = [{k: v for k, v in rule.items() if k in _FIRST or v} for rule in said["rules"]]
        made.append(said)
    return made


Act = Literal["unwrap", "layout", "data", "callout", "gallery", "columns", "button"]
Box = Literal["note", "tip", "important", "warning", "caution"]
Tidy = Literal["one_h1", "no_gaps", "untracked", "no_short_codes", "unstyled"]


class Step(Strict):
    """A clean-up step over all bodies, or those of some ``kinds``: everything that ``remove`` finds is taken out, under
    this name; or what ``select`` finds is read as ``act`` says: without its box (unwrap), as a table of layout or of
    data, as a callout of a ``box``, a gallery, columns, a button; or the whole body is put in order (``tidy``: one
    heading of the first level, no gaps between levels, links without what counts visitors, no short codes that were
    never expanded, raw markup without looks). ``off``: it is kept, and
    not done."""

    name: str = Field(min_length=1)
    remove: Selector | None = None
    select: Selector | None = None
    act: Act | None = None
    box: Box | None = None
    tidy: Tidy | None = None
    kinds: list[Name] = Field(default=[], max_length=200)
    off: bool = False
    proposed: Proposed | None = None

    @model_validator(mode="after")
    def _one(self) -> Self:
        does = [self.remove, self.select, self.tidy]
        if sum(one is not None for one in does) != 1 or (self.select is None) != (self.act is None):
            raise ValueError("a step removes something, selects something and says what it is (act), or tidies")
        if self.box is not None and self.act != "callout":
            raise ValueError("a box is what a callout is")
        return self

    @property
    def finds(self) -> str:
        """The selector of what it is about, "" of one about whole bodies."""
        return self.remove or self.select or ""

    @property
    def treats(self) -> str:
        """What it says that an element is, or how it tidies; "" of one that takes something out."""
        if self.tidy is not None:
            return self.tidy
        return "" if self.act is None else f"{self.act}:{self.box}" if self.box else self.act


def steps_of(steps: Iterable[Step], kind: str) -> list[Step]:
    """The steps that are done on the bodies of a kind, in order."""
    return [step for step in steps if not step.off and (not step.kinds or kind in step.kinds)]
