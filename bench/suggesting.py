"""How well pairs are suggested: against the truth of the demo and of sites that moved by known rules, three seeds; and
what the weights of the evidence come to, fitted to the demo.

``python -m bench.suggesting [fit | matching]``
"""

from __future__ import annotations

import sys
import time
from collections.abc import Iterable

import numpy as np
from rich.console import Console
from rich.table import Table
from scipy.optimize import minimize
from tests.moved import SUFFIX, Moved, demo, made_up, told_anew

from grandferry.core.route.suggest import suggested
from grandferry.core.route.suggest.pairs import AGAINST, FACTS, WEIGHTS, apart, seen
from grandferry.core.route.suggest.words import BLOCK, nearest, shores
from grandferry.demo.site import SEED

SEEDS = (SEED, SEED + 1, SEED + 2)


def sites() -> dict[str, Moved]:
    made = {}
    for seed in SEEDS:
        made |= {
            f"demo {seed}": demo(600, seed),
            f"demo {seed}, a name behind every title": demo(600, seed, suffix=SUFFIX),
            f"demo {seed}, no titles": demo(600, seed, titles=False),
            f"demo {seed}, with content": demo(600, seed, content=True),
            f"demo {seed}, content, no titles": demo(600, seed, titles=False, content=True),
            f"demo {seed}, no events": demo(600, seed, content=True, gone="/events/"),
            f"demo {seed}, no shop, no content": demo(600, seed, gone="/shop/"),
            f"made up {seed}": made_up(600, seed),
            f"told anew {seed}": told_anew(600, seed),
            f"made up {seed}, no titles": made_up(600, seed, titles=False),
        }
    return made


def score(moved: Moved) -> dict[str, float]:
    """Of those that have a counterpart: the right one first; of all: accepted at 0.9 and right; and how far confidence
    says what it means (the mean of |said - right|, by tenths)."""
    pairs = suggested(moved.old, moved.new).pairs
    best = {pair.old: pair.candidates[0] for pair in pairs if pair.candidates}
    true = {old: new for old, new in moved.truth.items() if new}
    first = sum(old in best and best[old].new == new for old, new in true.items())
    taken = {old: one for old, one in best.items() if one.confidence >= 0.9}
    right = sum(moved.truth[old] == one.new for old, one in taken.items())
    said = np.array([one.confidence for one in best.values()])
    was = np.array([moved.truth[old] == one.new for old, one in best.items()])
    gaps = [
        abs(said[mine].mean() - was[mine].mean()) * mine.sum()
        for tenth in range(10)
        if (mine := (said >= tenth / 10) & (said < (tenth + 1) / 10 + 1e-9 * (tenth == 9))).any()
    ]
    return {
        "with a counterpart": len(true),
        "first": first / len(true),
        "accepted": sum(old in taken for old in true) / len(true),
        "right": right / max(1, len(taken)),
        "off by": float(sum(gaps) / max(1, len(said))),
    }


# of each old address the facts of its candidates, and which of them is the true one
Blocks = list[tuple[np.ndarray, np.ndarray]]
# what is known where pages were read: fitted apart, all else as it is, so that what is said of mere lists does not hang
# on it. It is clearer on made-up sites than on real ones, where pages declare a wrong language and pictures stand on
# many: it counts so much at most
READ = {
    "same heading": 4.0,
    "what it says": 14.0,
    "says mostly the same": 6.0,
    "what it shows": 8.0,
    "another language": -4.0,
    "says something else": -4.0,
}


def blocks_of(some: Iterable[Moved]) -> Blocks:
    blocks = []
    for moved in some:
        old, new = apart(moved.old), apart(moved.new)
        all_ = seen(old, new, shores(old, new))
        places = {one.address: at for at, one in enumerate(moved.new)}
        for at, one in enumerate(moved.old):
            start, end = all_.ends[at], all_.ends[at + 1]
            true = places.get(moved.truth[one.address], -1)
            blocks.append((all_.facts[start:end], np.flatnonzero(all_.news[start:end] == true)))
    return blocks


