"""What the documents say is what the program does."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema_rs
import pytest

from grandferry.core.page import parse
from grandferry.core.plan import Plan
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.document import body_document, document, from_document, schema, schema_text
from grandferry.core.route.fate import FATES
from grandferry.core.route.verdicts import VERDICTS
from grandferry.core.schema import plan_schema
from tests.core.test_writers import SAMPLES

ROOT = Path(__file__).parents[2]


def test_the_plans_schema_is_fresh() -> None:
    assert (ROOT / "docs" / "plan.schema.json").read_text("utf-8") == plan_schema()
    schema = json.loads(plan_schema())
    assert set(schema["properties"]) == set(Plan.model_fields) and schema["additionalProperties"] is False


def test_the_schema_of_blocks_is_fresh_and_every_document_keeps_to_it() -> None:
    assert (ROOT / "docs" / "blocks.schema.json").read_text("utf-8") == schema_text()
    keeps = jsonschema_rs.validator_for(schema())
    for sample in SAMPLES:
        made = document((sample,))
        assert keeps.is_valid(made), [error.message for error in keeps.iter_errors(made)]
        assert from_document(made) == (sample,)
    page = parse("<h2 id=a>A</h2><p>b <a href=#a>c</a><ul><li>d</ul>")
    placed = body_document(refit_nodes(page, [page.body]).body)
    assert keeps.is_valid(placed) and all(block["block_id"] and block["place"] for block in placed["blocks"])
    assert not keeps.is_valid({"format": 1, "blocks": [{"type": "Paragraph", "content": [], "more": 1}]})
    with pytest.raises(ValueError, match="format 1"):
        from_document({"format": 2, "blocks": []})


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
