"""Grouping pages by their make, without any rule.

A page is a row of traits (``make.py``). Traits that nearly all pages share are furniture, and those of one page alone
are nobody's template; both count for nothing. Of the others those count that hang together with the groups: what a
template puts on a page is on all of its pages, what a writer puts there is on some. So groups are made by average
linkage (UPGMA) of distinct rows, each trait is weighed by how much of it the groups tell (mutual information, Shannon),
and the groups are made anew. Of more distinct rows than ``SAMPLE`` a fixed share is grouped, the others go to the
nearest group, a block at a time, so that memory stays bounded (20,000 pages, all different: 390 MB at the peak).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.cluster.hierarchy import fcluster, linkage
from scipy.sparse import csr_matrix, hstack

from .make import Trait

Floats = NDArray[np.float64]
Numbers = NDArray[np.intp]

CUTS = (0.26, 0.36, 0.46, 0.56, 0.7)  # distances at which groups part, from many groups to few
MIDDLE = 2  # the cut that is taken where nobody says otherwise
SAMPLE = 2500  # distinct rows that are grouped with each other
BLOCK = 2000  # rows that go to their nearest group at a time
ROUNDS = 3
PRIOR = {
    Trait.PLACE: 1.0,
    Trait.CLASS: 1.5,
    Trait.ID: 1.5,
    Trait.MARK: 3.0,
    Trait.TYPE: 2.0,
    Trait.RUN: 0.7,
    Trait.TEXT: 0.45,
}
LEAST = 0.15  # of its prior that a trait keeps of which groups tell nothing
SHAPE = 0.1  # what it weighs that two addresses are of one shape,
BARE_SHAPE = 0.35  # … on a site whose elements have no names, and
NAMED = 0.15  # of all traits: with so many names it has them
BASE = 0.08  # … that two pages are of one site, of what all traits of a page weigh (the median)
BUNDLE = 0.3  # by which each doubling of traits that stand on the very same pages adds to the weight of one of them
OVER, UNDER = 0.7, 1.3  # what only one of two pages has (see ``_likeness``)
COMMON = 0.75  # of all pages: what more of them share is weighed down
FEW = 3  # pages of a group whose traits say something


@dataclass(frozen=True, slots=True)
class Groups:
    """``labels``: for each of ``CUTS`` the group of every page, numbered from 0 on by size, each group lying within one
    of the next cut. ``rows``: pages by traits (1 where a page has it); ``traits``: what each column is."""

    labels: tuple[Numbers, ...]
    rows: csr_matrix
    traits: NDArray[np.uint32]


def matrix(makes: Sequence[NDArray[np.uint32]]) -> tuple[csr_matrix, NDArray[np.uint32]]:
    """Pages as rows, traits as columns (1 where a page has it), and the trait of each column."""
    flat = np.concatenate(makes) if makes else np.zeros(0, dtype=np.uint32)
    traits, columns = np.unique(flat, return_inverse=True)
    ends = np.cumsum([0, *(len(made) for made in makes)])
    rows = csr_matrix((np.ones(len(flat), dtype=np.float32), columns, ends), shape=(len(makes), len(traits)))
    return rows, traits


def group(makes: Sequence[NDArray[np.uint32]], shapes: Sequence[str]) -> Groups:
    """Group pages by their makes; ``shapes``: of their addresses, a weak hint. The same pages come to the same groups
    in every run."""
    rows, traits = matrix(makes)
    number = rows.shape[0]
    if number < 2:
        return Groups(tuple(np.zeros(number, dtype=np.intp) for _ in CUTS), rows, traits)
    shape = _large(np.unique(np.asarray(shapes), return_inverse=True)[1].ravel())
    uses = np.asarray(rows.sum(axis=0)).ravel()
    prior = np.array([PRIOR[Trait(int(t) & 7)] for t in traits])
    prior *= np.clip((1 - uses / number) / (1 - COMMON), 0, 1) * (uses > 1)
    kept = np.flatnonzero(prior)
    names = np.isin(traits[kept] & 7, [Trait.CLASS, Trait.ID, Trait.MARK])
    named = float(uses[kept][names].sum() / max(1.0, uses[kept].sum()))
    hint = SHAPE + (BARE_SHAPE - SHAPE) * max(0.0, 1 - named / NAMED)
    seen, prior = _bundled(rows[:, kept], prior[kept])
    labels = _labels(seen, prior, shape, hint)
    for _ in range(ROUNDS):
        told_ = told(seen, _large(labels[MIDDLE]))
        labels = _labels(seen, prior * (LEAST + (1 - LEAST) * told_), shape, hint)
    return Groups(tuple(_by_size(label) for label in labels), rows, traits)


def _bundled(rows: csr_matrix, prior: Floats) -> tuple[csr_matrix, Floats]:
    """Traits that stand on the very same pages, as one: a piece of a template is one, however much it holds."""
    chance = np.random.default_rng(5).random((rows.shape[0], 2))
    _, first, of = np.unique(np.round(rows.T @ chance, 6), axis=0, return_index=True, return_inverse=True)
    heaviest = np.zeros(len(first))
    np.maximum.at(heaviest, of.ravel(), prior)
    return rows[:, first], heaviest * (1 + BUNDLE * np.log2(np.bincount(of.ravel())))


def _entropy(share: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        bits: Floats = -(share * np.log2(share) + (1 - share) * np.log2(1 - share))
    filled: Floats = np.nan_to_num(bits)
    return filled


def told(rows: csr_matrix, label: Numbers) -> Floats:
    """How much of each trait (0 to 1) a page's label tells: mutual information over entropy, less what as many labels
    would tell of anything by chance (Miller 1955)."""
    number, count = rows.shape[0], int(label.max()) + 1
    sizes = np.bincount(label, minlength=count).astype(np.float64)
    member = csr_matrix((np.ones(number), (label, np.arange(number))), shape=(count, number))
    before = _entropy(np.asarray(rows.sum(axis=0)).ravel() / number)
    after = sizes / number @ _entropy((member @ rows).toarray() / np.maximum(sizes, 1)[:, None])
    chance = (count - 1) / (2 * number * np.log(2))
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (before - after - chance) / before
    clipped: Floats = np.clip(np.nan_to_num(share), 0, 1)
    return clipped


def _large(label: Numbers) -> Numbers:
    """Labels from 1 on; those of fewer than ``FEW`` pages are 0."""
    large = np.flatnonzero(np.bincount(label) >= FEW)
    return np.where(np.isin(label, large), np.searchsorted(large, label) + 1, 0)


def _by_size(label: Numbers) -> Numbers:
    order = np.argsort(-np.bincount(label), kind="stable")
    rank = np.empty_like(order)
    rank[order] = np.arange(len(order))
    return rank[label]


def _labels(rows: csr_matrix, weights: Floats, shape: Numbers, hint: float) -> list[Numbers]:
    """The group of every page for each of ``CUTS``; ``hint``: what the shapes of addresses weigh."""
    chance = np.random.default_rng(7).random(rows.shape[1])
    sums = np.column_stack([np.round(rows @ chance, 6), shape])
    _, first, distinct = np.unique(sums, axis=0, return_index=True, return_inverse=True)
    count = len(first)
    chosen = np.arange(count)
    if count > SAMPLE:
        chance = np.random.default_rng(11).random(count)
        stands_for = np.bincount(distinct.ravel())  # pages: those that stand for many first, the others by chance
        first_half = np.lexsort((chance, -stands_for))[: SAMPLE // 2]
        chance[first_half] = 0
        chosen = np.sort(np.argsort(chance, kind="stable")[:SAMPLE])
    if len(chosen) == 1:
        return [np.zeros(rows.shape[0], dtype=np.intp) for _ in CUTS]
    sample = _weighed(rows[first[chosen]], weights, shape[first[chosen]], shape.max(), hint)
    own = np.asarray(sample.power(2).sum(axis=1)).ravel()
    apart = 1 - _likeness((sample @ sample.T).toarray(), own[:, None], own[None, :])
    tree = linkage(np.clip(apart[np.triu_indices(len(chosen), 1)], 0, 1), "average")
    cuts = [fcluster(tree, cut, "distance").astype(np.intp) - 1 for cut in CUTS]
    finest = np.empty(count, dtype=np.intp)
    finest[chosen] = cuts[0]
    rest = np.setdiff1d(np.arange(count), chosen)
    for start in range(0, len(rest), BLOCK):
        some = first[rest[start : start + BLOCK]]
        block = _weighed(rows[some], weights, shape[some], shape.max(), hint)
        finest[rest[start : start + BLOCK]] = _nearest(block, sample, own, cuts[0])
    first_of = np.unique(cuts[0], return_index=True)[1]  # groups of a finer cut lie within those of a coarser one
    return [cut[first_of][finest][distinct.ravel()] for cut in cuts]


def _nearest(block: csr_matrix, sample: csr_matrix, own: Floats, label: Numbers) -> Numbers:
    """The group whose members are most like each row on average."""
    count = int(label.max()) + 1
    sizes = np.bincount(label, minlength=count)
    member = csr_matrix((1 / sizes[label], (label, np.arange(len(label)))), shape=(count, len(label)))
    shared = (block @ (member @ sample).T).toarray()
    theirs = member @ own
    mine = np.asarray(block.power(2).sum(axis=1)).ravel()
    found: Numbers = np.argmax(_likeness(shared, mine[:, None], theirs[None, :]), axis=1)
    return found


def _likeness(shared: Floats, one: Floats, other: Floats) -> Floats:
    """Tversky's (1977), of weights: what only one of two pages has counts ``OVER`` for the page with more of its own,
    ``UNDER`` for the other. A part that is left out tells less than one that stands in another's place."""
    mine, theirs = one - shared, other - shared
    apart = OVER * np.maximum(mine, theirs) + UNDER * np.minimum(mine, theirs)
    likeness: Floats = shared / np.maximum(shared + np.maximum(apart, 0), 1e-9)
    return likeness


def _weighed(rows: csr_matrix, weights: Floats, shape: Numbers, last: int, hint: float) -> csr_matrix:
    """Rows, with their shapes of address as one trait more each, whose products are sums of weights."""
    number = len(shape)
    places = np.arange(number)
    middle = float(np.median(np.asarray(rows @ weights))) + 0.1
    shapes = csr_matrix((np.where(shape, np.sqrt(hint * middle), 0), (places, shape)), shape=(number, last + 1))
    base = csr_matrix((np.full(number, np.sqrt(BASE * middle)), (places, np.zeros(number, dtype=int))))
    return hstack([rows.multiply(np.sqrt(weights)[None, :]), shapes, base], format="csr")
