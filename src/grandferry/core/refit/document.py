"""Blocks as an open document: ``{"format": 1, "blocks": [...]}``, with the JSON Schema (2020-12) that it keeps to.

The schema is made from the types of the blocks, so that it cannot say something else than what is written. What is
empty or false is left out of a document; ``block_id`` and ``place`` stand with the outermost blocks of a stored body.
"""

from __future__ import annotations

import json
import types
from dataclasses import MISSING, fields, is_dataclass
from typing import Any, Literal, Union, get_args, get_origin, get_type_hints

from . import blocks as model
from .blocks import FORMAT, Block, from_json, to_json
from .body import Body

_PLACED = ("block_id", "place")


def document(blocks: tuple[Block, ...]) -> dict[str, Any]:
    """Blocks as a document."""
    return {"format": FORMAT, "blocks": to_json(blocks)}


def body_document(body: Body) -> dict[str, Any]:
    """A stored body as a document: each block with its id, and the way to its place from the region's elements."""
    placed = [{"block_id": one.id, "place": one.place, **to_json(one.block)} for one in body.blocks]
    return {"format": FORMAT, "blocks": placed}


def from_document(data: Any) -> tuple[Block, ...]:
    """The blocks of a document. Raises ValueError for another format, KeyError for a type that is not known."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise ValueError(f"this is no document of blocks in format {FORMAT}")
    return tuple(from_json([{k: v for k, v in one.items() if k not in _PLACED} for one in data["blocks"]]))


def schema() -> dict[str, Any]:
    """The JSON Schema of a document."""
    defs: dict[str, Any] = {}
    block = _union(get_args(Block), defs)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Blocks",
        "type": "object",
        "required": ["format", "blocks"],
        "properties": {"format": {"const": FORMAT}, "blocks": {"type": "array", "items": block}},
        "$defs": dict(sorted(defs.items())),
    }


def _union(of: tuple[Any, ...], defs: dict[str, Any]) -> dict[str, Any]:
    return {"oneOf": [_part(one, defs) for one in of]}


def _part(hint: Any, defs: dict[str, Any]) -> dict[str, Any]:
    """The schema of a type; dataclasses are put into ``defs``."""
    if is_dataclass(hint) and isinstance(hint, type):
        if hint.__name__ not in defs:
            defs[hint.__name__] = {}  # it may hold itself
            defs[hint.__name__] = _object(hint, defs)
        return {"$ref": f"#/$defs/{hint.__name__}"}
    origin = get_origin(hint)
    if origin is tuple:
        return {"type": "array", "items": _part(get_args(hint)[0], defs)}
    if origin is Literal:
        return {"enum": list(get_args(hint))}
    if origin in (Union, types.UnionType):
        some = [one for one in get_args(hint) if one is not type(None)]
        return _part(some[0], defs) if len(some) == 1 else _union(tuple(some), defs)
    return {"type": {str: "string", int: "integer", bool: "boolean"}[hint]}


def _object(cls: type, defs: dict[str, Any]) -> dict[str, Any]:
    hints = get_type_hints(cls, vars(model))
    properties: dict[str, Any] = {"type": {"const": cls.__name__}}
    required = ["type"]
    for part in fields(cls):
        properties[part.name] = _part(hints[part.name], defs)
        if part.default is MISSING and hints[part.name] is not str:  # an empty text is left out
            required.append(part.name)
    properties |= {name: {"type": "string"} for name in _PLACED}
    said = (cls.__doc__ or "").split("\n\n")[0]
    made = {"type": "object", "required": required, "properties": properties, "additionalProperties": False}
    plain = " ".join(said.split())
    return made if plain.startswith(f"{cls.__name__}(") else {"description": plain, **made}


def schema_text() -> str:
    """The schema as it is published in ``docs/blocks.schema.json``."""
    return json.dumps(schema(), ensure_ascii=False, indent=1) + "\n"
