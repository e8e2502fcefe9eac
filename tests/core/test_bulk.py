"""Changes over the values of many items, and spellings that may be one."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from grandferry.core.kinds import FieldPlan
from grandferry.core.lift.bulk import Bulk, Changed, change, near_spellings

FIELDS = {
    name: FieldPlan.model_validate({"name": name, "type": type_, "locators": [{"css": "p"}], "choices": ["a", "b"]})
    for name, type_ in {
        "title": "line",
        "text": "passage",
        "date": "date",
        "created": "date",
        "tags": "list",
        "weight": "number",
        "sort": "choice",
        "lead": "picture",
        "thumb": "picture",
    }.items()
}


def became(values: dict[str, Any], **wish: Any) -> list[tuple[str, Any]]:
    made = change(Bulk.model_validate(wish), values, FIELDS)
    assert not any(one.problem for one in made)
    return [(one.field, one.after) for one in made]


def problem(values: dict[str, Any], **wish: Any) -> str:
    (only,) = change(Bulk.model_validate(wish), values, FIELDS)
    assert only.before == only.after, "what cannot be done changes nothing"
    return only.problem


def test_values_are_copied_and_moved() -> None:
    values = {"date": "2021-05-03", "created": None, "title": "T", "text": "", "tags": ["x"]}
    assert became(values, act="copy", field="date", to="created", empty=True) == [("created", "2021-05-03")]
    assert became(values | {"created": "2020-01-01"}, act="copy", field="date", to="created", empty=True) == []
    assert became(values | {"created": "2021-05-03"}, act="copy", field="date", to="created") == [], "as it is already"
    assert became(values, act="move", field="title", to="text") == [("text", "T"), ("title", None)]
    assert became(values, act="copy", field="created", to="text") == [], "nothing is copied from nothing"
    assert became(values, act="copy", field="tags", to="title") == [("title", "x")]
    assert became(values, act="copy", field="title", to="tags") == [("tags", ["T"])]
    picture = {"src": "http://a.test/p.png", "alt": "", "caption": ""}
    assert became({"lead": picture}, act="copy", field="lead", to="thumb") == [("thumb", picture)]
    assert "picture" in problem({"lead": picture}, act="copy", field="lead", to="title")
    assert "picture" in problem({"title": "x"}, act="move", field="title", to="thumb")


def test_types_are_checked() -> None:
    assert problem({"title": "soon"}, act="copy", field="title", to="date") == "not a date (ISO 8601)"
    assert problem({"title": "soon"}, act="move", field="title", to="weight") == "not a number"
    assert became({"title": "32"}, act="copy", field="title", to="weight") == [("weight", 32)]
    assert became({"title": "A"}, act="copy", field="title", to="sort") == [("sort", "a")]
    assert "not one of" in problem({"title": "c"}, act="copy", field="title", to="sort")


def test_values_are_found_replaced_filled_reshaped_and_mapped() -> None:
    values = {"title": "Mr. A (old)", "tags": ["News", "news ", "Steam"], "date": None, "weight": 32}
    assert became(values, act="replace", field="title", find="(old)", text="") == [("title", "Mr. A")]
    assert became(values, act="replace", field="title", find=r"^Mr\. (\w)", text=r"\1.", pattern=True) == [
        ("title", "A. (old)")
    ]
    assert became(values, act="replace", field="title", find="nowhere", text="x") == []
    assert became(values, act="fill", field="date", text="2020-01-01") == [("date", "2020-01-01")]
    assert became(values, act="fill", field="title", text="x") == []
    assert became(
        {"text": "on 3rd May 2021"}, act="reshape", field="text", treat=["replace: ^on  => ", "date: %d %B %Y"]
    )
    assert became({"title": "3.5.2021"}, act="reshape", field="title", treat=["date: %d.%m.%Y"]) == [
        ("title", "2021-05-03")
    ]
    assert "not a date" in problem({"title": "soon"}, act="reshape", field="title", treat=["date: %d.%m.%Y"])
    assert became(values, act="map", field="tags", table={"news ": "News"}) == [("tags", ["News", "Steam"])]
    assert became(values, act="map", field="tags", table={"news": "News"}) == []


@pytest.mark.parametrize(
    ("wish", "reason"),
    [
        ({"act": "copy", "field": "a"}, "which field it goes to"),
        ({"act": "copy", "field": "a", "to": "a"}, "cannot go to itself"),
        ({"act": "fill", "field": "a", "text": " "}, "filled with"),
        ({"act": "replace", "field": "a"}, "looked for"),
        ({"act": "replace", "field": "a", "find": "(", "pattern": True}, "cannot be read"),
        ({"act": "replace", "field": "a", "find": "(b)", "text": r"\2", "pattern": True}, "has 1 group"),
        ({"act": "reshape", "field": "a"}, "give a treatment"),
        ({"act": "map", "field": "a"}, "which values become which"),
    ],
)
def test_a_change_that_says_nothing_is_refused(wish: dict[str, Any], reason: str) -> None:
    with pytest.raises(ValidationError, match=reason):
        Bulk.model_validate(wish)


def test_near_equal_spellings_are_candidates_for_one() -> None:
    values = (
        ["News"] * 5 + ["news "] * 2 + ["NEWS", "Café"] + ["cafe"] * 3 + ["Steam", "Stream", "Carriage", "Carriages"]
    )
    found = [[value for value, _ in near.values] for near in near_spellings(values)]
    assert found == [["News", "news ", "NEWS"], ["cafe", "Café"], ["Carriage", "Carriages"]]
    assert near_spellings(["2019", "2018", "1.2.2020", "1.3.2020"]) == [], "figures that differ are different"
    assert near_spellings(["Driver", "Drivers", "Dräver"])[0].values[0][0] == "Driver"
    assert near_spellings([]) == []


def test_changes_name_what_they_were() -> None:
    (made,) = change(Bulk(act="fill", field="title", text="x"), {"title": None}, FIELDS)
    assert made == Changed("title", None, "x")
