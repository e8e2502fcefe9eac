"""The new shore as a tree: what stands at its places and which old addresses lead there; parts of it moved."""

from __future__ import annotations

from bisect import bisect_left
from typing import NamedTuple

from grandferry.core.errors import FerryError
from grandferry.core.filetypes import looks_like_file
from grandferry.core.plan import Pair, Plan, RouteRule
from grandferry.core.route.evaluate import evaluate
from grandferry.core.route.redirects import RedirectMap
from grandferry.core.route.suggest import find_rules
from grandferry.core.route.tree import HOME, Branch, Move, branches, move_of, taken
from grandferry.store import changes, crossings, lift, route
from grandferry.work.route.decisions import MOST

CLASHES = 3  # that are named
FILES = "files"  # what is said of all of them


class Shore(NamedTuple):
    """The addresses of the new shore, sorted, with their titles ("" where nobody knows one)."""

    paths: list[str]
    titles: dict[str, str]

    def under(self, place: str) -> list[Branch]:
        return branches(self.paths, place)

    def within(self, place: str) -> list[str]:
        """The addresses that stand at a place, or below it."""
        if place == HOME:
            return [HOME] if HOME in self.titles else []
        move = Move(place, "")
        at = bisect_left(self.paths, place)
        found = []
        while at < len(self.paths) and self.paths[at].startswith(place):
            if self.paths[at] == place or move.of(self.paths[at]):
                found.append(self.paths[at])
            at += 1
        return found


def shore(crossing: int) -> Shore:
    """Places of items, pages of the new site where it was surveyed, what lists say is there, and pages that old
    addresses lead to."""
    titles = {place.path: place.title for place in route.new_shore(crossing)}
    for target in route.led_to(crossing):
        if not looks_like_file(target.partition("?")[0]):
            titles.setdefault(target, "")
    return Shore(sorted(titles), titles)


class Moved(NamedTuple):
    """An old address whose new one changes; ``was``: the new one that it had."""

    old: str
    was: str
    becomes: str


class Said(NamedTuple):
    """Something the plan says of many addresses (the pattern of a kind or of files, the target of a rule), before and
    afterwards; ``of``: the kind's name, "files", or the old side of the rule."""

    of: str
    was: str
    becomes: str


class Moving(NamedTuple):
    """What moving a place comes to. ``rows``: every old address that leads there; ``pairs``: how many addresses are set
    by hand for it, and locked; ``rule``: one that says the same of all old addresses like these, None where there is
    none, with how many of ``rows`` it settles; ``links``: on how many places of old pages they are linked."""

    move: Move
    rows: list[Moved]
    said: list[Said]
    pairs: int
    rule: RouteRule | None
    settles: int
    links: int


def look(crossing: int, was: str, to: str) -> Moving:
    """What moving a place, with all that lies below it, would come to. Raises PlanError as ``move_of``; FerryError when
    nothing of ours leads there, or something else has one of the new addresses."""
    return _planned(crossing, was, to)[0]


def move(crossing: int, was: str, to: str, with_rule: bool, by: str) -> tuple[Moving, str]:
    """Move it, as one change that can be taken back; with the rule where one is asked for and found. Gives what it came
    to, and the change in words. Raises as ``look``."""
    moving, plan, lines = _planned(crossing, was, to)
    if with_rule and moving.rule is not None:
        plan.route.rules.append(moving.rule)
    number = len(moving.rows)
    text = f"{moving.move.was} moved to {moving.move.to}: {number:,} old address{'es' if number != 1 else ''}"
    changes.change_all(crossing, plan, changes.revision(crossing), lines, [], by, text)
    return moving, text


