"""How many links each address is away from the start, and how many lead to it."""

from __future__ import annotations

import numpy as np

from .columns import numbers
from .db import many, one

# (what is to be noted, address)
Rows = list[tuple[int, int]]


def measure(crossing: int, start: str) -> tuple[Rows, Rows]:
    """(depth, id) and (links from other addresses, id), each where it differs from what is noted. What no link reaches
    from the start keeps the depth it was met at."""
    root = one("SELECT id FROM address WHERE crossing_id = ? AND side = 'old' AND url = ?", crossing, start)
    known = numbers("id || ' ' || depth || ' ' || in_links", "FROM address WHERE crossing_id = ? ORDER BY id", crossing)
    ids, noted_depth, noted_links = known.reshape(-1, 3).T
    if root is None or not len(ids):
        return [], []
    pair = "source_id || ' ' || target_id"
    links = numbers(pair, "FROM reference WHERE crossing_id = ?", crossing).reshape(-1, 2)
    ways = numbers(
        "a.id || ' ' || t.id",
        "FROM address a JOIN address t ON t.crossing_id = a.crossing_id AND t.side = a.side AND t.url = a.target "
        "WHERE a.crossing_id = ? AND a.sort = 'redirect'",
        crossing,
    ).reshape(-1, 2)
    sources, targets = np.searchsorted(ids, links[:, 0]), np.searchsorted(ids, links[:, 1])
    linked = np.bincount(targets[sources != targets], minlength=len(ids))
    depth = _depths(
        len(ids),
        int(np.searchsorted(ids, root)),
        np.concatenate((sources, np.searchsorted(ids, ways[:, 0]))),
        np.concatenate((targets, np.searchsorted(ids, ways[:, 1]))),
    )
    deeper = np.flatnonzero((depth >= 0) & (depth != noted_depth))
    other = np.flatnonzero(linked != noted_links)
    return (
        list(zip(depth[deeper].tolist(), ids[deeper].tolist(), strict=True)),
        list(zip(linked[other].tolist(), ids[other].tolist(), strict=True)),
    )


def _depths(number: int, root: int, sources: np.ndarray, targets: np.ndarray) -> np.ndarray:
    """The links from the root to each of so many addresses, -1 where none lead."""
    by_source = np.argsort(sources, kind="stable")
    sources, targets = sources[by_source], targets[by_source]
    begins = np.searchsorted(sources, np.arange(number + 1))
    depth = np.full(number, -1)
    front = np.array([root])
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
