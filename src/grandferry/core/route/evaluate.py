"""What a redirect map answers to a request, by itself and as a given web server would answer.

Order: the exact line for path and query; patterns over path and query, in order; the exact line for the
path alone (a query it does not know is dropped); the longest prefix.
"""

from __future__ import annotations

import posixpath
import re
from dataclasses import dataclass
from typing import Any

from ..errors import FerryError
from .redirects import Redirect, RedirectMap, decoded, safe_target


@dataclass(frozen=True, slots=True)
class Answer:
    """``location`` is "" for 410."""

    status: int
    location: str
    redirect: Redirect


def expand(redirect: Redirect, match: Any) -> str:
    """A pattern's target with its captured parts filled in."""
    return safe_target(_own_host(re.sub(r"\{(\d)\}", lambda m: match[int(m[1])] or "", redirect.new)))


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


def evaluate(redirects: RedirectMap, request: str, server: str = "neutral") -> Answer | None:
    """The map's answer to ``request`` (a request target: path and query), or None when it says nothing.

    ``server`` is ``neutral`` (request in normal form) or ``nginx`` (the raw request line as sent). Raises
    FerryError for a server it does not know.
    """
    if server == "nginx":
        return _nginx(redirects, request)
    if server != "neutral":
        raise FerryError(f"“{server}” is not a server this evaluator knows.", "Use neutral or nginx.")
    path, _, query = request.partition("?")
    found = redirects.exact.get(f"{path}?{query}" if query else path)
    if found is None:
        key = f"{path}?{query}" if query else path
        for pattern, redirect in redirects.patterns:
            match = pattern.fullmatch(key)
            if match:
                return Answer(redirect.status, "" if redirect.status == 410 else expand(redirect, match), redirect)
        found = redirects.exact.get(path) if query else None
    if found is not None:
        return Answer(found.status, found.new, found)
    prefix = redirects.prefix_for(path)
    if prefix is None:
        return None
    return Answer(prefix.status, "" if prefix.status == 410 else carried(prefix, path), prefix)


# --- nginx -----------------------------------------------------------------------------------------


def needs_raw(redirect: Redirect) -> bool:
    """Whether an exact line cannot be told by nginx's decoded ``$uri`` and must be matched as sent."""
    path = redirect.old.partition("?")[0]
    text = decoded(path)
    if (
        re.search(r"[\x00-\x1f\x7f?#]", text)
        or "%2f" in path.lower()
        or len(text.encode("utf-8", "surrogateescape")) > 1500
    ):
        return True
    return "//" in text or tidy_path(text) != text


def tidy_path(path: str) -> str:
    """``path`` as nginx keeps it: slashes merged, dot segments resolved."""
    merged = re.sub(r"/{2,}", "/", path)
    folded = posixpath.normpath(merged) if re.search(r"/\.\.?(/|$)", merged) else merged
    if merged.endswith(("/", "/.", "/..")) and not folded.endswith("/"):
        folded += "/"
    return folded


def folded_key(redirect: Redirect) -> str:
    """The key of nginx's string map: decoded path, raw query, letters lowered (its maps ignore case)."""
    path, mark, query = redirect.old.partition("?")
    return ascii_lower(decoded(path) + mark + query)


def ascii_lower(text: str) -> str:
    return "".join(chr(ord(c) + 32) if "A" <= c <= "Z" else c for c in text)


def split_for_nginx(redirects: RedirectMap) -> tuple[list[Redirect], list[Redirect]]:
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
        if not needs_raw(r):
            key = folded_key(r)
            count[key] = count.get(key, 0) + 1
    plain, raw = [], []
    for r in redirects.exact.values():
        if needs_raw(r) or count[folded_key(r)] > 1 or folded_key(r) in places:
            raw.append(r)
        else:
            plain.append(r)
    return plain, raw


def _nginx(redirects: RedirectMap, request: str) -> Answer | None:
    raw_path, mark, args = request.partition("?")
    uri = tidy_path(decoded(raw_path))
    if redirects.nginx is None:
        plain, raw = split_for_nginx(redirects)
        redirects.nginx = ({folded_key(r): r for r in plain}, {_raw_key(r.old): r for r in raw})
    table, spelled = redirects.nginx
    full = ascii_lower(uri + (("?" + args) if mark and args else ""))
    asked = _raw_key(request if args else raw_path)
    found = spelled.get(asked) or table.get(full)
    if found is None:
        for pattern, redirect in redirects.patterns:
            match = pattern.fullmatch(request)
            if match:
                return Answer(redirect.status, "" if redirect.status == 410 else expand(redirect, match), redirect)
        if args:
            found = spelled.get(_raw_key(raw_path)) or table.get(ascii_lower(uri))
    if found is not None:
        return Answer(found.status, found.new, found)
    prefix = redirects.prefix_for(_raw_key(raw_path))
    if prefix is None:
        return None
    return Answer(prefix.status, "" if prefix.status == 410 else carried(prefix, raw_path), prefix)


def _raw_key(key: str) -> str:
    """A request line with the hex digits of its escapes in one case (the written regex takes both)."""
    return re.sub(r"%[0-9a-fA-F]{2}", lambda m: m[0].upper(), key)
