"""A value lifted from a page, and the hash by which it is known again."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import Any, Literal

from ..kinds import FieldType

State = Literal["filled", "empty", "many", "odd"]

# attributes that say what the words of their element say (HTML, section 4.5.14)
SAYS_ITS_WORDS = frozenset(["datetime"])


@dataclass(frozen=True, slots=True)
class Value:
    """A lifted value: JSON-ready ``value`` (None when empty; of a body its region), the locator that answered (-1:
    none), the nodes it was read from, its state, and a sentence when it is odd; why it wants a look though it was read
    (``Unlike``); ``beside``: it is an address, or what an attribute says, so that the words in its nodes do not go over
    with it. ``hash``: of what a hand edit is laid over."""

    field: str
    type: FieldType
    value: Any
    locator: int
    nodes: tuple[int, ...]
    state: State
    note: str = ""
    unlike: str = ""
    beside: bool = False

    @property
    def hash(self) -> str:
        return self.value["words"] if self.type == "blocks" and self.value else value_hash(self.value)


def value_hash(value: Any) -> str:
    """A short hash of a JSON value: what a hand edit remembers of what it was laid over."""
    return hashlib.sha256(json.dumps(value, sort_keys=True, ensure_ascii=False).encode()).hexdigest()[:16]
