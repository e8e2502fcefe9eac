"""What a server or a target cannot compute is spelled out: patterns as single lines over all known old addresses."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

from .evaluate import evaluate
from .fate import Decision
from .redirects import Redirect, RedirectMap, map_of


def spelled_out(
    redirects: RedirectMap, decisions: Mapping[str, Decision], beyond: Iterable[str] = ("pattern",)
) -> list[Redirect]:
    """The map's lines without those of the matches that are beyond the other side (pattern, prefix), and in their place
    an exact line for every decided old address that the others do not answer in the same way."""
    matches = frozenset(beyond)
    return without_rules(redirects, decisions, [line for line in redirects.redirects if line.match in matches])


def without_rules(
    redirects: RedirectMap, decisions: Mapping[str, Decision], rules: Collection[Redirect]
) -> list[Redirect]:
    """The same for some of its rules."""
    beyond = frozenset(rules)
    lines = [line for line in redirects.redirects if line not in beyond]
    if not beyond:
        return lines
    without = map_of(lines)
    for key in sorted(decisions):
        if decisions[key].fate not in ("moved", "merged", "retired"):
            continue
        answer = evaluate(redirects, key)
        if answer is not None and answer.redirect in beyond and evaluate(without, key) != answer:
            lines.append(Redirect(key, answer.location, answer.status, "exact"))
    return lines
