"""One change over the values of many items: copied, moved, reshaped, found and replaced, filled, mapped. Pure: it says
of each value what it would become, and of which it cannot be done and why."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import Annotated, Any, Literal, NamedTuple

from pydantic import BeforeValidator, Field, model_validator

from ..kinds import FieldPlan, Name
from ..patterns import compile_pattern
from ..strict import Strict, good_replacement
from ..treatment import Treatment, treatment_of
from .treatments import TreatmentFailed, treat
from .types import typed

# types of values that can be changed so: all but bodies and groups
PLAIN = frozenset("line passage number date yes_no choice list picture link file reference".split())
NEAR = 6  # letters of a value from which one letter more or less may be a slip


class Bulk(Strict):
    """A change of ``field`` over the items of a kind.

    ``copy``, ``move``: into the field ``to`` (with ``empty`` only where that is empty); ``fill``: ``text`` where it is
    empty; ``replace``: ``find`` (plain, or with ``pattern`` RE2) by ``text``; ``reshape``: by treatments; ``map``:
    whole values, of a list its members, by ``table``.
    """

    act: Literal["copy", "move", "fill", "replace", "reshape", "map"]
    field: Name
    to: Name | None = None
    empty: bool = False
    find: str = Field(default="", max_length=2000)
    text: str = Field(default="", max_length=20_000)
    pattern: bool = False
    treat: list[Annotated[Treatment, BeforeValidator(treatment_of)]] = Field(default=[], max_length=30)
    table: dict[str, str] = Field(default={}, max_length=5000)

    @model_validator(mode="after")
    def _whole(self) -> Bulk:
        needs = {
            "copy": (self.to, "say which field it goes to"),
            "move": (self.to, "say which field it goes to"),
            "fill": (self.text.strip(), "say what empty ones are filled with"),
            "replace": (self.find, "say what is looked for"),
            "reshape": (self.treat, "give a treatment"),
            "map": (self.table, "say which values become which"),
        }
        given, asks = needs[self.act]
        if not given:
            raise ValueError(asks)
        if self.to == self.field:
            raise ValueError("a field cannot go to itself")
        if self.act == "replace" and self.pattern:
            good_replacement(self.find, self.text)
        return self

    @property
    def target(self) -> str:
        """The field whose values change."""
        return self.to if self.to is not None and self.act in ("copy", "move") else self.field


class Changed(NamedTuple):
    """What a value becomes; ``problem`` says why it cannot be (the value then stays)."""

    field: str
    before: Any
    after: Any
    problem: str = ""


def empty(value: Any) -> bool:
    """Whether a value says nothing."""
    return value is None or (isinstance(value, str | list | dict) and not value)


def change(bulk: Bulk, values: dict[str, Any], fields: dict[str, FieldPlan]) -> list[Changed]:
    """What a change makes of the values of one item; nothing where they stay as they are. ``fields``: of its kind."""
    value, target = values.get(bulk.field), fields[bulk.target]
    had = values.get(bulk.target)
    if bulk.act == "fill":
        return _into(target, had, bulk.text) if empty(value) else []
    if empty(value):
        return []
    if bulk.act in ("copy", "move"):
        if bulk.empty and not empty(had):
            return []
        made = _into(target, had, value)
        if bulk.act == "move" and not any(one.problem for one in made):
            made.append(Changed(bulk.field, value, None))
        return made
    try:
        made_of = [_one(bulk, member) for member in value] if isinstance(value, list) else _one(bulk, value)
    except TreatmentFailed as problem:
        return [Changed(bulk.field, value, value, str(problem))]
    return [] if made_of == value else _into(target, value, made_of)


def _one(bulk: Bulk, value: Any) -> Any:
    if isinstance(value, dict):
        return value
    text = str(value)
    if bulk.act == "map":
        return bulk.table.get(text, value)
    if bulk.act == "reshape":
        return treat(text, bulk.treat)
    if bulk.pattern:
        return compile_pattern(bulk.find).sub(bulk.text, text)
    return text.replace(bulk.find, bulk.text)


def _into(target: FieldPlan, had: Any, value: Any) -> list[Changed]:
    """A value as one of the field that it goes to."""
    if target.type == "picture" or isinstance(value, dict):
        whole = isinstance(value, dict) and "src" in value and target.type == "picture"
        made, problem = (value, "") if whole else (None, "a picture, and nothing else, goes into a picture's field")
    elif target.type == "list":
        flat = [m for v in (value if isinstance(value, list) else [value]) for m in (v if isinstance(v, list) else [v])]
        made, problem = typed("list", [flat])
        made = list(dict.fromkeys(made or []))  # what became the same is there once
    else:
        made, problem = typed(target.type, [value], target.choices)
    if problem:
        return [Changed(target.name, had, had, problem)]
    return [] if made == had or (empty(made) and empty(had)) else [Changed(target.name, had, made)]


class Near(NamedTuple):
    """Spellings of what may be one value, each with how many items have it, the most first."""

    values: list[tuple[str, int]]


def near_spellings(values: Iterable[str]) -> list[Near]:
    """Values that differ in case, accents, blanks and signs alone, or in a single letter: candidates for one."""
    counts = Counter(values)
    by_key: dict[str, list[str]] = defaultdict(list)
    for value in counts:
        by_key[_plain(value)].append(value)
    joined: dict[str, str] = {}
    keys = sorted((key for key in by_key if key), key=lambda key: (-sum(counts[v] for v in by_key[key]), key))
    known: dict[str, str] = {}
    for key in keys:
        if len(key) >= NEAR and not any(c.isdigit() for c in key):
            other = next((known[hole] for hole in _holes(key) if hole in known), None)
            if other is not None:
                joined[key] = other
                continue
            for hole in _holes(key):
                known.setdefault(hole, key)
        joined[key] = key
    groups: dict[str, list[str]] = defaultdict(list)
    for key in keys:
        groups[joined[key]] += by_key[key]
    found = [
        Near(sorted(((v, counts[v]) for v in some), key=lambda one: (-one[1], one[0]))) for some in groups.values()
    ]
    return sorted((near for near in found if len(near.values) > 1), key=lambda near: -sum(n for _, n in near.values))


def _holes(key: str) -> Iterator[str]:
    """A word with one letter left out, and whole: words that share one of these differ in a letter at most."""
    yield key
    for n in range(len(key)):
        yield f"{key[:n]}\0{key[n + 1 :]}"
        yield key[:n] + key[n + 1 :]


def _plain(value: str) -> str:
    bare = "".join(c for c in unicodedata.normalize("NFKD", value.casefold()) if not unicodedata.combining(c))
    return " ".join(re.sub(r"[\W_]+", " ", bare).split())


def texts(values: Sequence[Any]) -> Iterator[str]:
    """The texts that values consist of: members of lists, each by itself."""
    for value in values:
        for one in value if isinstance(value, list) else [value]:
            if isinstance(one, str) and one:
                yield one
