"""One small change to a lifted value: as a model, and as a person writes it in a line."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, model_validator

from .strict import Strict, good_pattern


class Treatment(Strict):
    """One small change to a lifted value; exactly one key."""

    trim: bool | None = None
    collapse: bool | None = None
    replace: tuple[str, str] | None = Field(None, description="[RE2 pattern, replacement with \\1 …]")
    first_number: bool | None = None
    number: Literal[".", ","] | None = Field(None, description="the decimal sign")
    date: str | list[str] | None = Field(None, description="strptime form(s), tried in order")
    split: str | None = Field(None, min_length=1, description="separator")
    join: str | None = Field(None, max_length=100, description="what is set between all that was found")
    map: dict[str, str] | None = Field(None, min_length=1, description="values that become others")
    template: str | None = Field(None, max_length=2000, description="text with {value} in it")
    default: str | None = Field(None, min_length=1, max_length=2000, description="the value where there is none")

    @model_validator(mode="after")
    def _one(self) -> Treatment:
        given = [n for n in type(self).model_fields if getattr(self, n) is not None]
        if len(given) != 1:
            raise ValueError("a treatment has exactly one key")
        if self.replace is not None:
            good_pattern(self.replace[0])
        if self.template is not None and "{value}" not in self.template:
            raise ValueError("a template holds {value}")
        return self

    @property
    def name(self) -> str:
        return next(n for n in type(self).model_fields if getattr(self, n) is not None)

    @property
    def line(self) -> str:
        """As a person writes it: ``first number``, ``replace: pattern => text``, ``date: %d %B %Y | %d.%m.%Y``,
        ``map: a => b | c => d``, ``join: ", "``."""
        wish = getattr(self, self.name)
        word = self.name.replace("_", " ")
        if wish is True:
            return word
        if isinstance(wish, dict):
            return f"{word}: {' | '.join(f'{old} => {new}' for old, new in wish.items())}"
        if self.name in ("join", "split") and wish != wish.strip():
            return f'{word}: "{wish}"'
        if isinstance(wish, tuple):
            return f"{word}: {wish[0]} => {wish[1]}"
        return f"{word}: {' | '.join(wish) if isinstance(wish, list) else wish}"


def treatment_of(value: Any) -> Any:
    """A line that a person wrote as what the model reads; anything else as it is."""
    if not isinstance(value, str):
        return value
    word, colon, rest = value.partition(":")
    name, wish = word.strip().replace(" ", "_"), rest.strip()
    if not colon or not wish:
        return {name: True}
    if name == "replace":
        old, _, new = wish.partition("=>")
        return {name: (old.strip(), new.strip())}
    if name == "map":
        pairs = (pair.partition("=>") for pair in wish.split("|"))
        return {name: {old.strip(): new.strip() for old, _, new in pairs}}
    if name in ("join", "split") and len(wish) > 2 and wish[0] == wish[-1] == '"':
        return {name: wish[1:-1]}
    if name == "date" and "|" in wish:
        return {name: [form.strip() for form in wish.split("|")]}
    return {name: wish}
