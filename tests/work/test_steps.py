"""Steps that say what something is, by kind, on or off; and how Markdown says what it has no mark for."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from pydantic import ValidationError

from grandferry.core.kinds import Step
from grandferry.core.plan import Plan, RefitSettings
from grandferry.core.refit.write import to_markdown
from grandferry.store import crossings, refit
from grandferry.work.land.content import Contents
from grandferry.work.land.items import item_rows
from grandferry.work.refit.preview import table_doubts
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
FIELDS = [
    {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
    {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
]
KINDS = [
    {"name": "shed", "rules": [{"below": "/sheds/"}], "fields": FIELDS, "address": "/s/{slug}"},
    {"name": "yard", "rules": [{"below": "/yards/"}], "fields": FIELDS, "address": "/y/{slug}"},
]
TABLE = "<table><tr><td>Wherry<td>1898</table>"
SITE: dict[str, Any] = {
    "/": "".join(f"<a href={key}>{key}</a>" for key in ("/sheds/a", "/sheds/b", "/yards/a")),
    "/sheds/a": f"<h1>A</h1><main>{TABLE}<p class=tipp>Mind the gap</p></main>",
    "/sheds/b": "<h1>B</h1><main><p>Nothing of it</p></main>",
    "/yards/a": f"<h1>C</h1><main>{TABLE}<dl><dt>Yard<dd>For boats</dl></main>",
}


def change(crossing: int, **refit: Any) -> None:
    plan = crossings.load_plan(crossing)
    data = plan.model_dump(mode="json") | {"refit": refit}
    crossings.save_plan(crossing, Plan.model_validate(data), crossings.load_pairs(crossing))


def bodies(crossing: int) -> dict[str, str]:
    plan = crossings.load_plan(crossing)
    found = Contents(crossing, plan, every=True)
    return {one.item.key: to_markdown(one.fields["body"].blocks, plan.refit.choices) for one in found}


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    with apps(pages_app(SITE)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": KINDS})
        work("survey", made)
    for job in ("sort", "lift", "refit"):
        work(job, made)
    return made


def test_a_step_says_what_is_in_doubt_for_a_kind_or_for_all(crossing: int, work: Run) -> None:
    assert bodies(crossing)["/sheds/a"].startswith("|  |  |\n") and bodies(crossing)["/yards/a"].startswith("|")
    (doubt,) = [one for one in refit.constructs(crossing) if "in doubt" in one.name]
    assert (doubt.name, doubt.bodies) == ("Table in doubt, read as data", 2)
    assert len(table_doubts(crossing, doubt.example, "body")) == 1

    arranged = {"name": "tables arrange", "select": "table", "act": "layout", "kinds": ["shed"]}
    tip = {"name": "tips", "select": ".tipp", "act": "callout", "box": "tip"}
    change(crossing, steps=[arranged, tip])
    done = work("refit", crossing)
    assert (done["done"], done["untouched"]) == (1, 2), "those alone on which a step finds something are made anew"
    assert bodies(crossing)["/sheds/a"] == "Wherry\n\n1898\n\n> Mind the gap\n"
    assert bodies(crossing)["/yards/a"].startswith("|"), "another kind's bodies stay"
    assert refit.treated_by_step(crossing) == {"tables arrange": (1, 1), "tips": (1, 1)}

    change(crossing, steps=[arranged, tip | {"off": True}])
    assert work("refit", crossing)["done"] == 1
    assert bodies(crossing)["/sheds/a"] == "Wherry\n\n1898\n\nMind the gap\n"


def test_what_markdown_has_no_mark_for_is_written_as_the_plan_says(crossing: int, work: Run) -> None:
    assert "- **Yard**\\\n  For boats\n" in bodies(crossing)["/yards/a"]
    change(crossing, steps=[], markdown={"definitions": "html"})
    work("refit", crossing)
    assert "<dl>" in bodies(crossing)["/yards/a"] and refit.totals(crossing)["in_raw_html"] == 3
    rows = {row["old"]: row for row in item_rows(crossing)}
    assert "<dl>" in rows["/yards/a"]["body_markdown"]
    with pytest.raises(ValidationError, match="plain, html, marked"):
        RefitSettings(markdown={"definitions": "report"})
    with pytest.raises(ValidationError, match="has no mark for"):
        RefitSettings(markdown={"words": "plain"})


@pytest.mark.parametrize(
    "said",
    [
        {},
        {"remove": "p", "select": "p", "act": "data"},
        {"select": "p"},
        {"act": "data"},
        {"remove": "p", "box": "tip"},
    ],
)
def test_a_step_that_says_two_things_or_none_is_refused(said: dict[str, str]) -> None:
    with pytest.raises(ValidationError):
        Step.model_validate({"name": "x", **said})
