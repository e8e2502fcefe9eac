"""The new site surveyed by the same code as the old one: its own list, tree and facts, and no part in the account."""

from __future__ import annotations

import csv
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.errors import FerryError, PlanError
from grandferry.core.keptout import KeptOut, LetIn
from grandferry.core.side import Side
from grandferry.store import carried, crossings
from grandferry.store.db import one, rows
from grandferry.store.lists import details, windows
from grandferry.store.survey import captures, given, keptout, runs, surveyed
from grandferry.work.refit.preview import page_preview
from grandferry.work.survey.bounds import effect, let_in
from grandferry.work.survey.offline import write_copy
from grandferry.work.survey.report import about, write_addresses
from grandferry.work.survey.sites import set_new_site, set_old_site
from tests.servers import apps, pages_app

Run = Callable[..., dict[str, Any]]
Make = Callable[..., int]
PNG = (200, {"Content-Type": "image/png"}, b"\x89PNG\r\n\x1a\n" + b"\0" * 30)

OLD = {
    "/": "<title>Old</title><h1>Old</h1><a href=/about>about</a> <a href=/news.htm>news</a> <img src=/a.png>",
    "/about": "<title>About the old</title><p>Words that stand here twice over.</p>",
    "/news.htm": "<title>News</title><p>News of the old site.</p><a href=http://else.test/x>x</a>",
    "/a.png": PNG,
}
NEW = {
    "/": "<title>New</title><h1>New</h1><a href=/about>about</a> <a href=/news/>news</a> <a href=/copy>c</a>"
    "<img src=/media/b.png><a href=http://far.test/>far</a>",
    "/about": "<title>About the new</title><p>Words that stand here twice over.</p>",
    "/copy": "<title>About again</title><p>Words that stand here twice over.</p>",
    "/news/": "<title>News</title><p>News of the new site.</p>",
    "/media/b.png": PNG,
}


def both(cross: Make, ports: list[int], **more: Any) -> tuple[Side, Side]:
    old, new = ports
    crossing = cross(
        {
            "old": {"start": f"http://127.0.0.1:{old}/", "permission": {"by": "Ann", "date": "1 May"}},
            "survey": {"sitemaps": False},
            "new": {
                "start": f"http://127.0.0.1:{new}/",
                "manners": {"delay": 0},
                "survey": {"sitemaps": False},
                **more,
            },
        }
    )
    return Side(crossing), Side(crossing, "new")


def keys(side: Side, **filters: list[str]) -> set[str]:
    return {row.key for row in windows.window(side, windows.Selection(filters), "key", 0, 100)[1]}


def test_each_side_has_a_list_a_tree_and_facts_of_its_own(cross: Make, work: Run, tmp_path: Path) -> None:
    with apps(pages_app(OLD), pages_app(NEW)) as ports:  # type: ignore[arg-type]
        old, new = both(cross, ports)
        first = work("survey", old.crossing)
        before = crossings.account_of(old.crossing)
        told = work("survey", old.crossing, side="new")
    assert (first["addresses"], told["addresses"]) == (4, 5) and told["pages"] == 4 and told["files"] == 1
    assert keys(old) == {"/", "/about", "/news.htm", "/a.png"}
    assert keys(new) == {"/", "/about", "/copy", "/news/", "/media/b.png"}
    assert keys(new, site=["own"]) == keys(new), "its own host is that of the new start"
    tree = {row.name: row.addresses for row in windows.branches(new, f"127.0.0.1:{ports[1]}", "/")}
    assert tree == {"": 3, "news/": 1, "media/": 1}
    assert [row.name for row in windows.branches(new, "", "/")] == [f"127.0.0.1:{ports[1]}"]
    titles = {
        side.name: details.address(old.crossing, surveyed.address_by_url(side, url).id).row.title  # type: ignore[union-attr]
        for side, url in ((old, f"http://127.0.0.1:{ports[0]}/about"), (new, f"http://127.0.0.1:{ports[1]}/about"))
    }
    assert titles == {"old": "About the old", "new": "About the new"}
    assert {row.host for row in keptout.groups(old)} == {"else.test"}
    assert {row.host for row in keptout.groups(new)} == {"far.test"}
    assert dict(windows.choices(new, windows.Selection(), "like"))["the same content"] == 2
    assert "the same content" not in dict(windows.choices(old, windows.Selection(), "like"))
    assert crossings.account_of(old.crossing) == before and crossings.counted(old.crossing) == 4
    assert one("SELECT count(*) FROM address WHERE side = 'new' AND counted") == 0
    write_addresses(new, tmp_path / "new.csv")
    with (tmp_path / "new.csv").open(encoding="utf-8", newline="") as file:
        assert {row["address"].rpartition(str(ports[1]))[2] for row in csv.DictReader(file)} == keys(new)
    write_copy(new, tmp_path / "new.zip")
    assert {"about.html", "copy.html"} <= {Path(n).name for n in zipfile.ZipFile(tmp_path / "new.zip").namelist()}
    assert ("new site", f"http://127.0.0.1:{ports[1]}/") in about(new)


