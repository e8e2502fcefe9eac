"""What is wrong with a redirect map: lines said twice, circles, chains."""

from __future__ import annotations

from dataclasses import dataclass

from ..address import fold_percent
from .evaluate import evaluate
from .redirects import RedirectMap


@dataclass(frozen=True, slots=True)
class Flaw:
    """Something wrong with a line: ``line`` counts from 0, ``kind`` is one of duplicate, loop, chain."""

    line: int
    kind: str
    text: str


def flaws(redirects: RedirectMap) -> list[Flaw]:
    """Duplicates, loops and chains, in the order of the lines (patterns name no address to follow)."""
    found = []
    seen: dict[tuple[str, str], int] = {}
    for number, r in enumerate(redirects.redirects):
        first = seen.setdefault((r.match, r.old), number)
        if first != number:
            found.append(
                Flaw(number, "duplicate", f"{r.old} stands in line {first + 1} already; the first one counts.")
            )
            continue
        if r.match == "pattern" or r.status == 410:
            continue
        trail = [r.old]
        new = r.new
        while new.startswith("/"):
            step = evaluate(redirects, fold_percent(new.partition("#")[0]))
            if step is None or step.status == 410:
                break
            trail.append(new)
            if step.location in trail or step.location == r.old or len(trail) > 20:
                found.append(Flaw(number, "loop", f"{r.old} leads in a circle: {' → '.join([*trail, step.location])}."))
                break
            new = step.location
        else:
            new = ""
        if len(trail) > 1 and not (found and found[-1].line == number):
            found.append(Flaw(number, "chain", f"{r.old} → {r.new} is redirected again to {new}."))
    return found
