"""Whether the rules of a map are sound: what is said twice, never reached, leads on, hides or lands on nothing."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence, Set
from dataclasses import dataclass
from enum import StrEnum

from ..address import fold_percent, under
from ..patterns import all_of
from .evaluate import evaluate
from .fate import Decision
from .redirects import Redirect, RedirectMap

SHOWN = 8  # examples
HOME_AT_LEAST, HOME_SHARE = 5, 0.05  # addresses that end on the home page, and their share of all that move
_HOME = re.compile(r"/(?:(?:index|default|home)(?:\.[a-z0-9]+)?)?", re.IGNORECASE)


class Fault(StrEnum):
    """What is wrong with a rule (or, without one, with the whole)."""

    TWICE = "twice"  # the same old side as an earlier one, and the same answer
    CONFLICT = "conflict"  # the same old side, another answer
    NEVER = "never"  # every known address that it fits is answered by others
    NOTHING = "nothing"  # it fits no known address
    LOOP = "loop"
    CHAIN = "chain"  # where it leads to is redirected again
    HIDES = "hides"  # it answers for addresses that stay
    NO_TARGET = "no target"  # where it leads to is nothing that is known of the new site
    HOME = "home"  # many addresses end on the home page


class Mend(StrEnum):
    """What mends it: take the rule out, put it before another, lead straight to the end."""

    NONE = ""
    OUT = "out"
    BEFORE = "before"
    STRAIGHT = "straight"


@dataclass(frozen=True, slots=True)
class Unsound:
    """A fault of the rule at position ``at`` (from 0; -1: of the whole); ``other``: the position of the rule it is
    about, -1 for none; ``count`` addresses, of which ``examples``; ``to``: where a chain ends."""

    fault: Fault
    at: int
    count: int = 0
    examples: tuple[str, ...] = ()
    other: int = -1
    to: str = ""
    mend: Mend = Mend.NONE


def unsound(
    rules: Sequence[Redirect],
    redirects: RedirectMap,
    decisions: Mapping[str, Decision],
    places: Set[str],
    proven: Set[str] = frozenset(),
) -> list[Unsound]:
    """The faults of ``rules`` in the map ``redirects`` over all old addresses. ``places``: the paths that are known of
    the new site; targets are not looked up where there are none, nor of addresses that a check has ``proven``."""
    found: list[Unsound] = []
    first: dict[tuple[str, str], int] = {}
    again = set()
    for at, rule in enumerate(rules):
        before = first.setdefault((rule.match, rule.old), at)
        if before != at:
            same = (rules[before].new, rules[before].status) == (rule.new, rule.status)
            found.append(Unsound(Fault.TWICE if same else Fault.CONFLICT, at, other=before, mend=Mend.OUT))
            again.add(at)
    fits, reached, rivals = _caught(rules, redirects, decisions)
    hides = [[key for key in keys if decisions[key].fate == "stays"] for keys in reached]
    for at, rule in enumerate(rules):
        if at in again:
            continue
        if not fits[at]:
            found.append(Unsound(Fault.NOTHING, at, mend=Mend.OUT))
        elif not reached[at]:
            rival = max(rivals[at], key=lambda one: rivals[at][one], default=-1)
            patterns = rival >= 0 and rule.match == rules[rival].match == "pattern"
            mend = Mend.BEFORE if patterns else Mend.OUT
            found.append(Unsound(Fault.NEVER, at, len(fits[at]), tuple(fits[at][:SHOWN]), rival, mend=mend))
        if hides[at]:
            found.append(Unsound(Fault.HIDES, at, len(hides[at]), tuple(hides[at][:SHOWN])))
        if rule.status != 410:
            found += _leads(at, rule, redirects, reached[at], places, proven)
    return found + _home(decisions)


def _caught(
    rules: Sequence[Redirect], redirects: RedirectMap, decisions: Mapping[str, Decision]
) -> tuple[list[list[str]], list[list[str]], list[dict[int, int]]]:
    """Per rule the addresses that it fits, those that it answers in the map, and how often which rule (-1: a single
    line) answers in its place."""
    fits: list[list[str]] = [[] for _ in rules]
    reached: list[list[str]] = [[] for _ in rules]
    rivals: list[dict[int, int]] = [defaultdict(int) for _ in rules]
    positions = {(rule.match, rule.old): at for at, rule in reversed(list(enumerate(rules)))}
    pattern_at = [at for at, rule in enumerate(rules) if rule.match == "pattern"]
    fitting = all_of(rules[at].old for at in pattern_at)
    others: dict[str, list[int]] = defaultdict(list)
    for at, rule in enumerate(rules):
        if rule.match != "pattern":
            others[rule.old].append(at)
    for key in decisions:
        path = key.partition("?")[0]
        mine = [pattern_at[n] for n in fitting(key)]
        if others:
            mine += [at for old in {key, *_folders(path)} for at in others.get(old, ()) if _fits(rules[at], key, path)]
        if not mine:
            continue
        answer = evaluate(redirects, key)
        by = positions.get((answer.redirect.match, answer.redirect.old), -1) if answer else -1
        for at in mine:
            fits[at].append(key)
            if at == by:
                reached[at].append(key)
            elif answer is not None:
                rivals[at][by] += 1
    return fits, reached, rivals


def _folders(path: str) -> Iterable[str]:
    """The path, and every folder above it, with and without its last slash."""
    yield from (path, f"{path}/")
    for at, sign in enumerate(path):
        if sign == "/":
            yield from (path[:at], path[: at + 1])


def _fits(rule: Redirect, key: str, path: str) -> bool:
    return under(path, rule.old) if rule.match == "prefix" else rule.old in (key, path)


def _leads(
    at: int, rule: Redirect, redirects: RedirectMap, reached: Iterable[str], places: Set[str], proven: Set[str]
) -> Iterable[Unsound]:
    """Where what a rule answers leads to: round and round, on, or to nothing."""
    looped, on, nowhere = [], [], []
    end = ""
    for key in reached:
        answer = evaluate(redirects, key)
        if answer is None or not answer.location.startswith("/"):
            continue
        trail = [key]
        location = answer.location
        while (step := evaluate(redirects, fold_percent(location.partition("#")[0]))) is not None:
            if location in trail or len(trail) > 20:
                looped.append(key)
                break
            trail.append(location)
            if step.status == 410:
                break
            location = step.location
        else:
            if len(trail) > 1:
                on.append(key)
                end = location
        path = answer.location.partition("#")[0].partition("?")[0]
        if places and key not in proven and len(trail) == 1 and not {path, path.rstrip("/"), f"{path}/"} & places:
            nowhere.append(key)
    if looped:
        yield Unsound(Fault.LOOP, at, len(looped), tuple(looped[:SHOWN]))
    if on:
        plain = rule.match == "exact" or (rule.match == "pattern" and "{" not in rule.new)
        mend = Mend.STRAIGHT if plain else Mend.NONE
        yield Unsound(Fault.CHAIN, at, len(on), tuple(on[:SHOWN]), to=end, mend=mend)
    if nowhere:
        yield Unsound(Fault.NO_TARGET, at, len(nowhere), tuple(nowhere[:SHOWN]))


def _home(decisions: Mapping[str, Decision]) -> list[Unsound]:
    """Many addresses that end on the home page: for a visitor that is as good as a page that is not there."""
    moved = [key for key, decision in decisions.items() if decision.fate in ("moved", "merged")]
    home = [key for key in moved if decisions[key].target == "/" and not _HOME.fullmatch(key.partition("?")[0])]
    if len(home) < HOME_AT_LEAST or len(home) < HOME_SHARE * len(moved):
        return []
    return [Unsound(Fault.HOME, -1, len(home), tuple(home[:SHOWN]))]
