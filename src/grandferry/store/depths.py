"""How many links each address is away from the start."""

from __future__ import annotations

import numpy as np

from .db import many, numbers, one


def measure(crossing: int, start: str) -> list[tuple[int, int]]:
    """(depth, id): the links from the start of every address where that differs from what is noted; what no link
    reaches keeps the depth it was met at."""
    root = one("SELECT id FROM address WHERE crossing_id = ? AND side = 'old' AND url = ?", crossing, start)
    ids = numbers(1, "SELECT id FROM address WHERE crossing_id = ? ORDER BY id", crossing).ravel()
    if root is None or not len(ids):
        return []
    pairs = numbers(
        2,
        "SELECT r.source_id, r.target_id FROM reference r WHERE r.crossing_id = ? UNION ALL "
        "SELECT a.id, t.id FROM address a JOIN address t ON t.crossing_id = a.crossing_id AND t.side = a.side AND t.url = "
        "a.target WHERE a.crossing_id = ? AND a.sort = 'redirect'",
        crossing,
        crossing,
    )
    sources, targets = np.searchsorted(ids, pairs[:, 0]), np.searchsorted(ids, pairs[:, 1])
    by_source = np.argsort(sources, kind="stable")
    sources, targets = sources[by_source], targets[by_source]
    begins = np.searchsorted(sources, np.arange(len(ids) + 1))
    depth = np.full(len(ids), -1)
    front = np.searchsorted(ids, [root])
    level = 0
    while len(front):
        depth[front] = level
        level += 1
        reached = [targets[begins[n] : begins[n + 1]] for n in front]
        front = np.unique(np.concatenate(reached)) if reached else front[:0]
        front = front[depth[front] < 0]
    noted = numbers(1, "SELECT depth FROM address WHERE crossing_id = ? ORDER BY id", crossing).ravel()
    differ = np.flatnonzero((depth >= 0) & (depth != noted))
    return list(zip(depth[differ].tolist(), ids[differ].tolist(), strict=True))


def store(depths: list[tuple[int, int]]) -> None:
    many("UPDATE address SET depth = ? WHERE id = ?", depths)
