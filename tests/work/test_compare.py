"""Two plans over the same pages, and what a run would change before it is made: which values differ, which words are
lost by one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.errors import NotThere
from grandferry.core.kinds import FieldPlan
from grandferry.store import changes, compared, crossings, lift
from grandferry.store.db import rows
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    """Twenty pages; on eighteen of them the title stands elsewhere, too."""
    site: dict[str, Any] = {
        f"/p{n:02d}": f"<h1>Page {n}</h1>{f'<h2>Title {n}</h2>' if n < 18 else f'<h2>Page {n}</h2>'}"
        f"<main><p>Words of page {n}.</p><aside>Four words stand aside.</aside></main>"
        for n in range(20)
    }
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p.*"}], "fields": fields}
    with apps(pages_app(site)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]})
        work("survey", made)
    work("sort", made)
    work("lift", made)
    return made


def change(crossing: int, **fields: Any) -> int:
    """Change locators of the kind's fields; gives the number of the change."""
    plan = crossings.load_plan(crossing)
    kind = plan.kinds[0]
    made = [
        f.model_copy(
            update={"locators": FieldPlan.model_validate({**f.model_dump(), "locators": [{"css": css}]}).locators}
        )
        if (css := fields.get(f.name))
        else f
        for f in kind.fields
    ]
    plan = plan.model_copy(update={"kinds": [kind.model_copy(update={"fields": made})]})
    return changes.change_plan(crossing, plan, changes.revision(crossing), "", "changed")


def test_what_a_run_would_change_is_known_before_it(crossing: int, work: Run) -> None:
    told = work("compare", crossing)
    assert (told["differ"], told["values"]) == (0, 0), "nothing is changed yet"
    change(crossing, title="h2")
    told = work("compare", crossing)
    assert told["values"] == 18 and told["fields"] == {"title": 18} and told["pages"] == 21
    total, found = compared.window(crossing, "title", 0, 3)
    assert total == 18
    assert [(row.key, row.before, row.after) for row in found] == [
        (f"/p0{n}", f"Page {n}", f"Title {n}") for n in range(3)
    ]
    before = rows("SELECT * FROM item_field")
    assert work("compare", crossing)["values"] == 18 and rows("SELECT * FROM item_field") == before, "nothing is lifted"
    work("lift", crossing)
    assert work("compare", crossing)["differ"] == 0 and compared.window(crossing, None, 0, 9) == (0, [])


def test_two_plans_show_which_pages_differ_and_the_words_lost_in_each(crossing: int, work: Run) -> None:
    number = change(crossing, body="main > p")
    told = work("compare", crossing, against=f"change:{number}")
    assert (told["differ"], told["only_before"], told["only_after"]) == (20, 80, 0)
    first = compared.window(crossing, "", 0, 50)[1][0]
    assert (first.only_before, first.only_after, first.before) == (4, 0, "Four words stand aside.")
    number = change(crossing, body="main > aside")
    told = work("compare", crossing, against=f"change:{number}")
    assert (told["only_before"], told["only_after"]) == (80, 80)


def test_a_plan_is_compared_with_that_of_another_crossing(crossing: int, cross: Make, work: Run) -> None:
    plan = crossings.load_plan(crossing)
    other = cross({**plan.model_dump(mode="json", exclude_none=True), "name": "Other", "kinds": []})
    told = work("compare", crossing, against=f"crossing:{other}")
    assert told["differ"] == 20
    row = compared.window(crossing, "", 0, 1)[1][0]
    assert (row.kind_before, row.kind_after) == ("", "page"), "there it is in no kind"


def test_what_is_no_plan_is_refused(crossing: int, work: Run) -> None:
    for against, reason in (("change:999", "no change of the plan"), ("crossing:99", "no crossing"), ("x", "no plan")):
        with pytest.raises(Exception, match=reason):
            work("compare", crossing, against=against)
    with pytest.raises(NotThere):
        changes.plan_before(crossing, 999)


def test_filler_and_values_unlike_the_others_are_on_the_list_of_what_wants_a_look(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {
        f"/p{n:02d}": f"<h1>{'Lorem ipsum dolor' if n == 3 else f'Page {n}'}</h1><main>"
        + ("<p>The same words said again and again.</p>" * 3 if n == 5 else f"<p>Text {n}</p>")
        + f"</main><b>{9000 if n == 7 else 20 + n}</b>"
        for n in range(30)
    }
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
        {"name": "size", "type": "number", "locators": [{"css": "b"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p.*"}], "fields": fields}
    with apps(pages_app(site)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]})
        work("survey", made)
    work("sort", made)
    told = work("lift", made)
    wants = {(row["key"], row["field"]): row["note"] for row in told["exceptions"]}
    assert wants == {
        ("/p03", "title"): "text that stands in for something",
        ("/p05", "body"): "the same paragraph three times",
        ("/p07", "size"): "far from all others",
    }
    assert told["coverage"]["page"]["title"] == {"filled": 29, "odd": 1}
    assert lift.grid(made, "page", [])[1]["size"].count("o") == 1
    assert work("lift", made, all=True)["exceptions"] == told["exceptions"], "a second run says the same"
