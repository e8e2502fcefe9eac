"""What nginx answers to a request, told without it: the written file is held against this, and the real nginx as
well."""

from __future__ import annotations

from weakref import WeakKeyDictionary

from grandferry.core.route.evaluate import Answer, carried, expand
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded

from .keys import ascii_lower, folded_key, raw_key, split, tidy_path

Tables = tuple[dict[str, Redirect], dict[str, Redirect]]  # by folded key; as sent
_known: WeakKeyDictionary[RedirectMap, Tables] = WeakKeyDictionary()


def _tables(redirects: RedirectMap) -> Tables:
    found = _known.get(redirects)
    if found is None:
        plain, raw = split(redirects)
        found = ({folded_key(r): r for r in plain}, {raw_key(r.old): r for r in raw})
        _known[redirects] = found
    return found


def answer(redirects: RedirectMap, request: str) -> Answer | None:
    """What nginx, with the written map, answers to a request line as sent; None when the map says nothing."""
    raw_path, mark, args = request.partition("?")
    uri = tidy_path(decoded(raw_path))
    table, spelled = _tables(redirects)
    full = ascii_lower(uri + (("?" + args) if mark and args else ""))
    asked = raw_key(request if args else raw_path)
    found = spelled.get(asked) or table.get(full)
    if found is None:
        for pattern, redirect in redirects.patterns:
            match = pattern.fullmatch(request)
            if match:
                return Answer(redirect.status, "" if redirect.status == 410 else expand(redirect, match), redirect)
        if args:
            found = spelled.get(raw_key(raw_path)) or table.get(ascii_lower(uri))
    if found is not None:
        return Answer(found.status, found.new, found)
    prefix = redirects.prefix_for(raw_key(raw_path))
    if prefix is None:
        return None
    return Answer(prefix.status, "" if prefix.status == 410 else carried(prefix, raw_path), prefix)
