"""Fields as the target has them: named otherwise, of another type, several put together; and what is lost by it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from pydantic import Field

from .kinds import Name
from .lift.types import typed
from .refit.blocks import Block, Paragraph, Text, constructs
from .refit.write import to_text
from .strict import Strict


@dataclass(frozen=True, slots=True)
class Blocks:
    """A body as it goes over."""

    blocks: tuple[Block, ...]


class Mapped(Strict):
    """A field as the target has it: ``to`` is its name there ("": left out on purpose), ``sources`` our fields, put
    together in this order, ``type`` what it holds there (``text`` no marks, ``rich`` blocks, ``same`` what ours
    holds)."""

    to: str = Field(default="", max_length=120)
    sources: list[Name] = Field(min_length=1, max_length=10)
    type: Literal["same", "text", "rich", "number", "date", "yes_no", "list"] = "same"
    between: str = Field(default="\n\n", max_length=20, description="between texts that are put together")


class Made(NamedTuple):
    """What a field of the target gets of an item: the value, the marks that are lost in it (constructs by name), and
    why it does not fit its type."""

    value: Any
    lost: Counter[str]
    misfit: str = ""


def _filled(value: Any) -> bool:
    return value is not None and value != "" and value != [] and value != Blocks(())


def mapped(rules: Sequence[Mapped], fields: Mapping[str, Any]) -> tuple[dict[str, Any], dict[str, str]]:
    """The fields of an item under the target's names, those that no rule speaks of under their own; and by name why a
    value does not fit and stays away."""
    made = {rule.to: as_there(rule, fields) for rule in rules if rule.to}
    said = {source for rule in rules for source in rule.sources}
    own = {name: value for name, value in fields.items() if name not in said}
    return own | {to: one.value for to, one in made.items()}, {to: one.misfit for to, one in made.items() if one.misfit}


def as_there(rule: Mapped, fields: Mapping[str, Any]) -> Made:
    """What one field of the target gets of an item."""
    values: list[Any] = [value for name in rule.sources if _filled(value := fields.get(name))]
    lost: Counter[str] = Counter()
    if not values:
        return Made(None, lost)
    if rule.type == "list":
        return Made([text for value in values for text in _texts(value, lost)], lost)
    if rule.type == "rich" or (rule.type == "same" and any(isinstance(value, Blocks) for value in values)):
        return Made(Blocks(tuple(block for value in values for block in _blocks(value))), lost)
    if rule.type == "same":
        if len(values) == 1:
            return Made(values[0], lost)
        if all(isinstance(value, list) for value in values):
            return Made([one for value in values for one in value], lost)
    text = rule.between.join(", ".join(_texts(value, lost)) for value in values)
    if rule.type in ("same", "text"):
        return Made(text, lost)
    value, misfit = typed(rule.type, [text])
    return Made(None if misfit else value, lost, misfit)


def _texts(value: Any, lost: Counter[str]) -> list[str]:
    """A value as plain texts; the marks of a body are noted as lost."""
    if isinstance(value, Blocks):
        lost.update(constructs(value.blocks))
        return [to_text(value.blocks).strip()]
    if isinstance(value, list):
        return [text for one in value for text in _texts(one, lost)]
    if isinstance(value, dict):
        if "src" in value:
            return [str(value["src"])]
        return [" ".join(text for one in value.values() if _filled(one) for text in _texts(one, lost))]
    return [str(value)]


def _blocks(value: Any) -> tuple[Block, ...]:
    if isinstance(value, Blocks):
        return value.blocks
    return tuple(Paragraph((Text(text),)) for text in _texts(value, Counter()))
