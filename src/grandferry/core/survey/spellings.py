"""Spellings of addresses: which are surely one, which may be, and why. What only may be one stays two addresses; of
pages with the same words besides, one alone goes over (``twins``).

Sure: what RFC 3986 section 6.2 calls equivalent, the fragment, the scheme, other names of the host, and parameters a
person said make no difference. Doubtful: what a server is free to answer differently.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field

from ..address import Address, Scope, checked_start, fragment_of, normal
from ..errors import AddressError
from ..filetypes import START_PAGES

_INDEX = re.compile(rf"/(?:{'|'.join(START_PAGES)})\.(?:html?|php\d?|aspx?|jsp|cgi|shtml|cfm)$", re.I)


def loosened(key: str) -> str:
    """A key in which all doubtful differences are gone: letter case, last slash, index file, order of parameters."""
    path, _, query = key.lower().partition("?")
    path = _INDEX.sub("/", path).rstrip("/") or "/"
    return path + ("?" + "&".join(sorted(query.split("&"))) if query else "")


def doubts(one: str, other: str) -> list[str]:
    """In what two keys with the same loosened form differ."""
    found = []
    paths, queries = zip(one.partition("?")[::2], other.partition("?")[::2], strict=True)
    if paths[0] != paths[1]:
        bare = [_INDEX.sub("/", path) for path in paths]
        if (bare[0] != paths[0]) != (bare[1] != paths[1]):
            found.append("index file")
        if bare[0].rstrip("/").lower() == bare[1].rstrip("/").lower() and bare[0].endswith("/") != bare[1].endswith(
            "/"
        ):
            found.append("last slash")
        if bare[0].rstrip("/") != bare[1].rstrip("/"):
            found.append("letter case")
    if queries[0] != queries[1]:
        if sorted(queries[0].split("&")) == sorted(queries[1].split("&")):
            found.append("order of parameters")
        elif "letter case" not in found:
            found.append("letter case")
    return found or ["spelling"]


def twins(pages: Iterable[tuple[str, int]]) -> dict[str, str]:
    """Of pages (key, links to it) with the same words whose keys have the same loosened form: the key of each twin ->
    that of the page that it is another spelling of, the plainest, else the one that more links lead to."""
    found = sorted(pages, key=lambda one: ((one[0].rstrip("/") or "/") != loosened(one[0]), -one[1], one[0]))
    return {key: found[0][0] for key, _ in found[1:]}


def sure_reasons(one: str, other: str, scope: Scope) -> list[str]:
    """Why two written addresses with the same normal form are one, in words."""
    if one == other:
        return ["the same line"]
    a, b = normal(one), normal(other)
    if a is None or b is None:
        return ["spelling"]
    found = []
    if a.scheme != b.scheme:
        found.append("http and https")
    if a.host != b.host:
        same = a.host.removeprefix("www.") == b.host.removeprefix("www.")
        found.append("with and without www" if same else "another name of the host")
    if fragment_of(one) != fragment_of(other):
        found.append("fragment")
    if a.query != b.query:
        found.append("parameters that make no difference")
    return found or ["spelling"]


@dataclass(frozen=True, slots=True)
class Line:
    """A line of a list. ``number`` counts from 1; ``of`` is the line it repeats or may repeat (0: none)."""

    number: int
    text: str
    url: str = ""
    of: int = 0
    why: str = ""


@dataclass(slots=True)
class ListRead:
    """A list of addresses as it was understood. ``kept`` are the distinct ones in scope, with those in ``doubtful``
    among them."""

    lines: int = 0
    kept: list[Line] = field(default_factory=list)
    repeats: list[Line] = field(default_factory=list)
    doubtful: list[Line] = field(default_factory=list)
    repaired: list[Line] = field(default_factory=list)
    outside: list[Line] = field(default_factory=list)
    bad: list[Line] = field(default_factory=list)


def read_list(texts: Iterable[str], scope: Scope, home: Address) -> ListRead:
    """Read a list of addresses, one a line: full ones, or paths on the old site's host (``home``)."""
    read = ListRead()
    first: dict[str, Line] = {}
    loose: dict[tuple[str, str], Line] = {}
    for number, text in enumerate(texts, 1):
        given = text.strip().strip("\ufeff")
        if not given:
            continue
        read.lines += 1
        try:
            full, repaired = _full(given, home)
        except AddressError as problem:
            read.bad.append(Line(number, given, why=problem.args[0]))
            continue
        address = scope.normal(full)
        if address is None:
            read.bad.append(Line(number, given, why="cannot be read as an address"))
            continue
        url = str(address)
        known = first.get(url)
        if known is not None:
            why = ", ".join(sure_reasons(known.text, given, scope) if not repaired else ["spelling"])
            read.repeats.append(Line(number, given, url, known.number, why))
            continue
        line = Line(number, given, url)
        first[url] = line
        reason = scope.shut_out(address, is_file=False)
        if reason:
            read.outside.append(Line(number, given, url, why=reason))
            continue
        if repaired:
            read.repaired.append(Line(number, given, url, why=repaired))
        twin = loose.setdefault((address.host, loosened(address.key)), line)
        if twin is not line:
            why = ", ".join(doubts(normal(twin.url).key, address.key))  # type: ignore[union-attr]
            read.doubtful.append(Line(number, given, url, twin.number, why))
        read.kept.append(line)
    return read


def _full(given: str, home: Address) -> tuple[str, str]:
    """A line as a full address, and how it was repaired. Raises AddressError."""
    if given.startswith("/") and not given.startswith("//"):
        return f"{home.scheme}://{home.host}{given}", ""
    if given.lower().startswith(("http://", "https://")) and not any(c.isspace() for c in given):
        return given, ""
    address, repaired = checked_start(given)
    if not re.match(r"^\w+://", given) and address.scheme != home.scheme:
        address = Address(home.scheme, address.host, address.path, address.query)
    return str(address), repaired or "mended"
