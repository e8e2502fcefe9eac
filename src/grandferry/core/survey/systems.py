"""What sort of content system made a site, told by marks in its pages and answers; and what to leave alone on such a
site.

A system is named by its own generator mark alone. Starting rules go by the sort of system, told by the programs and
parameters its pages link to; a guess always comes with the marks it rests on.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class System:
    """A sort of system. ``traces`` (RE2-like patterns) are looked for in the page's source; ``exclude`` (RE2 over
    path?query) and ``drop`` (parameters) are its starting rules."""

    name: str
    traces: tuple[str, ...] = ()
    exclude: tuple[str, ...] = ()
    drop: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Guess:
    """A system and the marks that speak for it."""

    name: str
    marks: tuple[str, ...]
    known: bool  # there are starting rules for it


SYSTEMS = (
    System(
        "blog",
        (r"[?&;]replytocom=", r"/trackback/"),
        (r"[?&]replytocom=", r"/trackback/?$", r"[?&]share="),
        ("replytocom", "share"),
    ),
    System(
        "wiki",
        (r"[?&;](?:action|do)=(?:edit|history|revisions|diff)", r"[?&;](?:oldid|rev)=\d"),
        (
            r"[?&](?:action|do)=(?:edit|history|revisions|diff|raw|login|index|recent)",
            r"[?&](?:oldid|diff|rev|printable)=",
        ),
        ("oldid", "rev", "printable"),
    ),
    System(
        "forum",
        (r"/viewtopic\.", r"/showthread\.", r"/memberlist\."),
        (r"^/(?:.+/)?(?:posting|search|memberlist|login|register)\.\w+(?:\?|$)",),
        ("sid", "hilit"),
    ),
    System(
        "pages with doors for editors",
        (r'["\'/](?:user|admin)/(?:login|register)\b', r"/comment/reply/\d"),
        (r"^/(?:user|admin)(?:/|$)", r"^/comment/reply/", r"[?&](?:print|tmpl|format)=(?:1|component|pdf)"),
        ("destination", "print", "tmpl", "no_cache"),
    ),
)  # fmt: skip
OTHER = "other"  # a person's word that no starting rules are to hold
MOST = 200  # letters of a mark that are read
# a number belongs to the version when something parts it from the name
_VERSION = re.compile(
    r"(?:[\s/,;:(=+-]+(?:(?:v|ver|version|rel|release|build)\b[\s.:=]*|v(?=\d))?\d|[?&/]+\w+=|[\s,;(]+(?:version|release)\b).*$",
    re.I,
)
_BOUNDS = re.compile(r"""["'<>\s]""")  # of what a mark stands in


def guess(generator: str, source: str, headers: Mapping[str, str]) -> list[Guess]:
    """Systems that may have made a page, its own mark first, then what sort it seems to be. ``headers`` have lower-case
    names."""
    found = []
    for system in SYSTEMS:
        marks = [f"“{_whole(match)}” in the page" for trace in system.traces if (match := re.search(trace, source))]
        if marks:
            found.append(Guess(system.name, tuple(marks), True))
    found.sort(key=lambda g: -len(g.marks))
    if generator:
        name = _name(generator)
        found.insert(0, Guess(name, (f"generator mark “{generator}”",), False))
    powered = headers.get("x-powered-by", "")
    if powered and not found:
        found.append(Guess(_name(powered), (f"header “x-powered-by: {powered}”",), False))
    return found


def recognised(guesses: Iterable[Guess]) -> Guess | None:
    """The first system of a guess that there are starting rules for, None when there is none."""
    return next((found for found in guesses if found.known), None)


def _name(mark: str) -> str:
    """A system's name out of its own mark, without its version."""
    return _VERSION.sub("", mark.partition("(")[0][:MOST]).strip() or mark


def _whole(match: re.Match[str]) -> str:
    """The word or address in which a trace was found."""
    text, (start, end) = match.string, match.span()
    before = [m.end() for m in _BOUNDS.finditer(text, max(0, start - MOST), start)]
    after = _BOUNDS.search(text, end, end + MOST)
    return text[before[-1] if before else max(0, start - MOST) : after.start() if after else end + MOST].strip("\"'<>")


def preset(name: str) -> System | None:
    """The starting rules for a system, None when there are none for that name (``OTHER``, or "" while nobody and
    nothing has chosen one)."""
    return next((system for system in SYSTEMS if system.name.lower() == name.lower()), None)
