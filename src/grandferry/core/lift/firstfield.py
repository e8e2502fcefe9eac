"""A field that is proposed."""

from __future__ import annotations

from dataclasses import dataclass

from ..kinds import FieldPlan

SOME = 0.5  # of the pages that a field must be filled on to be proposed


@dataclass(frozen=True, slots=True)
class FirstField:
    """A field, on how many of the pages looked at it is filled, and of how many."""

    field: FieldPlan
    filled: int
    of: int
