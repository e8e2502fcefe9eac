"""What all models of the plan share: unknown keys are refused, and patterns are read when they are given."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from .errors import FerryError
from .patterns import compile_pattern


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


def good_pattern(value: str) -> str:
    """The pattern as it is. Raises ValueError with a sentence."""
    try:
        compile_pattern(value)
    except FerryError as problem:
        raise ValueError(str(problem)) from None
    return value


Pattern = Annotated[str, AfterValidator(good_pattern), Field(description="RE2 pattern")]
