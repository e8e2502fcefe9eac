"""Groups of pages made alike: from the survey's own reading, kept, behind when pages change, over all of a crossing."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from grandferry.cli.sort import app as sort_command
from grandferry.core.errors import FerryError, NotThere
from grandferry.core.kinds import KindPlan
from grandferry.core.sort.grouping import CUTS, MIDDLE
from grandferry.core.sort.rules import Seen, holds
from grandferry.store import crossings, groups
from grandferry.store.db import one, rows
from grandferry.store.workspace import close_workspace
from grandferry.work.pages import content_type, page_of
from grandferry.work.sort.group import behind
from grandferry.work.sort.joined import Joining, parted, set_aside
from tests.core.test_grouping import boat, report
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


def fleet(reports: int = 14, boats: int = 9) -> dict[str, Any]:
    site: dict[str, Any] = {f"/r{n}": report(n) for n in range(reports)}
    site |= {f"/b{n}": boat(n) for n in range(boats)}
    return {"/": "<main>" + "".join(f"<a href={key}>{key}</a>" for key in site) + "</main>", **site}


def surveyed(cross: Make, work: Run, site: dict[str, Any]) -> int:
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    return crossing


def together(crossing: int, cut: int = MIDDLE) -> list[set[str]]:
    return [
        {page.key for page in groups.group_pages(crossing, cut, group.number, 0, 500)[1]}
        for group in groups.groups(crossing, cut)
    ]


def test_pages_are_grouped_and_described(cross: Make, work: Run, monkeypatch: pytest.MonkeyPatch) -> None:
    crossing = surveyed(cross, work, site := fleet())
    monkeypatch.setattr("grandferry.work.sort.group._make_one", None)  # makes are had from the survey's own reading
    told = work("group", crossing)
    assert told["pages"] == len(site) and len(told["groups"]) == len(CUTS)
    assert together(crossing) == [{k for k in site if k[1:2] == "r"}, {k for k in site if k[1:2] == "b"}, {"/"}]
    assert groups.counts(crossing) == told["groups"]
    for group in groups.groups(crossing, MIDDLE):
        assert (group.right, group.missed, group.wrong) == (group.pages, 0, 0) and group.drawing["parts"]
    work("group", crossing)
    assert rows("SELECT count(*) FROM page_group") == [(len(site) * len(CUTS),)], "a second run doubles nothing"


def test_pages_captured_before_there_were_makes_are_read_once(cross: Make, work: Run) -> None:
    crossing = surveyed(cross, work, fleet())
    known = {page.key: page.make for page in groups.pages(crossing)}
    rows("UPDATE page_facts SET make = x''")
    work("group", crossing)
    assert {page.key: page.make for page in groups.pages(crossing)} == known, "the same as the survey made them"
    assert [len(group) for group in together(crossing)] == [14, 9, 1]


def test_groups_are_behind_when_pages_have_changed(cross: Make, work: Run) -> None:
    site = fleet()
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        assert not rows("SELECT 1 FROM made_group")
        work("survey", crossing)
        assert behind(crossing)
        work("group", crossing)
        assert not behind(crossing)
        work("survey", crossing, again=True)
        assert not behind(crossing), "nothing is different"
        site["/r3"] = boat(3)
        work("survey", crossing, again=True)
        assert behind(crossing)
        work("group", crossing)
    assert "/r3" in together(crossing)[1]


def test_a_crossing_without_pages_and_with_one(cross: Make, work: Run) -> None:
    crossing = cross({"old": {"start": "http://127.0.0.1:9/"}})
    assert work("group", crossing)["pages"] == 0 and groups.groups(crossing, MIDDLE) == []
    crossing = surveyed(cross, work, {"/": "<h1>All there is</h1>"})
    work("group", crossing)
    (only,) = groups.groups(crossing, MIDDLE)
    assert (only.pages, only.right, only.missed, only.wrong) == (1, 1, 0, 0)


def test_a_rule_catches_what_it_says(cross: Make, work: Run) -> None:
    """On the captured pages, by the same code that sorts them."""
    crossing = surveyed(cross, work, fleet(20, 20))
    work("group", crossing)
    from grandferry.core.kinds import SortRule
    from grandferry.store import bodies

    pages = groups.pages(crossing)
    read = {page.key: page_of(bodies.get(page.content), content_type(page.headers)) for page in pages}
    for group, members in zip(groups.groups(crossing, MIDDLE), together(crossing), strict=True):
        rule = SortRule.model_validate(group.rule)
        caught = {key for key, page in read.items() if holds(rule, Seen(key, page))}
        assert (len(caught & members), len(members - caught), len(caught - members)) == (
            group.right,
            group.missed,
            group.wrong,
        )


def test_the_command_groups_what_is_there(cross: Make, work: Run, workspace: Path) -> None:
    crossing = surveyed(cross, work, fleet())
    close_workspace()
    run = CliRunner().invoke(sort_command, ["suggest", "--data", str(workspace), "--json"])
    assert run.exit_code == 0, run.output
    told = json.loads(run.stdout[run.stdout.index("{") :])["groups"]
    assert Counter(len(group["pages"]) for group in told) == {14: 1, 9: 1, 1: 1}
    assert all({"name", "pages", "rule", "right", "missed", "wrong"} <= set(group) for group in told)
    assert crossing and one  # the workspace is closed by the command
    again = CliRunner().invoke(sort_command, ["suggest", "--data", str(workspace), "--crossing", "7"])
    assert again.exit_code == 2 and "7" in again.output


def test_groups_are_joined_by_the_rule_that_separates_them_together(cross: Make, work: Run) -> None:
    crossing = surveyed(cross, work, fleet())
    work("group", crossing)
    joined = Joining(crossing).join([(MIDDLE, 0), (MIDDLE, 1)])
    assert joined.pages == 23
    for way in (joined.by_rule, joined.by_make):
        assert (way.right, way.missed, way.wrong) == (23, 0, 0)
    with pytest.raises(NotThere, match="no group 77"):
        Joining(crossing).join([(MIDDLE, 0), (MIDDLE, 77)])


def test_a_group_kept_as_it_is_takes_new_pages_of_the_next_survey(cross: Make, work: Run) -> None:
    site = fleet()
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
        work("group", crossing)
        rule = Joining(crossing).by_make([(MIDDLE, 0)]).rule
        assert rule.make is not None and not (rule.address or rule.below or rule.element)
        plan = crossings.load_plan(crossing)
        kind = KindPlan(name="report", rules=[rule])
        crossings.save_plan(crossing, plan.model_copy(update={"kinds": [kind]}), [])
        assert work("sort", crossing)["kinds"] == {"report": 14}
        site["/new"], site["/r3"] = report(77), boat(77)
        site["/"] += "<a href=/new>new</a>"
        work("survey", crossing, again=True)
        told = work("sort", crossing)
        assert told["kinds"] == {"report": 14} and told["done"] >= 3
        in_kind = {
            key
            for (key,) in rows("SELECT a.key FROM sorted s JOIN address a ON a.id = s.address_id WHERE s.kind != ''")
        }
        assert "/new" in in_kind and "/r3" not in in_kind


def test_where_a_group_comes_apart(cross: Make, work: Run) -> None:
    crossing = surveyed(cross, work, fleet())
    work("group", crossing)
    coarsest = len(CUTS) - 1
    whole = groups.groups(crossing, coarsest)
    mixed = [g.number for g in whole if {key[1:2] for key in together(crossing, coarsest)[g.number]} >= {"r", "b"}]
    for number in mixed:
        finer = parted(crossing, coarsest, number)
        within = groups.groups(crossing, finer, (coarsest, number))
        assert len(within) > 1 and sum(g.pages for g in within) == whole[number].pages
    with pytest.raises(FerryError, match="do not come apart"):
        parted(crossing, 0, 0)


def test_groups_set_aside_are_kept_in_the_account_and_not_lifted(cross: Make, work: Run) -> None:
    crossing = surveyed(cross, work, fleet())
    work("group", crossing)
    with pytest.raises(FerryError, match="needs a reason"):
        set_aside(crossing, MIDDLE, [1], " ", "x")
    number, text = set_aside(crossing, MIDDLE, [1], "boats were sold", "x")
    assert number == 9 and "9 pages" in text and "boats were sold" in text
    work("route", crossing)
    told = rows("SELECT key FROM address WHERE fate = 'set aside'")
    assert {key for (key,) in told} == {f"/b{n}" for n in range(9)}
