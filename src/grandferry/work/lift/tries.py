"""Trying before saving: a field on a few pages, sort rules on all, a redirect rule on every old address."""

from __future__ import annotations

import time
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

from grandferry.core.errors import FerryError, NotThere, UnreadablePage
from grandferry.core.kinds import FieldPlan, SortRule
from grandferry.core.lift.fields import lift_field, treated
from grandferry.core.lift.sections import in_turn
from grandferry.core.lift.value import Value
from grandferry.core.page import Page
from grandferry.core.plan import RouteRule
from grandferry.core.route.evaluate import Answer, evaluate
from grandferry.core.route.fate import ANSWERS
from grandferry.core.route.redirects import map_of
from grandferry.core.sort.rules import asks_make, holds, looks, may_hold
from grandferry.core.survey.scope import scope_of
from grandferry.store import bodies, crossings, records, route, sort
from grandferry.store.survey import captures, surveyed
from grandferry.work.pages import content_type, page_and_masks, page_of
from grandferry.work.route.run import redirect_map
from grandferry.work.sort.run import seen_of

LOOK_SECONDS = 1.5  # for looking into pages while a rule is written
COVER_SECONDS = 0.4  # for one part of the pages of a kind
FAILS = 12  # pages that are named where a field is not filled
SHOWN = 200


@dataclass(frozen=True, slots=True)
class Tried:
    """A field's value on one page, or why the page could not be read; ``steps``: what was read, and that after each
    treatment."""

    address: int
    key: str
    title: str
    value: Value | None
    problem: str = ""
    steps: list[Any] = field(default_factory=list)


def try_field(crossing: int, wanted: FieldPlan, addresses: list[int]) -> list[Tried]:
    """What a field would read off these pages (at most ten), off each of their sections where these are items."""
    plan = crossings.load_plan(crossing)
    scope = scope_of(plan.side("old"))
    kinds = {kind.name: kind for kind in plan.every_kind}
    tried: list[Tried] = []
    for address in addresses[:10]:
        title = captures.title(address)
        try:
            found = page_found(crossing, address)
            page, masks = page_and_masks(bodies.get(found.body), content_type(found.headers), plan.carried_marks, scope)
            page.record = records.of_key(crossing, found.key)
            for section in in_turn(page, kinds.get(sort.kind_of(crossing, address))):
                value = lift_field(page, wanted, found.key, found.url, scope, masks)
                steps = masks.value(treated(page, wanted, found.key)) if wanted.treat else []
                key = f"{found.key}#{section.mark}" if section else found.key
                tried.append(Tried(address, key, title, value, steps=steps))
        except UnreadablePage as problem:
            tried.append(Tried(address, "", title, None, str(problem)))
    return tried


@dataclass(slots=True)
class Covered:
    """What a field reads on pages of a kind, as far as they were looked at: ``states``: how many are filled, empty,
    many, odd; ``fails``: the first that are not filled (address, key, title, state, why)."""

    of: int
    looked: int
    states: Counter[str]
    fails: list[tuple[int, str, str, str, str]]


def cover_field(crossing: int, wanted: FieldPlan, kind: str, start: int) -> Covered:
    """What a field would read on the pages of a kind from one on, until the time is up."""
    plan = crossings.load_plan(crossing)
    scope = scope_of(plan.side("old"))
    made_by = next((one for one in plan.every_kind if one.name == kind), None)
    found = sort.pages_of_kind(crossing, kind)
    said = records.of_keys(crossing) if any(one.record for one in wanted.locators) else {}
    covered = Covered(len(found), start, Counter(), [])
    until = time.monotonic() + COVER_SECONDS
    for page in found[start:]:
        try:
            read = page_of(bodies.get(page.content), content_type(page.headers))
            read.record = said.get(page.key, (None, ""))[0]
            values = [lift_field(read, wanted, page.key, page.url, scope) for _ in in_turn(read, made_by)]
            value = next((one for one in values if one.state != "filled"), values[0])
            state, note = value.state, value.note
        except UnreadablePage as problem:
            state, note = "odd", str(problem)
        covered.states[state] += 1
        if state != "filled" and len(covered.fails) < FAILS:
            covered.fails.append((page.address, page.key, captures.title(page.address), state, note))
        covered.looked += 1
        if time.monotonic() > until:
            break
    return covered


def page_found(crossing: int, address: int) -> captures.Captured:
    found = captures.latest(crossing, address)
    if found is None or found.type != "page":
        raise NotThere(f"Address {address} of this crossing has no captured page.")
    return found


def page_at(crossing: int, address: int) -> tuple[Page, str, str]:
    """(page, url, key) of a captured page. Raises NotThere, UnreadablePage."""
    found = page_found(crossing, address)
    return page_of(bodies.get(found.body), content_type(found.headers)), found.url, found.key


