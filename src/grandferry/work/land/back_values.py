"""A value that a person altered in a file of a folder, as one of ours."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from grandferry.core.kinds import ADDRESSES, FieldPlan, InnerPart, PartPlan
from grandferry.core.land.going import NOTHING
from grandferry.core.land.header import list_of
from grandferry.core.lift.types import typed
from grandferry.core.refit.blocks import readdress
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_html

from .back_addresses import OldAddresses

_PARTS = ("src", "alt", "caption")  # of a picture's value


def value_of(theirs: Any, wanted: FieldPlan, had: Any, old: OldAddresses, dates: str) -> tuple[Any, str]:
    """(the value in its field's type, what is odd about it). ``had``: what it was; ``dates``: how the file has dates
    (as strptime reads them), "" for ISO 8601."""
    if theirs in NOTHING:
        return None, ""
    if wanted.type == "picture":
        return _picture(theirs, had if isinstance(had, dict) else {}, old)
    if wanted.type in ADDRESSES:
        return (old.link(theirs), "") if isinstance(theirs, str) else (None, "no address")
    if wanted.type == "group":
        return _group(theirs, wanted.parts, old)
    if wanted.type == "list" and isinstance(theirs, str):
        return list_of(theirs), ""
    if wanted.type == "date" and isinstance(theirs, str) and dates:
        return _date(theirs, dates)
    if isinstance(theirs, dict) or (isinstance(theirs, list) and wanted.type != "list"):
        return None, f"no {wanted.type.replace('_', ' ')}"
    return typed(wanted.type, [theirs], wanted.choices)


def _picture(theirs: Any, had: Mapping[str, Any], old: OldAddresses) -> tuple[Any, str]:
    said = {"src": theirs} if isinstance(theirs, str) else theirs
    if not isinstance(said, dict) or not isinstance(said.get("src"), str):
        return None, "no picture with a src"
    made = {name: said.get(name, had.get(name, "")) for name in _PARTS}
    return made | {"src": old.source(said["src"])}, ""


def _group(theirs: Any, parts: Sequence[InnerPart], old: OldAddresses) -> tuple[Any, str]:
    if isinstance(theirs, str):  # a header of lines has it as JSON
        try:
            theirs = json.loads(theirs)
        except ValueError:
            return None, "no JSON"
    if not isinstance(theirs, list) or not all(isinstance(member, dict) for member in theirs):
        return None, "no list of members with parts"
    odd = sorted({name for member in theirs for name in member} - {part.name for part in parts})
    if odd:
        return None, f"no part is called {odd[0]}"
    return [_member(member, parts, old) for member in theirs], ""


def _member(member: Mapping[str, Any], parts: Sequence[InnerPart], old: OldAddresses) -> dict[str, Any]:
    made = dict(member)
    for part in parts:
        value = made.get(part.name)
        if part.type == "picture" and isinstance(value, dict) and isinstance(value.get("src"), str):
            made[part.name] = value | {"src": old.source(value["src"])}
        elif part.type == "link" and isinstance(value, str):
            made[part.name] = old.link(value)
        elif part.type == "blocks" and isinstance(value, str):
            blocks = refit_html(value, mask=False, places=True).blocks
            made[part.name] = to_html(readdress(blocks, old.link, old.source)).strip()
        elif isinstance(part, PartPlan) and part.type == "group" and isinstance(value, list):
            made[part.name] = [_member(inner, part.parts, old) for inner in value if isinstance(inner, dict)]
    return made


def _date(theirs: str, dates: str) -> tuple[Any, str]:
    try:
        at = datetime.strptime(theirs, dates)
    except ValueError:
        return typed("date", [theirs])
    day = (at.hour, at.minute, at.second) == (0, 0, 0)
    return at.date().isoformat() if day else at.isoformat(), ""
