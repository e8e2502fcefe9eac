"""What all routers share: a database connection per request, and windows of long lists."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Generic, TypeVar

from fastapi import Depends, Query
from pydantic import BaseModel, BeforeValidator

from grandferry.core.because import sentence
from grandferry.core.side import Side, SideName
from grandferry.store import crossings
from grandferry.store.db import connection
from grandferry.store.schema import Crossing

T = TypeVar("T")


def opened() -> Iterator[None]:
    """A connection for the length of one request (handlers run in threads)."""
    with connection():
        yield


def _crossing(crossing: int, _: Annotated[None, Depends(opened)]) -> Crossing:
    return crossings.crossing(crossing)


ThatCrossing = Annotated[Crossing, Depends(_crossing)]


def _side(found: ThatCrossing, side: Annotated[SideName, Query(description="old or new site")] = "old") -> Side:
    return Side(found.id, side)


ThatSide = Annotated[Side, Depends(_side)]
Opened = Depends(opened)
Offset = Annotated[int, Query(ge=0, le=10_000_000)]
Limit = Annotated[int, Query(ge=1, le=500)]


Fates = Annotated[
    list[str], Query(default_factory=list, max_length=6, description="only addresses with one of these fates")
]
Search = Annotated[str, Query(max_length=200)]


Sentence = Annotated[str, BeforeValidator(sentence)]  # of a reason as it is kept


class Queued(BaseModel):
    """The number of a job that was queued."""

    job: int


class Position(BaseModel):
    """Where something stands in a list, -1 when it is not in it."""

    position: int


class Window(BaseModel, Generic[T]):
    """A slice of a list: its rows, and how many there are in all."""

    total: int
    offset: int
    rows: list[T]


def binary(mime: str) -> dict[int | str, dict[str, Any]]:
    """What the description of the API says of an answer that is a file of a type."""
    return {200: {"content": {mime: {"schema": {"type": "string", "format": "binary"}}}}}
