"""How nginx looks lines up: by decoded path without regard to case, or as sent where that would be wrong."""

from __future__ import annotations

import string
from collections import Counter

from grandferry.core.route.redirects import Redirect, RedirectMap, decoded

from ..kept import per_map
from ..reading import only_as_sent


def folded_key(redirect: Redirect) -> str:
    """The key of nginx's string map: decoded path, raw query, letters lowered (its maps ignore case)."""
    path, mark, query = redirect.old.partition("?")
    return ascii_lower(decoded(path) + mark + query)


_LOWER = {ord(c): ord(c) + 32 for c in string.ascii_uppercase}


def ascii_lower(text: str) -> str:
    return text.translate(_LOWER)


@per_map
def split(redirects: RedirectMap) -> tuple[list[Redirect], list[Redirect]]:
    """Exact lines for nginx's string map, and those that must be matched case by case as sent.

    nginx compares map keys without case. Lines whose keys differ in case alone, or whose key in another
    case is somebody's new address (which would be caught and go in a circle), go to the second list.
    """
    places = {
        ascii_lower(decoded(line.new.partition("#")[0].partition("?")[0]))
        for line in redirects.redirects
        if line.new.startswith("/")
    }
    keys = {line: folded_key(line) for line in redirects.exact.values() if not only_as_sent(line)}
    count = Counter(keys.values())
    plain: list[Redirect] = []
    raw: list[Redirect] = []
    for line in redirects.exact.values():
        key = keys.get(line)
        (raw if key is None or count[key] > 1 or key in places else plain).append(line)
    return plain, raw
