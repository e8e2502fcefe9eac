"""Rules that are not sound: each fault found before anything is written, with what mends it."""

from __future__ import annotations

from grandferry.core.route.decide import Old, decide, redirects_for
from grandferry.core.route.redirects import Redirect, map_of, neutral
from grandferry.core.route.sound import Fault, Mend, Unsound, unsound

OLDS = [
    *(f"/news/{n}.htm" for n in range(20)),
    *(f"/team/p{n}.htm" for n in range(4)),
    *("/a/x", "/a/y", "/b/x", "/keep", "/loop/1", "/chain/1", "/old-end"),
]
PLACES = {"/articles/1", "/people", "/keep", *(f"/articles/{n}" for n in range(20))}


def found(
    rules: list[tuple[str, str, int, str]], pairs: list[tuple[str, str, int, str]] | None = None
) -> list[Unsound]:
    lines = [neutral(*rule) for rule in rules]  # type: ignore[arg-type]
    said = map_of([neutral(*pair) for pair in pairs or []])  # type: ignore[arg-type]
    made = decide([Old(key) for key in OLDS], pairs=said, rules=map_of(lines), asides=[], items={}, files={})
    table: tuple[Redirect, ...] = redirects_for(made, lines)
    return unsound(lines, map_of(table), made, PLACES)


NEWS = (r"/news/(\d+)\.htm", "/articles/{1}", 301, "pattern")


def test_sound_rules_have_no_fault() -> None:
    assert found([NEWS, ("/team", "", 410, "prefix")]) == []


def test_the_same_rule_twice_and_one_that_says_otherwise() -> None:
    (twice, conflict) = found([NEWS, NEWS, (NEWS[0], "/other/{1}", 301, "pattern")])
    assert (twice.fault, twice.at, twice.other, twice.mend) == (Fault.TWICE, 1, 0, Mend.OUT)
    assert (conflict.fault, conflict.at, conflict.other) == (Fault.CONFLICT, 2, 0)


def test_a_rule_that_others_answer_first_is_never_reached() -> None:
    (never,) = found([(r"/news/.*", "/articles/1", 301, "pattern"), NEWS])
    assert (never.fault, never.at, never.other, never.count) == (Fault.NEVER, 1, 0, 20)
    assert never.mend is Mend.BEFORE and never.examples[0] == "/news/0.htm"
    assert found([NEWS, (r"/news/.*x", "/articles/1", 301, "pattern")])[0].fault is Fault.NOTHING
    lines = [(f"/team/p{n}.htm", "/people", 301, "exact") for n in range(4)]
    (never,) = found([("/team", "/articles/1", 301, "prefix")], lines)
    assert (never.fault, never.other, never.mend) == (Fault.NEVER, -1, Mend.OUT), "single lines answer for all"


def test_look_alike_folders_are_not_mixed() -> None:
    (nothing,) = found([("/new", "/articles/1", 301, "prefix")])
    assert nothing.fault is Fault.NOTHING


def test_a_rule_that_leads_in_a_circle_or_on() -> None:
    (loop,) = found([("/loop", "/loop/1", 301, "prefix")])
    assert loop.fault is Fault.LOOP and loop.examples == ("/loop/1",)
    rules = [(r"/chain/.*", "/old-end", 301, "pattern"), (r"/old-end", "/people", 301, "pattern")]
    lines = [neutral(*rule) for rule in rules]  # type: ignore[arg-type]
    made = decide([Old(key) for key in OLDS], pairs=map_of([]), rules=map_of(lines), asides=[], items={}, files={})
    chains = [one for one in unsound(lines, map_of(lines), made, PLACES) if one.fault is Fault.CHAIN]
    assert [(one.at, one.to, one.mend) for one in chains] == [(0, "/people", Mend.STRAIGHT)]


def test_a_rule_that_hides_a_page_and_one_that_lands_on_nothing() -> None:
    faults = {
        one.fault: one for one in found([("/keep", "/people", 301, "prefix")], [("/keep", "/keep", 301, "exact")])
    }
    assert faults[Fault.HIDES].examples == ("/keep",)
    (nothing,) = found([(r"/a/.*", "/nowhere", 301, "pattern")])
    assert (nothing.fault, nothing.count) == (Fault.NO_TARGET, 2)
    lines = [neutral(r"/a/.*", "/nowhere", 301, "pattern")]
    made = decide([Old(key) for key in OLDS], pairs=map_of([]), rules=map_of(lines), asides=[], items={}, files={})
    assert unsound(lines, map_of(lines), made, PLACES, {"/a/x", "/a/y"}) == [], "a check has seen it"
    assert unsound(lines, map_of(lines), made, set()) == [], "nothing is known of the new site"


def test_everything_to_the_home_page_is_told() -> None:
    (home,) = [one for one in found([("/news", "/", 301, "pattern"), (r"/news/.*", "/", 301, "pattern")]) if one.at < 0]
    assert (home.fault, home.count) == (Fault.HOME, 20)
