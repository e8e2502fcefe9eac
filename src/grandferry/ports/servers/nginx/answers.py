"""What nginx answers to a request, told without it: the written file is held against this, and the real nginx as
well."""

from __future__ import annotations

from grandferry.core.route.evaluate import Answer
from grandferry.core.route.redirects import RedirectMap

from ..kept import per_map
from ..reading import Tables, look_up, seen, upper_escapes
from .keys import ascii_lower, folded_key, split


@per_map
def _tables(redirects: RedirectMap) -> Tables:
    plain, raw = split(redirects)
    return Tables({upper_escapes(r.old): r for r in raw}, {folded_key(r): r for r in plain})


def answer(redirects: RedirectMap, request: str) -> Answer | None:
    """What nginx, with the written map, answers to a request line as sent; None when the map says nothing."""
    asked = seen(request)
    full = asked.path + (f"?{asked.query}" if asked.query else "")
    asked = asked._replace(full=ascii_lower(full), path=ascii_lower(asked.path))
    return look_up(redirects, _tables(redirects), asked)
