"""How nginx looks lines up: by decoded path without regard to case, or as sent where that would be wrong."""

from __future__ import annotations

from grandferry.core.route.redirects import Redirect, RedirectMap, decoded

from ..reading import only_as_sent


def folded_key(redirect: Redirect) -> str:
    """The key of nginx's string map: decoded path, raw query, letters lowered (its maps ignore case)."""
    path, mark, query = redirect.old.partition("?")
    return ascii_lower(decoded(path) + mark + query)


def ascii_lower(text: str) -> str:
    return "".join(chr(ord(c) + 32) if "A" <= c <= "Z" else c for c in text)


def split(redirects: RedirectMap) -> tuple[list[Redirect], list[Redirect]]:
    """Exact lines for nginx's string map, and those that must be matched case by case as sent.

    nginx compares map keys without case. Lines whose keys differ in case alone, or whose key in another
    case is somebody's new address (which would be caught and go in a circle), go to the second list.
    """
    count: dict[str, int] = {}
    places = set()
    for r in redirects.redirects:
        if r.new.startswith("/"):
            places.add(ascii_lower(decoded(r.new.partition("#")[0].partition("?")[0])))
    for r in redirects.exact.values():
        if not only_as_sent(r):
            key = folded_key(r)
            count[key] = count.get(key, 0) + 1
    plain, raw = [], []
    for r in redirects.exact.values():
        if only_as_sent(r) or count[folded_key(r)] > 1 or folded_key(r) in places:
            raw.append(r)
        else:
            plain.append(r)
    return plain, raw
