"""The JSON Schema (2020-12) of a kind: what an item of it holds, as folders of JSON have it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..kinds import ADDRESSES, FieldPlan, InnerPart, KindPlan, PartPlan
from ..mapping import Mapped
from ..refit.document import schema as blocks_schema

DIALECT = "https://json-schema.org/draft/2020-12/schema"
ALWAYS = ("old", "new", "kind")  # what every row has beside its fields
_PICTURE = {
    "type": "object",
    "properties": {name: {"type": "string"} for name in ("src", "alt", "caption", "focus")},
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


def column_of(name: str) -> str:
    """What a field is called in a row."""
    return f"{name}_" if name in ALWAYS else name


def schema_of(kind: KindPlan, rules: Sequence[Mapped] = ()) -> dict[str, Any]:
    """The schema of a kind's rows, its fields as the rules of a target have them. A body has three properties: its
    blocks as a document, its HTML and its Markdown."""
    said = {source for rule in rules for source in rule.sources}
    types = {field.name: field for field in kind.fields}
    properties: dict[str, Any] = {
        "old": {"type": "string"},
        "new": {"type": "string"},
        "kind": {"const": kind.name},
    }
    required = list(ALWAYS)
    for rule in rules:
        if rule.to:
            properties |= _there(rule, types)
    for field in kind.fields:
        if field.name in said:
            continue
        if field.type == "blocks":
            properties |= _body(field.name)
            continue
        wanted = _value(field)
        if field.required:
            required.append(column_of(field.name))
        else:
            wanted = {"anyOf": [wanted, {"type": "null"}]}
        properties[column_of(field.name)] = wanted
    return {
        "$schema": DIALECT,
        "title": kind.label or kind.name,
        "type": "object",
        "properties": properties,
        "required": required,
        "$defs": blocks_schema()["$defs"],
    }


def _body(name: str) -> dict[str, Any]:
    """The properties of a body; null where an item has none."""
    whole = {key: value for key, value in blocks_schema().items() if key in ("type", "required", "properties")}
    empty: dict[str, Any] = {"type": "null"}
    return {name: {"anyOf": [whole, empty]}, f"{name}_html": _TEXT, f"{name}_markdown": _TEXT}


def _there(rule: Mapped, types: dict[str, FieldPlan]) -> dict[str, Any]:
    """The properties of a field as a target has it; nothing is said of one put together of several."""
    only = types.get(rule.sources[0]) if len(rule.sources) == 1 else None
    if rule.type == "rich" or (rule.type == "same" and only is not None and only.type == "blocks"):
        return _body(rule.to)
    if rule.type == "same":
        return {column_of(rule.to): {} if only is None else {"anyOf": [_value(only), {"type": "null"}]}}
    plain = {"text": "passage", "list": "list", "number": "number", "date": "date", "yes_no": "yes_no"}[rule.type]
    return {column_of(rule.to): {"anyOf": [_PLAIN[plain], {"type": "null"}]}}


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
