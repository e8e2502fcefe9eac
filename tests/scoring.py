"""How well something was found, held against what is true."""

from __future__ import annotations

from collections.abc import Hashable, Sequence

import numpy as np


def adjusted_rand(one: Sequence[Hashable], other: Sequence[Hashable]) -> float:
    """The adjusted Rand index of two ways of grouping the same things (Hubert and Arabie 1985): 1 where they agree, 0
    where they agree no more than by chance."""

    def numbered(labels: Sequence[Hashable]) -> np.ndarray:  # type: ignore[type-arg]
        known = {label: n for n, label in enumerate(dict.fromkeys(labels))}
        return np.array([known[label] for label in labels])

    def pairs(counts: np.ndarray) -> float:  # type: ignore[type-arg]
        return float((counts * (counts - 1) / 2).sum())

    a, b = numbered(one), numbered(other)
    both = np.zeros((a.max() + 1, b.max() + 1))
    np.add.at(both, (a, b), 1)
    together, first, second = pairs(both), pairs(both.sum(axis=1)), pairs(both.sum(axis=0))
    chance = first * second / pairs(np.array([len(a)]))
    most = (first + second) / 2
    return 1.0 if most == chance else (together - chance) / (most - chance)
