"""What a plan cannot be worked with, told before anything is lost by it."""

from __future__ import annotations

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
