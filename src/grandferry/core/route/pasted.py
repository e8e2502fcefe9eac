"""Pairs as a person pastes or writes them: old and new, one pair a line, and what cannot be read of it."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator
from typing import NamedTuple

from ..errors import FerryError
from ..plan import Pair
from .redirects import check_old, neutral, without_host

_GONE = ("", "410", "gone")
_MATCHES = ("exact", "prefix", "pattern")
_STATUSES = ("301", "302", "307", "308", "410")
# the first that stands in a line divides it; a comma only where an address, a status or nothing follows
_DIVIDERS = (r"\t", r"\s+(?:->|→)\s*", r"\s*[,;]\s*(?=/|https?://|(?:30[1278]|410|gone)?\s*$)", r"\s+")


class Line(NamedTuple):
    """A line that says something (``number`` counts from 1): its pair, or why there is none. ``cut``: its new address
    named a host of ours, and is a path by now."""

    number: int
    text: str
    pair: Pair | None
    refusal: str = ""
    cut: bool = False


def read_lines(text: str, ours: Collection[str] = ()) -> Iterator[Line]:
    """The lines of a text; never raises for what they say. After the new address may stand a status, and exact,
    prefix or pattern. ``ours``: the hosts that no line may hold; with them, an old address of another host is
    refused."""
    met: dict[str, int] = {}
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            pair = _pair(line.strip(), ours)
            new = without_host(pair.new, ours)
        except FerryError as problem:
            yield Line(number, line.strip(), None, str(problem))
            continue
        before = met.setdefault(pair.old, number)
        if before != number:
            yield Line(number, line.strip(), None, f"Line {before} is of the same old address.")
        else:
            yield Line(number, line.strip(), pair.model_copy(update={"new": new}), cut=new != pair.new)


def _pair(line: str, ours: Collection[str]) -> Pair:
    parts = [part.strip() for part in _divided(line)]
    if len(parts) == 1 and re.search("[,;]", line):
        raise FerryError(
            "It may be one address or two.", "Put a tab between two; write 410 after one that is to be retired."
        )
    old, new, *more = parts + [""] * (2 - len(parts))
    status, match = ("410", "exact") if new.lower() in _GONE else ("301", "exact")
    for word in filter(None, more):
        if word.lower() in _MATCHES:
            match = word.lower()
        elif word in _STATUSES:
            status = word
        else:
            raise FerryError(f"“{word}” stands after the new address.", "One old and one new address a line.")
    new = "" if new.lower() in _GONE else new
    if ours and match != "pattern":
        check_old(old, ours)
    made = neutral(old, new, int(status), match)  # type: ignore[arg-type]
    return Pair(old=made.old, new=made.new, status=made.status, match=made.match)  # type: ignore[arg-type]


def _divided(line: str) -> list[str]:
    for divider in _DIVIDERS:
        if len(parts := re.split(divider, line)) > 1:
            return parts
    return [line]
