"""What a server or a target cannot compute is spelled out: patterns as single lines over all known old addresses."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from .evaluate import evaluate
from .fate import Decision
from .redirects import Redirect, RedirectMap, map_of


def spelled_out(
    redirects: RedirectMap, decisions: Mapping[str, Decision], beyond: Iterable[str] = ("pattern",)
) -> list[Redirect]:
    """The map's lines without those of the matches that are beyond the other side (pattern, prefix), and in their place
    an exact line for every decided old address that the others do not answer in the same way."""
    beyond = frozenset(beyond)
    lines = [line for line in redirects.redirects if line.match not in beyond]
    if len(lines) == len(redirects.redirects):
        return lines
    without = map_of(lines)
    for key in sorted(decisions):
        if decisions[key].fate not in ("moved", "merged", "retired"):
            continue
        answer = evaluate(redirects, key)
        if answer is not None and answer.redirect.match in beyond and evaluate(without, key) != answer:
            lines.append(Redirect(key, answer.location, answer.status, "exact"))
    return lines
