"""Pairs of old and new addresses that are likely, and rules that say them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from .pairs import Candidate, Heed, Pair, Reason, suggest, unheeded
from .rules import Rule, find_rules
from .tables import Table, find_tables
from .words import Known

__all__ = ["ACCEPT", "Candidate", "Known", "Pair", "Reason", "Rule", "Suggested", "Table", "find_tables", "suggested"]

NONE: Mapping[str, str] = {}
DOUBTFUL = 0.5  # of the best: a next best candidate so likely leaves it open which of them it is
RIVALS = 0.03  # of the other candidates together
ACCEPT = 0.9  # how sure a pair has to be to be taken by itself, where nobody says otherwise


@dataclass(frozen=True, slots=True)
class Suggested:
    """``pairs``: of every old address; ``rules``: in the order in which they have to stand."""

    pairs: list[Pair]
    rules: list[Rule]


def suggested(
    old: Sequence[Known],
    new: Sequence[Known],
    accept: float = ACCEPT,
    beside: Sequence[Known] = (),
    known: Mapping[str, str] = NONE,
    heed: Heed = unheeded,
) -> Suggested:
    """Pairs, and the rules behind those that are sure (``accept``) or at least likely; a pair that a rule says as well
    is surer by it. ``beside``: other addresses of the old site, and ``known``: what became of some of them. ``heed`` is
    told how many pairs are done, and may raise to end it."""
    pairs = suggest(old, new, beside, heed)
    sure = {pair.old: pair.candidates[0].new for pair in pairs if pair.candidates and pair.confidence >= accept}
    addresses = [one.address for one in (*old, *beside)]
    likely = {pair.old: _likely(pair) for pair in pairs if pair.candidates}
    rules = find_rules(sure | dict(known), addresses, [one.address for one in new], likely)
    by_rule: dict[str, Rule] = {}
    for rule in reversed(rules):
        by_rule |= dict.fromkeys(rule.settles, rule)
    return Suggested([_with_rule(pair, by_rule.get(pair.old)) for pair in pairs], rules)


def _likely(pair: Pair) -> tuple[str, float]:
    """What a pair says for or against a rule: its best candidate, none where the next best is about as likely."""
    best, *others = pair.candidates
    doubtful = bool(others) and others[0].confidence > DOUBTFUL * best.confidence
    return "" if doubtful else best.new, best.confidence


def _with_rule(pair: Pair, rule: Rule | None) -> Pair:
    """A pair whose best candidate a rule leads to: two witnesses, each of whom can be wrong by itself. Where there are
    others like it, as where several pages are called the same, a rule is no second witness: it reads the same words."""
    if rule is None or not pair.candidates or rule.target(pair.old) != pair.candidates[0].new:
        return pair
    if sum(one.confidence for one in pair.candidates[1:]) > RIVALS:
        return pair
    best = pair.candidates[0]
    surer = round(1 - (1 - best.confidence) * (1 - rule.sure), 4)
    made = replace(best, confidence=surer, reasons=(*best.reasons, (Reason.RULE, rule.old)))
    return Pair(pair.old, [made, *pair.candidates[1:]])