@dataclass(slots=True)
class RuleCount:
    """What sort rules catch: pages, how many were looked into for elements, and which kinds have those pages now."""

    pages: int = 0
    of: int = 0
    looked: int = 0
    to_look: int = 0
    now: Counter[str] | None = None
    examples: list[str] | None = None


def try_rules(crossing: int, rules: list[SortRule]) -> RuleCount:
    """Count the pages that any of the rules holds for. Where a rule asks for an element, pages are looked into until
    the time is up; ``looked`` of ``to_look`` says how sure the count is."""
    result = RuleCount(now=Counter(), examples=[])
    assert result.now is not None and result.examples is not None
    has = sort.kinds_of_pages(crossing)
    until = time.monotonic() + LOOK_SECONDS
    asked = [rule.language for rule in rules if rule.language]
    tongues = tuple(dict.fromkeys([*crossings.load_plan(crossing).tongues, *asked]))
    makes = surveyed.makes(crossing) if any(map(asks_make, rules)) else {}
    for found in surveyed.pages(crossing):
        address, key = found.address, found.key
        seen = seen_of(found, tongues, makes.get(address, b""))
        result.of += 1
        caught = any(holds(rule, seen) for rule in rules if not looks(rule))
        may = [rule for rule in rules if not caught and looks(rule) and may_hold(rule, seen)]
        if may:
            result.to_look += 1
            if time.monotonic() < until:
                result.looked += 1
                try:
                    page = page_of(bodies.get(found.content), content_type(found.headers))
                    caught = any(holds(rule, seen._replace(page=page)) for rule in may)
                except FerryError:
                    caught = False
        if caught:
            result.pages += 1
            result.now[has.get(address, "")] += 1
            if len(result.examples) < 8:
                result.examples.append(key)
    return result


@dataclass(frozen=True, slots=True)
class Catch:
    """An old address a rule would answer for, and where it would lead. ``effect``: settles, agrees, disagrees, hides
    (what stays, or answers on the new host, decided or not), or already (a pair, an item, a file or a reason to set it
    aside comes first)."""

    address: int
    key: str
    to: str
    effect: str
    had: str


def try_redirect(crossing: int, rule: RouteRule) -> tuple[dict[str, int], list[Catch]]:
    """What a redirect rule would catch among all old addresses: counts by effect (and the visits of what it settles),
    and examples of each, the worrying ones first. Raises AddressError, PatternError."""
    line = rule.redirect
    table = map_of([line])
    counts: Counter[str] = Counter()
    kept: dict[str, list[Catch]] = {}
    for number, key in route.new_alone(crossing):
        answer = evaluate(table, key)
        if answer is not None:
            counts["hides"] += 1
            if len(kept.setdefault("hides", [])) < SHOWN:
                to = "gone (410)" if answer.status == 410 else answer.location
                kept["hides"].append(Catch(number, key, to, "hides", "a page of the new site"))
    for id_, key, fate, target, origin, verdict, visits in route.decided(crossing):
        answer = evaluate(table, key)
        if answer is None:
            continue
        to = "gone (410)" if answer.status == 410 else answer.location
        had = "gone (410)" if fate == "retired" else target if fate in ("stays", "moved", "merged") else fate
        if answer.location == key:
            effect = "agrees" if fate == "stays" else "settles" if fate in ("", "unaccounted") else "disagrees"
        elif fate == "stays":
            effect = "hides"
        elif fate in ("", "unaccounted") and verdict in ANSWERS:
            effect, had = "hides", f"answers there ({verdict})"
        elif fate in ("", "unaccounted"):
            effect = "settles"
        elif had == to:
            effect = "agrees"
        elif origin in ("pair", "item", "file", "aside"):
            effect = "already"  # decided before rules are asked
        else:
            effect = "disagrees"
        counts[effect] += 1
        if effect == "settles" and visits:
            counts["visits"] += visits
        shown = kept.setdefault(effect, [])
        if len(shown) < SHOWN:
            shown.append(Catch(id_, key, to, effect, had))
    order = ("hides", "disagrees", "settles", "agrees", "already")
    return dict(counts), [c for effect in order for c in kept.get(effect, [])]


def ask_map(crossing: int, request: str) -> Answer | None:
    """What the crossing's redirect map answers to a request target in normal form."""
    return evaluate(redirect_map(crossing), request)


def kind_pages(crossing: int, kind: str, most: int) -> list[int]:
    """A few pages of a kind, spread over all of them."""
    found = [page.address for page in sort.pages_of_kind(crossing, kind)]
    if len(found) <= most:
        return found
    step = (len(found) - 1) / max(most - 1, 1)
    return [found[round(k * step)] for k in range(most)]