def test_the_new_side_changes_nothing_of_the_old_one(cross: Make, work: Run) -> None:
    """Sorting, lifting and routing see the old pages and files alone."""
    with apps(pages_app(OLD), pages_app(NEW)) as ports:  # type: ignore[arg-type]
        old, new = both(cross, ports)
        plan = crossings.load_plan(old.crossing)
        data = plan.model_dump() | {
            "kinds": [
                {
                    "name": "page",
                    "rules": [{"address": ".*"}],
                    "fields": [{"name": "title", "type": "line", "locators": [{"css": "title"}]}],
                    "address": "/{slug}",
                }
            ]
        }
        crossings.save_plan(old.crossing, type(plan).model_validate(data), [])
        for kind in ("survey", "sort", "lift", "route"):
            work(kind, old.crossing)
        decided = rows("SELECT key, decision, decision_target FROM address WHERE counted ORDER BY key")
        files = carried.files(old.crossing)
        work("survey", old.crossing, side="new")
        for kind in ("sort", "lift", "route"):
            work(kind, old.crossing)
    assert rows("SELECT key, decision, decision_target FROM address WHERE counted ORDER BY key") == decided
    assert carried.files(old.crossing) == files and len(files) == 1
    assert one("SELECT count(*) FROM item") == 3


def test_later_surveys_of_a_side_tell_its_own_changes(cross: Make, work: Run) -> None:
    pages = dict(NEW)
    with apps(pages_app(OLD), pages_app(pages)) as ports:  # type: ignore[arg-type]
        old, new = both(cross, ports)
        work("survey", old.crossing)
        work("survey", old.crossing, side="new")
        pages["/about"] = "<title>About the new</title><p>Other words.</p>"
        del pages["/copy"]
        work("survey", old.crossing, side="new", again=True)
        assert {row.key: row.change for row in runs.changed(new, 2, 0, 10)[1]} == {
            "/about": "changed",
            "/copy": "gone",
        }
        assert [run.number for run in runs.runs(old)] == [1] and runs.ended(old)
        again = work("survey", old.crossing, again=True)
    assert again["changes"] == {} and len(runs.runs(new)) == 2
    assert keys(new, change=["gone"]) == {"/copy"} and keys(old, change=["gone"]) == set()


