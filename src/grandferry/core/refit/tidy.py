"""Steps over whole bodies that need no selector: their headings put in order, addresses of links without what only
counts visitors."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import fields, is_dataclass, replace
from typing import Any
from urllib.parse import urlsplit

from ..address import SESSION_PARAMETERS, drop_parameters
from .blocks import Block, Heading, readdress, walk
from .leftovers import unstyled

Blocks = tuple[Block, ...]
_TRACKING = frozenset(SESSION_PARAMETERS)


def one_h1(blocks: Blocks) -> tuple[Blocks, int]:
    """The first heading of the first level stays, all others go one level down, and what hangs below them with them;
    gives how many were of the first level."""
    seen = 0
    down = False

    def level(had: int) -> int:
        nonlocal seen, down
        if had == 1:
            seen += 1
            down = seen > 1
        return min(6, had + 1) if down else had

    return _levels(blocks, level), max(0, seen - 1)


def no_gaps(blocks: Blocks) -> tuple[Blocks, int]:
    """No heading is more than one level below the one above it; the first keeps its level, and headings that were
    beside each other stay so. Gives how many were moved."""
    above: list[tuple[int, int]] = []  # (level as it was, as it is) of the headings that are open
    moved = 0

    def level(had: int) -> int:
        nonlocal moved
        while above and above[-1][0] >= had:
            above.pop()
        now = min(had, above[-1][1] + 1) if above else had
        above.append((had, now))
        moved += now != had
        return now

    return _levels(blocks, level), moved


def untracked(blocks: Blocks) -> tuple[Blocks, int]:
    """Links without the parameters that count visitors; gives how many had some."""
    found = 0

    def link(href: str) -> str:
        nonlocal found
        bare, sign, mark = href.partition("#")
        path, asks, query = bare.partition("?")
        kept = drop_parameters(query, _TRACKING) if asks else ""
        if not asks or kept == query or urlsplit(path).scheme not in ("", "http", "https"):
            return href
        found += 1
        return path + (f"?{kept}" if kept else "") + sign + mark

    return readdress(blocks, link, lambda src: src), found


def _levels(blocks: Blocks, level: Callable[[int], int]) -> Blocks:
    if not any(isinstance(one, Heading) for one in walk(blocks)):
        return blocks
    return tuple(_mapped(block, level) for block in blocks)


def _mapped(value: Any, level: Callable[[int], int]) -> Any:
    """The same with the level of every heading in it set, in their order."""
    if isinstance(value, tuple):
        made = tuple(_mapped(one, level) for one in value)
        return made if any(new is not old for new, old in zip(made, value, strict=True)) else value
    if isinstance(value, Heading):
        now = level(value.level)
        return value if now == value.level else replace(value, level=now)
    if not is_dataclass(value) or isinstance(value, type):
        return value
    changed = {
        part.name: made
        for part in fields(value)
        if isinstance(inner := getattr(value, part.name), tuple) and (made := _mapped(inner, level)) is not inner
    }
    return replace(value, **changed) if changed else value


TIDY: Mapping[str, Callable[[Blocks], tuple[Blocks, int]]] = {
    "one_h1": one_h1,
    "no_gaps": no_gaps,
    "untracked": untracked,
    "unstyled": unstyled,
}
