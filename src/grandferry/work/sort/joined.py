"""What may be done with groups of pages that are made alike: taken together as one kind, by a rule or by their make;
parted; set aside."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.kinds import SortRule
from grandferry.core.page import open_page
from grandferry.core.plan import Aside
from grandferry.core.sort.grouping import Groups, matrix
from grandferry.core.sort.likeness import like_each, likeness
from grandferry.core.sort.make import selectors
from grandferry.core.sort.proposal import Proposal, propose
from grandferry.store import bodies, changes, crossings, groups
from grandferry.work.pages import content_type, source_of
from grandferry.work.route.decisions import asides_of

LOOKED_AT = 3  # pages of each group that are read for names of what they share


class Told(NamedTuple):
    """A rule, how many of the pages meant it catches and misses, and how many others it takes."""

    rule: SortRule
    right: int
    missed: int
    wrong: int

    @property
    def f1(self) -> float:
        return 2 * self.right / max(1, 2 * self.right + self.missed + self.wrong)


@dataclass(frozen=True, slots=True)
class Joined:
    """Some groups taken together: a name, how many pages, the simplest rule that separates them, and one by their make
    alone."""

    name: str
    pages: int
    by_rule: Told
    by_make: Told


class Joining:
    """The pages of a crossing with their makes, read once for several questions."""

    def __init__(self, crossing: int):
        self._crossing = crossing
        self._pages = [page for page in groups.pages(crossing) if page.make]
        self._place = {page.address: n for n, page in enumerate(self._pages)}
        self._rows, self._traits = matrix([np.frombuffer(page.make, "<u4") for page in self._pages])

    def join(self, wanted: Sequence[tuple[int, int]]) -> Joined:
        """Groups (cut, number) taken together. Raises NotThere."""
        group = self._group(wanted)
        label = np.where(group, 0, 1).astype(np.intp)
        keys = [page.key for page in self._pages]
        names: dict[int, str] = {}
        places = np.flatnonzero(group)
        for n in sorted({int(places[k]) for k in np.linspace(0, len(places) - 1, LOOKED_AT * len(wanted)).astype(int)}):
            page = self._pages[n]
            parsed = open_page(source_of(bodies.get(page.content), content_type(page.headers)))
            if parsed.body is not None:
                for made, selector in selectors(parsed.body).items():
                    names.setdefault(made, selector)
        said = propose(Groups((label,), self._rows, self._traits), label, keys, names)[0]
        return Joined(said.name, int(group.sum()), _told(said), self._by_make(group))

    def by_make(self, wanted: Sequence[tuple[int, int]]) -> Told:
        """Groups (cut, number) by their make alone. Raises NotThere."""
        return self._by_make(self._group(wanted))

    def _group(self, wanted: Sequence[tuple[int, int]]) -> NDArray[np.bool_]:
        group = np.zeros(len(self._pages), dtype=bool)
        for cut, number in wanted:
            group[[self._place[a] for a in _members(self._crossing, cut, number) if a in self._place]] = True
        if not group.any():
            raise NotThere("None of these pages is there any more; group them again.")
        return group

    def _by_make(self, group: NDArray[np.bool_]) -> Told:
        first = self._pages[int(np.argmax(group))].key
        made = likeness(f"pages like {first}"[:200], self._rows, self._traits, group)
        caught = like_each(made, self._rows, self._traits)
        right, missed, wrong = (caught & group).sum(), (group & ~caught).sum(), (caught & ~group).sum()
        return Told(SortRule(make=made), int(right), int(missed), int(wrong))


def _told(said: Proposal) -> Told:
    return Told(said.rule, said.right, said.missed, said.wrong)


def _members(crossing: int, cut: int, number: int) -> list[int]:
    found = groups.members(crossing, cut, number)
    if not found:
        raise NotThere(f"There is no group {number} at this cut; the pages may have been grouped anew.")
    return found


def parted(crossing: int, cut: int, number: int) -> int:
    """The coarsest finer cut at which a group comes apart. Raises FerryError where it is one at all of them."""
    _members(crossing, cut, number)
    for finer in range(cut - 1, -1, -1):
        if len(groups.groups(crossing, finer, (cut, number))) > 1:
            return finer
    raise FerryError(
        "These pages are made so alike that they do not come apart.",
        "Write a rule over their addresses, or over what stands in an element of theirs.",
    )


def set_aside(crossing: int, cut: int, numbers: list[int], reason: str, by: str) -> tuple[int, str]:
    """Set the pages of groups aside for a reason: kept in the account, not lifted. Gives how many, and the change in
    words. Raises FerryError."""
    if len(reason.strip()) < 3:
        raise FerryError("Setting aside needs a reason.", "Say in a few words why they are left out.")
    asides: list[Aside] = []
    number = 0
    for one in numbers:
        total, found = groups.group_pages(crossing, cut, one, 0, -1)
        _members(crossing, cut, one)
        number += total
        asides += asides_of([page.key for page in found], reason.strip())
    text = f"{number:,} page{'s' * (number != 1)} made alike set aside: {reason.strip()}"[:300]
    plan = crossings.load_plan(crossing)
    plan.route.aside += asides
    changes.change_plan(crossing, plan, changes.revision(crossing), by, text)
    return number, text
