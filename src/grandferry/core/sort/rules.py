"""Which kinds a page fits: the first one wins, the others are named."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

from ..address import under
from ..kinds import KindPlan, SortRule
from ..page import Page
from ..patterns import compile_pattern


@dataclass(frozen=True, slots=True)
class Sorted:
    """``kind`` is "" when no rule caught the page; ``also`` are kinds further down that would fit too."""

    kind: str
    rule: int  # the number of the rule within its kind, -1 for none
    also: tuple[str, ...]


def language_of(key: str, declared: str, named: Sequence[str]) -> str:
    """The language of a page (a primary subtag of BCP 47), of those that a plan names: that of the folder it lies in,
    else the one it declares, else the first."""
    for part in key.partition("?")[0].split("/")[1:3]:
        if (folder := primary(part)) in named and _TAG.fullmatch(part):
            return folder
    return primary(declared) or (named[0] if named else "")


# a language with a script or a region (BCP 47), as folders are named by it
_TAG = re.compile(r"[a-zA-Z]{2,3}(?:[-_](?:[a-zA-Z]{4}|[a-zA-Z]{2}|[0-9]{3})){0,2}")


def primary(tag: str) -> str:
    """The language of a tag (BCP 47), in small letters."""
    return re.split("[-_]", tag.strip().lower(), maxsplit=1)[0]


class Condition(StrEnum):
    """What a rule may ask of a page; named as in the plan."""

    LANGUAGE = "language"
    BELOW = "below"
    ADDRESS = "address"
    ELEMENT = "element"


# how each is asked: of the rule's value, the address's key, its page and that page's language
_ASKED: dict[Condition, Callable[[str, str, Page | None, str], bool]] = {
    Condition.LANGUAGE: lambda wanted, key, page, language: wanted == language,
    Condition.BELOW: lambda wanted, key, page, language: under(key.partition("?")[0], wanted),
    Condition.ADDRESS: lambda wanted, key, page, language: bool(compile_pattern(wanted).fullmatch(key)),
    Condition.ELEMENT: lambda wanted, key, page, language: page is not None and bool(page.select(wanted)),
}


def holds(rule: SortRule, key: str, page: Page | None, language: str = "") -> bool:
    """Whether all that the rule names holds for the address ``key``, its page and that page's language."""
    for condition, asked in _ASKED.items():
        wanted = getattr(rule, condition)
        if wanted is not None and not asked(wanted, key, page, language):
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


def explain(kinds: list[KindPlan], key: str, page: Page | None, language: str = "") -> list[RuleChecked]:
    """Every rule of every kind, in their order, with what holds of it for a page and what does not."""
    found = []
    for kind in kinds:
        for number, rule in enumerate(kind.rules):
            checks = tuple(
                Checked(condition, wanted, asked(wanted, key, page, language))
                for condition, asked in _ASKED.items()
                if (wanted := getattr(rule, condition)) is not None
            )
            found.append(RuleChecked(kind.name, number, all(check.holds for check in checks), checks))
    return found


def needs_page(kinds: list[KindPlan]) -> bool:
    """Whether any rule looks into pages (so that bodies must be read)."""
    return any(rule.element for kind in kinds for rule in kind.rules)


def sort_page(kinds: list[KindPlan], key: str, page: Page | None, language: str = "") -> Sorted:
    """The first kind whose any rule holds, and all later ones that would hold as well."""
    fits = []
    for kind in kinds:
        for number, rule in enumerate(kind.rules):
            if holds(rule, key, page, language):
                fits.append((kind.name, number))
                break
    if not fits:
        return Sorted("", -1, ())
    return Sorted(fits[0][0], fits[0][1], tuple(name for name, _ in fits[1:]))
