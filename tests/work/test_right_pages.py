"""Rounds on a farm's site: what is proven is right, what is doubtful is a person's, what stays needs no rule."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError, NotThere
from grandferry.core.plan import Pair, RouteRule
from grandferry.store import changes, crossings
from grandferry.store.db import rows
from grandferry.store.lists.windows import Selection
from grandferry.work.lift.tries import try_redirect
from grandferry.work.route.decisions import decide_over
from grandferry.work.route.evidence import compared, round_story, rule_states
from tests.servers import apps, pages_app

GUIDES = ("hay", "wool", "eggs", "lamb", "cider", "hives", "hedges", "ponds")
PNG = bytes.fromhex("89504e470d0a1a0a") + b"a picture of a hen"


def own(name: str) -> str:
    return " ".join(f"{name}{part}" for part in "abcdefghijklmnop")


def old_page(name: str) -> str:
    return f"<title>{name.title()} - Hollow Farm</title><p>Hollow Farm, open all days</p><h2>{name.title()}</h2>{own(name)}"


def new_page(title: str, words: str) -> str:
    return f"<title>{title} | Farm</title><nav><a href=/>Start</a></nav><h1>{title}</h1><p>{words}</p><p><a href=/imprint>Imprint</a></p>"


def served(site: dict[str, Any]) -> Any:
    return pages_app(site)


@pytest.fixture
def farm(cross: Callable[..., int], work: Callable[..., Any]) -> Iterator[tuple[int, dict[str, Any]]]:
    """The crossing, surveyed and decided, with its new site running; a test may change that."""
    links = "".join(f"<a href=/{name}.htm>{name}</a>" for name in GUIDES) + "<img src=/hen.png>"
    old: dict[str, Any] = {"/": f"<title>Hollow Farm</title>{own('home')}{links}", "/hen.png": ("image/png", PNG)}
    old |= {f"/{name}.htm": old_page(name) for name in GUIDES}
    old = {key: (200, {"Content-Type": v[0]}, v[1]) if isinstance(v, tuple) else v for key, v in old.items()}

    def to(place: str) -> tuple[int, dict[str, str], bytes]:
        return 301, {"Location": place}, b""

    new: dict[str, Any] = {
        "/": new_page("Farm", own("home")),
        "/hen.png": (200, {"Content-Type": "image/png"}, PNG),
        "/guides/hay": new_page("Hay", own("hay")),
        "/imprint": new_page("Imprint", "who we are, how to reach us, and the law"),
        "/guides/eggs": new_page("404 Not Found", "try the search"),
        "/guides/lamb": new_page("Lamb", ""),
        "/hay.htm": to("/guides/hay"),
        "/wool.htm": to("/imprint"),
        "/eggs.htm": to("/guides/eggs"),
        "/lamb.htm": to("/guides/lamb"),
        "/cider.htm": new_page("Cider", own("cider")),  # nobody has decided it
        "/hives.htm": new_page("Offers", own("offers")),  # another page at the same path, undecided
        "/hedges.htm": to("/"),
    }
    with apps(served(old), served(new)) as (old_port, new_port):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{old_port}/"},
                "interim": f"http://127.0.0.1:{new_port}",
                "survey": {"sitemaps": False},
            },
            [
                Pair(old="/", new="/"),
                Pair(old="/hen.png", new="/hen.png"),
                *(Pair(old=f"/{name}.htm", new=f"/guides/{name}") for name in ("hay", "eggs", "lamb")),
                Pair(old="/wool.htm", new="/imprint"),
                Pair(old="/hedges.htm", new="/"),
            ],
        )
        for stage in ("survey", "route", "check"):
            work(stage, crossing)
        yield crossing, new


def verdicts(crossing: int) -> dict[str, str]:
    return dict(rows("SELECT key, verdict FROM address WHERE crossing_id = ? AND counted = 1", crossing))


def proven(crossing: int) -> set[str]:
    return {key for (key,) in rows("SELECT key FROM address WHERE crossing_id = ? AND proven = 1", crossing)}


def test_what_is_proven_is_the_right_page(farm: tuple[int, dict[str, Any]]) -> None:
    crossing, _ = farm
    assert verdicts(crossing) == {
        "/": "same",
        "/hen.png": "same",
        "/hay.htm": "as planned",
        "/wool.htm": "wrong page",
        "/eggs.htm": "soft error",
        "/lamb.htm": "doubtful",
        "/cider.htm": "same",
        "/hives.htm": "wrong page",
        "/hedges.htm": "wrong page",
        "/ponds.htm": "missing",
    }
    assert proven(crossing) == {"/", "/hen.png", "/hay.htm"}
    why = {key: sentence(text) for key, text in rows("SELECT key, why FROM address WHERE counted = 1")}
    assert "the front page" in why["/hedges.htm"] and "not the title" in why["/wool.htm"]
    assert "a person has to say" in why["/lamb.htm"] and "and the title" in why["/lamb.htm"]


def test_other_bytes_in_a_picture_are_doubtful(farm: tuple[int, dict[str, Any]], work: Callable[..., Any]) -> None:
    crossing, new = farm
    new["/hen.png"] = (200, {"Content-Type": "image/png"}, PNG + b", made smaller")
    work("check", crossing)
    assert verdicts(crossing)["/hen.png"] == "doubtful"
    new["/hen.png"] = new_page("Hen", "a page about it")
    work("check", crossing)
    assert verdicts(crossing)["/hen.png"] == "wrong page"


def test_only_what_failed_is_asked_again_and_two_rounds_are_held_against_each_other(
    farm: tuple[int, dict[str, Any]], work: Callable[..., Any]
) -> None:
    crossing, new = farm
    first = round_story(crossing)[-1]
    new["/guides/eggs"] = new_page("Eggs", "eggs are laid in the morning and gathered before noon by hand")
    new["/hen.png"] = (404, {}, b"")  # proven before: not asked again, so that nothing is said of it
    done = work("check", crossing, failed=True)
    last = round_story(crossing)[-1]
    assert done["asked"] == 7 and last["taken_over"] == 3 and last["checked"] == 10
    assert verdicts(crossing)["/hen.png"] == "same" and verdicts(crossing)["/eggs.htm"] != "soft error"
    whole = work("check", crossing)
    assert whole["asked"] == 10 and verdicts(crossing)["/hen.png"] == "missing"
    turns = {turn.key: turn for turn in compared(crossing, whole["round"], first["id"])}
    assert (turns["/hen.png"].before, turns["/hen.png"].now, turns["/hen.png"].what) == (
        "same",
        "missing",
        "broken",
    ) and turns["/"].what == "still proven"
    assert turns["/ponds.htm"].what == "still open" and len(turns) == 10
    back = {turn.key: turn.what for turn in compared(crossing, first["id"], whole["round"])}
    assert back["/hen.png"] == "fixed", "any two, either way round"
    with pytest.raises(NotThere, match="no round 99"):
        compared(crossing, first["id"], 99)
    new["/hen.png"] = (200, {"Content-Type": "image/png"}, PNG)
    for name in ("wool", "eggs", "lamb", "hedges"):
        new[f"/{name}.htm"] = (301, {"Location": f"/right/{name}"}, b"")
        new[f"/right/{name}"] = new_page(name.title(), own(name))
    lines = [Pair(old=f"/{name}.htm", new=f"/right/{name}") for name in ("wool", "eggs", "lamb", "hedges")]
    for name in ("cider", "hives", "ponds"):
        lines.append(Pair(old=f"/{name}.htm", status=410, reason="the client wants it gone"))
        new[f"/{name}.htm"] = (410, {}, b"")
    changes.change_pairs(crossing, lines, [], "Ann", "all settled")
    work("route", crossing)
    assert work("check", crossing, failed=True)["asked"] == 8 and round_story(crossing)[-1]["open"] == 0
    rounds = len(round_story(crossing))
    assert "there is nothing to ask again" in work("check", crossing, fails=True, failed=True)["error"]
    assert len(round_story(crossing)) == rounds, "a round that comes to nothing is none"


def test_a_person_accepts_a_landing_page_with_a_reason(
    farm: tuple[int, dict[str, Any]], work: Callable[..., Any]
) -> None:
    crossing, new = farm
    doubtful = Selection({"verdict": ["doubtful", "wrong page", "soft error", "missing"]})
    with pytest.raises(FerryError, match="needs a reason"):
        decide_over(crossing, doubtful, "accept", "", " ", "Ann")
    number, text = decide_over(crossing, doubtful, "accept", "", "the client said so", "Ann")
    assert number == 3 and "3 addresses accepted" in text
    assert {line.reason for line in crossings.load_plan(crossing).route.accept} == {"the client said so"}
    assert proven(crossing) == {"/", "/hen.png", "/hay.htm", "/wool.htm", "/lamb.htm", "/hedges.htm"}
    assert round_story(crossing)[-1]["open"] == 4, "the undecided, the missing and the error page are left"
    work("check", crossing)
    assert "/wool.htm" in proven(crossing) and verdicts(crossing)["/wool.htm"] == "wrong page"
    new["/guides/lamb"] = new_page("Page not found", "")
    work("check", crossing)
    assert "/lamb.htm" not in proven(crossing), "an error page is never accepted"
    changes.undo(crossing, "Ann")
    assert proven(crossing) == {"/", "/hen.png", "/hay.htm"}
    with pytest.raises(FerryError, match="waits for a word"):
        decide_over(crossing, Selection({"verdict": ["missing"]}), "accept", "", "why not", "Ann")


def test_what_answers_with_the_same_page_is_proposed_to_stay(
    farm: tuple[int, dict[str, Any]], work: Callable[..., Any]
) -> None:
    crossing, _ = farm
    assert round_story(crossing)[-1]["stays"] == 1
    same = Selection({"verdict": ["same"], "decision": [""]})
    assert decide_over(crossing, same, "stay", "", "", "Ann")[1] == "1 address stays"
    work("route", crossing)
    work("check", crossing)
    assert "/cider.htm" in proven(crossing) and round_story(crossing)[-1]["stays"] == 0


def test_a_rule_is_weighed_against_all_that_answers_there(
    farm: tuple[int, dict[str, Any]], work: Callable[..., Any]
) -> None:
    crossing, _ = farm
    rule = RouteRule(old=r"/(\w+)\.htm", new="/guides/{1}", match="pattern")
    counts, catches = try_redirect(crossing, rule)
    hidden = {catch.key: catch.had for catch in catches if catch.effect == "hides"}
    assert hidden == {"/cider.htm": "answers there (same)", "/hives.htm": "answers there (wrong page)"}
    assert counts["settles"] == 1, "the pond's page, which answers 404 there"
    work("survey", crossing, side="new")
    below = RouteRule(old="/imprint", new="/about", match="prefix")
    counts, catches = try_redirect(crossing, below)
    assert counts == {"hides": 1} and catches[0].had == "a page of the new site"


def test_a_rule_is_seen_working_on_a_host(farm: tuple[int, dict[str, Any]], work: Callable[..., Any]) -> None:
    crossing, _ = farm
    plan = crossings.load_plan(crossing)
    plan.route.rules.append(RouteRule(old="/hay.htm", new="/guides/hay", match="exact"))
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "a rule")
    changes.change_pairs(crossing, [], ["/hay.htm"], "Ann", "by rule")
    work("route", crossing)
    work("check", crossing)
    assert [(state.state, state.measured) for state in rule_states(crossing)] == [("seen working", 1)]
    first, there = plan.interim, proven(crossing)
    assert "/hay.htm" in there
    plan.interim = "http://127.0.0.1:1"
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "another interim host")
    (state,) = rule_states(crossing)
    assert (state.state, state.measured, state.host) == ("written", 0, "http://127.0.0.1:1"), "nobody has asked there"
    assert not proven(crossing), "what was proven was proven on another host"
    plan.interim = first
    changes.change_plan(crossing, plan, changes.revision(crossing), "Ann", "the first one again")
    assert rule_states(crossing)[0].state == "seen working", "what was seen there was seen"
    assert proven(crossing) == there
    changes.undo(crossing, "Ann")
    assert not proven(crossing)