def fitted(blocks: Blocks, bounds: list[tuple[float | None, float | None]], start: np.ndarray) -> np.ndarray:
    """Weights by which the truth is likeliest, a little held back (ridge)."""

    def loss(weights: np.ndarray) -> tuple[float, np.ndarray]:
        """The loss and its gradient."""
        total, slope = 0.02 * float((weights**2).sum()), 0.04 * weights
        for facts, true in blocks:
            scores = np.clip(facts @ weights, -30, 30)
            top = max(0.0, float(scores.max(initial=0.0)))
            odds = np.exp(scores - top)
            whole = np.exp(-top) + odds.sum()
            total += top + np.log(whole) - (float(scores[true[0]]) if len(true) else 0.0)
            slope = slope + odds / whole @ facts - (facts[true[0]] if len(true) else 0.0)
        return total, slope

    found: np.ndarray = minimize(loss, start, jac=True, method="L-BFGS-B", bounds=bounds).x
    return found


def fit() -> None:
    every = sites()
    read = {name for name, moved in every.items() if any(len(one.content.words) for one in moved.old)}
    # what speaks for a pair may not come to speak against it, as it would where two facts mostly go together
    free = [(None, None) if not k else (None, 0.0) if name in AGAINST else (0.0, None) for k, name in enumerate(FACTS)]
    start = np.array([0.0 if name in READ else has for name, has in zip(FACTS, WEIGHTS, strict=True)])
    found = fitted(blocks_of(moved for name, moved in every.items() if name not in read), free, start)
    held = [
        (min(0.0, READ[name]), max(0.0, READ[name])) if name in READ else (float(has), float(has))
        for name, has in zip(FACTS, found, strict=True)
    ]
    found = fitted(blocks_of(every[name] for name in read), held, found)
    print(", ".join(f"{weight:.2f}" for weight in found))
    for name, weight in zip(FACTS, found, strict=True):
        print(f"{weight:8.2f}  {name}")


def matching(size: int = 20_000) -> None:
    """Finding the candidates of every old address, and their evidence, beside the bare product of the same matrices,
    block by block."""
    moved = made_up(size, SEED)
    old, new = apart(moved.old), apart(moved.new)
    made = shores(old, new)

    def product() -> float:
        began = time.perf_counter()
        columns = made.new.T.tocsr()
        for first in range(0, made.old.shape[0], BLOCK):
            _ = made.old[first : first + BLOCK] @ columns
        return time.perf_counter() - began

    def ours() -> float:
        began = time.perf_counter()
        for _ in nearest(made.old, made.new):
            pass
        return time.perf_counter() - began

    ratios = []
    for _ in range(5):
        floor = product()
        ratios.append((ours() / floor, floor))
    ratio, floor = sorted(ratios)[2]
    print(f"{len(old):,} x {len(new):,}: nearest in {ratio:.2f} times the bare product ({floor:.2f} s)")
    began = time.perf_counter()
    seen(old, new, made)
    print(f"with all evidence: {(time.perf_counter() - began) / floor:.1f} times")


def report() -> None:
    table = Table(title="Suggested pairs against the truth", title_justify="left")
    for name in (
        "site",
        "old",
        "with a counterpart",
        "right one first",
        "accepted",
        "of those right",
        "confidence off by",
        "time",
    ):
        table.add_column(name, justify="left" if name == "site" else "right")
    for name, moved in sites().items():
        began = time.perf_counter()
        told_ = score(moved)
        table.add_row(
            name, f"{len(moved.old):,}", f"{told_['with a counterpart']:,.0f}", f"{told_['first']:.3f}",
            f"{told_['accepted']:.3f}", f"{told_['right']:.4f}", f"{told_['off by']:.3f}",
            f"{time.perf_counter() - began:.2f} s",
        )  # fmt: skip
    Console(width=150).print(table)


if __name__ == "__main__":
    {"fit": fit, "matching": matching}.get((sys.argv[1:] or [""])[0], report)()
