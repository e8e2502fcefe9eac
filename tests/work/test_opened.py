"""Open addresses folded by shape on a site of many folders: one act settles a shape at any height."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.plan import Pair, Plan, RouteRule
from grandferry.store import changes, crossings, route
from grandferry.store.db import rows
from grandferry.store.manifest import figures
from grandferry.work.lift.tries import try_redirect
from grandferry.work.route.evidence import compared, round_story
from grandferry.work.route.opened import decide_shape, open_groups
from tests.servers import apps, pages_app

LANGUAGES = ("ar", "de", "en", "fr", "ja")
PNG = bytes.fromhex("89504e470d0a1a0a") + b"a picture"


@pytest.fixture
def site(cross: Callable[..., int], work: Callable[..., Any]) -> int:
    """A site in five languages, surveyed and decided; nothing of it is settled."""
    pages: dict[str, Any] = {"/": "".join(f"<a href=/{lang}/>{lang}</a>" for lang in LANGUAGES)}
    for lang in LANGUAGES:
        shown = "".join(f"<img src=/{lang}/images/{name}.png>" for name in ("ferry", "mast", "pier"))
        linked = "".join(f"<a href=/{lang}/{name}.htm>{name}</a>" for name in ("crew", "fares"))
        pages[f"/{lang}/"] = f"<title>{lang}</title>{shown}{linked}"
        for name in ("crew", "fares"):
            pages[f"/{lang}/{name}.htm"] = f"<title>{name}</title><p>{name} in {lang}"
        for name in ("ferry", "mast", "pier"):
            pages[f"/{lang}/images/{name}.png"] = (200, {"Content-Type": "image/png"}, PNG + f"{lang} {name}".encode())
    with apps(pages_app(pages)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}}, [])
        work("survey", crossing)
    work("route", crossing)
    return crossing


def shapes(crossing: int, level: int = 0) -> dict[str, int]:
    return {group.fold.shape: group.fold.weight.unaccounted for group in open_groups(crossing) if group.level == level}


def fates(crossing: int) -> dict[str, str]:
    return dict(rows("SELECT key, fate FROM address WHERE crossing_id = ? AND counted = 1", crossing))


def test_a_shape_is_settled_over_all_folders_and_taken_back(site: int, work: Callable[..., Any]) -> None:
    assert shapes(site) == {"/*/images/*.png": 15, "/*/*.htm": 10, "/*/": 5, "/": 1}
    assert shapes(site, 1)["/ja/images/*.png"] == 3
    (fold,) = [group.fold for group in open_groups(site) if group.fold.shape == "/*/images/*.png"]
    assert fold.folders == 5 and fold.pattern == "/([^/?&]+)/images/([^/?&]+)\\.png"
    number, text = decide_shape(site, "/*/images/*.png", "stay", "", "the same server", "Ann")
    assert number == 15 and text == "15 addresses stay: the same server"
    work("route", site)
    assert sum(fate == "stays" for fate in fates(site).values()) == 15 and shapes(site)["/*/images/*.png"] == 0
    changes.undo(site, "Ann")
    work("route", site)
    assert shapes(site)["/*/images/*.png"] == 15


def test_one_folder_of_a_shape_alone_then_the_rest(site: int, work: Callable[..., Any]) -> None:
    decide_shape(site, "/ja/*.htm", "retire", "", "nobody keeps them up", "Ann")
    work("route", site)
    assert fates(site)["/ja/crew.htm"] == "retired" and shapes(site)["/*/*.htm"] == 8
    number, _ = decide_shape(site, "/*/*.htm", "move", "/archive", "", "Ann")
    assert number == 8, "what is decided is left as it is"
    work("route", site)
    assert fates(site)["/ja/crew.htm"] == "retired" and fates(site)["/en/crew.htm"] in ("moved", "merged")


def test_of_a_long_shape_those_that_nobody_has_decided_over_are_shown(
    site: int, work: Callable[..., Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    changes.change_pairs(site, [Pair(old="/ar/crew.htm", new="/team")], [], "Ann", "one")
    work("route", site)
    monkeypatch.setattr("grandferry.work.route.opened.SHOWN", 1)
    (group,) = [group for group in open_groups(site) if group.fold.shape == "/ar/*.htm"]
    assert group.fold.weight.count == 2 and [row.key for row in group.rows] == ["/ar/fares.htm"]


def test_setting_aside_wants_a_reason_and_a_shape_that_is_gone_says_so(site: int, work: Callable[..., Any]) -> None:
    with pytest.raises(FerryError, match="needs a reason"):
        decide_shape(site, "/*/*.htm", "aside", "", " ", "Ann")
    with pytest.raises(FerryError, match="is unaccounted any more"):
        decide_shape(site, "/nowhere/*.htm", "stay", "", "", "Ann")
    decide_shape(site, "/*/images/*.png", "aside", "", "pictures of the old looks", "Ann")
    work("route", site)
    assert sum(fate == "set aside" for fate in fates(site).values()) == 15
    assert {line.reason for line in crossings.load_plan(site).route.aside} == {"pictures of the old looks"}


def test_a_rule_with_two_parts_is_previewed_with_every_catch(site: int) -> None:
    rule = RouteRule(old=r"/([a-z]{2})/([a-z]+)\.htm", new="/{2}/{1}", match="pattern")
    counts, catches = try_redirect(site, rule)
    assert counts == {"settles": 10}
    assert {catch.key: catch.to for catch in catches}["/ja/fares.htm"] == "/fares/ja"


def test_files_go_to_the_pages_that_hold_them(site: int, work: Callable[..., Any]) -> None:
    with pytest.raises(FerryError, match="None of them stands on a page that goes anywhere"):
        decide_shape(site, "/*/images/*.png", "holder", "", "", "Ann")
    lines = [Pair(old=f"/{lang}/", new=f"/new/{lang}") for lang in LANGUAGES if lang != "ja"]
    changes.change_pairs(site, lines, [], "Ann", "four languages go on")
    work("route", site)
    number, text = decide_shape(site, "/*/images/*.png", "holder", "", "", "Ann")
    assert (number, text) == (12, "12 files to the pages that held them; 3 on no page that goes anywhere")
    work("route", site)
    made = route.decisions(site)["/fr/images/mast.png"]
    assert (made.fate, made.target, sentence(made.reason)) == ("merged", "/new/fr", "the page that held it: /fr/")
    assert fates(site)["/ja/images/mast.png"] == "unaccounted"


def test_another_host_is_asked_as_well_and_held_against_the_interim_one(
    site: int, work: Callable[..., Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    decide_shape(site, "/*/*.htm", "retire", "", "", "Ann")
    work("route", site)
    gone = {f"/{lang}/{name}.htm": (410, {}, b"") for lang in LANGUAGES for name in ("crew", "fares")}
    with apps(pages_app({"/": "home", **gone}), pages_app({"/": "home"})) as (interim, final):
        first = work("check", site, against=f"http://127.0.0.1:{interim}")
        last = work("check", site, against=f"http://127.0.0.1:{final}")
    assert first["base"] != last["base"] and first["counts"]["gone"] == 10
    turns = compared(site, last["round"], first["round"])
    assert sum(turn.what == "broken" and turn.now == "missing" for turn in turns) == 10
    monkeypatch.setattr("grandferry.work.route.evidence.NAMED", 3)
    told = round_story(site)[-1]
    assert told["broke"] == 10 and len(told["broken"]) == 3, "all are counted, the first are named"


def test_what_the_final_host_answers_counts_when_checks_go_there(site: int, work: Callable[..., Any]) -> None:
    decide_shape(site, "/*/*.htm", "retire", "", "", "Ann")
    work("route", site)
    gone = {f"/{lang}/{name}.htm": (410, {}, b"") for lang in LANGUAGES for name in ("crew", "fares")}
    with apps(pages_app({"/": "home", **gone}), pages_app({"/": "home"})) as (interim, final):
        hosts = {"interim": f"http://127.0.0.1:{interim}/", "final": f"http://127.0.0.1:{final}/"}
        plan = Plan.model_validate(crossings.load_plan(site).model_dump() | hosts)
        changes.change_plan(site, plan, changes.revision(site), "Ann", "hosts named")
        work("check", site)
        account = crossings.account_of(site)
        assert account["retired"] == {"planned": 0, "proven": 10}
        asked = work("check", site, against=plan.final)
        assert asked["counts"]["missing"] == 31 - 10 + 9 and crossings.account_of(site) == account, "nothing is lost"
        assert figures(site).checked_host == plan.interim.rstrip("/")
    changes.change_plan(
        site, plan.model_copy(update={"interim": plan.final}), changes.revision(site), "Ann", "the switch"
    )
    assert "retired" not in crossings.account_of(site) and figures(site).checked_host == plan.final.rstrip("/")
