"""Rules that say many pairs at once: parts of the old address that are kept, renamed, dropped, re-ordered.

Every pair that is sure names the rules it could come from: by its last parts, which are the same on both shores, or
part by part (numbers and words of a part taken apart). What many pairs name is held against all old addresses, and of
what holds the fewest rules are taken that settle the most (greedy set cover; Chvátal, 1979).
"""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from ...address import shape
from ...filetypes import START_PAGES
from ...patterns import compile_pattern, escape

LEAST = 3  # pairs that a rule has to settle
ALIKE = 400  # addresses of one shape that name rules, and that each is tried on first
TRIED = 400  # rules that are held against all old addresses
WRONG = 0.2  # of what a rule settles: so many may be led to nothing, each of them listed
OTHERS = 0.4  # of what a rule settles: so many may have a pair of their own, whose line goes before the rule
PROVEN = 0.5  # of what a rule settles: so many have to be pairs that are sure without it …
BACKED = 0.25  # … or so many, when nothing at all speaks against it
LIKELY = 0.2  # how likely a pair has to be to name rules, and to speak for or against one
_NUMBERED = re.compile(r"\d+|\D+")
_ENDING = re.compile(r"\.[A-Za-z][A-Za-z0-9]{1,4}\Z")
NONE: Mapping[str, tuple[str, float]] = {}
_WHOLE, _REST = "([^/?]+)", "(.+)"


@dataclass(frozen=True, slots=True)
class Rule:
    """A pattern (RE2, anchored, over path and query) and its target with ``{1}`` …; the old addresses it ``settles``
    (``backed``: the share of them that their pairs say as well, each as far as it is sure), those whose pair it
    ``disagrees`` with, and those it would ``catch`` and lead to nothing."""

    old: str
    new: str
    settles: tuple[str, ...] = field(default=(), repr=False)
    backed: float = field(default=1.0, compare=False)
    disagrees: tuple[str, ...] = field(default=(), repr=False)
    catches: tuple[str, ...] = field(default=(), repr=False)

    def target(self, old: str) -> str:
        """Where it leads an address that it takes."""
        match = compile_pattern(self.old).fullmatch(old)
        return _filled(self.new, match) if match else ""

    @property
    def sure(self) -> float:
        """How likely what it says of one more address is right (Laplace's rule of succession)."""
        return self.backed * (len(self.settles) + 1) / (len(self.settles) + len(self.disagrees) + len(self.catches) + 2)


def find_rules(
    pairs: Mapping[str, str], old: Sequence[str], new: Iterable[str], likely: Mapping[str, tuple[str, float]] = NONE
) -> list[Rule]:
    """The rules behind ``pairs`` (old -> new, those that are sure) and ``likely`` ones (old -> new and how sure), with
    what each does to all ``old`` addresses; ``new``: those that there are. The one that settles the most comes
    first. One that is likely to have become "" is in doubt: a rule that takes it disagrees."""
    there, known = frozenset(new), sorted(old)
    weights = {was: becomes for was, becomes in likely.items() if was not in pairs and becomes[1] >= LIKELY}
    weights |= {was: (becomes, 1.0) for was, becomes in pairs.items()}
    said = {was: becomes for was, (becomes, _) in weights.items()}
    sure = {was: how for was, (_, how) in weights.items()}
    some = _sample(known)
    counts: Counter[tuple[str, str]] = Counter()
    for was in some:
        if (becomes := said.get(was, "")) and was != becomes:
            counts.update(set(_named_by(was, becomes)))
    best = sorted((one for one in counts.items() if one[1] >= LEAST), key=lambda one: (-one[1], _size(one[0]), one[0]))
    left = _different(_tried(pattern, target, said, some, there) for (pattern, target), _ in best[:TRIED])
    while True:
        found = list(_cover(left, sure))
        if len(some) == len(known):
            return found
        whole = [_tried(rule.old, rule.new, said, known, there) for rule in found]
        made = list(_cover(whole, sure))
        kept = {(rule.old, rule.new) for rule in made}
        lost = {(rule.old, rule.new) for rule in found} - kept
        if not lost:
            return made
        left = [rule for rule in left if (rule.old, rule.new) not in lost]  # what holds of some does not hold of all


