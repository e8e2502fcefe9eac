"""Which kinds a page fits: the first one wins, the others are named."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from ..address import under
from ..kinds import EVERYTHING, Conditions, KindPlan, SortRule
from ..lift.locators import declared, types_of
from ..page import Page, text_of
from ..patterns import compile_pattern
from ..records.record import RECORD
from .likeness import like


@dataclass(frozen=True, slots=True)
class Sorted:
    """``kind`` is "" when no rule caught the page; ``also`` are kinds further down that would fit too."""

    kind: str
    rule: int  # the number of the rule within its kind, -1 for none
    also: tuple[str, ...]


class Seen(NamedTuple):
    """What a rule is held against: an address (its key), its page (None where it could not be read, or is not looked
    into), the language of that page, the server's answer (lines: the status, headers as ``name: value``), the page's
    make (traits as 32-bit numbers), and what ``records`` of it are (kind/state)."""

    key: str
    page: Page | None = None
    language: str = ""
    answer: str = ""
    make: bytes = b""
    records: tuple[str, ...] = ()


def language_of(key: str, declared_: str, named: Sequence[str]) -> str:
    """The language of a page (a primary subtag of BCP 47), of those that a plan names: that of the folder it lies in,
    else the one it declares, else the first."""
    for part in key.partition("?")[0].split("/")[1:3]:
        if (folder := primary(part)) in named and _TAG.fullmatch(part):
            return folder
    return primary(declared_) or (named[0] if named else "")


# a language with a script or a region (BCP 47), as folders are named by it
_TAG = re.compile(r"[a-zA-Z]{2,3}(?:[-_](?:[a-zA-Z]{4}|[a-zA-Z]{2}|[0-9]{3})){0,2}")


def primary(tag: str) -> str:
    """The language of a tag (BCP 47), in small letters."""
    return re.split("[-_]", tag.strip().lower(), maxsplit=1)[0]


def answer_lines(status: int, headers: str) -> str:
    """A server's answer as rules are held against it; ``headers``: JSON, names in small letters."""
    return "\n".join([str(status), *(f"{name}: {value}" for name, value in json.loads(headers).items())])


class Condition(StrEnum):
    """What a rule may ask of a page; named as in the plan. Of an element also what it says, of the rules in ``unless``
    that none of them holds."""

    LANGUAGE = "language"
    BELOW = "below"
    ADDRESS = "address"
    ANSWER = "answer"
    MAKE = "make"
    RECORD = "record"
    ELEMENT = "element"
    DECLARES = "declares"
    UNLESS = "unless"


LOOKING = frozenset([Condition.ELEMENT, Condition.DECLARES])  # for which the page itself is read


def _has_element(rule: Conditions, seen: Seen) -> bool:
    if seen.page is None or rule.element is None:
        return False
    found = seen.page.select(rule.element)
    if rule.attribute is None and rule.says is None:
        return bool(found)
    wanted = compile_pattern(rule.says) if rule.says is not None else None
    for node in found:
        text = text_of(seen.page, node) if rule.attribute is None else node.get(rule.attribute)
        if (rule.attribute is None or rule.attribute in node.attrs) and (wanted is None or wanted.search(text)):
            return True
    return False


def declared_types(page: Page) -> Iterator[str]:
    """The types that a page declares of itself: of its JSON-LD, of Open Graph."""
    for node in page.nodes:
        if node.tag == "script" and node.get("type").lower() == "application/ld+json":
            for thing in declared("".join(child.text for child in node.children)):
                yield from (said for said in types_of(thing) if isinstance(said, str))
        elif node.tag == "meta" and node.get("property").lower() == "og:type":
            yield node.get("content").strip()


def _declares(rule: Conditions, seen: Seen) -> bool:
    wanted = (rule.declares or "").casefold()
    return seen.page is not None and any(said.casefold() == wanted for said in declared_types(seen.page))


# how each is asked of a rule and what is seen
_ASKED: dict[Condition, Callable[[Conditions, Seen], bool]] = {
    Condition.LANGUAGE: lambda rule, seen: rule.language == seen.language,
    Condition.BELOW: lambda rule, seen: under(seen.key.partition("?")[0], rule.below or "/"),
    Condition.ADDRESS: lambda rule, seen: bool(compile_pattern(rule.address or "").fullmatch(seen.key)),
    Condition.ANSWER: lambda rule, seen: any(map(compile_pattern(rule.answer or "").search, seen.answer.split("\n"))),
    Condition.MAKE: lambda rule, seen: rule.make is not None and like(rule.make, seen.make),
    Condition.RECORD: lambda rule, seen: any(map(compile_pattern(rule.record or "").fullmatch, seen.records)),
    Condition.ELEMENT: _has_element,
    Condition.DECLARES: _declares,
    Condition.UNLESS: lambda rule, seen: not any(holds(one, seen) for one in _unless(rule)),
}


