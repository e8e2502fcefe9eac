"""How lines of a map are looked up, the same on every server: what differs is how it reads a request.

Order: the exact line for path and query; patterns; the exact line for the path alone; the longest prefix.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import NamedTuple

from grandferry.core.patterns import whole
from grandferry.core.route.evaluate import Answer, carried, expand
from grandferry.core.route.redirects import Redirect, RedirectMap, decoded

from .bounds import Bound
from .lines import Beyond

LONG = 1_500  # bytes of a decoded path that are looked up in a table


class Seen(NamedTuple):
    """A request as a server has it: path and query as sent (escapes in upper case), the keys it looks up in tables
    (path with query, path alone), and what patterns are held against."""

    sent: str
    query: str
    full: str
    path: str
    whole: str


class Tables(NamedTuple):
    """Exact lines: those that only the request as sent tells apart, and those that are looked up by what the server
    compares (path, or path?query)."""

    sent: dict[str, Redirect]
    plain: dict[str, Redirect]


def upper_escapes(text: str) -> str:
    """A request line with the hex digits of its escapes in upper case (RFC 3986, 6.2.2.1)."""
    return re.sub(r"%[0-9a-fA-F]{2}", lambda m: m[0].upper(), text) if "%" in text else text


def folded(path: str) -> str:
    """A decoded path as most servers keep it: slashes merged, dot segments resolved (RFC 3986, 5.2.4)."""
    if "//" not in path and "/." not in path:
        return path
    out: list[str] = []
    parts = re.sub(r"/{2,}", "/", path).split("/")
    for part in parts[1:]:
        if part == "..":
            out[-1:] = []
        elif part != ".":
            out.append(part)
    if parts[-1] in (".", "..") and (not out or out[-1]):
        out.append("")
    return "/" + "/".join(out)


def climbs(path: str) -> bool:
    """Whether a path climbs above its root."""
    depth = 0
    for part in decoded(path).split("/")[1:] if "." in path or "%" in path else ():
        depth += {"..": -1, ".": 0, "": 0}.get(part, 1)
        if depth < 0:
            return True
    return False


def only_as_sent(redirect: Redirect) -> bool:
    """Whether the decoded path of an exact line is not enough to tell it from others."""
    path = redirect.old.partition("?")[0]
    text = decoded(path)
    return (
        re.search(r"[\x00-\x20\x7f?#]", text.replace(" ", "")) is not None
        or "%2f" in path.lower()
        or len(text.encode("utf-8", "surrogateescape")) > LONG
        or folded(text) != text
    )


def plain_key(redirect: Redirect) -> str:
    """Decoded path, and the query as it is."""
    path, mark, query = redirect.old.partition("?")
    return decoded(path) + mark + query


_BAD_ESCAPE = re.compile("%(?![0-9A-Fa-f]{2})")


def bad_escape(request: str) -> bool:
    """Whether a percent sign in the path of a request begins no escape."""
    return "%" in request and _BAD_ESCAPE.search(request.partition("?")[0]) is not None


def ill_escaped(redirects: RedirectMap) -> list[Beyond]:
    """The lines that a server which refuses such requests cannot answer."""
    return [Beyond(line, Bound.BAD_ESCAPE) for line in redirects.exact.values() if bad_escape(line.old)]


def with_nul(redirects: RedirectMap) -> list[Beyond]:
    """The same for an escaped zero byte."""
    held = (line for line in redirects.exact.values() if "%00" in line.old.partition("?")[0])
    return [Beyond(line, Bound.NUL) for line in held]


def tables_of(
    lines: Iterable[Redirect],
    as_sent: Callable[[Redirect], bool] = only_as_sent,
    key: Callable[[Redirect], str] = plain_key,
) -> Tables:
    """Exact lines by what they are looked up by."""
    made = Tables({}, {})
    for line in lines:
        if as_sent(line):
            made.sent[upper_escapes(line.old)] = line
        else:
            made.plain[key(line)] = line
    return made


def seen(request: str, fold: bool = True, slashes: bool = True) -> Seen:
    """A request line as sent, read as most servers do. ``fold``: doubled slashes and dot segments are; ``slashes``:
    an escaped slash is one."""
    raw, _, query = request.partition("?")
    path = decoded(raw if slashes else re.sub("%2[fF]", "%252F", raw))
    path = folded(path) if fold else path
    return Seen(upper_escapes(raw), query, f"{path}?{canonical(query)}" if query else path, path, request)


def look_up(redirects: RedirectMap, tables: Tables, request: Seen) -> Answer | None:
    """What is answered to a request; None when the map says nothing."""
    query = request.query
    asked = f"{request.sent}?{upper_escapes(query)}" if query else request.sent
    found = tables.sent.get(asked) or tables.plain.get(request.full)
    if found is None:
        if by_pattern := redirects.pattern_for(whole(request.whole)):
            match, line = by_pattern
            return Answer(line.status, "" if line.status == 410 else expand(line, match), line)
        if query:
            found = tables.sent.get(request.sent) or tables.plain.get(request.path)
    if found is not None:
        return Answer(found.status, found.new, found)
    prefix = redirects.prefix_for(request.sent)
    if prefix is None:
        return None
    return Answer(prefix.status, "" if prefix.status == 410 else carried(prefix, request.sent), prefix)


def spellings(query: str) -> tuple[str, ...]:
    """A query as browsers send it: the hex digits of its escapes all in upper or all in lower case."""
    upper = upper_escapes(query)
    lower = _lower_escapes(upper)
    return (upper,) if lower == upper else (upper, lower)


def canonical(query: str) -> str:
    """A query in the spelling in which a line has it, where it is one of its spellings."""
    upper = upper_escapes(query)
    return upper if query in (upper, _lower_escapes(upper)) else query


def _lower_escapes(query: str) -> str:
    return re.sub(r"%[0-9A-F]{2}", lambda m: m[0].lower(), query)


def spelled(path: str) -> str:
    """A regular expression (PCRE and RE2 alike) for a path or query as sent, hex digits of escapes in either case.
    Nothing in it needs quoting in a configuration but backslashes before punctuation."""
    out = []
    at = 0
    for match in re.finditer(r"%([0-9A-Fa-f]{2})", path):
        out.append(_escaped(path[at : match.start()]))
        out.append("%" + "".join(f"[{d.upper()}{d.lower()}]" if d.isalpha() else d for d in match[1]))
        at = match.end()
    out.append(_escaped(path[at:]))
    return "".join(out)


_ODD = {'"': r"\x22", "\\": r"\x5C", " ": r"\x20", "{": r"\x7B", "}": r"\x7D"}


def _escaped(text: str) -> str:
    return "".join(_ODD.get(c) or (c if c in "/-" else re.escape(c)) for c in text)
