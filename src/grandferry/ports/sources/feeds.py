"""Feeds (RSS 0.9x to 2.0, RSS 1.0, Atom: RFC 4287) and the RSS-based export files of blogs, read record by record.

The file is never held as a whole, so that one of hundreds of megabytes takes no more memory than its largest record.
Elements are told by their local names, since the namespaces of export files have changed with every version. Kinds,
states and fields are taken as the file names them: what nobody here has heard of is a record like any other. No entity
of the file is looked up outside it, or spelled out.
"""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any, BinaryIO

from lxml import etree

from grandferry.core.errors import FerryError
from grandferry.core.records.record import Comment, Record

_NOTHING = re.compile(r"^0000-00-00")
_ROOTS = {"rss": "a feed", "RDF": "a feed", "feed": "a feed"}
_PUBLISHED = "post_date_gmt post_date pubDate published issued date updated".split()
_MODIFIED = "post_modified_gmt post_modified updated modified".split()
_APART = frozenset(
    "title link guid pubDate date creator author description summary subtitle content encoded category comment "
    "published updated modified issued subject id post_type status post_date post_date_gmt post_modified "
    "post_modified_gmt attachment_url postmeta enclosure excerpt".split()
)


_CONTROLS = bytes(sorted(set(range(32)) - {9, 10, 13}))
# what libxml2 calls the end of a file that is not its end
_ENDS = frozenset(
    "ERR_TAG_NOT_FINISHED ERR_DOCUMENT_END ERR_DOCUMENT_EMPTY ERR_CDATA_NOT_FINISHED ERR_COMMENT_NOT_FINISHED "
    "ERR_LTSLASH_REQUIRED ERR_GT_REQUIRED ERR_ATTRIBUTE_NOT_FINISHED ERR_ATTRIBUTE_NOT_STARTED".split()
)


class DamagedFile(FerryError):
    """A file that ends, or breaks, before its end. What was read until there is good."""


def records_of(file: BinaryIO) -> Iterator[Record]:
    """The records of a feed or an export file, in their order. Raises FerryError for a file that is none, DamagedFile
    when it breaks off after the last record that could be read."""
    authors: dict[str, str] = {}
    root = ""
    reading = etree.iterparse(
        _Clean(file), events=("start", "end"), recover=True, resolve_entities=False, no_network=True, huge_tree=True
    )
    depth = 0
    try:
        for event, element in reading:
            name = _name(element)
            if event == "start":
                depth += 1
                if depth == 1:
                    root = name
                    if root not in _ROOTS:
                        break
                continue
            depth -= 1
            if name == "author" and depth == 2 and (login := _child(element, "author_login")):
                authors[login] = _child(element, "author_display_name") or login
            if name in ("item", "entry") and depth <= 2:
                if (last := reading.error_log.last_error) is not None and last.type_name in _ENDS:
                    break  # the file ended within it
                yield _record(element, authors)
                _forget(element)
    except etree.XMLSyntaxError as problem:
        raise _damaged(problem.position[0], problem.msg or "") from None
    if root not in _ROOTS:
        raise FerryError(
            f"The file is no feed and no export file: it begins with <{root or '?'}>.",
            "It should be RSS, Atom, or the XML that a blog gives out.",
        )
    ended = [one for one in reading.error_log if one.type_name in _ENDS]
    if ended:
        raise _damaged(ended[0].line, ended[0].message)


class _Clean:
    """A file without the control characters that XML forbids, and that old texts are full of."""

    def __init__(self, file: BinaryIO):
        self._file = file
        self._wide: bool | None = None  # UTF-16, of which single bytes say nothing

    def read(self, size: int = -1) -> bytes:
        part = self._file.read(size)
        if self._wide is None:
            self._wide = part[:2] in (b"\xff\xfe", b"\xfe\xff", b"<\x00", b"\x00<")
        if self._wide:
            return part
        while part and not (clean := part.translate(None, _CONTROLS)):
            part = self._file.read(size)
        return clean if part else part


def _damaged(line: int, why: str) -> DamagedFile:
    return DamagedFile(
        f"The file is damaged at line {line:,} ({why.strip() or 'it ends there'}); what stands behind it was not read.",
        "Ask for it again, or mend that line.",
    )


def _forget(element: Any) -> None:
    """Let go of a record that has been read, and of those before it."""
    element.clear()
    above = element.getparent()
    while above is not None and (before := element.getprevious()) is not None:
        above.remove(before)


