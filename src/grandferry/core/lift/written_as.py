"""The type that some values have, told by how they are written: dates, numbers, lines."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime
from typing import Any

_NUMBER = re.compile(r"(?:[^\w\s]{0,3}|[A-Z]{3} ?)-?\d[\d.,'\u00a0\u202f]*(?: ?[^\W\d]{1,3}\.?| ?%)?")
_FIGURE = re.compile(r"-?\d(?:[\d.,']*\d)?")
_LEADS = re.compile(r"\W*\d")
# how dates are written, and the forms (strptime) to read them by, tried in turn
_DATES = (
    (r"\d{4}-\d\d-\d\d", ["%Y-%m-%d"]),
    (r"\d{1,2}(?:st|nd|rd|th)? [A-Z][a-z]+ \d{4}", ["%d %B %Y", "%d %b %Y"]),
    (r"[A-Z][a-z]+ \d{1,2}(?:st|nd|rd|th)?, \d{4}", ["%B %d, %Y", "%b %d, %Y"]),
    (r"\d{1,2}\.\d{1,2}\.\d{4}", ["%d.%m.%Y"]),
    (r"\d{1,2}/\d{1,2}/\d{4}", ["%d/%m/%Y"]),
    (r"\d{1,2}/\d{1,2}/\d{4}", ["%m/%d/%Y"]),
)


def type_of(texts: Sequence[str], *, figures: bool = False) -> tuple[str, list[dict[str, Any]]]:
    """The type that all of some values have, and the treatments that bring them to it. ``figures``: a number is wanted
    of each, whatever words it stands among."""
    left = list(texts)
    patterns: list[str] = []
    read_by: list[str] = []
    for pattern, forms in _DATES:
        if pattern in patterns:
            continue
        on = [text for text in left if _dated(text, pattern, forms)]
        if on and all(_dated(text, pattern, forms) for text in left if re.search(pattern, text)):
            patterns.append(pattern)
            read_by += [form for form in forms if any(_dated(text, pattern, [form]) for text in on)]
            left = [text for text in left if text not in on]
    if not left:
        form = read_by[0] if len(read_by) == 1 else read_by
        return "date", [{"replace": [rf"^.*?\b({'|'.join(patterns)})\b.*$", r"\1"]}, {"date": form}]
    unit = {_FIGURE.sub("", text, count=1).strip() for text in texts}
    if all(_NUMBER.fullmatch(t.strip()) or (len(unit) == 1 and _LEADS.match(t)) for t in texts):
        return "number", _number(texts)
    if figures and all(map(_FIGURE.search, texts)):
        return "number", _number(texts)
    return "line", []


def _number(texts: Sequence[str]) -> list[dict[str, Any]]:
    """The treatments that bring texts with a figure to numbers."""
    decimal = "," if any(re.search(r"\d,\d{1,2}\b(?!\d)", text) for text in texts) else "."
    return [{"first_number": True}, {"number": decimal}]


def one_figure(texts: Sequence[str]) -> bool:
    """Whether texts are the same words but for one figure in each. A word and a figure are a name (Part 3), and single
    digits count something."""
    words = {" ".join(_FIGURE.sub("", text, count=1).split()) for text in texts}
    figures = [_FIGURE.findall(text) for text in texts]
    return (
        len(words) == 1
        and len(set(texts)) > 1
        and len(next(iter(words)).split()) > 1
        and all(len(found) == 1 for found in figures)
        and 2 * sum(len(found[0]) > 1 for found in figures) > len(texts)
    )


def _dated(text: str, pattern: str, forms: Sequence[str]) -> bool:
    found = re.search(rf"\b(?:{pattern})\b", " ".join(text.split()))
    return found is not None and any(_reads(re.sub(r"(\d)(?:st|nd|rd|th)\b", r"\1", found[0]), form) for form in forms)


def _reads(text: str, form: str) -> bool:
    try:
        datetime.strptime(text, form)
    except ValueError:
        return False
    return True
