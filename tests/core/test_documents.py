"""What the documents say is what the program does."""

from __future__ import annotations

import json
from pathlib import Path

from grandferry.core.plan import Plan
from grandferry.core.route.fate import FATES
from grandferry.core.route.verdicts import VERDICTS
from grandferry.core.schema import plan_schema

ROOT = Path(__file__).parents[2]


def test_the_plans_schema_is_fresh() -> None:
    assert (ROOT / "docs" / "plan.schema.json").read_text("utf-8") == plan_schema()
    schema = json.loads(plan_schema())
    assert set(schema["properties"]) == set(Plan.model_fields) and schema["additionalProperties"] is False


def test_the_table_of_fates_names_every_fate_and_verdict() -> None:
    text = (ROOT / "docs" / "fates.md").read_text("utf-8")
    for verdict, meaning in VERDICTS.items():
        assert f"| `{verdict}` | {meaning} |" in text
    for fate in FATES:
        assert fate in text


def test_every_dependency_has_its_reason() -> None:
    import tomllib

    project = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]
    named = project["dependencies"] + project["optional-dependencies"]["dev"]
    text = (ROOT / "CONTRIBUTING.md").read_text("utf-8")
    for line in named:
        assert line.partition(">")[0] in text
    lock = (ROOT / "requirements.lock").read_text("utf-8")
    assert "://" not in lock and "find-links" not in lock, "the lock file names no host and no place of one machine"
