"""What is read from one answer in a child process: text, facts, references, packed body. No database here."""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from operator import attrgetter
from typing import Any, NamedTuple

from grandferry.core.address import Scope
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import PAGE_TYPES, looks_like_file
from grandferry.core.keptout import KeptOut
from grandferry.core.references import css_links
from grandferry.core.survey.facts import Facts
from grandferry.core.survey.glance import glance
from grandferry.core.survey.links import CODE, Link
from grandferry.core.survey.refusals import refusal
from grandferry.core.survey.steady import Spot, steady
from grandferry.store.bodies import digest, pack
from grandferry.store.db import as_json

LONGEST = 8000  # characters of a reference; longer ones are no addresses


class Earlier(NamedTuple):
    """What an address answered in an earlier survey, and the spots in which pages of the site change anyway."""

    body: bytes
    spots: frozenset[Spot]


# an answer's address, its content type, its body and the body's hash, and what was answered earlier
Task = tuple[str, str, bytes, str, Earlier | None]


# A reference: the address it leads to in normal form, whether a file is wanted of it, how it was written (kind of
# element, as it stands there, words), and the spelling when that is another. A plain tuple, which is handed over in
# half the time.
Ref = tuple[str, bool, str, str, str, str]


@dataclass(slots=True)
class Reading:
    """``type`` is page or file; ``refs`` are in document order, each once; ``fault`` says why a page could not be
    read."""

    type: str
    digest: str = ""
    packed: int = 0
    data: bytes = b""
    encoding: str = ""
    doubtful: str = ""
    facts: Facts | None = None
    said: tuple[str, str, bytes] = ("", "", b"")  # the facts, and what is odd about them, as JSON; the make
    refs: list[Ref] = field(default_factory=list)
    fault: str = ""
    refusal: str = ""  # why the page is no content
    steady: bool = False  # it differs from the earlier answer only where pages of the site change at every request
    rendered: tuple[str, int, int, bytes] | None = None  # as a browser built it: hash, size, packed, data

    def __reduce__(self) -> tuple[Any, ...]:
        return Reading, _values(self)  # handed over by its values alone, a third quicker than with their names


_values = attrgetter(*(f.name for f in fields(Reading)))


def is_html(mime: str, body: bytes) -> bool:
    """Whether an answer is a page: by its type, or by its first bytes when it names none."""
    if mime:
        return mime in PAGE_TYPES
    start = body[:512].lstrip().lower()
    return start.startswith((b"<!doctype html", b"<html", b"<head", b"<body"))


def read_task(task: Task, scope: Scope) -> Reading:
    """Read one answer, as a child is given it."""
    return read_answer(*task[:3], scope, *task[3:])


def read_answer(
    url: str, content_type: str, body: bytes, scope: Scope, hashed: str = "", earlier: Earlier | None = None
) -> Reading:
    """Read one answer with a body in memory."""
    mime = content_type.partition(";")[0].strip().lower()
    reading = Reading("page" if is_html(mime, body) else "file")
    reading.digest = hashed or digest(body)
    reading.packed, reading.data = pack(body, mime)
    links: list[Link] = []
    made = b""
    base = url
    if reading.type == "page":
        decoded = decode(body, content_type)
        reading.encoding, reading.doubtful = decoded.encoding, decoded.doubtful
        try:
            found = glance(decoded.source(body))
        except FerryError as problem:
            reading.fault = str(problem)
            return reading
        reading.facts = facts = found.facts
        address = scope.normal(url)
        key = address.key if address else url
        reading.refusal = refusal(key, facts.title, facts.headings, found.seen, facts.words, found.asks_password)
        if reading.refusal:
            return reading
        if found.base:
            joined = scope.normal(found.base, url)
            base = str(joined) if joined else url
        links, made = found.links, found.make
        if earlier is not None:
            reading.steady = _steady(decode(earlier.body, content_type).text, decoded.source(body), earlier.spots)
    elif mime == "text/css":
        links = [Link(written, how, True) for how, written in css_links(decode(body, content_type).text)]
    _resolve(reading, links, base, scope)
    if reading.facts is not None:
        findings = reading.facts.findings()
        if reading.doubtful:
            findings.append(f"encoding doubtful: {reading.doubtful}")
        reading.said = (as_json(reading.facts.as_json()), as_json(findings), made)
    return reading


def _steady(was: str, now: bytes, spots: frozenset[Spot]) -> bool:
    try:
        return steady(was, spots) == steady(now, spots)
    except FerryError:  # the earlier one was nested beyond reason
        return False


def _resolve(reading: Reading, links: list[Link], base: str, scope: Scope) -> None:
    seen: set[tuple[str, str, str]] = set()
    secure = base.startswith("https:")
    for link in links:
        written = link.raw.strip()
        words = link.words
        if len(written) > LONGEST or (written, link.how, words) in seen:
            continue
        seen.add((written, link.how, words))
        resolved = scope.reference(written, base)
        if resolved is None:
            continue
        address, spelling = resolved
        if link.how == CODE and scope.shut_out(address, is_file=True, depth=0) is not KeptOut.OTHER_HOST:
            continue  # what a script asks of the site itself is no address that a visitor has
        url = str(address)
        wants_file = link.wants_file or looks_like_file(address.path)
        if secure and reading.facts is not None and link.wants_file and written[:5].lower() == "http:":
            reading.facts.insecure += 1
        reading.refs.append((url, wants_file, link.how, written[:2000], words, spelling))
