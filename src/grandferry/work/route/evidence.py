"""What the checks have shown: the state of every rule, rounds against each other, and what to do next."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from grandferry.core.because import Why, because
from grandferry.core.errors import NotThere
from grandferry.core.plan import Plan
from grandferry.core.route.evaluate import evaluate
from grandferry.core.route.fate import FATES, is_about, proves
from grandferry.core.route.verdicts import VERDICTS
from grandferry.store import crossings, rounds, route
from grandferry.work.route.run import redirect_map


@dataclass(slots=True)
class RuleState:
    """A rule or pair of the plan. ``state``: written, handed over, seen working; only a check makes it the third.

    ``expected``: old addresses the map answers by it, and their ``visits``; ``measured``: those the latest check of the
    plan's interim host saw answered as planned; ``others``: the rest, with what they answered; ``host``: that host, ""
    while the plan names none.
    """

    number: int
    old: str
    new: str
    match: str
    status: int
    reason: str
    state: str = "written"
    handed_at: str = ""
    server: str = ""
    expected: int = 0
    visits: int = 0
    measured: int = 0
    others: list[dict[str, str]] = field(default_factory=list)
    host: str = ""


def good(judged: str, verdict: str, accepted: str) -> bool:
    """Whether a verdict proved the decision it judged; ``accepted``: why a person found the landing page right."""
    fate = judged.partition("|")[0]
    return fate in FATES and proves(fate, verdict, accepted)  # type: ignore[arg-type]


def rule_states(crossing: int) -> list[RuleState]:
    """The state of every rule of the plan. It is seen working on a host: with another interim host it is not seen
    yet."""
    plan = crossings.load_plan(crossing)
    lines = plan.route.lines
    written = route.written(crossing)
    states = []
    host = (plan.interim or "").rstrip("/")
    by_line: dict[tuple[str, str], RuleState] = {}
    for number, (rule, line) in enumerate(zip(plan.route.rules, lines, strict=True), 1):
        state = RuleState(number, rule.old, rule.new, rule.match, rule.status, rule.reason, host=host)
        given = written.get((line.match, line.old))
        if given and given.new == line.new:
            state.state, state.server, state.handed_at = "handed over", given.server, given.at
        states.append(state)
        by_line.setdefault((line.match, line.old), state)
    table = redirect_map(crossing)
    accepted = plan.route.accepting()
    for key, target, verdict, judged, visits in rounds.proofs(crossing, host):
        answer = evaluate(table, key)
        found = by_line.get((answer.redirect.match, answer.redirect.old)) if answer else None
        if found is None:
            continue
        found.expected += 1
        found.visits += visits
        if good(judged, verdict, accepted(key)) and is_about(judged, judged.partition("|")[0], target):
            found.measured += 1
        elif len(found.others) < 50:
            found.others.append(
                {"key": key, "answer": VERDICTS.get(verdict, verdict) if verdict else "not checked yet"}
            )
    for state in states:
        if state.measured:
            state.state = "seen working"
    return states


def _deciders(plan: Plan) -> Callable[[rounds.Found], str]:
    """A function that names what decides an address: a rule by its number, else by its sort."""
    numbers = {because(Why.LINE, r.match, r.old): n for n, r in enumerate(plan.route.rules, 1)}

    def by(found: rounds.Found) -> str:
        if found.origin == "rule" and found.reason in numbers:
            return f"rule {numbers[found.reason]}"
        return found.origin or "no decision"

    return by


def round_story(crossing: int) -> list[dict[str, Any]]:
    """Every round with how many addresses were open after it, and against the round before it: what was fixed and by
    what, and how many were newly broken (``broke``; ``broken`` names the first); of the latest, how many undecided
    addresses answered with the same content."""
    plan = crossings.load_plan(crossing)
    by = _deciders(plan)
    accepted = plan.route.accepting()
    told: list[dict[str, Any]] = []
    before: set[int] | None = None
    for row in rounds.round_rows(crossing):
        open_now: set[int] = set()
        seen: dict[int, tuple[str, str, str]] = {}
        for found in rounds.verdicts_of(row.id):
            seen[found.address] = (found.key, found.verdict, by(found))
            if not good(found.judged, found.verdict, accepted(found.key)):
                open_now.add(found.address)
        story: dict[str, Any] = {
            **row._asdict(),
            "checked": len(seen),
            "open": len(open_now),
            "before": None,
            "fixed_by": {},
            "broken": [],
            "broke": 0,
            "stays": 0,
        }
        if before is not None:
            story["before"] = len(before)
            fixed = Counter(seen[a][2] for a in before - open_now if a in seen)
            story["fixed_by"] = dict(sorted(fixed.items(), key=lambda by: (-by[1], by[0])))
            broke = sorted(open_now - before)
            story["broke"] = len(broke)
            story["broken"] = [
                {"key": seen[a][0], "answer": VERDICTS.get(seen[a][1], seen[a][1])} for a in broke[:NAMED]
            ]
        told.append(story)
        if row.ended:
            before = open_now
    if told:
        told[-1]["stays"] = rounds.undecided_same(crossing)
    return told


@dataclass(frozen=True, slots=True)
class Turn:
    """What became of an address between two rounds. ``what``: fixed, broken, still open, still proven; ``by`` what
    decides it now."""

    address: int
    key: str
    before: str
    now: str
    what: str
    by: str


NAMED = 200  # newly broken addresses of a round
TURNS = ("broken", "fixed", "still open", "still proven")


def compared(crossing: int, round_: int, before: int) -> list[Turn]:
    """Every address that both rounds asked, what changed first, then by key. Raises NotThere for a round
    that there is not."""
    known = {row.id for row in rounds.round_rows(crossing)}
    for one in (round_, before):
        if one not in known:
            raise NotThere(f"There is no round {one} in this crossing.")
    plan = crossings.load_plan(crossing)
    by = _deciders(plan)
    accepted = plan.route.accepting()
    had = {row.address: row for row in rounds.verdicts_of(before)}
    made = []
    for row in rounds.verdicts_of(round_):
        old = had.get(row.address)
        if old is None:
            continue
        was, is_ = (good(one.judged, one.verdict, accepted(one.key)) for one in (old, row))
        what = ("still proven" if is_ else "broken") if was else ("fixed" if is_ else "still open")
        made.append(Turn(row.address, row.key, old.verdict, row.verdict, what, by(row)))
    return sorted(made, key=lambda turn: (TURNS.index(turn.what), turn.key))


def note_written(crossing: int, server: str) -> None:
    """Remember which lines of the map were written out for a server, now."""
    route.note_written(crossing, redirect_map(crossing).redirects, server)