def _sample(known: Sequence[str]) -> list[str]:
    """Of the old addresses of each shape so many as tell what became of it, in their order."""
    by_shape: dict[str, list[str]] = {}
    for address in known:
        by_shape.setdefault(shape(address), []).append(address)
    some: list[str] = []
    for alike in by_shape.values():
        some += alike[:: max(1, -(-len(alike) // ALIKE))]
    return sorted(some)


def _different(rules: Iterable[Rule]) -> list[Rule]:
    """Of rules that do the same the one that is closest to what it is about: the less it can catch."""
    found: dict[tuple[tuple[str, ...], ...], Rule] = {}
    for rule in rules:
        key = rule.settles, rule.disagrees, rule.catches
        found[key] = min(found.get(key, rule), rule, key=_reach)
    return [rule for rule in found.values() if rule.settles]


def _reach(rule: Rule) -> tuple[int, int, str]:
    return -len(_head(rule.old)), _size((rule.old, rule.new)), rule.old


def _size(rule: tuple[str, str]) -> int:
    return len(rule[0]) + len(rule[1])


def _cover(rules: list[Rule], sure: Mapping[str, float]) -> Iterator[Rule]:
    """The fewest that settle the most, in the order in which they have to stand: what a rule does to addresses that one
    before it takes does not count. ``sure``: how sure what pairs say of an address is."""
    left = [(rule, set(rule.settles), set(rule.disagrees), set(rule.catches)) for rule in rules]
    while left:
        good = [one for one in left if _holds(one[1], one[2], one[3], sure)]
        if not good:
            return
        best = max(good, key=lambda one: (len(one[1]) - len(one[2]) - len(one[3]), *(-k for k in _reach(one[0])[:2])))
        rule, settles, disagrees, catches = best
        taken = settles | disagrees | catches
        backed = sum(sure.get(one, 0.0) for one in settles) / len(settles)
        yield Rule(rule.old, rule.new, tuple(sorted(settles)), backed, tuple(sorted(disagrees)), tuple(sorted(catches)))
        rest = []
        for other, *each in left:
            each = [one - taken for one in each]
            if len(each[0]) >= LEAST:
                rest.append((other, each[0], each[1], each[2]))
        left = rest


def _holds(settles: set[str], disagrees: set[str], catches: set[str], sure: Mapping[str, float]) -> bool:
    backing = sum(sure.get(one, 0.0) for one in settles)
    return (
        len(settles) >= LEAST
        and len(catches) <= WRONG * len(settles)
        and len(disagrees) <= OTHERS * len(settles)
        and backing >= (PROVEN if disagrees or catches else BACKED) * len(settles)
    )


def _tried(pattern: str, target: str, pairs: Mapping[str, str], known: Sequence[str], there: frozenset[str]) -> Rule:
    """A rule with what it does to all old addresses."""
    found = compile_pattern(pattern)
    settles, disagrees, catches = list[str](), list[str](), list[str]()
    head = _head(pattern)
    for at in range(bisect_left(known, head), len(known)):
        was = known[at]
        if not was.startswith(head):
            break
        match = found.fullmatch(was)
        if not match:
            continue
        becomes = _filled(target, match)
        if was in pairs:
            (settles if pairs[was] == becomes else disagrees).append(was)
        elif was in there or becomes not in there:  # a page that is there, or one that leads to nothing
            catches.append(was)
        else:
            settles.append(was)
    return Rule(pattern, target, tuple(settles), 1.0, tuple(disagrees), tuple(catches))


def _filled(target: str, match: Any) -> str:
    return re.sub(r"\{(\d)\}", lambda m: match[int(m[1])] or "", target)


def _head(pattern: str) -> str:
    """What every address that a pattern takes begins with."""
    plain = re.match(r"(?:[^\\\[\](){}.*+?|^$]|\\[^\w])*", pattern)
    text = plain[0] if plain else ""
    if pattern[len(text) : len(text) + 1] in ("*", "?", "{", "+"):
        text = text[:-1]
    return re.sub(r"\\(.)", r"\1", text)


# --- which rules a pair could come from --------------------------------------------------------------------


def _named_by(old: str, new: str) -> Iterator[tuple[str, str]]:
    path, _, query = old.partition("?")
    if not query:
        yield from _by_last_parts(path, new)
    yield from _by_parts(path, query, new)


def _by_last_parts(old: str, new: str) -> Iterator[tuple[str, str]]:
    """All that lies in a folder goes to another one: the last parts are the same, endings and index pages aside."""
    ours, theirs = _ended(old), _ended(new)
    mine, other = ours[0].split("/"), theirs[0].split("/")
    for number in range(1, min(len(mine), len(other))):
        if mine[-number] != other[-number] or not mine[-number]:
            break
        before, after = "/".join(mine[:-number]) + "/", "/".join(other[:-number]) + "/"
        rest = _WHOLE if number == 1 else _REST
        for caught in {rest, _REST}:
            yield escape(before) + caught + escape(ours[1]), _literal(after) + "{1}" + _literal(theirs[1])


def _ended(path: str) -> tuple[str, str]:
    """(a path without what it ends in, that): an index page, an ending, a slash."""
    head, _, tail = path.rpartition("/")
    if tail.lower().rpartition(".")[0] in START_PAGES:
        return head, f"/{tail}"
    if not tail:
        return head, "/"
    ending = _ENDING.search(tail)
    return (path[: -len(ending[0])], ending[0]) if ending else (path, "")


def _by_parts(path: str, query: str, new: str) -> Iterator[tuple[str, str]]:
    """Part by part: each part of the new address is a part of the old one, a piece of it, or a word of its own."""
    stem, ending = _ended(path)
    for apart in (False, True):
        pieces: list[tuple[str, str]] = []  # (what stands there, its class), "/" between parts
        for at, part in enumerate(stem.split("/")):
            if at:
                pieces.append(("/", ""))
            pieces += _pieces(part, apart)
        pieces.append((ending, ""))
        if query:
            pieces.append(("?", ""))
            for at, one in enumerate(query.split("&")):
                name, sign, value = one.partition("=")
                pieces += [("&" if at else "", ""), (f"{name}{sign}", "")]
                pieces.append((value, ("" if not value else r"(\d+)" if value.isdigit() else "([^&]+)")))
        yield from _said(pieces, new)
        kept = [
            (text, "") if kind == _WHOLE and _folder(pieces, at) else (text, kind)
            for at, (text, kind) in enumerate(pieces)
        ]
        if kept != pieces:
            yield from _said(kept, new)


def _folder(pieces: Sequence[tuple[str, str]], at: int) -> bool:
    """Whether a piece is a part by itself that others come after."""
    return pieces[at - 1 : at] == [("/", "")] and pieces[at + 1 : at + 2] == [("/", "")]


def _pieces(part: str, apart: bool) -> list[tuple[str, str]]:
    """A part as one piece, or its leading and trailing numbers apart from what is between."""
    if not apart or not part:
        return [(part, rf"(\d{{{len(part)}}})" if part.isdigit() else _WHOLE)] if part else []
    found = re.fullmatch(r"((?:\d+[-_.])*)(.*?)((?:[-_.]\d+)*)", part)
    if not found or not (found[1] or found[3]) or not found[2]:
        return [(part, rf"(\d{{{len(part)}}})" if part.isdigit() else _WHOLE)]
    made: list[tuple[str, str]] = []
    for text in _NUMBERED.findall(found[1]):
        made.append((text, rf"(\d{{{len(text)}}})" if text.isdigit() else ""))
    made.append((found[2], _WHOLE))
    for text in _NUMBERED.findall(found[3]):
        made.append((text, r"(\d+)" if text.isdigit() else ""))
    return made


def _said(pieces: list[tuple[str, str]], new: str) -> Iterator[tuple[str, str]]:
    """The new address in pieces of the old one."""
    caught: dict[int, int] = {}  # piece -> the number of its group, in the order of the old address
    target: list[int | str] = []
    at = 0
    free = sorted((k for k, (text, kind) in enumerate(pieces) if kind and text), key=lambda k: -len(pieces[k][0]))
    while at < len(new):
        whole = at == 0 or not (new[at - 1].isalnum() and new[at].isalnum())
        piece = next(
            (
                k
                for k in free
                if whole
                and new.startswith(pieces[k][0], at)
                and (at + len(pieces[k][0]) == len(new) or not new[at + len(pieces[k][0])].isalnum())
            ),
            None,
        )
        if piece is None:
            target.append(new[at])
            at += 1
            continue
        caught.setdefault(piece, 0)
        target.append(piece)
        at += len(pieces[piece][0])
    if not 1 <= len(caught) <= 9:
        return
    for number, piece in enumerate(sorted(caught), 1):
        caught[piece] = number
    made = "".join(_literal(one) if isinstance(one, str) else f"{{{caught[one]}}}" for one in target)
    strict, loose = [], []
    for k, (text, kind) in enumerate(pieces):
        if k in caught:
            strict.append(kind)
            loose.append(kind)
        else:
            strict.append(escape(text))
            loose.append(kind.strip("()") if kind and text.isdigit() else escape(text))
    yield "".join(strict), made
    if loose != strict:  # a number that is dropped is another one elsewhere …
        yield "".join(loose), made
    for k in range(2, len(pieces)):  # … or none at all, where it only told apart what is called the same
        text, kind = pieces[k]
        joined = pieces[k - 1][0] in ("-", "_", ".") and k - 2 in caught and pieces[k - 2][1] == _WHOLE
        if joined and kind == r"(\d+)" and text and k not in caught:
            before, after = loose[: k - 2], loose[k + 1 :]
            yield "".join((*before, "([^/?]+?)", rf"(?:{escape(pieces[k - 1][0])}\d+)?", *after)), made


def _literal(text: str) -> str:
    """A text of a target: braces would name captured parts."""
    return text.replace("{", "%7B").replace("}", "%7D")
