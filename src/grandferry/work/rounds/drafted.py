"""The kinds of a first draft: a rule for each group of pages; and those that come out the same, taken together."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from grandferry.core.kinds import EVERYTHING, KindPlan, Proposed, SortRule
from grandferry.core.lift.slots import labels
from grandferry.core.plan import Plan
from grandferry.core.sort.drafting import FEWEST, DraftedKind, draft_kinds
from grandferry.core.sort.grouping import CUTS, MIDDLE
from grandferry.core.sort.proposal import Proposal
from grandferry.store import groups
from grandferry.work.jobs.context import Context
from grandferry.work.lift.first import some_pages
from grandferry.work.sort.joined import Joining, Told
from grandferry.work.sort.run import first_fit

LEFT = 0.25  # of the pages of a group that a kind made for it has, at least
GOOD = 0.9  # F1 of a rule that is taken as it is, and
BETTER = 0.03  # … by how much the make alone has to be better than another
PART = 0.15  # of the pages of a group: a part of it that is looked at,
LABELLED = 5  # … and how many pages of it
MOVED = 0.05  # of the pages that may come into a kind with other fields when kinds are taken together


@dataclass(frozen=True, slots=True)
class Made:
    """A kind without fields, the groups that it is made of (places in the list of those), and the addresses of the
    pages that it has."""

    kind: KindPlan
    groups: tuple[int, ...]
    members: list[int]


class KindsOfGroups:
    """Kinds for the groups of a crossing's pages that no kind of a person has."""

    def __init__(self, context: Context, plan: Plan):
        self._context = context
        self._crossing = context.crossing
        self._plan = plan
        self._mine = {kind.name for kind in plan.kinds}
        every = groups.groups(self._crossing, MIDDLE)
        left = [one for one in every if sum(n for k, n in one.kinds.items() if k in self._mine) * 2 < one.pages]
        self._groups = [(cut, part) for one in left for cut, part in self._parted(one)]
        self._joining: Joining | None = None
        self._offers = [self._offer(cut, one) for cut, one in self._groups]

    def made(self) -> list[Made]:
        """A kind for every group that is large enough, and one for what is left."""
        return self._kept(draft_kinds(self._offers, self._mine))

    def together(self, made: Sequence[Made], same: Sequence[Sequence[int]]) -> list[tuple[Made, int]]:
        """The kinds anew, those that are the ``same`` (places in ``made``) taken together where their pages are made
        alike; with the place of the kind each of them has its fields of. As they are where nothing comes of it, or
        where pages would come into kinds with other fields."""
        as_they_are = [(one, n) for n, one in enumerate(made)]
        sets = [found for places in same for found in self._made_alike(made, places)]
        if not sets:
            return as_they_are
        drafted, class_of = self._drafted(made, sets)
        anew = self._kept(drafted)
        of_group = {g: class_of[n] for n, one in enumerate(made) for g in one.groups}
        whole = next((n for n, one in enumerate(made) if one.kind.rules == [EVERYTHING]), None)
        found: list[tuple[Made, int]] = []
        for one in anew:
            known = [of_group[g] for g in one.groups if g in of_group]
            fields = whole if one.kind.rules == [EVERYTHING] else known[0] if known else None
            if fields is None:
                return as_they_are
            found.append((one, fields))
        before = {a: class_of[n] for n, one in enumerate(made) for a in one.members}
        moved = sum(before.get(a) != fields for one, fields in found for a in one.members)
        return found if moved <= MOVED * len(before) else as_they_are

    def _drafted(self, made: Sequence[Made], sets: Sequence[Sequence[int]]) -> tuple[list[DraftedKind], list[int]]:
        """Kinds with each of some sets of those ``made`` (places) as one, and for each of these the place of the kind
        that it goes by. What is the same as the kind of what is left is left to that."""
        offers = dict(enumerate(self._offers))
        parts = {n: (n,) for n in offers}
        class_of = list(range(len(made)))
        rest: set[int] = set()
        rules: dict[tuple[int, ...], list[str]] = {}
        for places in sets:
            last = next((n for n in places if made[n].kind.rules == [EVERYTHING]), None)
            goes_by = last if last is not None else max(places, key=lambda n: len(made[n].members))
            for n in places:
                class_of[n] = goes_by
            held = tuple(g for n in places if n != last for g in made[n].groups)
            if last is not None:
                rest.update(held)
                continue
            offers[held[0]], parts[held[0]] = self._joined(held), held
            if offers[held[0]].rule == self._offers[held[0]].rule:  # no single one finds them all
                rules[held] = list(dict.fromkeys(self._offers[g].rule.model_dump_json() for g in held))
            for gone in held[1:]:
                del offers[gone], parts[gone]
        numbers = list(offers)
        drafted = []
        left = [k for k, n in enumerate(numbers) if n in rest]
        for one in draft_kinds([offers[n] for n in numbers], self._mine, left):
            held = tuple(g for k in one.groups for g in parts[numbers[k]])
            some = [SortRule.model_validate_json(rule) for rule in rules.get(held, [])]
            drafted.append(DraftedKind(one.kind.model_copy(update={"rules": some}) if some else one.kind, held))
        return drafted, class_of

    def _made_alike(self, made: Sequence[Made], places: Sequence[int]) -> list[list[int]]:
        """Of some kinds those together whose pages mostly are in one group at the coarsest cut."""
        coarse = groups.numbers(self._crossing, len(CUTS) - 1)
        by_group: dict[int | None, list[int]] = {}
        for n in places:
            most = Counter(coarse.get(a) for a in made[n].members).most_common(1)
            by_group.setdefault(most[0][0] if most else None, []).append(n)
        return [found for number, found in by_group.items() if number is not None and len(found) > 1]

    def _joined(self, places: tuple[int, ...]) -> Proposal:
        """A rule for some groups taken together; that of the first, where no single one is good for all of them."""
        self._joining = self._joining or Joining(self._crossing)
        found = self._joining.join([(cut, one.number) for cut, one in (self._groups[g] for g in places)])
        best = found.by_make if found.by_make.f1 > found.by_rule.f1 + BETTER else found.by_rule
        if best.f1 >= GOOD:
            return Proposal(found.name, *best)
        some = [self._offers[g] for g in places]
        counts = (sum(one.right for one in some), sum(one.missed for one in some), sum(one.wrong for one in some))
        return Proposal(found.name, some[0].rule, *counts)

    def _parted(self, one: groups.Group) -> list[tuple[int, groups.Group]]:
        """A group with its cut, or its parts at the finest cut with that, where large parts have labels that others of
        them have not."""
        parts = groups.groups(self._crossing, 0, (MIDDLE, one.number))
        large = [part for part in parts if part.pages >= max(FEWEST, PART * one.pages)]
        if len(large) < 2:
            return [(MIDDLE, one)]
        has: list[set[str]] = []
        some: list[set[str]] = []
        for part in large:
            pages = some_pages(self._crossing, groups.members(self._crossing, 0, part.number), most=LABELLED)
            said = [set(labels(page)) for page in pages]
            has.append(set.intersection(*said) if said else set())
            some.append(set().union(*said))
        apart = any(has[k] - some[n] for k in range(len(large)) for n in range(len(large)))
        return [(0, part) for part in parts] if apart else [(MIDDLE, one)]

    def _offer(self, cut: int, one: groups.Group) -> Proposal:
        """A rule for a group: the simplest one, or where that goes wrong too often its make alone."""
        rule = Told(SortRule.model_validate(one.rule), one.right, one.missed, one.wrong)
        if rule.f1 < GOOD and one.pages > 1:
            self._joining = self._joining or Joining(self._crossing)
            by_make = self._joining.by_make([(cut, one.number)])
            rule = by_make if by_make.f1 > rule.f1 + BETTER else rule
        return Proposal(one.name, *rule)

    def _kept(self, made: list[DraftedKind]) -> list[Made]:
        """Drafted kinds with the pages that they have, told how many of these are meant; those that the kinds before
        them leave hardly a page are left out."""
        taken = first_fit(self._context, [*self._plan.every_kind, *(one.kind for one in made)])
        has = [set(taken.get(one.kind.name, ())) for one in made]
        meant = [{a for n in one.groups for a in self._members(n)} for one in made]
        stays = [
            len(has[k]) >= (1 if one.kind.rules == [EVERYTHING] else max(FEWEST, LEFT * len(meant[k])))
            for k, one in enumerate(made)
        ]
        for k, pages in enumerate(meant):  # a group of which another kind has nearly all is meant by that
            if not stays[k]:
                other = max(range(len(made)), key=lambda n: (stays[n], len(has[n] & pages)))
                meant[other] |= pages
        kept = []
        for k, one in enumerate(made):
            if stays[k]:
                right, missed, wrong = len(has[k] & meant[k]), len(meant[k] - has[k]), len(has[k] - meant[k])
                said = Proposed(right=right, missed=missed, wrong=wrong)
                if one.kind.rules == [EVERYTHING]:  # nothing speaks for it
                    said = Proposed(right=0, wrong=len(has[k]))
                kept.append(Made(one.kind.model_copy(update={"proposed": said}), one.groups, sorted(has[k])))
        return kept

    def _members(self, place: int) -> list[int]:
        cut, one = self._groups[place]
        return groups.members(self._crossing, cut, one.number)
