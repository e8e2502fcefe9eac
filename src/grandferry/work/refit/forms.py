"""The forms in the bodies of a crossing, and what a person says of them."""

from __future__ import annotations

from typing import NamedTuple

from grandferry.core.plan import FormSaid
from grandferry.core.refit.blocks import Form, walk
from grandferry.core.refit.forms import mark_of
from grandferry.store import crossings, refit
from grandferry.work.refit.content import stored_body


class Asked(NamedTuple):
    """A form by its mark: as it stands in an ``example`` item of ``key``, in how many bodies, what is said of it (None
    while it is to be wired up)."""

    mark: str
    form: Form
    bodies: int
    example: int
    key: str
    said: FormSaid | None


def asked(crossing: int) -> list[Asked]:
    """Every form once, those in most bodies first."""
    said = {one.form: one for one in crossings.load_plan(crossing).refit.forms}
    found = []
    for row in refit.forms(crossing):
        body = stored_body(row.blocks)
        forms = (one for one in walk(body.content) if isinstance(one, Form))
        form = next((one for one in forms if mark_of(one) == row.mark), None)
        if form is not None:
            found.append(Asked(row.mark, form, row.bodies, row.example, row.key, said.get(row.mark)))
    return found
