"""Readable last parts of addresses, and new addresses made from a kind's pattern."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal
from urllib.parse import quote, unquote

from anyascii import anyascii
from pydantic import Field

from ..because import Why, because, sentence
from ..errors import PatternError
from ..filetypes import PAGE_ENDINGS, START_PAGES
from ..strict import Strict

LENGTH = 80
_PLACE = re.compile(r"\{([a-z][a-z0-9_]*)(?::([^{}]+))?\}")
_SPELLED = str.maketrans(
    {
        "ß": "ss",
        "æ": "ae",
        "Æ": "ae",
        "œ": "oe",
        "Œ": "oe",
        "ø": "o",
        "Ø": "o",
        "đ": "d",
        "Đ": "d",
        "ł": "l",
        "Ł": "l",
        "þ": "th",
        "Þ": "th",
        "ð": "d",
        "&": " and ",
        "’": "",
        "'": "",
    }
)


class Unfilled(PatternError):
    """A pattern for new addresses that an item cannot fill; ``because`` says why, as it is kept."""

    def __init__(self, because: str) -> None:
        super().__init__(sentence(because))
        self.because = because


class Slugs(Strict):
    """How the readable parts of new addresses are made: in ``latin`` letters or in their ``own`` script, ``without``
    some words (where others are left), of so many characters at the ``longest``."""

    script: Literal["own", "latin"] = "own"
    without: list[str] = Field([], max_length=200)
    longest: int = Field(LENGTH, ge=8, le=200)


PLAIN = Slugs()  # type: ignore[call-arg]


def slug(text: str, style: Slugs = PLAIN) -> str:
    """Lower-case words joined by hyphens, accents off, at most 80 characters (or as ``style`` says), never cut inside a
    word.

    Letters of other scripts stay (``路`` stays ``路``) unless ``style`` has them in Latin letters; "" for a text
    without letters and digits.
    """
    words = _words(text, style.script == "latin")
    left_out = {word for one in style.without for word in _words(one, style.script == "latin")}
    words = [word for word in words if word not in left_out] or words
    made = ""
    for word in words:
        longer = f"{made}-{word}" if made else word
        if len(longer) > style.longest:
            return made or word[: style.longest]
        made = longer
    return made


def _words(text: str, latin: bool) -> list[str]:
    text = unicodedata.normalize("NFKD", text.translate(_SPELLED))
    text = "".join(c for c in text if not unicodedata.combining(c))
    if latin:
        text = anyascii(text).replace("'", "").replace("`", "")
    return re.findall(r"[^\W_]+", text.lower())


ALWAYS = frozenset(["slug", "path", "folder", "menu"])  # parts that every item has, whatever its fields


class ReadyPath(str):
    """A value that is a path as it stands, and may be empty."""


def old_path(key: str) -> ReadyPath:
    """An old address as a path that says nothing of the system it came from, without its first slash: endings of pages
    and names of start pages dropped, a query as words at its end (``list.php?page=2`` gives ``list-page-2``)."""
    path, _, query = key.partition("?")
    head, slash, tail = unquote(path).lstrip("/").rpartition("/")
    stem, dot, ending = tail.rpartition(".")
    if dot and ending.lower() in PAGE_ENDINGS:
        tail = "" if stem.lower() in START_PAGES else stem
    asked = slug(unquote(query).replace("&", " "))
    return ReadyPath(f"{head}{slash}{tail}" + (f"-{asked}" if asked and tail else asked))


def parts_of(pattern: str) -> list[str]:
    """The names a pattern for new addresses speaks of, in order; those in ALWAYS every item has."""
    return [match[1] for match in _PLACE.finditer(pattern)]


def fill(pattern: str, values: Mapping[str, Any], style: Slugs = PLAIN) -> str:
    """A new path from a kind's pattern. Raises Unfilled when a part has no value or is no date.

    ``{slug}`` and other fields are percent-encoded, fields made readable as ``style`` says; ``{path}``, ``{folder}``
    (the path without its last part) and ``{menu}`` (the entries above it) keep their slashes, and may be empty;
    ``{published:%Y}`` formats an ISO date.
    """

    def part(match: re.Match[str]) -> str:
        name, form = match[1], match[2]
        value = values.get(name)
        if isinstance(value, ReadyPath):
            return quote(value, safe="/-._~")
        if value in (None, ""):
            raise Unfilled(because(Why.NO_VALUE, name))
        if form:
            try:
                moment = datetime.fromisoformat(str(value).replace("Z", "+00:00"))
            except ValueError:
                raise Unfilled(because(Why.NO_DATE, str(value), match[0])) from None
            return quote(moment.strftime(form), safe="/-")
        text = str(value) if name == "slug" else slug(str(value), style)
        return quote(text, safe="-._~")

    return re.sub("//+", "/", _PLACE.sub(part, pattern))  # a part that is empty leaves none


def distinct(path: str, taken: set[str]) -> str:
    """``path``, or the first of ``path-2``, ``path-3`` … that is not taken (an ending stays an ending)."""
    if path not in taken:
        return path
    head, slash, tail = (path.rstrip("/") or "/index").rpartition("/")
    stem, dot, ending = tail.rpartition(".")
    if not dot or not stem:
        stem, dot, ending = tail, "", ""
    close = "/" if path.endswith("/") else ""
    number = 2
    while (made := f"{head}{slash}{stem}-{number}{dot}{ending}{close}") in taken:
        number += 1
    return made
