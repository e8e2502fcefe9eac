"""What is made of a map once, for as long as there is that map."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import wraps
from typing import TypeVar
from weakref import WeakKeyDictionary

from grandferry.core.route.redirects import RedirectMap

from .lines import Beyond, without

Kept = TypeVar("Kept")


def per_map(make: Callable[[RedirectMap], Kept]) -> Callable[[RedirectMap], Kept]:
    """A function of a map that is called once for each. What it gives must not hold the map itself, which would never
    be let go then."""
    known: WeakKeyDictionary[RedirectMap, Kept] = WeakKeyDictionary()

    @wraps(make)
    def kept(redirects: RedirectMap) -> Kept:
        if (found := known.get(redirects)) is None:
            found = known[redirects] = make(redirects)
        return found

    return kept


def held(cannot: Callable[[RedirectMap], Sequence[Beyond]]) -> Callable[[RedirectMap], RedirectMap]:
    """The map without the lines that a server ``cannot``."""

    @per_map
    def fewer(redirects: RedirectMap) -> tuple[RedirectMap, ...]:
        beyond = cannot(redirects)
        return (without(redirects, beyond),) if beyond else ()

    return lambda redirects: (*fewer(redirects), redirects)[0]
