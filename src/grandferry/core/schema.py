"""The plan's JSON Schema, generated from its models (JSON Schema 2020-12). ``python -m grandferry.core.schema``."""

from __future__ import annotations

import json

from .plan import Plan


def plan_schema() -> str:
    """The schema as text, the same every time."""
    return (
        json.dumps({"$schema": "https://json-schema.org/draft/2020-12/schema", **Plan.model_json_schema()}, indent=1)
        + "\n"
    )


if __name__ == "__main__":
    print(plan_schema(), end="")
