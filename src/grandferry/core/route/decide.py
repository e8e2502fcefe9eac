"""What each old address is decided to become, from pairs, items, files, rules and the old site's own redirects."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from ..because import Why, because, led
from ..patterns import compile_pattern
from ..plan import PARENT, Aside, Question
from .above import pages_above
from .evaluate import evaluate
from .fate import Decision, Fate
from .redirects import Match, Redirect, RedirectMap


@dataclass(frozen=True, slots=True)
class Old:
    """What deciding needs to know of an old address: its key, where it redirects to on the old site (a key when that
    is on the same site, a full address elsewhere, "" when it does not redirect), and the key of the page that it is but
    another spelling of."""

    key: str
    redirects_to: str = ""
    twin_of: str = ""


def decide(
    addresses: Iterable[Old],
    *,
    pairs: RedirectMap,
    rules: RedirectMap,
    asides: Iterable[Aside],
    items: Mapping[str, str],
    files: Mapping[str, str],
    left_out: Mapping[str, str] | None = None,
    said: Mapping[tuple[Match, str], str] | None = None,
    sections: Mapping[str, int] | None = None,
    asked: Mapping[str, Question] | None = None,
    following: Mapping[str, str] | None = None,
) -> dict[str, Decision]:
    """A decision for every address, by the first of: a pair; what it leads to while the owner is asked; set aside, by
    an address or with its whole family; its own item; its file; what the page that it is another spelling of comes to,
    else a rule; what its redirect on the old site leads to.

    ``left_out``: old key -> the family that does not go over. ``said``: (match, old) -> why a line of the map is as it
    is, in a person's words; they stand before ours.

    ``sections``: old key -> how many items are made of sections of its page.

    ``asked``: old key -> the open question about it.

    ``following``: old key of a file -> why it has its place.

    ``items`` / ``files``: old key -> new path of the item or file made of it. Targets are followed through
    other old addresses, so that no chain is planned.
    """
    wanted = {old.key: old for old in addresses}
    left = [(compile_pattern(a.address), a.reason) for a in asides]
    # whose place a new path is: an item's, a file's, else that of the pair which names it first (itself before others)
    places: dict[str, str] = {}
    for redirect in sorted(pairs.exact.values(), key=lambda r: r.old != r.new):
        if redirect.new:
            places.setdefault(redirect.new, redirect.old)
    places |= {path: key for key, path in files.items()} | {path: key for key, path in items.items()}
    made: dict[str, Decision] = {}

    def settle(key: str, path: str, origin: str, reason: str, status: int = 301) -> Decision:
        if path == key:
            return Decision("stays", path, origin, reason)
        owner = places.get(path)
        return Decision("moved" if owner in (None, key) else "merged", path, origin, reason, status)

    def by_redirect(key: str, redirect: Redirect, location: str, origin: str) -> Decision:
        words = (said or {}).get((redirect.match, redirect.old), "")
        if redirect.status == 410:
            return Decision("retired", "", origin, because(Why.SAID, words) if words else because(Why.GONE))
        ours = because(Why.LINE, redirect.match, redirect.old)
        return settle(key, location, origin, because(Why.SAID, words) if words else ours, redirect.status)

    def for_now(key: str, path: str, question: Question) -> Decision:
        return settle(key, path, "question", because(Why.ASKED, question.asked), 302)

    def own(old: Old) -> Decision | None:
        key = old.key
        exact = pairs.exact.get(key)
        if exact is not None:
            return by_redirect(key, exact, exact.new, "pair")
        question = asked.get(key) if asked else None
        if question is not None and question.until:
            return None if question.until == PARENT else for_now(key, question.until, question)
        for pattern, reason in left:
            if pattern.fullmatch(key):
                return Decision("set aside", "", "aside", because(Why.SAID, reason))
        if left_out and key in left_out:
            return Decision("set aside", "", "family", because(Why.FAMILY, left_out[key]))
        if key in items:
            return settle(key, items[key], "item", "")
        if key in files:
            return settle(key, files[key], "file", (following or {}).get(key, ""))
        for table, origin in ((pairs, "pair"), (rules, "rule")):
            if origin == "rule" and old.twin_of:
                return None  # where the page goes, it goes
            answer = evaluate(table, key)
            if answer is not None:
                return by_redirect(key, answer.redirect, answer.location, origin)
        return None

    for key, old in wanted.items():
        decision = own(old)
        if decision is not None:
            made[key] = decision
    to_parent = {k: q for k, q in (asked or {}).items() if q.until == PARENT and k in wanted and k not in made}
    for key, old in wanted.items():
        if key in made or key in to_parent:
            continue
        if sections and key in sections:
            made[key] = Decision(None, reason=because(Why.SECTIONS, str(sections[key])))
            continue
        made[key] = _by_old_redirect(key, wanted, made, old)
        if made[key].fate is None and old.twin_of:  # the page goes nowhere: a rule may say where this one does
            made[key] = own(Old(key, old.redirects_to)) or made[key]
    for key, question in to_parent.items():
        path = _above(key, made, to_parent)
        nowhere = Decision(None, "", "question", because(Why.ASKED_OPEN, question.asked))
        made[key] = for_now(key, path, question) if path and path != key else nowhere
    for key, old in wanted.items():  # what leads over one of those that were just settled
        if made[key].fate is None and key not in to_parent and (old.redirects_to or old.twin_of):
            made[key] = _by_old_redirect(key, wanted, made, old)
        if made[key].fate is None and asked and key in asked and key not in to_parent:
            made[key] = replace(made[key], reason=because(Why.ASKED_OPEN, asked[key].asked))
    for key, decision in made.items():
        if decision.fate in ("moved", "merged"):
            made[key] = _flat(key, decision, made, places)
    for key in list(_in_circles(made)):
        made[key] = Decision(None, reason=because(Why.LOOP, made[key].target), origin=made[key].origin)
    return made


def _in_circles(made: Mapping[str, Decision]) -> Iterator[str]:
    """The addresses that a browser would come back to when it went where they lead: as two that change places."""
    done: set[str] = set()
    for key in made:
        way: dict[str, None] = {}  # in order
        at = key
        while at in made and made[at].fate in ("moved", "merged") and at not in done and at not in way:
            way[at] = None
            at = made[at].target
        if at in way:
            order = list(way)
            yield from order[order.index(at) :]
        done.update(way)


def _above(key: str, made: Mapping[str, Decision], but: Collection[str]) -> str:
    """The new address of the nearest page above an old one; "" where none of them goes anywhere."""
    for above in pages_above(key):
        decision = made.get(above)
        if above not in but and decision is not None and decision.fate in ("stays", "moved", "merged"):
            return decision.target
    return ""


def _by_old_redirect(key: str, wanted: Mapping[str, Old], made: Mapping[str, Decision], old: Old) -> Decision:
    """What an address comes to that already redirects on the old site, or is another spelling of a page: the place of
    where it leads."""
    seen = {key}
    at = old.redirects_to or old.twin_of
    if not at:
        return Decision(None)
    origin = "old redirect" if old.redirects_to else "twin"
    first = at

    def why(further: str) -> str:
        return led(at, further) if old.redirects_to else further or because(Why.TWIN, first)

    while True:
        if at in seen:
            return Decision(None, reason=because(Why.CIRCLE))
        seen.add(at)
        decision = made.get(at)
        if decision is not None and decision.fate is not None:
            if decision.fate in ("stays", "moved", "merged"):
                status = decision.status if decision.for_now else 301  # what leads on for now keeps nothing for good
                return Decision("merged", decision.target, origin, why(""), status)
            return Decision(decision.fate, "", origin, why(decision.reason))
        following = wanted.get(at)
        if following is None or not following.redirects_to:
            open_ = Why.OPEN_END if old.redirects_to else Why.TWIN
            return Decision(None, reason=because(open_, at))
        at = following.redirects_to


def _flat(key: str, decision: Decision, made: Mapping[str, Decision], places: Mapping[str, str]) -> Decision:
    """The decision with its target followed through old addresses that move on themselves."""
    seen = {key}
    target = decision.target
    while target in made and target not in seen and target not in places:
        further = made[target]
        if further.fate not in ("moved", "merged") or further.target == target:
            break
        seen.add(target)
        target = further.target
    if target == key:
        return Decision(None, reason=because(Why.LOOP, decision.target))
    if target == decision.target:
        return decision
    owner = places.get(target)
    fate: Fate = "moved" if owner in (None, key) else "merged"
    return replace(decision, fate=fate, target=target)


def redirects_for(decisions: Mapping[str, Decision], rules: Iterable[Redirect]) -> tuple[Redirect, ...]:
    """The fewest lines that say all decisions: the rules, and an exact line wherever the rules say otherwise."""
    rules = tuple(rules)
    table = RedirectMap(rules)
    lines = []
    for key in sorted(decisions):
        decision = decisions[key]
        if decision.fate in ("moved", "merged"):
            wanted = (decision.status, decision.target)
        elif decision.fate == "retired":
            wanted = (410, "")
        else:
            continue
        answer = evaluate(table, key)
        if answer is None or (answer.status, answer.location) != wanted:
            lines.append(Redirect(key, wanted[1], wanted[0], "exact"))
    return (*lines, *rules)


def hidden_by_rules(decisions: Mapping[str, Decision], redirects: RedirectMap) -> list[str]:
    """Addresses that stay but which a rule of the map would catch."""
    return [k for k, d in decisions.items() if d.fate == "stays" and evaluate(redirects, k) is not None]
