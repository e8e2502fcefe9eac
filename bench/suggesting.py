"""How well pairs are suggested: against the truth of the demo and of sites that moved by known rules, three seeds; and
what the weights of the evidence come to, fitted to the demo.

``python -m bench.suggesting [fit]``
"""

from __future__ import annotations

import sys
import time

import numpy as np
from rich.console import Console
from rich.table import Table
from scipy.optimize import minimize
from tests.moved import SUFFIX, Moved, demo, made_up

from grandferry.core.route.suggest import suggested
from grandferry.core.route.suggest.pairs import AGAINST, FACTS, WEIGHTS, apart, seen
from grandferry.core.route.suggest.words import shores
from grandferry.demo.site import SEED

SEEDS = (SEED, SEED + 1, SEED + 2)


def sites() -> dict[str, Moved]:
    made = {}
    for seed in SEEDS:
        made |= {
            f"demo {seed}": demo(600, seed),
            f"demo {seed}, a name behind every title": demo(600, seed, suffix=SUFFIX),
            f"demo {seed}, no titles": demo(600, seed, titles=False),
            f"made up {seed}": made_up(600, seed),
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


def fit() -> None:
    """Weights by which the truth is likeliest, a little held back (ridge)."""
    blocks = []
    for moved in sites().values():
        old, new = apart(moved.old), apart(moved.new)
        all_ = seen(old, new, shores(old, new))
        places = {one.address: at for at, one in enumerate(moved.new)}
        for at, one in enumerate(moved.old):
            start, end = all_.ends[at], all_.ends[at + 1]
            true = places.get(moved.truth[one.address], -1)
            blocks.append((all_.facts[start:end], np.flatnonzero(all_.news[start:end] == true)))

    def loss(weights: np.ndarray) -> float:
        total = 0.02 * float((weights**2).sum())
        for facts, true in blocks:
            scores = np.clip(facts @ weights, -30, 30)
            top = max(0.0, float(scores.max(initial=0.0)))
            whole = np.exp(-top) + np.exp(scores - top).sum()
            total += top + np.log(whole) - (float(scores[true[0]]) if len(true) else 0.0)
        return total

    # what speaks for a pair may not come to speak against it, as it would where two facts mostly go together
    bounds = [
        (None, None) if not k else (None, 0.0) if name in AGAINST else (0.0, None) for k, name in enumerate(FACTS)
    ]
    found = minimize(loss, WEIGHTS, method="L-BFGS-B", bounds=bounds)
    for name, weight in zip(FACTS, found.x, strict=True):
        print(f"{weight:8.2f}  {name}")


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
    fit() if sys.argv[1:] == ["fit"] else report()
