"""The types of values: what was read, in the type that it is meant to have, and what is odd about it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime
from typing import Any

from ..address import Scope
from ..base import base_of
from ..kinds import ADDRESSES
from ..page import Node, Page, text_of
from ..references import background_source, picture_source

_YES = frozenset("yes y true on 1 x ✓ ✔ ja oui si sí sì sim tak ano да checked available".split())
_NO = frozenset("no n false off 0 - ✗ ✘ nein non não nie ne нет none".split())


def _caption(page: Page, node: Node) -> str:
    holder = node.parent
    while holder is not None and holder.tag not in ("figure", "body"):
        holder = holder.parent
    if holder is None or holder.tag != "figure":
        return ""
    return " ".join(text_of(page, c) for c in holder.children if c.tag == "figcaption")


def _source(node: Node) -> str:
    """The address of the picture that an element is, or names, as ``meta``, ``a`` and ``link`` do."""
    named = node.get("content") if node.tag == "meta" else node.get("href") if node.tag in ("a", "link") else ""
    return named or picture_source(node.tag, node.attrs)


def picture(page: Page, number: int, base: str, scope: Scope) -> dict[str, str] | None:
    """The picture that a node (-1: none) is, names, holds or stands before; None where there is none."""
    if number < 0:
        return None
    node = page.nodes[number]
    image, source = node, _source(node)
    if not source:  # the first picture in it, else one that stands behind it
        image = next((n for n in page.inside(node) if n.tag and picture_source(n.tag, n.attrs)), node)
        source = picture_source(image.tag, image.attrs) or background_source(node.tag, node.attrs)
    address = scope.normal(source, base_of(page, base, scope)) if source else None
    if address is None:
        return None
    return {"src": str(address), "alt": image.get("alt"), "caption": _caption(page, image)}


def is_moment(text: str) -> bool:
    """Whether a text is a date, or a date and a time, as ISO 8601 has them."""
    try:
        datetime.fromisoformat(re.sub(r"Z$", "+00:00", text))
    except ValueError:
        return False
    return True


def typed(type_: str, values: list[Any], choices: Sequence[str] = ()) -> tuple[Any, str]:
    """A value in its type, and what is odd about it."""
    if type_ == "list":
        flat = [m for v in values for m in (v if isinstance(v, list) else [v])]
        return [" ".join(str(m).split()) for m in flat if str(m).strip()] or None, ""
    value = values[0]
    if isinstance(value, list):
        value = ", ".join(str(m) for m in value)
    if type_ == "line":
        return " ".join(str(value).split()) or None, ""
    if type_ == "passage":
        return str(value).strip() or None, ""
    if type_ == "number":
        if isinstance(value, int | float):
            return value, ""
        try:
            number = float(str(value).strip())
        except ValueError:
            return str(value).strip() or None, "not a number"
        return int(number) if number.is_integer() else number, ""
    if type_ == "date":
        text = str(value).strip()
        return text or None, "" if not text or is_moment(text) else "not a date (ISO 8601)"
    if type_ == "yes_no":
        text = " ".join(str(value).split()).casefold()
        if not text or text in _YES or text in _NO:
            return (text in _YES if text else None), ""
        return text, "neither yes nor no"
    if type_ in ADDRESSES:
        return str(value).strip() or None, ""
    if type_ == "choice":
        text = " ".join(str(value).split())
        for choice in choices:
            if choice.casefold() == text.casefold():
                return choice, ""
        return text or None, f"not one of {', '.join(choices)}" if text else ""
    return value, ""
