"""Treatments: small changes to a lifted text, in the order a person gave. One function each."""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import datetime
from typing import Any

from ..errors import FerryError
from ..patterns import compile_pattern
from ..treatment import Treatment

_NUMBER = re.compile(r"[-+−]?\d[\d.,'\u00a0\u202f ]*")


class TreatmentFailed(FerryError):
    """A value that the treatment cannot be applied to; the value is kept as it was and marked odd."""


def _trim(text: str, _: Any) -> str:
    return text.strip()


def _collapse(text: str, _: Any) -> str:
    return " ".join(text.split())


def _replace(text: str, wish: tuple[str, str]) -> str:
    try:
        return str(compile_pattern(wish[0]).sub(wish[1], text))
    except (IndexError, ValueError):
        raise TreatmentFailed(f"The replacement “{wish[1]}” cannot be read with the pattern “{wish[0]}”.") from None


def _first_number(text: str, _: Any) -> str:
    match = _NUMBER.search(text)
    if not match:
        raise TreatmentFailed(f"“{text[:60]}” holds no number.")
    return match[0].rstrip(" .,'\u00a0\u202f")


def _number(text: str, decimal: str) -> int | float:
    grouping = "." if decimal == "," else ","
    plain = re.sub(rf"[\s'\u00a0\u202f{grouping}]", "", text).replace("−", "-").replace(decimal, ".")
    try:
        value = float(plain)
    except ValueError:
        raise TreatmentFailed(f"“{text[:60]}” is not a number.") from None
    return int(value) if value.is_integer() and "." not in plain else value


def _date(text: str, forms: str | list[str]) -> str:
    tidy = re.sub(r"\b(\d{1,2})(?:st|nd|rd|th)\b", r"\1", " ".join(text.split()))
    for form in [forms] if isinstance(forms, str) else forms:
        try:
            moment = datetime.strptime(tidy, form)
        except ValueError:
            continue
        return moment.isoformat() if "%H" in form or "%I" in form else moment.date().isoformat()
    raise TreatmentFailed(f"“{text[:60]}” is not a date of the form {forms}.")


def _split(text: str, separator: str) -> list[str]:
    return [part.strip() for part in text.split(separator) if part.strip()]


def _map(text: str, table: dict[str, str]) -> str:
    plain = text.strip()
    if plain in table:
        return table[plain]
    folded = {old.casefold(): new for old, new in table.items()}
    return folded.get(plain.casefold(), text)


def _template(text: str, form: str) -> str:
    return form.replace("{value}", text)


def _as_it_is(text: str, _: Any) -> str:
    return text


_TABLE: dict[str, Callable[[str, Any], Any]] = {
    "trim": _trim,
    "collapse": _collapse,
    "replace": _replace,
    "first_number": _first_number,
    "number": _number,
    "date": _date,
    "split": _split,
    "map": _map,
    "template": _template,
    "default": _as_it_is,  # said where nothing is found
    "join": _as_it_is,  # of a single text
}


def default_of(chain: list[Treatment]) -> str | None:
    """What a chain says where nothing is found."""
    return next((one.default for one in chain if one.default is not None), None)


def joins(chain: list[Treatment]) -> bool:
    """Whether a chain puts all that is found together."""
    return any(one.join is not None for one in chain)


def treat(value: Any, chain: list[Treatment]) -> Any:
    """The value after the whole chain; a list is treated member by member, until it is joined. Raises
    TreatmentFailed."""
    for treatment in chain:
        if treatment.join is not None and isinstance(value, list):
            value = treatment.join.join(str(member) for member in value)
            continue
        apply, wish = _TABLE[treatment.name], getattr(treatment, treatment.name)
        if isinstance(value, list):
            value = [apply(str(member), wish) for member in value]
            if value and isinstance(value[0], list):
                value = [inner for member in value for inner in member]
        else:
            value = apply(str(value), wish)
    return value
