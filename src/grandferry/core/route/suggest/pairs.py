"""Pairs of old and new addresses, each with a confidence, reasons, and the next best.

For every old address the candidates compete with each other and with "none of them" (a conditional logit, McFadden
1974): the odds of each come from what the two have in common, with weights fitted to known truth
(``bench.suggesting``).
A new address that several old ones want which say different things is shared between them by their odds.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_matrix

from .words import Known, Parts, Shores, names_of, nearest, parts_of, shores

BESIDE = 5_000  # addresses by which words are weighed for one of them
NAMED = 0.002  # how likely a candidate has to be to be named
KEPT = 4  # candidates that are kept: the best, and the next three
PART = 50_000  # pairs that are multiplied at once
TELLING = 12  # pairs of words of its own: a page with fewer says too little to be told by
MOSTLY = 0.5  # of what two pages say: with so much they are one page, whatever they are called
ALIKE = 0.05  # of what two pages say: with less they are about something else
TOLD = 0.2  # so much in common is named as a reason
HEEDED = 256  # old addresses between two words of how far it is
SHOWN = 4  # words that are named as a reason


class Reason(StrEnum):
    """Why two addresses are a pair; some with how much, or which, or by what."""

    SAME_PATH = "same path"
    SAME_LAST = "same last part"
    SAME_TITLE = "same title"
    TITLE_IN_PATH = "the title is in the path"
    ABOVE = "the page above it"
    HEADING = "same heading"
    SAYS = "says the same"  # how much of it, in percent
    SHOWS = "shows the same pictures"
    WORDS = "words in common"
    BELOW = "to choose: the first page below it"  # its old address
    RULE = "as others by a rule"  # the rule's pattern


@dataclass(frozen=True, slots=True)
class Candidate:
    """``confidence``: how likely it is the right one, of all there are and of none."""

    new: str
    confidence: float
    reasons: tuple[tuple[Reason, str], ...]

    @property
    def why(self) -> list[str]:
        """The reasons as a person reads them."""
        return [f"{why}: {what}" if what else str(why) for why, what in self.reasons]


@dataclass(slots=True)
class Pair:
    """``candidates``: the best first; none where nothing is likely enough to be named."""

    old: str
    candidates: list[Candidate] = field(default_factory=list)

    @property
    def confidence(self) -> float:
        return self.candidates[0].confidence if self.candidates else 0.0


# what two addresses can have in common, in the order of the weights
FACTS = (
    "none",
    "words",
    "ways",
    "same last part",
    "same last part, without titles",
    "same title",
    "same path",
    "title in path",
    "the page above",
    "titles that share nothing",
    "other numbers",
    "folders with other numbers",
    "last parts that share nothing",
    "same heading",
    "what it says",
    "says mostly the same",
    "what it shows",
    "another language",
    "says something else",
)
AGAINST = frozenset((*FACTS[9:13], *FACTS[-2:]))
WEIGHTS: NDArray[np.float64] = np.array(
    [
        -8.77,
        10.44,
        4.16,
        0.00,
        1.91,
        8.77,
        10.57,
        0.03,
        7.19,
        -4.15,
        0.00,
        -8.53,
        0.00,
        2.49,
        14.00,
        6.00,
        8.00,
        -4.00,
        0.00,
    ]
)

Heed = Callable[[int], None]


def unheeded(_: int) -> None:
    """Nobody wants to know."""


@dataclass(slots=True)
class Seen:
    """All candidates: for each old address its rows of ``facts`` and ``news`` (numbers of new ones), by ``ends``."""

    ends: list[int]
    news: NDArray[np.int64]
    facts: NDArray[np.float64]


def seen(old: Sequence[Parts], new: Sequence[Parts], made: Shores, heed: Heed = unheeded) -> Seen:
    """What every old address has in common with its candidates. ``heed`` is told now and then how many are done, and
    may raise to end it."""
    by_tail, by_title, by_path = _by(one.tail for one in new), _by(one.title for one in new), _by_path(new)
    ends, news = [0], list[NDArray[np.int64]]()
    near = (
        nearest(made.old, made.new),
        nearest(made.old_ways, made.new_ways),
        nearest(made.old_says, made.new_says),
        nearest(made.old_shows, made.new_shows),
    )
    for at, lines in enumerate(zip(*near, strict=True)):
        if at % HEEDED == 0:
            heed(at)
        one = old[at]
        exact = list(by_path.get(one.path, ())[:KEPT]) + list(by_path.get(one.above, ())[:1])
        for key in (one.tail, one.title):
            exact += [*by_tail.get(key, ())[:KEPT], *by_title.get(key, ())[:KEPT]]
        mine = np.unique(np.concatenate([*(found for _, found in lines), np.array(exact, dtype=np.int64)]))
        news.append(mine)
        ends.append(ends[-1] + len(mine))
    whose, theirs = np.repeat(np.arange(len(old)), np.diff(ends)), np.concatenate(news)
    words, ways_ = _cosines(made.old, made.new, whose, theirs), _cosines(made.old_ways, made.new_ways, whose, theirs)
    says = _cosines(made.old_says, made.new_says, whose, theirs)
    shows = _cosines(made.old_shows, made.new_shows, whose, theirs)
    measured = np.column_stack([words, ways_, says, shows]).tolist()
    rows = [
        _facts(old[i], new[j], *alike) for i, j, alike in zip(whose.tolist(), theirs.tolist(), measured, strict=True)
    ]
    return Seen(ends, theirs, np.array(rows, dtype=np.float64).reshape(-1, len(FACTS)))


def _cosines(
    old: csr_matrix, new: csr_matrix, rows: NDArray[np.int64], others: NDArray[np.int64]
) -> NDArray[np.float64]:
    """Of so many pairs of rows, a part at a time."""
    parts = [
        np.asarray(old[rows[at : at + PART]].multiply(new[others[at : at + PART]]).sum(axis=1)).ravel()
        for at in range(0, len(rows), PART)
    ]
    found: NDArray[np.float64] = np.concatenate(parts) if parts else np.zeros(0)
    return found


def _by(keys: Iterator[tuple[str, ...]]) -> dict[tuple[str, ...], list[int]]:
    found: dict[tuple[str, ...], list[int]] = {}
    for at, key in enumerate(keys):
        if key:
            found.setdefault(key, []).append(at)
    return found


def _by_path(new: Sequence[Parts]) -> dict[str, list[int]]:
    found: dict[str, list[int]] = {}
    for at, one in enumerate(new):
        found.setdefault(one.path, []).append(at)
    return found


def _numbers(words: Sequence[str]) -> set[str]:
    return {word for word in words if word.isdigit()}


def _facts(old: Parts, new: Parts, words: float, ways: float, says: float, shows: float) -> list[float]:
    tongues = (old.content.language, new.content.language)
    both_say = min(len(old.content.words), len(new.content.words)) >= TELLING
    mine, folders = _numbers((*old.tail, *old.title, *old.folders)), _numbers(new.folders)
    theirs = _numbers((*new.tail, *new.title))
    return [
        1.0,
        words,
        ways,
        float(bool(old.tail) and old.tail == new.tail),
        float(bool(old.tail) and old.tail == new.tail and not (old.title and new.title)),
        float(bool(old.title) and old.title == new.title),
        float(old.path == new.path),
        float(bool(old.title) and old.title == new.tail) or float(bool(new.title) and new.title == old.tail),
        float(old.above == new.path and old.path != new.path),
        float(bool(old.title and new.title) and not set(old.title) & set(new.title)),
        float(bool(theirs - mine)),
        float(bool(folders - mine)),
        float(bool(old.tail and new.tail) and not set(old.tail) & set(new.tail)),
        float(bool(old.heading) and old.heading in (new.heading, new.title)),
        says,
        float(both_say and says >= MOSTLY),
        shows,
        float(all(tongues) and tongues[0] != tongues[1]),
        float(both_say and says < ALIKE),
    ]


def apart(site: Sequence[Known]) -> list[Parts]:
    """The addresses of a site taken apart, its names off their titles."""
    names = names_of(site)
    return [parts_of(one, names) for one in site]


def odds_of(facts: NDArray[np.float64], weights: NDArray[np.float64] = WEIGHTS) -> NDArray[np.float64]:
    """The odds of candidates against none of them."""
    made: NDArray[np.float64] = np.exp(np.clip(facts @ weights, -30, 30))
    return made


def suggest(
    old: Sequence[Known], new: Sequence[Known], beside: Sequence[Known] = (), heed: Heed = unheeded
) -> list[Pair]:
    """For each old address its candidates, the best first; ``beside``: other addresses of the old site; ``heed`` as in
    ``seen``."""
    names = names_of([*old, *beside])
    return _suggest(old, [parts_of(one, names) for one in old], new, [parts_of(one, names) for one in beside], heed)


def suggest_one(one: Known, old: Sequence[Known], new: Sequence[Known]) -> Pair:
    """The same for one of the old addresses, as if no other wanted a new one."""
    names = names_of(old)
    beside = [parts_of(other, names) for other in old[:: max(1, len(old) // BESIDE)]]
    (pair,) = _suggest([one], [parts_of(one, names)], new, beside)
    return pair


def _suggest(
    old: Sequence[Known],
    olds: Sequence[Parts],
    new: Sequence[Known],
    beside: Sequence[Parts] = (),
    heed: Heed = unheeded,
) -> list[Pair]:
    """``beside``: other old addresses, by which it is told how rare a word is."""
    if not new or not old:
        return [Pair(one.address) for one in old]
    news_ = apart(new)
    made = shores([*olds, *beside], news_)
    made = made.first(len(olds))
    all_ = seen(olds, news_, made, heed)
    odds = odds_of(all_.facts)
    wanted = np.bincount(all_.news, weights=odds, minlength=len(new))  # by all old ones together
    alike = _by_the_alike(olds, all_, odds)
    pairs = []
    for at, one in enumerate(old):
        start, end = all_.ends[at], all_.ends[at + 1]
        mine, theirs = odds[start:end], all_.news[start:end]
        likely = mine / (1 + mine.sum())
        share = mine / np.maximum(wanted[theirs] - alike[start:end] + mine, 1e-300)
        sure = likely * (0.5 + 0.5 * share)
        best = np.argsort(-sure, kind="stable")[:KEPT]
        pairs.append(
            Pair(
                one.address,
                [
                    Candidate(
                        new[theirs[k]].address,
                        round(float(sure[k]), 4),
                        _reasons(all_.facts[start + k], olds[at], news_[theirs[k]], made.weights),
                    )
                    for k in best.tolist()
                    if sure[k] >= NAMED
                ],
            )
        )
    return pairs


def _by_the_alike(old: Sequence[Parts], all_: Seen, odds: NDArray[np.float64]) -> NDArray[np.float64]:
    """Of each candidate, how much it is wanted by the old addresses that say the same as the one it is of: they may
    well become one page."""
    groups: dict[tuple[str, ...], int] = {}
    mine = [groups.setdefault(one.title or one.tail or (one.path,), len(groups)) for one in old]
    who = np.repeat(np.array(mine, dtype=np.int64), np.diff(all_.ends))
    _, keys = np.unique(who * (int(all_.news.max(initial=0)) + 1) + all_.news, return_inverse=True)
    together: NDArray[np.float64] = np.bincount(keys, weights=odds).astype(np.float64)
    return together[keys]


def _reasons(
    facts: NDArray[np.float64], old: Parts, new: Parts, weights: dict[str, float]
) -> tuple[tuple[Reason, str], ...]:
    said = dict(zip(FACTS, facts.tolist(), strict=True))
    found = [
        (reason, "")
        for reason, name in (
            (Reason.SAME_PATH, "same path"),
            (Reason.SAME_LAST, "same last part"),
            (Reason.SAME_TITLE, "same title"),
            (Reason.TITLE_IN_PATH, "title in path"),
            (Reason.ABOVE, "the page above"),
        )
        if said[name]
    ]
    if said["same heading"] and not said["same title"]:
        found.append((Reason.HEADING, ""))
    if said["what it says"] >= TOLD:
        found.append((Reason.SAYS, f"{100 * said['what it says']:.0f} %"))
    if said["what it shows"] >= TOLD:
        found.append((Reason.SHOWS, ""))
    both = Counter({word: weights[word] for word in old.words & new.words})
    if both:
        found.append((Reason.WORDS, ", ".join(word for word, _ in both.most_common(SHOWN))))
    return tuple(found)