def _unless(rule: Conditions) -> list[Conditions]:
    return rule.unless if isinstance(rule, SortRule) else []


def asks(rule: Conditions) -> Iterator[tuple[Condition, str]]:
    """The conditions of a rule, each with what it asks for, as it is written."""
    for condition in Condition:
        if condition is Condition.UNLESS:
            if _unless(rule):
                said = (" and ".join(f"{c} {wanted}" for c, wanted in asks(one)) for one in _unless(rule))
                yield condition, "; ".join(said)
        elif (wanted := getattr(rule, condition)) is not None:
            if condition is Condition.ELEMENT:
                wanted += f" @{rule.attribute}" if rule.attribute else ""
                wanted += f" ~ {rule.says}" if rule.says else ""
            yield condition, wanted.name if condition is Condition.MAKE else str(wanted)


def looks(rule: Conditions) -> bool:
    """Whether a rule looks into pages."""
    return any(getattr(rule, one) is not None for one in LOOKING) or any(map(looks, _unless(rule)))


def asks_make(rule: Conditions) -> bool:
    """Whether a rule asks how a page is made."""
    return rule.make is not None or any(map(asks_make, _unless(rule)))


def asks_record(rule: Conditions) -> bool:
    """Whether a rule asks what records of a page are."""
    return rule.record is not None or any(map(asks_record, _unless(rule)))


def is_for(rule: Conditions, seen: Seen) -> bool:
    """Whether a rule is meant for a page at all: for the own page of a record only where it asks for that."""
    return rule.record is not None or not seen.key.startswith(RECORD) or not isinstance(rule, SortRule)


def holds(rule: Conditions, seen: Seen) -> bool:
    """Whether all that the rule names holds."""
    return is_for(rule, seen) and all(_ASKED[condition](rule, seen) for condition, _ in asks(rule))


def may_hold(rule: SortRule, seen: Seen) -> bool:
    """Whether a rule may hold for a page that has not been looked into."""
    if not is_for(rule, seen):
        return False
    for condition, _ in asks(rule):
        if condition is Condition.UNLESS:
            if any(holds(one, seen) for one in rule.unless if not looks(one)):
                return False
        elif condition not in LOOKING and not _ASKED[condition](rule, seen):
            return False
    return True


class Checked(NamedTuple):
    """One condition of a rule, what it asks for, and whether that holds for a page."""

    condition: Condition
    wanted: str
    holds: bool


class RuleChecked(NamedTuple):
    """A rule of a kind (its number there), held against a page condition by condition."""

    kind: str
    rule: int
    holds: bool
    checks: tuple[Checked, ...]


def explain(kinds: list[KindPlan], seen: Seen) -> list[RuleChecked]:
    """Every rule of every kind, in their order, with what holds of it for a page and what does not."""
    found = []
    for kind in kinds:
        for number, rule in enumerate(kind.rules):
            checks = tuple(
                Checked(condition, wanted, _ASKED[condition](rule, seen)) for condition, wanted in asks(rule)
            )
            if not is_for(rule, seen):
                checks += (Checked(Condition.RECORD, "", False),)
            found.append(RuleChecked(kind.name, number, all(check.holds for check in checks), checks))
    return found


def needs_page(kinds: list[KindPlan]) -> bool:
    """Whether any rule looks into pages (so that bodies must be read)."""
    return any(looks(rule) for kind in kinds for rule in kind.rules)


def needs_make(kinds: list[KindPlan]) -> bool:
    """Whether any rule asks how pages are made."""
    return any(asks_make(rule) for kind in kinds for rule in kind.rules)


def needs_records(kinds: list[KindPlan]) -> bool:
    """Whether any rule asks what records of pages are."""
    return any(asks_record(rule) for kind in kinds for rule in kind.rules)


def answers_asked(kinds: list[KindPlan]) -> list[str]:
    """What rules ask of the server's answer, each once."""
    rules: list[Conditions] = [rule for kind in kinds for rule in kind.rules]
    rules += [one for rule in rules for one in _unless(rule)]
    return list(dict.fromkeys(rule.answer for rule in rules if rule.answer is not None))


def sort_page(kinds: list[KindPlan], seen: Seen) -> Sorted:
    """The first kind whose any rule holds, and all later ones that would hold as well, without those that take what is
    left."""
    fits = []
    for kind in kinds:
        for number, rule in enumerate(kind.rules):
            if holds(rule, seen):
                fits.append((kind.name, number))
                break
    if not fits:
        return Sorted("", -1, ())
    takes_all = {kind.name for kind in kinds if EVERYTHING in kind.rules}  # whose rule says nothing of a page
    return Sorted(fits[0][0], fits[0][1], tuple(name for name, _ in fits[1:] if name not in takes_all))