def _planned(crossing: int, was: str, to: str) -> tuple[Moving, Plan, list[Pair]]:
    move = move_of(was, to)
    plan = crossings.load_plan(crossing)
    said, follow = _said(plan, move)
    files = any(one.of == FILES for one in said)
    every = route.decided(crossing)
    decided = {
        row.key: row
        for row in every
        if row.fate in ("stays", "moved", "merged") and move.of(row.target) and (files or row.origin != "file")
    }
    rows = [Moved(key, row.target, move.of(row.target)) for key, row in decided.items()]
    items = {item.key: item for item in lift.items(crossing) if move.of(item.new_path)}
    if not rows and not items:
        raise FerryError(
            f"Nothing of ours is at {move.was}.", "Only what an item or an old address leads to can be moved from here."
        )
    becomes = {item.new_path: move.of(item.new_path) for item in items.values()}
    becomes |= {row.was: row.becomes for row in rows}
    paths = shore(crossing).paths
    if clashes := taken(move, becomes, paths):
        raise FerryError(
            f"{len(clashes):,} of the new addresses {'is' if len(clashes) == 1 else 'are'} taken already: "
            f"{', '.join(clashes[:CLASHES])}{' …' if len(clashes) > CLASHES else ''}.",
            "Choose another place, or move first what stands there.",
        )
    lines = []
    for pair in plan.cut(crossings.load_pairs(crossing)):
        if target := move.of(pair.new) if pair.new else "":
            lines.append(pair.model_copy(update={"new": target}))
    kept = {pair.old for pair in lines}
    for key, item in items.items():  # those whose pattern moves get theirs from it
        if key not in kept and item.kind not in follow:
            lines.append(Pair(old=key, new=move.of(item.new_path), reason=f"moved with {move.was}"))
            kept.add(key)
    table = RedirectMap(plan.route.lines)
    for row in rows:  # those of a rule that leads elsewhere as well
        answer = evaluate(table, row.old) if decided[row.old].origin == "rule" and row.old not in kept else None
        if answer is not None and answer.location != row.becomes:
            lines.append(Pair(old=row.old, new=row.becomes, reason=f"moved with {move.was}"))
    if len(lines) > MOST:
        raise FerryError(
            f"{len(lines):,} addresses are too many to be set one by one.", "Change the pattern of their kind instead."
        )
    rule, settles = _rule(plan, move, rows, [row.key for row in every], paths)
    links = route.links_to(crossing, [row.old for row in rows])
    return Moving(move, rows, said, len(lines), rule, settles, links), plan, lines


def _said(plan: Plan, move: Move) -> tuple[list[Said], set[str]]:
    """Alter what a plan says of many addresses; gives that, and the names of kinds (of each of their languages) whose
    items follow."""
    said, follow = [], set()
    for kind in plan.kinds:
        if kind.address and (pattern := move.of(kind.address)):
            said.append(Said(kind.name, kind.address, pattern))
            follow |= {one.name for one in kind.by_language()}
            kind.address = pattern
    if plan.route.files and (pattern := move.of(plan.route.files)):
        said.append(Said(FILES, plan.route.files, pattern))
        plan.route.files = pattern
    for rule in plan.route.rules:
        if target := move.of(rule.new):
            said.append(Said(rule.old, rule.new, target))
            rule.new = target
    for question in plan.route.questions:
        if question.open and (target := move.of(question.until)):
            said.append(Said(f"the question “{question.asked}”", question.until, target))
            question.until = target
    return said, follow


def _rule(
    plan: Plan, move: Move, rows: list[Moved], known: list[str], paths: list[str]
) -> tuple[RouteRule | None, int]:
    """The rule that says most of a move, where it takes nothing else and the plan has not got it, and how many of its
    addresses it settles. ``known``: all old addresses; ``paths``: of the new shore before the move."""
    pairs = {row.old: row.becomes for row in rows if row.old != row.becomes}
    there = [path for path in paths if not move.of(path)] + [row.becomes for row in rows]
    had = {(rule.match, rule.old) for rule in plan.route.rules}
    for rule in find_rules(pairs, known, there):
        if not rule.catches and not rule.disagrees and ("pattern", rule.old) not in had:
            made = RouteRule(old=rule.old, new=rule.new, match="pattern", reason=f"{move.was} moved to {move.to}")
            return made, len(pairs.keys() & {*rule.settles})
    return None, 0
