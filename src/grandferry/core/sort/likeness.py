"""Whether a page is made as the pages of a group are, told by a few traits of theirs.

Of the traits that tell the group from all other pages those are kept that tell the most, each with its evidence (log
odds, as Good has it: Probability and the Weighing of Evidence, 1950) where a page has it and where it lacks it. What a
page's traits come to is compared with what parts the group from the others best. So a group can be kept as it is,
without any rule, and a page of the next survey is told by itself.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from ..kinds import MadeLike

KEPT = 48  # traits of a group
LEAST = 0.02  # bits that a trait has to tell
CHANCE = 0.5  # pages that are added to each side, so that nothing is certain


def like(group: MadeLike, make: bytes) -> bool:
    """Whether a page of this make (traits as 32-bit numbers, lowest byte first) is made as those of the group."""
    if not make:
        return False
    traits, has, lacks = _table(tuple(group.traits), tuple(group.has), tuple(group.lacks))
    mine = np.frombuffer(make, "<u4")  # in order
    held = mine[np.minimum(np.searchsorted(mine, traits), len(mine) - 1)] == traits
    return float(np.where(held, has, lacks).sum()) >= group.least


def like_each(group: MadeLike, rows: csr_matrix, traits: NDArray[np.uint32]) -> NDArray[np.bool_]:
    """The same of many pages at once: ``rows``, pages by ``traits`` (in order)."""
    wanted, has, lacks = _table(tuple(group.traits), tuple(group.has), tuple(group.lacks))
    places = np.minimum(np.searchsorted(traits, wanted), len(traits) - 1)
    known = traits[places] == wanted
    score = rows[:, places[known]] @ (has - lacks)[known] + lacks.sum()
    found: NDArray[np.bool_] = np.asarray(score).ravel() >= group.least
    return found


@lru_cache(maxsize=256)
def _table(
    traits: tuple[int, ...], has: tuple[float, ...], lacks: tuple[float, ...]
) -> tuple[NDArray[np.uint32], NDArray[np.float64], NDArray[np.float64]]:
    return np.array(traits, dtype=np.uint32), np.array(has), np.array(lacks)


def likeness(name: str, rows: csr_matrix, traits: NDArray[np.uint32], group: NDArray[np.bool_]) -> MadeLike:
    """What tells some pages of a site from its others. ``rows``: pages by traits (1 where a page has one)."""
    inside = np.asarray(rows[group].sum(axis=0)).ravel()
    outside = np.asarray(rows[~group].sum(axis=0)).ravel()
    one, other = (inside + CHANCE) / (group.sum() + 2 * CHANCE), (outside + CHANCE) / ((~group).sum() + 2 * CHANCE)
    has, lacks = np.log2(one / other), np.log2((1 - one) / (1 - other))
    share = group.mean()
    # what each tells on average, and of those that stand on the very same pages one alone
    told = share * (one * has + (1 - one) * lacks) - (1 - share) * (other * has + (1 - other) * lacks)
    chance = np.random.default_rng(5).random(rows.shape[0])
    same = np.round(rows.T @ chance, 6)
    order = np.lexsort((traits, -np.round(told, 4)))
    _, first = np.unique(same[order], return_index=True)
    kept = [n for n in order[np.sort(first)] if told[n] >= LEAST][:KEPT]
    if not kept:
        kept = [int(n) for n in order[:1]]
    weights, lacking = np.round(has[kept], 2), np.round(lacks[kept], 2)
    score = rows[:, kept] @ (weights - lacking) + lacking.sum()
    return MadeLike(
        name=name,
        traits=[int(traits[n]) for n in kept],
        has=weights.tolist(),
        lacks=lacking.tolist(),
        least=_parting(np.asarray(score).ravel(), group),
    )


def _parting(score: NDArray[np.float64], group: NDArray[np.bool_]) -> float:
    """The score that parts a group from all others best (F1), in the middle of what lies between."""
    order = np.argsort(-score, kind="stable")
    right = np.cumsum(group[order])
    f1 = 2 * right / (np.arange(1, len(score) + 1) + group.sum())
    last = np.append(score[order][1:] != score[order][:-1], True)  # pages of one score go together
    f1[~last] = -1
    best = int(np.argmax(np.round(f1, 6)))
    below = score[order[best + 1]] if best + 1 < len(score) else score[order[best]] - 2
    return round(float(score[order[best]] + below) / 2, 3)
