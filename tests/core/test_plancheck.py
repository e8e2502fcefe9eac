"""What a plan cannot be worked with, told before anything is lost by it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.errors import FerryError, PlanError
from grandferry.core.plan import Plan
from grandferry.core.plancheck import check_plan


def plan(**kind: Any) -> Plan:
    field = {"name": "title", "type": "line", "locators": [{"css": "h1"}]}
    made = {"name": "post", "rules": [{"below": "/a/"}], "fields": [field, {**field, "name": "published"}], **kind}
    return Plan.model_validate({"format": 1, "name": "P", "old": {"start": "http://old.test/"}, "kinds": [made]})


@pytest.mark.parametrize("address", ["/news/{slug}", "/{published:%Y}/{title}", "/fixed", None])
def test_patterns_of_fields_that_are_there_are_taken(address: str | None) -> None:
    check_plan(plan(address=address))


@pytest.mark.parametrize(
    ("kind", "said"),
    [
        ({"address": "/news/{date:%Y}/{slug}"}, "names the field “date”"),
        ({"address": "/{Slug}/{author}"}, "names the field “author”"),
        ({"slug_from": "headline"}, "comes from the field “headline”"),
    ],
)
def test_a_pattern_of_a_field_that_is_not_there_is_refused(kind: dict[str, Any], said: str) -> None:
    with pytest.raises(PlanError, match=said):
        check_plan(plan(**kind))


def test_a_kind_without_items_needs_no_field() -> None:
    check_plan(plan(items="none", address="/x/{author}"))


def test_a_rule_that_speaks_of_a_part_it_has_not_got_is_refused() -> None:
    made = plan()
    data = made.model_dump(mode="json")
    data["route"]["rules"] = [{"old": "/a/(.*)", "new": "/b/{2}", "match": "pattern"}]
    with pytest.raises(FerryError):
        check_plan(Plan.model_validate(data))


@pytest.mark.parametrize("pattern", ["/news/*", "/shop/*/old", "/a/b/*\\.htm"])
@pytest.mark.parametrize(
    "place",
    [
        lambda p: {"survey": {"exclude": [p]}},
        lambda p: {"new": {"survey": {"include": [p]}}},
        lambda p: {"kinds": [{"name": "k", "rules": [{"address": p}]}]},
        lambda p: {"route": {"aside": [{"address": p, "reason": "looks"}]}},
        lambda p: {"route": {"rules": [{"old": p, "match": "pattern", "new": "/x"}]}},
    ],
)
def test_a_pattern_as_a_shell_has_them_is_asked_about(pattern: str, place: Callable[[str], dict[str, Any]]) -> None:
    old = {"start": "http://a.test/"}
    with pytest.raises(PlanError, match="so many slashes") as told:
        check_plan(Plan.model_validate({"format": 1, "name": "T", "old": old, **place(pattern)}))
    assert pattern.replace("/*", "/.*") in told.value.hint
    for fine in ("/news/.*", "/news/[^/]*", "^/news/", "/a{2}/(x|y)*", "/x\\*"):
        check_plan(Plan.model_validate({"format": 1, "name": "T", "old": old, **place(fine)}))
