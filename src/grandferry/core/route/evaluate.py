"""What a redirect map answers to a request.

Order: the exact line for path and query; patterns over path and query, in order; the exact line for the
path alone (a query it does not know is dropped); the longest prefix.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from .redirects import Redirect, RedirectMap, safe_part


@dataclass(frozen=True, slots=True)
class Answer:
    """``location`` is "" for 410."""

    status: int
    location: str
    redirect: Redirect


def expand(redirect: Redirect, match: Any) -> str:
    """A pattern's target with its captured parts filled in: what they hold is escaped where it has to be."""
    return _own_host(re.sub(r"\{(\d)\}", lambda m: safe_part(match[int(m[1])] or ""), redirect.new))


def _own_host(location: str) -> str:
    """A location that a captured or carried part cannot turn into another host's (``//host/``)."""
    return "/" + location.lstrip("/") if location.startswith("//") else location


def carried(redirect: Redirect, path: str) -> str:
    """A prefix rule's target for ``path``: the rest of the path is carried over."""
    rest = path[len(redirect.old) :]
    if not rest:
        return redirect.new
    if redirect.old.endswith("/"):
        return _own_host(redirect.new.rstrip("/") + "/" + rest)
    return _own_host(redirect.new.rstrip("/") + rest)


def evaluate(redirects: RedirectMap, request: str) -> Answer | None:
    """The map's answer to ``request`` (path and query in normal form), or None when it says nothing. How a given web
    server answers to a request as sent is said by its module in ``ports.servers``."""
    path, _, query = request.partition("?")
    found = redirects.exact.get(f"{path}?{query}" if query else path)
    if found is None:
        key = f"{path}?{query}" if query else path
        if by_pattern := redirects.pattern_for(key):
            match, redirect = by_pattern
            return Answer(redirect.status, "" if redirect.status == 410 else expand(redirect, match), redirect)
        found = redirects.exact.get(path) if query else None
    if found is not None:
        return Answer(found.status, found.new, found)
    prefix = redirects.prefix_for(path)
    if prefix is None:
        return None
    return Answer(prefix.status, "" if prefix.status == 410 else carried(prefix, path), prefix)