def test_one_host_before_and_after_the_switch_is_two_sites(cross: Make, work: Run) -> None:
    """The final host is the old one: the same addresses on both sides, each with what it answered."""
    pages = dict(OLD)
    with apps(pages_app(pages)) as (port,):  # type: ignore[arg-type]
        old, new = both(cross, [port, port])
        work("survey", old.crossing)
        pages.clear()
        pages.update(NEW)
        work("survey", old.crossing, side="new")
    url = f"http://127.0.0.1:{port}/about"
    there = {side.name: surveyed.address_by_url(side, url) for side in (old, new)}
    assert {name: row.title for name, row in there.items() if row} == {
        "old": "About the old",
        "new": "About the new",
    }
    shown = page_preview(old.crossing, there["new"].id, "", lambda id_: f"/shown/{id_}")  # type: ignore[union-attr]
    assert "Words that stand here" in shown
    home = surveyed.address_by_url(new, f"http://127.0.0.1:{port}/")
    picture = captures.captured_at(new, f"http://127.0.0.1:{port}/media/b.png")
    assert home is not None and f"/shown/{picture}" in page_preview(
        old.crossing, home.id, "", lambda id_: f"/shown/{id_}"
    )


def test_the_bounds_of_a_side_are_its_own(cross: Make, work: Run) -> None:
    with apps(pages_app(OLD), pages_app(NEW)) as ports:  # type: ignore[arg-type]
        old, new = both(cross, ports, survey={"sitemaps": False, "exclude": ["^/copy"]})
        work("survey", old.crossing)
        work("survey", old.crossing, side="new")
        assert keys(new) == {"/", "/about", "/news/", "/media/b.png"} and "/about" in keys(old)
        plan = crossings.load_plan(old.crossing)
        plan.new.survey.exclude = []  # type: ignore[union-attr]
        assert sum(effect(new, plan).let_in.values()) == 1 and not effect(old, plan).let_in
        assert let_in(new, "far.test", KeptOut.OTHER_HOST, LetIn.FILES, [], "Ann") == "files of far.test let in"
    plan = crossings.load_plan(old.crossing)
    assert plan.new is not None and plan.new.file_hosts == ["far.test"] and plan.old.file_hosts == []
    assert given.lists(new) == []


def test_where_the_new_site_is_has_to_be_said(cross: Make, work: Run) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}})
    with pytest.raises(PlanError, match="Nobody has said where the new site is"):
        crossings.load_plan(crossing).side("new")
    assert "Nobody has said" in work("survey", crossing, fails=True, side="new")["error"]
    assert windows.window(Side(crossing, "new"), windows.Selection(), "key", 0, 10)[0] == 0
    crossing = cross({"old": {"start": "http://old.test/"}, "interim": "http://new.test/"})
    assert crossings.load_plan(crossing).side("new").start == "http://new.test/"


def test_the_new_site_named_at_the_command_line(cross: Make) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}, "interim": "http://new.test/"})
    common: dict[str, Any] = {"permission": "", "aliases": []}
    side = set_new_site(
        None, "http://neu.test/", manners={"delay": 3.0, "at_once": None}, bounds={"depth": 2}, **common
    )
    assert side == Side(crossing, "new")
    set_new_site(crossing, "http://neu.test/", manners={}, bounds={"max_pages": 9}, **common)
    new = crossings.load_plan(crossing).new
    assert new is not None and (new.manners.delay, new.survey.depth, new.survey.max_pages) == (3.0, 2, 9)
    assert new.manners.at_once == 4, "what is None is the default"
    crossings.make_crossing("Another")
    with pytest.raises(FerryError, match="holds 2 crossings"):
        set_new_site(None, "http://neu.test/", manners={}, bounds={}, **common)


def test_a_survey_from_the_command_line_keeps_what_was_decided(cross: Make) -> None:
    plan: dict[str, Any] = {"old": {"start": "http://old.test/"}, "name": "http://old.test/"}
    crossing = cross(plan | {"kinds": [{"name": "page", "rules": [{"below": "/"}]}], "survey": {"depth": 2}})
    common: dict[str, Any] = {"aliases": [], "permission": "Ann"}
    side = set_old_site("http://old.test/", manners={"delay": None}, bounds={"depth": None}, **common)
    kept = crossings.load_plan(crossing)
    assert side == Side(crossing) and [kind.name for kind in kept.kinds] == ["page"]
    assert (kept.survey.depth, kept.manners.delay, kept.old.permission and kept.old.permission.by) == (None, 1.0, "Ann")
