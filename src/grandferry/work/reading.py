"""What is read from one answer in a child process: text, facts, references, packed body. No database here."""

from __future__ import annotations

from dataclasses import dataclass, field

from grandferry.core.address import Address, Scope
from grandferry.core.encoding import decode
from grandferry.core.errors import FerryError
from grandferry.core.page import parse
from grandferry.core.survey.facts import Facts, read_facts
from grandferry.core.survey.links import css_links, looks_like_file, page_links
from grandferry.core.survey.refusals import refusal
from grandferry.store.bodies import digest, pack

HTML = frozenset(["text/html", "application/xhtml+xml"])


@dataclass(frozen=True, slots=True)
class Ref:
    """A reference: the address it leads to, and how it was written."""

    address: Address
    wants_file: bool
    node: int
    how: str
    raw: str
    words: str
    spelling: str = ""

    @property
    def url(self) -> str:
        return str(self.address)


@dataclass(slots=True)
class Reading:
    """``sort`` is page or file; ``refs`` are in document order; ``fault`` says why a page could not be read."""

    sort: str
    digest: str = ""
    packed: int = 0
    data: bytes = b""
    encoding: str = ""
    doubtful: str = ""
    facts: Facts | None = None
    refs: list[Ref] = field(default_factory=list)
    fault: str = ""
    refusal: str = ""  # why the page is no content


def is_html(mime: str, body: bytes) -> bool:
    """Whether an answer is a page: by its type, or by its first bytes when it names none."""
    if mime:
        return mime in HTML
    start = body[:512].lstrip().lower()
    return start.startswith((b"<!doctype html", b"<html", b"<head", b"<body"))


def read_answer(url: str, content_type: str, body: bytes, scope: Scope, hashed: str = "") -> Reading:
    """Read one answer with a body in memory."""
    mime = content_type.partition(";")[0].strip().lower()
    reading = Reading("page" if is_html(mime, body) else "file")
    reading.digest = hashed or digest(body)
    reading.packed, reading.data = pack(body, mime)
    raw: list[tuple[int, str, str, bool, str]] = []
    base = url
    if reading.sort == "page":
        decoded = decode(body, content_type)
        reading.encoding, reading.doubtful = decoded.encoding, decoded.doubtful
        try:
            page = parse(decoded.text)
        except FerryError as problem:
            reading.fault = str(problem)
            return reading
        reading.facts = facts = read_facts(page)
        address = scope.normal(url)
        reading.refusal = refusal(page, address.key if address else url, facts.title, facts.headings, facts.words)
        if reading.refusal:
            return reading
        based, links = page_links(page)
        if based:
            joined = scope.normal(based, url)
            base = str(joined) if joined else url
        raw = [(link.node, link.raw, link.how, link.wants_file, link.words) for link in links]
    elif mime == "text/css":
        raw = [(-1, found, how, True, "") for how, found in css_links(decode(body, content_type).text)]
    seen: set[tuple[int, str, str]] = set()
    for node, written, how, wants_file, words in raw:
        written = written.strip()
        if (node, written, how) in seen or len(written) > 8000:
            continue
        seen.add((node, written, how))
        address = scope.normal(written, base)
        if address is not None:
            reading.refs.append(
                Ref(
                    address,
                    wants_file or looks_like_file(address.path),
                    node,
                    how,
                    written[:2000],
                    words,
                    scope.spelling(written, base, address),
                )
            )
    return reading