def _name(element: Any) -> str:
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _text(element: Any) -> str:
    return "".join(element.itertext()).strip()


def _child(element: Any, *names: str) -> str:
    """The text of the first child of one of these names that has any, the names in turn."""
    for wanted in names:
        for child in element:
            if _name(child) == wanted and (text := _text(child)):
                return text
    return ""


def _record(element: Any, authors: dict[str, str]) -> Record:
    record = Record(line=element.sourceline or 0)
    record.title = _child(element, "title")
    record.address = _address(element)
    record.published = moment(*(_child(element, name) for name in _PUBLISHED))
    record.modified = moment(*(_child(element, name) for name in _MODIFIED))
    record.author = _author(element, authors)
    record.kind = _child(element, "post_type") or record.kind
    record.state = _child(element, "status") or record.state
    record.content = _content(element)
    record.summary = _child(element, "summary") or (_child(element, "description") if record.content else "")
    if not record.content:
        record.content = _child(element, "description", "summary")
    for child in element:
        name = _name(child)
        if name == "category" or name == "subject":
            sort = child.get("domain") or child.get("scheme") or "category"
            text = child.get("label") or child.get("term") or _text(child)
            if text:
                record.terms.setdefault(sort, []).append(text)
        elif name == "comment" and len(child):
            record.comments.append(_comment(child))
        elif name == "enclosure" and child.get("url"):
            record.files.append(child.get("url"))
        elif name == "link" and child.get("rel") == "enclosure" and child.get("href"):
            record.files.append(child.get("href"))
        elif name == "attachment_url" and (text := _text(child)):
            record.files.append(text)
        elif name == "encoded" and "excerpt" in (child.tag if isinstance(child.tag, str) else ""):
            record.summary = _text(child) or record.summary
        elif name == "postmeta":
            if key := _child(child, "meta_key"):
                record.fields[key] = _child(child, "meta_value")
        elif name not in _APART and name and not len(child) and (text := _text(child)):
            record.fields.setdefault(name, text)
    return record


def _address(element: Any) -> str:
    for child in element:
        if _name(child) == "link":
            if child.get("href") and child.get("rel", "alternate") == "alternate":
                return str(child.get("href"))
            if not child.get("href") and (text := _text(child)):
                return text
    for child in element:
        if _name(child) in ("guid", "id") and child.get("isPermaLink") != "false":
            text = _text(child)
            if text.startswith(("http://", "https://")):
                return text
    return ""


def _author(element: Any, authors: dict[str, str]) -> str:
    for child in element:
        if _name(child) == "author" and len(child):
            return _child(child, "name", "email")
    said = _child(element, "creator", "author")
    return authors.get(said, said)


def _content(element: Any) -> str:
    """The content as HTML: a text that spells it, or elements that are it (Atom, type xhtml)."""
    for child in element:
        name = _name(child)
        if name == "encoded" and "excerpt" not in str(child.tag) and (text := _text(child)):
            return text
        if name == "content":
            if child.get("type") == "xhtml" or len(child):
                inner = child[0] if len(child) == 1 and _name(child[0]) == "div" else child
                return _inside(inner)
            if text := _text(child):
                return _escaped(text) if child.get("type", "text") == "text" else text
    return ""


def _inside(element: Any) -> str:
    parts = [_escaped(element.text or "")]
    parts += [etree.tostring(child, encoding="unicode", method="html") for child in element]
    return re.sub(r'\sxmlns(?::\w+)?="[^"]*"', "", "".join(parts)).strip()


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _comment(element: Any) -> Comment:
    approved = _child(element, "comment_approved")
    return Comment(
        author=_child(element, "comment_author"),
        at=moment(_child(element, "comment_date_gmt"), _child(element, "comment_date")),
        state={"1": "approved", "0": "waiting"}.get(approved, approved),
        text=_child(element, "comment_content"),
    )


def moment(*written: str) -> str:
    """The first of some moments that can be read (RFC 822, RFC 3339, or a date and a time with a blank between), as ISO
    8601; one that is before all time is none. "" for none."""
    for text in written:
        text = text.strip()
        if not text or _NOTHING.match(text):
            continue
        with contextlib.suppress(ValueError):
            return datetime.fromisoformat(text.replace("Z", "+00:00")).isoformat()
        with contextlib.suppress(ValueError, TypeError, IndexError):
            found = parsedate_to_datetime(text)
            return (found if found.tzinfo else found.replace(tzinfo=UTC)).isoformat()
    return ""
