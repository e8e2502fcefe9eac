"""Fields as the target has them: named otherwise, of another type, two into one; what is lost is counted before."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.errors import PlanError
from grandferry.core.kinds import rests_on
from grandferry.core.made import made_from
from grandferry.core.mapping import Blocks, Mapped, as_there, mapped
from grandferry.core.plan import Plan
from grandferry.core.plancheck import check_plan
from grandferry.core.refit.convert import refit_html
from grandferry.demo.newsystem import NewSystem
from grandferry.store import changes, crossings, stamps
from grandferry.work.land.mapping import look
from grandferry.work.rounds.stamping import land_stamp
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


def rich(html: str) -> Blocks:
    return Blocks(refit_html(html).blocks)


ITEM = {
    "title": "T",
    "lead": "First.",
    "body": rich("<p>Some <b>bold</b> <a href=/x>link</a>.</p><ul><li>one</ul>"),
    "tags": ["a", "b"],
    "year": "1931",
    "when": "in May",
    "none": None,
}


def rule(to: str, *sources: str, type: str = "same") -> Mapped:
    return Mapped.model_validate({"to": to, "sources": list(sources), "type": type})


def test_fields_are_named_as_the_target_names_them_and_two_go_into_one() -> None:
    made, misfits = mapped(
        [rule("headline", "title"), rule("text", "lead", "body"), rule("", "year"), rule("labels", "tags")], ITEM
    )
    assert not misfits and set(made) == {"headline", "text", "labels", "when", "none"}, (
        "one is left out on purpose, others keep theirs"
    )
    assert made["headline"] == "T" and made["labels"] == ["a", "b"]
    assert made["text"].blocks[1:] == ITEM["body"].blocks and len(made["text"].blocks) == 3


@pytest.mark.parametrize(
    ("wanted", "value", "misfit"),
    [
        (rule("x", "year", type="number"), 1931, ""),
        (rule("x", "when", type="date"), None, "not a date (ISO 8601)"),
        (rule("x", "tags", type="text"), "a, b", ""),
        (rule("x", "title", "lead", type="text"), "T\n\nFirst.", ""),
        (rule("x", "title", "tags", type="list"), ["T", "a", "b"], ""),
        (rule("x", "none", type="number"), None, ""),
    ],
)
def test_types_are_checked(wanted: Mapped, value: Any, misfit: str) -> None:
    made = as_there(wanted, ITEM)
    assert (made.value, made.misfit) == (value, misfit)


def test_marks_that_plain_text_cannot_hold_are_counted() -> None:
    made = as_there(rule("plain", "body", type="text"), ITEM)
    assert made.value == "Some bold link.\n\none" and dict(made.lost) == {"Styled strong": 1, "Link": 1, "List": 1}
    assert not as_there(rule("same", "body"), ITEM).lost


def test_a_body_on_a_plain_field_warns_over_all_items(cross: Make, work: Run) -> None:
    site = {
        f"/p{n}": f"<main><h1>P{n}</h1><p>{'Plain' if n else '<b>B</b> <i>I</i>'} text.</p></main>" for n in range(4)
    }
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main p"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p."}], "fields": fields}
    with apps(pages_app(site)) as (port,):
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        )
        for stage in ("survey", "sort", "lift", "refit"):
            work(stage, crossing)
    plain, number = look(crossing, "page", [rule("text", "body", type="text"), rule("n", "title", type="number")])
    assert (plain.of, plain.filled, plain.losing, dict(plain.lost)) == (
        4,
        4,
        1,
        {"Styled strong": 1, "Styled em": 1},
    )
    assert (number.filled, number.misfits) == (0, 4) and number.examples[0] == ("/p0", "P0", "not a number")


def test_a_mapping_from_a_field_that_is_not_there_is_refused() -> None:
    field = {"name": "title", "type": "line", "locators": [{"css": "h1"}]}
    kind = {"name": "page", "rules": [{"below": "/"}], "fields": [field], "languages": ["de", "en"]}
    plan: dict[str, Any] = {
        "format": 1, "name": "x", "old": {"start": "http://a.test/"},
        "kinds": [kind],
        "land": {"base": "http://b.test/", "fields": {"page": [{"to": "headline", "sources": ["title"]}]}},
    }  # fmt: skip
    made = Plan.model_validate(plan)
    check_plan(made)
    assert set(made.mappings) == {"page_de", "page_en"} and made.mappings["page_de"] == made.land.fields["page"]  # type: ignore[union-attr]
    kind["fields"].append(field | {"name": "lead"})
    wrong = (
        [{"to": "x", "sources": ["gone"]}],
        [{"to": "x", "sources": ["title"]}] * 2,
        [{"to": "lead", "sources": ["title"]}],  # ours of that name goes over as well
    )
    for rules in wrong:
        plan["land"]["fields"]["page"] = rules
        with pytest.raises(PlanError):
            check_plan(Plan.model_validate(plan))


def test_what_lands_is_named_as_the_target_names_it_and_what_stays_away_is_told(
    cross: Make, work: Run, tmp_path: Path
) -> None:
    site = {f"/p{n}": f"<main><h1>{n if n else 'none'}</h1><p><b>B</b> text.</p></main>" for n in range(3)}
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main p"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p."}], "fields": fields, "address": "/{path}"}
    rules = [
        {"to": "count", "sources": ["title"], "type": "number"},
        {"to": "plain", "sources": ["body"], "type": "text"},
    ]
    with apps(pages_app(site), lambda: NewSystem(tmp_path / "new.sqlite").app()) as (old, new):
        land = {"base": f"http://127.0.0.1:{new}", "types": {"page": "pages"}}
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{old}/"}, "survey": {"sitemaps": False}, "kinds": [kind], "land": land}
        )
        for stage in ("survey", "sort", "lift", "refit", "route"):
            work(stage, crossing)
        plan = crossings.load_plan(crossing)
        before = land_stamp(crossing, plan)
        assert plan.land is not None and before == made_from(
            1,
            plan.land.model_dump(mode="json", exclude={"fields", "folder", "profile"}),
            rests_on(plan.kinds),
            [],
            stamps.to_land(crossing),
        ), "a plan of before there was such a thing is not behind"
        settings = plan.land.model_copy(update={"fields": {"page": [Mapped.model_validate(one) for one in rules]}})
        plan = plan.model_copy(update={"land": settings})
        changes.change_plan(crossing, plan, changes.revision(crossing), "", "mapped")
        assert land_stamp(crossing, plan) != before
        told = work("land", crossing)
    assert told["misfits"] == {"page.count: not a number": 1} and told["created"] >= 3
    with sqlite3.connect(tmp_path / "new.sqlite") as kept:
        there = [json.loads(row[0]) for row in kept.execute("SELECT attributes FROM thing WHERE type = 'pages'")]
    assert sorted((one["count"] or 0, one["plain"]) for one in there) == [
        (0, "B text."),
        (1, "B text."),
        (2, "B text."),
    ]
    assert not any("body" in one for one in there)
