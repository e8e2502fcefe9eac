"""What all models of the plan share: unknown keys are refused, and patterns are read when they are given."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from .errors import FerryError
from .patterns import check_replacement, compile_pattern


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


def good_pattern(value: str) -> str:
    """The pattern as it is. Raises ValueError with a sentence."""
    try:
        compile_pattern(value)
    except FerryError as problem:
        raise ValueError(str(problem)) from None
    return value


def good_replacement(pattern: str, text: str) -> None:
    """Raise ValueError with a sentence where a pattern, or a replacement for what it finds, cannot be read."""
    try:
        check_replacement(pattern, text)
    except FerryError as problem:
        raise ValueError(str(problem)) from None


Pattern = Annotated[str, AfterValidator(good_pattern), Field(description="RE2 pattern")]
