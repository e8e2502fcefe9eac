"""The two sites of a crossing. Survey, captures, facts, lists and tree are of a side, by the same code."""

from __future__ import annotations

from typing import Literal, NamedTuple

SideName = Literal["old", "new"]
SIDES: tuple[SideName, ...] = ("old", "new")


class Side(NamedTuple):
    """The old or the new site of a crossing. As two values it stands for ``crossing_id = ? AND side = ?``."""

    crossing: int
    name: SideName = "old"
