"""What a mapping of a kind's fields would make of its items, before it is saved."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from grandferry.core.mapping import Mapped, as_there
from grandferry.store import crossings
from grandferry.work.land.content import Contents

SHOWN = 5  # items of a sort that are named


@dataclass(slots=True)
class Looked:
    """What a field of the target gets: of how many items it is filled; of how many marks are lost, and which (by
    construct); of how many the value does not fit its type and stays away; examples (old key, what it says, why)."""

    of: int = 0
    filled: int = 0
    losing: int = 0
    lost: Counter[str] = field(default_factory=Counter)
    misfits: int = 0
    examples: list[tuple[str, str, str]] = field(default_factory=list)


def look(crossing: int, kind: str, rules: Sequence[Mapped]) -> list[Looked]:
    """Rule by rule, over all items of a kind (one language's of a kind of several)."""
    found = [Looked() for _ in rules]
    for item, _, fields in Contents(crossing, crossings.load_plan(crossing), every=True, kind=kind):
        for rule, seen in zip(rules, found, strict=True):
            seen.of += 1
            made = as_there(rule, fields)
            seen.filled += made.value is not None
            seen.lost += made.lost
            seen.losing += bool(made.lost)
            seen.misfits += bool(made.misfit)
            if made.misfit and len(seen.examples) < SHOWN:
                said = " / ".join(str(fields.get(name)) for name in rule.sources)
                seen.examples.append((item.key, said[:120], made.misfit))
    return found
