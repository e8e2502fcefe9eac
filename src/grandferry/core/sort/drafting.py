"""Kinds out of groups, for a first draft: a kind for every group that is large enough, and one for what is left."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from ..kinds import EVERYTHING, KindPlan, Proposed, SortRule
from .proposal import Proposal

FEWEST = 3  # pages that a kind of its own is made of, and
SHARE = 0.005  # … of all pages
ADDRESS = "/{path}"  # the old address, without what it says of the old system
REST = ("page", "other", "rest")  # names for the kind of what no other takes


@dataclass(frozen=True, slots=True)
class DraftedKind:
    """A kind without fields, and the groups (their numbers) whose pages it is looked up on."""

    kind: KindPlan
    groups: tuple[int, ...]


def draft_kinds(proposals: Sequence[Proposal], taken: Collection[str], rest: Collection[int] = ()) -> list[DraftedKind]:
    """Kinds for groups, each given by what is proposed of it; names that are ``taken`` are not used. Since the first
    kind that fits a page has it, those whose rules take least from others come first. The last one takes what no other
    does: small groups, those that it is to take (``rest``, places), and what the rules of the others miss."""
    pages = sum(one.right + one.missed for one in proposals)
    least = max(FEWEST, SHARE * pages)
    large = [(n, one) for n, one in enumerate(proposals) if one.right + one.missed >= least and n not in rest]
    large.sort(key=lambda row: (row[1].wrong / max(1, row[1].right + row[1].wrong), -row[1].right))
    used = set(taken)
    made = []
    rules: list[SortRule] = []
    for number, one in large:
        if one.rule in rules:
            continue  # the kind of that rule has its pages
        rules.append(one.rule)
        said = Proposed(right=one.right, missed=one.missed, wrong=one.wrong)
        made.append(DraftedKind(_kind(_free(one.name, used), one.rule, said), (number,)))
    small = [n for n, one in enumerate(proposals) if one.right + one.missed < least or n in rest]
    left = sum(proposals[n].right + proposals[n].missed for n in small)
    missed = [n for n, one in large if one.missed]
    if small or missed:
        said = Proposed(right=0, wrong=left + sum(proposals[n].missed for n in missed))  # nothing speaks for it
        name = next((name for name in REST if name not in used), REST[0])
        last = _kind(_free(name, used), EVERYTHING, said)
        made.append(DraftedKind(last, tuple(small or missed)))
    return made


def _kind(name: str, rule: SortRule, said: Proposed) -> KindPlan:
    return KindPlan(name=name, label=name.replace("_", " "), rules=[rule], address=ADDRESS, proposed=said)


def _free(name: str, used: set[str]) -> str:
    free, number = name, 1
    while free in used:
        number += 1
        free = f"{name[:36]}_{number}"
    used.add(free)
    return free
