"""The forms in the bodies of a crossing, each once."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter
from pydantic import BaseModel

from grandferry.work.refit.forms import asked

from .common import ThatCrossing

router = APIRouter(prefix="/crossings/{crossing:int}", tags=["refit"])


class FormFieldRow(BaseModel):
    name: str
    label: str
    sort: str
    required: bool
    options: list[str]


class FormRow(BaseModel):
    """A form by its mark, as it stands in an example item; ``state`` "" while it is to be wired up."""

    mark: str
    posts_to: str
    method: str
    fields: list[FormFieldRow]
    bodies: int
    example: int
    key: str
    state: str
    note: str


@router.get("/forms")
def forms(crossing: ThatCrossing) -> list[FormRow]:
    """Every form in the bodies once, by what it asks, and what was said of it (``refit.forms`` of the plan)."""
    return [
        FormRow(
            mark=row.mark,
            posts_to=row.form.action,
            method=row.form.method,
            fields=[FormFieldRow(**asdict(one) | {"options": list(one.options)}) for one in row.form.fields],
            bodies=row.bodies,
            example=row.example,
            key=row.key,
            state=row.said.state if row.said else "",
            note=row.said.note if row.said else "",
        )
        for row in asked(crossing.id)
    ]
