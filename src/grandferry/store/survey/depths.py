"""How many links each address is away from the start, and how many lead to it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from grandferry.core.side import Side

from ..db import many, one
from ..lists.columns import numbers

# (what is to be noted, address)
Rows = list[tuple[int, int]]
AT_A_TIME = 500_000  # references


def measure(side: Side, start: str) -> tuple[Rows, Rows]:
    """(depth, id) and (links from other addresses, id), each where it differs from what is noted. What no link reaches
    from the start keeps the depth it was met at."""
    root = one("SELECT id FROM address WHERE crossing_id = ? AND side = ? AND url = ?", *side, start)
    known = numbers(
        "id || ' ' || depth || ' ' || in_links", "FROM address WHERE crossing_id = ? AND side = ? ORDER BY id", *side
    )
    ids, noted_depth, noted_links = known.reshape(-1, 3).T
    if not len(ids):
        return [], []
    ways = numbers(
        "a.id || ' ' || t.id",
        "FROM address a JOIN address t ON t.crossing_id = a.crossing_id AND t.side = a.side AND t.url = a.target "
        "WHERE a.crossing_id = ? AND a.side = ? AND a.type = 'redirect'",
        *side,
    ).reshape(-1, 2)
    sources, targets = _links(side, ids)
    linked = np.bincount(targets[sources != targets], minlength=len(ids))
    depth = _depths(
        len(ids),
        np.searchsorted(ids, [root] if root is not None else []),
        np.concatenate((sources, np.searchsorted(ids, ways[:, 0]))),
        np.concatenate((targets, np.searchsorted(ids, ways[:, 1]))),
    )
    deeper = np.flatnonzero((depth >= 0) & (depth != noted_depth))
    other = np.flatnonzero(linked != noted_links)
    return (
        list(zip(depth[deeper].tolist(), ids[deeper].tolist(), strict=True)),
        list(zip(linked[other].tolist(), ids[other].tolist(), strict=True)),
    )


def _links(side: Side, ids: NDArray[np.int64]) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """The places, among the ids, of every reference's page and target; read a part at a time."""
    sources, targets = [np.empty(0, dtype=np.int32)], [np.empty(0, dtype=np.int32)]
    last = one("SELECT max(id) FROM reference") or 0
    for first in range(0, last, AT_A_TIME):
        # both numbers as one, which is read in half the time
        pairs = numbers(
            "source_id << 32 | target_id",
            "FROM reference WHERE crossing_id = ? AND id > ? AND id <= ?",
            side.crossing,
            first,
            first + AT_A_TIME,
        )
        places = np.searchsorted(ids, pairs >> 32)
        pairs = pairs[ids[np.minimum(places, len(ids) - 1)] == pairs >> 32]  # those of the other side aside
        sources.append(np.searchsorted(ids, pairs >> 32).astype(np.int32))
        targets.append(np.searchsorted(ids, pairs & 0xFFFFFFFF).astype(np.int32))
    return np.concatenate(sources), np.concatenate(targets)


def _depths(
    number: int, front: NDArray[np.intp], sources: NDArray[np.intp], targets: NDArray[np.intp]
) -> NDArray[np.intp]:
    """The links from the first ones (``front``) to each of so many addresses, -1 where none lead."""
    by_source = np.argsort(sources, kind="stable")
    sources, targets = sources[by_source], targets[by_source]
    begins = np.searchsorted(sources, np.arange(number + 1))
    depth = np.full(number, -1)
    level = 0
    while len(front):
        depth[front] = level
        level += 1
        reached = [targets[begins[n] : begins[n + 1]] for n in front]
        front = np.unique(np.concatenate(reached)) if reached else front[:0]
        front = front[depth[front] < 0]
    return depth


def store(depths: Rows) -> None:
    many("UPDATE address SET depth = ? WHERE id = ?", depths)


def store_links(counts: Rows) -> None:
    many("UPDATE address SET in_links = ? WHERE id = ?", counts)
