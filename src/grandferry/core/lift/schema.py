"""The JSON Schema (2020-12) of a kind: what an item of it holds, as ``items.jsonl`` writes it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..kinds import ADDRESSES, FieldPlan, InnerPart, KindPlan, PartPlan

DIALECT = "https://json-schema.org/draft/2020-12/schema"
ALWAYS = ("old", "new", "kind")  # what every row has beside its fields
_PICTURE = {
    "type": "object",
    "properties": {"src": {"type": "string"}, "alt": {"type": "string"}, "caption": {"type": "string"}},
    "required": ["src"],
}
_TEXT: dict[str, Any] = {"type": "string"}
_DAY = r"\d{4}-\d\d-\d\d"
_TIME = r"\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:Z|[+-]\d\d:?\d\d)?"
_PLAIN: dict[str, dict[str, Any]] = {
    "line": {"type": "string", "pattern": r"^[^\n\r]*$"},
    "passage": _TEXT,
    "number": {"type": "number"},
    "date": {"type": "string", "pattern": rf"^{_DAY}(?:[T ]{_TIME})?$"},
    "yes_no": {"type": "boolean"},
    "list": {"type": "array", "items": _TEXT},
    "picture": _PICTURE,
    **dict.fromkeys(sorted(ADDRESSES), {"type": "string", "format": "uri-reference"}),
}


def column_of(field: FieldPlan) -> str:
    """What a field is called in a row."""
    return f"{field.name}_" if field.name in ALWAYS else field.name


def schema_of(kind: KindPlan) -> dict[str, Any]:
    """The schema of a kind's rows. A body has two properties, its text and its Markdown."""
    properties: dict[str, Any] = {
        "old": {"type": "string"},
        "new": {"type": "string"},
        "kind": {"const": kind.name},
    }
    required = list(ALWAYS)
    for field in kind.fields:
        if field.type == "blocks":
            properties |= {f"{field.name}_text": _TEXT, f"{field.name}_markdown": _TEXT}
            required += [f"{field.name}_text", f"{field.name}_markdown"]
            continue
        wanted = _value(field)
        if field.required:
            required.append(column_of(field))
        else:
            wanted = {"anyOf": [wanted, {"type": "null"}]}
        properties[column_of(field)] = wanted
    return {
        "$schema": DIALECT,
        "title": kind.label or kind.name,
        "type": "object",
        "properties": properties,
        "required": required,
    }


def _value(field: FieldPlan) -> dict[str, Any]:
    if field.type == "choice":
        return {"enum": field.choices}
    if field.type == "group":
        return _members(field.parts)
    return _PLAIN[field.type]


def _members(parts: Sequence[InnerPart]) -> dict[str, Any]:
    had = {part.name: {"anyOf": [_part(part), {"type": "null"}]} for part in parts}
    return {"type": "array", "items": {"type": "object", "properties": had, "additionalProperties": False}}


def _part(part: InnerPart) -> dict[str, Any]:
    if isinstance(part, PartPlan) and part.type == "group":
        return _members(part.parts)
    if part.type in ("passage", "blocks"):
        return _TEXT
    # what cannot be read as its type stays the text it is
    return _PLAIN[part.type] if part.type in ("picture", "link", "line") else {"anyOf": [_PLAIN[part.type], _TEXT]}
