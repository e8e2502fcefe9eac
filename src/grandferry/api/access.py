"""What gives access to a protected site: given, tried before anything starts, shown masked, never given out again."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field, field_validator

from grandferry.core.errors import FerryError, NotThere
from grandferry.store import secrets
from grandferry.work.survey.access import give_access, try_access

from .common import ThatCrossing, ThatSide

router = APIRouter(prefix="/crossings/{crossing:int}/access", tags=["survey"])


class SecretIn(BaseModel):
    """A name with its password (basic), a request header or a cookie, for one host (with its port)."""

    host: str = Field(min_length=1, max_length=260)
    kind: Literal["basic", "header", "cookie"]
    name: str = Field(min_length=1, max_length=200)
    value: str = Field(min_length=1, max_length=8000)

    @field_validator("name", "value")
    @classmethod
    def _one_line(cls, value: str) -> str:
        if any(ord(char) < 32 for char in value):
            raise ValueError("must be one line without control characters")
        return value


class SecretRow(BaseModel):
    host: str
    kind: str
    name: str
    shown: str


class Tried(BaseModel):
    """What the site answered with the access that was given; ``good`` when it lets us in."""

    good: bool
    status: int
    says: str


def _all(crossing: int) -> list[SecretRow]:
    return [SecretRow(host=s.host, kind=s.kind, name=s.name, shown=s.masked) for s in secrets.secrets(crossing)]


@router.get("")
def access(crossing: ThatCrossing) -> list[SecretRow]:
    """What is kept, with its values masked."""
    return _all(crossing.id)


@router.post("")
def give(crossing: ThatCrossing, wanted: SecretIn) -> list[SecretRow]:
    """Keep one. It is sent to that host alone; what asked for a key there waits to be asked again."""
    host = wanted.host.strip().lower().removeprefix("http://").removeprefix("https://").rstrip("/")
    if "/" in host or " " in host or not host:
        raise FerryError(f"“{wanted.host}” is not a host.", "Write it as old.example.test or old.example.test:8080.")
    give_access(crossing.id, secrets.Secret(host, wanted.kind, wanted.name.strip(), wanted.value))
    return _all(crossing.id)


@router.delete("")
def forget(crossing: ThatCrossing, host: str, kind: str, name: str) -> list[SecretRow]:
    if not secrets.forget(crossing.id, host, kind, name):
        raise NotThere(f"There is no {kind} access for {host}.")
    return _all(crossing.id)


@router.post("/try")
def try_(side: ThatSide) -> Tried:
    """Ask a site's start address with what was given."""
    good, status, says = try_access(side)
    return Tried(good=good, status=status, says=says)
