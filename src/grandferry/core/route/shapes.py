"""Open addresses by shape, equal shapes folded over the folders in which they lie, so that one act settles them at any
height: ``/…/*.png`` over ``/*/images/*.png`` over ``/news/images/*.png``.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from ..address import shape, shape_pattern
from ..filetypes import looks_like_file

ENOUGH = 3  # folders (or shapes) from which on they are folded
ANYWHERE = "…"


@dataclass(frozen=True, slots=True)
class Weight:
    """How many addresses, how many of them unaccounted, and their visits."""

    count: int = 0
    unaccounted: int = 0
    visits: int = 0

    def plus(self, other: Weight) -> Weight:
        return Weight(self.count + other.count, self.unaccounted + other.unaccounted, self.visits + other.visits)


@dataclass(frozen=True, slots=True)
class Fold:
    """A shape: ``pattern`` (RE2) fits the addresses that have it; ``inner`` are the shapes it is folded over, none
    where addresses lie right in it; ``folders``: how many folders that are."""

    shape: str
    pattern: str
    weight: Weight
    folders: int
    inner: tuple[Fold, ...] = ()

    @property
    def leaves(self) -> Iterable[str]:
        """The shapes of addresses in it."""
        if not self.inner:
            yield self.shape
        for one in self.inner:
            yield from one.leaves


def folded(weights: Mapping[str, Weight]) -> list[Fold]:
    """Shapes (as ``address.shape`` gives them) with their weights as trees, the weightiest first."""
    leaves = {one: Fold(one, shape_pattern(one), weight, 1) for one, weight in weights.items()}
    middle = _over_one_folder(leaves)
    return _sorted(_anywhere(middle))


def weights_of(rows: Iterable[tuple[str, bool, int]]) -> dict[str, Weight]:
    """By shape, of addresses (key, unaccounted, visits)."""
    found: dict[str, Weight] = defaultdict(Weight)
    for key, unaccounted, visits in rows:
        at = shape(key)
        found[at] = found[at].plus(Weight(1, int(unaccounted), visits))
    return dict(found)


def _over_one_folder(leaves: Mapping[str, Fold]) -> list[Fold]:
    """Shapes that differ in one folder alone are one; where a shape could go with several, the larger group has it."""
    groups: dict[str, list[str]] = defaultdict(list)
    for one in leaves:
        path, mark, query = one.partition("?")
        parts = path.split("/")
        for at in range(1, len(parts) - 1):
            if parts[at] not in ("#", "*"):
                groups["/".join([*parts[:at], "*", *parts[at + 1 :]]) + mark + query].append(one)
    taken: set[str] = set()
    made = []
    for shaped, members in sorted(groups.items(), key=lambda item: (-len(item[1]), item[0])):
        mine = [one for one in members if one not in taken]
        if len(mine) >= ENOUGH:
            taken.update(mine)
            made.append(_fold(shaped, shape_pattern(shaped), [leaves[one] for one in mine]))
    return made + [fold for one, fold in leaves.items() if one not in taken]


def _anywhere(folds: Iterable[Fold]) -> list[Fold]:
    """Files of one ending, wherever they lie, are one."""
    by_ending: dict[str, list[Fold]] = defaultdict(list)
    made = []
    for fold in folds:
        last = fold.shape.rpartition("/")[2]
        if "?" not in fold.shape and last.startswith(("*.", "#.")) and looks_like_file(f"/x{last[1:]}"):
            by_ending[last[1:]].append(fold)
        else:
            made.append(fold)
    for ending, members in by_ending.items():
        if len(members) < ENOUGH:
            made += members
        else:
            pattern = "/(?:[^?]*/)?[^/?]+" + shape_pattern(ending)
            made.append(_fold(f"/{ANYWHERE}/*{ending}", pattern, members))
    return made


def _fold(shaped: str, pattern: str, members: list[Fold]) -> Fold:
    weight = Weight()
    for one in members:
        weight = weight.plus(one.weight)
    return Fold(shaped, pattern, weight, sum(one.folders for one in members), tuple(_sorted(members)))


def _sorted(folds: Iterable[Fold]) -> list[Fold]:
    return sorted(folds, key=lambda f: (-f.weight.unaccounted, -f.weight.visits, -f.weight.count, f.shape))
