"""A few of many pages that show how they are made: some spread over all of them, and those least like any other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from .grouping import matrix
from .make import Trait

WRITERS = (Trait.TEXT, Trait.RUN)  # sorts of traits that say what somebody wrote


def sample(makes: Sequence[NDArray[np.uint32]], most: int) -> list[int]:
    """The places of at most so many pages, in order: most of them from the first to the last, a quarter each the page
    least like those chosen before it (Jaccard; Gonzalez 1985), as long as it differs from them at all."""
    number = len(makes)
    if number <= most:
        return list(range(number))
    chosen = sorted({int(n) for n in np.linspace(0, number - 1, most - most // 4)})
    rows, traits = matrix(makes)
    rows = rows[:, np.isin(traits & 7, WRITERS, invert=True)]
    sizes = np.asarray(rows.sum(axis=1)).ravel()

    def apart(place: int) -> NDArray[np.float64]:
        shared = np.asarray((rows @ rows[[place]].T).todense()).ravel()
        found: NDArray[np.float64] = 1 - shared / np.maximum(sizes + sizes[place] - shared, 1)
        return found

    nearest = np.min([apart(place) for place in chosen], axis=0)
    while len(chosen) < most and nearest.max() > 0:
        chosen.append(int(np.argmax(nearest)))
        nearest = np.minimum(nearest, apart(chosen[-1]))
    return sorted(chosen)
