"""What is open, by shape, folded over folders; and one act over all of a shape."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from typing import NamedTuple

from grandferry.core.errors import FerryError
from grandferry.core.route.shapes import Fold, Weight, folded
from grandferry.store import route
from grandferry.store.lists.windows import Selection
from grandferry.work.route.acts import act_over

SHOWN = 40  # addresses of a shape


class Group(NamedTuple):
    """A shape of open addresses at its height in the tree (``level`` 0: nothing is folded over it); the first of its
    addresses where they lie right in it."""

    fold: Fold
    level: int
    rows: list[route.Open]


def open_groups(crossing: int) -> list[Group]:
    """Unaccounted and merely planned addresses by shape, in the order of the tree: a shape, then what is in it."""
    folds, rows = _open(crossing)
    return list(_walked(folds, rows, 0))


def decide_shape(crossing: int, shape: str, what: str, to: str, reason: str, by: str) -> tuple[int, str]:
    """Decide over all unaccounted addresses of a shape, as ``act_over``. Raises FerryError as that does, and when
    nothing of the shape is open any more."""
    folds, rows = _open(crossing)
    found = next((fold for fold in _every(folds) if fold.shape == shape), None)
    open_ = [row.id for leaf in (found.leaves if found else ()) for row in rows[leaf] if row.fate == "unaccounted"]
    if not open_:
        raise FerryError(f"Nothing of the shape {shape} is unaccounted any more.", "Look at what is open now.")
    return act_over(crossing, Selection(ids=tuple(open_)), what, to, reason, by)


def _open(crossing: int) -> tuple[list[Fold], dict[str, list[route.Open]]]:
    rows: dict[str, list[route.Open]] = defaultdict(list)
    weights: dict[str, Weight] = defaultdict(Weight)
    for row in route.open_addresses(crossing):
        rows[row.shape].append(row)
        weights[row.shape] = weights[row.shape].plus(Weight(1, int(row.fate == "unaccounted"), row.visits))
    return folded(weights), rows


def _walked(folds: Iterable[Fold], rows: dict[str, list[route.Open]], level: int) -> Iterator[Group]:
    for fold in folds:
        first = sorted(rows[fold.shape], key=lambda row: row.fate != "unaccounted") if not fold.inner else []
        yield Group(fold, level, first[:SHOWN])
        yield from _walked(fold.inner, rows, level + 1)


def _every(folds: Iterable[Fold]) -> Iterator[Fold]:
    for fold in folds:
        yield fold
        yield from _every(fold.inner)
