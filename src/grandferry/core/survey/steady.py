"""What a page gives anew at every request (tokens, nonces, times, counters), told apart from a change of the page.

A page asked twice at once shows it: whatever differs is nobody's change. The spots found so are left out when an
earlier capture of any page is held against a later one.
"""

from __future__ import annotations

import hashlib
import re
from collections import Counter
from collections.abc import Iterable, Iterator
from difflib import SequenceMatcher
from typing import NamedTuple
from urllib.parse import parse_qsl

from selectolax.lexbor import LexborNode

from ..page import open_page
from ..references import ANYWHERE, OF

MOST_PIECES = 4000  # of a page whose pieces have to be aligned; a larger one is not looked into
ALL = "*"  # of a spot: the whole of it changes
COMES = "-"  # … it is there at one request and not at the next

_ADDRESSES = {c.attribute for named in OF.values() for c in named} | {c.attribute for c in ANYWHERE}
_TOKEN = re.compile(r"[A-Za-z0-9_+/=-]{16,}|[0-9A-Fa-f]{8,}|[0-9]+")


class Piece(NamedTuple):
    """A piece of a page: ``brief`` its element in short and ``path`` in full; ``where``: the one that a spot of
    this sort is known by; ``what``: "" a text, ``@name`` an attribute, ``!`` a comment, ``<`` the element itself."""

    brief: str
    where: str
    what: str
    path: str
    value: str


class Spot(NamedTuple):
    """A spot of a page that changes at every request. ``how``: ALL, COMES, ``?name path`` a parameter of an address
    (without a path: of any), ``~text`` a text of this form, its numbers and tokens as ``#``."""

    where: str
    what: str
    how: str


def _form(text: str) -> str:
    return _TOKEN.sub("#", text)


def _brief(node: LexborNode, attrs: dict[str, str | None]) -> tuple[str, bool]:
    """An element in short, and whether that names it."""
    named = next((f"[{name}={attrs[name]}]" for name in ("id", "name", "property", "rel") if attrs.get(name)), "")
    held = "".join(f".{name}" for name in sorted((attrs.get("class") or "").split()))
    return f"{node.tag}{named}{'' if named else _form(held)}", bool(named)


def pieces(source: str | bytes) -> Iterator[Piece]:
    """All that a page says, in document order. Raises UnreadablePage when it is nested beyond reason."""
    root = open_page(source if isinstance(source, bytes) else source.encode("utf-8", "surrogatepass")).root
    stack: list[tuple[LexborNode | None, str, str, Counter[str]]] = [(root, "", "", Counter())]
    while stack:
        node, above, path, before = stack.pop()
        if node is None:
            continue
        if node.next is not None:
            stack.append((node.next, above, path, before))
        tag = node.tag or ""
        if tag == "-text":
            text = " ".join((node.text_content or "").split())
            if text:
                yield Piece(above, above, "", path, text)
        elif tag == "-comment":
            yield Piece(above, above, "!", path, node.html or "")
        elif not tag.startswith("-"):
            attrs = node.attributes
            brief, named = _brief(node, attrs)
            before[tag] += 1
            here = f"{path}>{brief}:{before[tag]}"
            yield Piece(brief, brief, "<", here, "")
            for name, value in attrs.items():
                free = named or name == "nonce" or (name.startswith("data-") and name not in _ADDRESSES)
                where = brief if free or name in _ADDRESSES else here
                yield Piece(brief, where, f"@{name}", here, value or "")
            if node.child is not None:
                stack.append((node.child, f"{above.rpartition('>')[2]}>{brief}", here, Counter()))


def changing(first: str | bytes, second: str | bytes) -> set[Spot]:
    """The spots in which two answers to one question differ. Raises UnreadablePage."""
    one, two = list(pieces(first)), list(pieces(second))
    found: set[Spot] = set()
    for a, b in _side_by_side(one, two):
        if a is None or b is None:
            lone = a or b
            assert lone is not None
            found.add(Spot(lone.path, lone.what, COMES))
        elif a.value != b.value:
            found |= _differing(a, b)
    parameters: dict[tuple[str, str, str], set[str]] = {}
    for where, what, how in found:
        if how.startswith("?"):
            name, _, path = how.partition(" ")
            parameters.setdefault((where.partition(".")[0].partition("[")[0], what, name), set()).add(path)
    return found | {Spot(tag, what, name) for (tag, what, name), paths in parameters.items() if len(paths) > 1}


def _side_by_side(one: list[Piece], two: list[Piece]) -> Iterable[tuple[Piece | None, Piece | None]]:
    keys = [[(p.brief, p.what) for p in side] for side in (one, two)]
    if keys[0] == keys[1]:
        return zip(one, two, strict=True)
    if max(len(one), len(two)) > MOST_PIECES:
        return []
    made: list[tuple[Piece | None, Piece | None]] = []
    for same, a, b, c, d in SequenceMatcher(None, keys[0], keys[1], autojunk=False).get_opcodes():
        if same == "equal":
            made += zip(one[a:b], two[c:d], strict=True)
        else:
            made += [(piece, None) for piece in one[a:b]] + [(None, piece) for piece in two[c:d]]
    return made


def _differing(a: Piece, b: Piece) -> set[Spot]:
    if a.what[1:] in _ADDRESSES:
        path, query = _address(a.value)
        other_path, other = _address(b.value)
        if path != other_path:
            return {Spot(a.path, a.what, ALL)}
        names = {name for name, _ in set(query) ^ set(other)}
        return {Spot(a.where, a.what, f"?{name} {path}") for name in names}
    if a.what in ("", "!"):
        form = _form(a.value)
        return {Spot(a.where, a.what, f"~{form}") if form == _form(b.value) else Spot(a.path, a.what, ALL)}
    return {Spot(a.where, a.what, ALL)}


def _address(value: str) -> tuple[str, list[tuple[str, str]]]:
    path, _, query = value.strip().partition("?")
    return path, parse_qsl(query, keep_blank_values=True)


def steady(source: str | bytes, spots: frozenset[Spot]) -> str:
    """A hash of all that a page says, the spots left out that change at every request. Raises UnreadablePage."""
    made = hashlib.sha256()
    for brief, where, what, path, value in pieces(source):
        if (path, what, COMES) in spots:
            continue
        if (where, what, ALL) in spots or (path, what, ALL) in spots:
            value = ALL
        elif what in ("", "!"):
            if (where, what, form := f"~{_form(value)}") in spots:
                value = form
        elif what[1:] in _ADDRESSES and "?" in value:
            value = _without(spots, where, what, value)
        made.update(f"{brief}\x1f{what}\x1f{value}\x1e".encode("utf-8", "surrogatepass"))
    return made.hexdigest()


def _without(spots: frozenset[Spot], where: str, what: str, value: str) -> str:
    path, query = _address(value)
    tag = where.partition(".")[0].partition("[")[0]
    kept = [
        (name, held)
        for name, held in query
        if (where, what, f"?{name} {path}") not in spots and (tag, what, f"?{name}") not in spots
    ]
    return f"{path}?{kept}"
