"""The JSON Schema of a kind: rows that it holds for, and rows that it does not."""

from __future__ import annotations

from typing import Any

import jsonschema_rs
import pytest

from grandferry.core.kinds import KindPlan
from grandferry.core.lift.schema import schema_of

KIND = KindPlan.model_validate(
    {
        "name": "boat",
        "rules": [{"below": "/"}],
        "fields": [
            {"name": "title", "type": "line", "required": True, "locators": [{"css": "h1"}]},
            {"name": "built", "type": "date", "locators": [{"css": "b"}]},
            {"name": "weight", "type": "number", "locators": [{"css": "b"}]},
            {"name": "afloat", "type": "yes_no", "locators": [{"css": "b"}]},
            {"name": "sort", "type": "choice", "choices": ["tug", "barge"], "locators": [{"css": "b"}]},
            {"name": "tags", "type": "list", "locators": [{"css": "b"}]},
            {"name": "sister", "type": "reference", "locators": [{"css": "a"}]},
            {"name": "lead", "type": "picture", "locators": [{"css": "img"}]},
            {"name": "body", "type": "blocks", "required": True, "locators": [{"css": "main"}]},
            {
                "name": "crew",
                "type": "group",
                "locators": [{"css": "li"}],
                "parts": [{"name": "name", "css": "b"}, {"name": "since", "type": "date", "css": "i"}],
            },
            {"name": "kind", "type": "line", "locators": [{"css": "i"}]},
        ],
    }
)
GOOD: dict[str, Any] = {
    "old": "/a", "new": "", "kind": "boat", "title": "Wren", "built": "1903-05-01", "weight": 32.5, "afloat": True,
    "sort": "tug", "tags": ["a"], "sister": "/boats/owl", "lead": {"src": "/a.png", "alt": "", "caption": ""},
    "body_text": "x", "body_markdown": "x", "crew": [{"name": "Ada", "since": "of old"}, {"name": None, "since": None}],
    "kind_": "steam",
}  # fmt: skip


def test_a_schema_is_one_and_good_rows_hold() -> None:
    schema = schema_of(KIND)
    jsonschema_rs.meta.validate(schema)
    jsonschema_rs.validate(schema, GOOD)
    bare = GOOD | dict.fromkeys(["built", "weight", "afloat", "sort", "tags", "sister", "lead", "crew", "kind_"])
    jsonschema_rs.validate(schema, bare)
    jsonschema_rs.validate(schema, GOOD | {"built": "1903-05-01T10:00:00+02:00"})


@pytest.mark.parametrize(
    "wrong",
    [
        {"title": None},
        {"title": "a\nb"},
        {"built": "May 1903"},
        {"weight": "32 tons"},
        {"afloat": "maybe"},
        {"sort": "raft"},
        {"tags": "a"},
        {"lead": {"alt": "x"}},
        {"body_markdown": None},
        {"crew": [{"rank": 1}]},
        {"kind": "barge"},
    ],
)
def test_a_value_of_another_type_does_not(wrong: dict[str, Any]) -> None:
    assert not jsonschema_rs.is_valid(schema_of(KIND), GOOD | wrong)
