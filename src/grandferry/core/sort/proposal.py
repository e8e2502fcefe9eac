"""The simplest rule that separates a group of pages: a folder, a shape of address, an element, or two of these.

Of all rules at hand the one with the best F1 over all pages is taken; a rule of two parts has to be better by more than
what it costs to read.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csc_matrix

from ..address import shape, shape_pattern, under
from ..kinds import SortRule
from .grouping import Groups, Numbers

FOLDERS, SHAPES, ELEMENTS = 3, 3, 12  # of each sort, those that come to the most, are weighed
SHARE = 0.5  # of a group that a part of a rule holds for, at least
COSTS = {"below": 0.0, "element": 0.01, "path": 0.04, "address": 0.02}
TWO = 0.03  # what a second part costs

_LANGUAGE = re.compile(r"^/[a-z]{2}(?:[-_][A-Za-z]{2})?/")  # a folder that is named after one

Mask = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Proposal:
    """A rule for a group: how many of its pages it catches, misses, and how many of others it would take. ``name``: a
    name for a kind made of the group."""

    name: str
    rule: SortRule
    right: int
    missed: int
    wrong: int


@dataclass(frozen=True, slots=True)
class _Part:
    rule: dict[str, str]
    mask: Mask
    cost: float


def propose(groups: Groups, label: Numbers, keys: Sequence[str], selectors: Mapping[int, str]) -> list[Proposal]:
    """A proposal for each group of ``label``. ``keys``: the path and query of every page; ``selectors``: of traits."""
    columns = groups.rows.tocsc()
    of_trait = [(n, selectors[int(t)]) for n, t in enumerate(groups.traits) if int(t) in selectors]
    shapes = np.array([shape(key) for key in keys], dtype=object)
    paths = [key.partition("?")[0] for key in keys]
    found: list[Proposal] = []
    taken: Counter[str] = Counter()
    for number in range(int(label.max()) + 1 if len(label) else 0):
        group = label == number
        parts = [*_folders(paths, group), *_shapes(shapes, group), *_elements(columns, of_trait, group)]
        best, rule = _best(parts, group)
        names = _names(paths, group, rule)
        name = next((one for one in names if one not in taken), names[0])
        taken[name] += 1
        found.append(
            Proposal(
                name if taken[name] == 1 else f"{name}_{taken[name]}",
                SortRule.model_validate(rule),
                int((best & group).sum()),
                int((group & ~best).sum()),
                int((best & ~group).sum()),
            )
        )
    return found


def _folders(paths: Sequence[str], group: Mask) -> Iterator[_Part]:
    number = int(group.sum())
    counts: Counter[str] = Counter()
    for place in np.flatnonzero(group):
        steps = paths[int(place)].split("/")[1:-1]
        counts.update("/" + "/".join(steps[: n + 1]) + "/" for n in range(len(steps)))
    deep = sorted(((count, len(folder), folder) for folder, count in counts.items()), reverse=True)
    for count, _, folder in deep[:FOLDERS]:
        if count >= SHARE * number:
            mask = np.fromiter((under(path, folder) for path in paths), dtype=bool, count=len(paths))
            yield _Part({"below": folder}, mask, COSTS["below"])


def _shapes(shapes: NDArray[np.object_], group: Mask) -> Iterator[_Part]:
    number = int(group.sum())
    for shaped, count in Counter(shapes[group]).most_common(SHAPES):
        if count >= SHARE * number:
            yield _Part({"address": shape_pattern(shaped)}, shapes == shaped, COSTS["address"])


def _elements(columns: csc_matrix, of_trait: list[tuple[int, str]], group: Mask) -> Iterator[_Part]:
    places = np.array([n for n, _ in of_trait], dtype=np.intp)
    if not len(places):
        return
    inside = np.asarray(columns[group][:, places].sum(axis=0)).ravel()
    all_ = np.asarray(columns[:, places].sum(axis=0)).ravel()
    number = int(group.sum())
    score = 2 * inside / (number + all_)
    order = np.argsort(-np.round(score, 3) + 1e-6 * np.array([len(s) for _, s in of_trait]), kind="stable")
    by_selector: set[str] = set()
    for n in order[: ELEMENTS * 2]:
        selector = of_trait[n][1]
        if inside[n] < SHARE * number or selector in by_selector or len(by_selector) == ELEMENTS:
            continue
        by_selector.add(selector)
        mask = np.zeros(len(group), dtype=bool)
        for m, other in of_trait:
            if other == selector:  # one place is two traits: a template's, or in running text
                mask |= np.asarray(columns[:, m].todense()).ravel() > 0
        yield _Part({"element": selector}, mask, COSTS["path" if ">" in selector else "element"])


def _best(parts: list[_Part], group: Mask) -> tuple[Mask, dict[str, str]]:
    number = int(group.sum())

    def worth(mask: Mask, cost: float) -> float:
        return 2 * float((mask & group).sum()) / (number + float(mask.sum())) - cost

    best, rule, most = np.ones(len(group), dtype=bool), {"below": "/"}, -1.0
    for part in parts:
        value = worth(part.mask, part.cost)
        if value > most:
            best, rule, most = part.mask, part.rule, value
    for n, one in enumerate(parts):
        for other in parts[n + 1 :]:
            if one.rule.keys() & other.rule.keys():
                continue
            both = one.mask & other.mask
            value = worth(both, one.cost + other.cost + TWO)
            if value > most:
                best, rule, most = both, {**one.rule, **other.rule}, value
    return best, rule


def _names(paths: Sequence[str], group: Mask, rule: Mapping[str, str]) -> list[str]:
    """Names in small letters, the best first: of the folder that the rule names, the mark of its element, where most of
    the group lies, what most of its pages are called, the class or id of the element."""
    within = [paths[int(n)] for n in np.flatnonzero(group)]
    element = rule.get("element", "").rpartition(" ")[2]
    said = [
        _LANGUAGE.sub("/", rule.get("below", "")).strip("/").rpartition("/")[2],
        re.split(r"[.#]", element)[-1] if re.match(r"(?:html|body)[.#]", element) else "",
        _most(_LANGUAGE.sub("/", path).strip("/").partition("/")[0].partition(".")[0] for path in within),
        _most(path.rpartition("/")[2].partition(".")[0] for path in within),
        re.split(r"[.#]", element)[-1] if re.search("[.#]", element) else "",
        "home" if within == ["/"] else "",
    ]
    names = (re.sub(r"[^a-z0-9]+", "_", one.lower()).strip("_")[:40] for one in said)
    return [name for name in names if re.match("[a-z]", name)] or ["pages"]


def _most(words: Iterable[str]) -> str:
    """The word that at least half of them are, "" when there is none."""
    counts = Counter(words)
    word, count = counts.most_common(1)[0]
    return word if count >= SHARE * counts.total() else ""
