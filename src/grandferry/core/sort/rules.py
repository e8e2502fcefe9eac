"""Which kinds a page fits: the first one wins, the others are named."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..address import under
from ..page import Page
from ..patterns import compile_pattern
from ..plan import KindPlan, SortRule


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


def holds(rule: SortRule, key: str, page: Page | None, language: str = "") -> bool:
    """Whether all that the rule names holds for the address ``key``, its page and that page's language."""
    if rule.language is not None and rule.language != language:
        return False
    if rule.below is not None and not under(key.partition("?")[0], rule.below):
        return False
    if rule.address is not None and not compile_pattern(rule.address).fullmatch(key):
        return False
    return rule.element is None or (page is not None and bool(page.select(rule.element)))


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
