"""Files of a side by their content: what they are, where they are shown, what is said of them, what becomes of them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, NamedTuple

from grandferry.core.filetypes import FileFamily, family_of_type
from grandferry.core.media.facts import Facts
from grandferry.core.side import Side

from .db import Part, as_json, many, rows, typed

# references that show a picture, where a text stands for it
SHOWN = ("img", "lazy img", "srcset", "picture", "input", "area")


def unlooked(side: Side) -> list[tuple[str, str, int]]:
    """(body, type as said, bytes) of captured files that nobody has looked at."""
    return rows(
        "SELECT c.body, min(a.mime), max(c.bytes) FROM address a JOIN capture c ON c.id = a.capture WHERE "
        "a.crossing_id = ? AND a.side = ? AND a.type = 'file' AND a.status = 200 AND c.body != '' AND NOT EXISTS "
        "(SELECT 1 FROM looked l WHERE l.body = c.body) GROUP BY c.body",
        side.crossing,
        side.name,
    )


def store(found: list[tuple[str, Facts]]) -> None:
    many(
        "INSERT OR REPLACE INTO looked (body, mime, width, height, fault) VALUES (?, ?, ?, ?, ?)",
        [(b, *f) for b, f in found],
    )


class MediaFile(NamedTuple):
    """A file by its content: ``id`` of the first of its ``sources`` addresses; on so many ``pages``, ``mute`` of them
    showing it without a text; ``elsewhere``: of a host other than the site's own; ``fault`` as ``core.media.facts`` has
    it; ``becomes``: the type it has where it goes; its ``role``, why it does not suit it (``core.media.said``), and
    whether a person said something of it."""

    id: int
    body: str
    url: str
    name: str
    mime: str
    bytes: int
    width: int
    height: int
    fault: str
    sources: int
    pages: int
    shown: int
    mute: int
    new_path: str
    fate: str
    reason: str
    elsewhere: int
    becomes: str
    role: str
    unsuited: str
    decided: int


_MARKS = ", ".join(f"'{how}'" for how in SHOWN)
_FILES = f"""
  SELECT min(a.id) AS id, c.body AS body, min(a.url) AS url, coalesce(f.name, '') AS name, coalesce(l.mime, a.mime) AS
  mime, max(c.bytes) AS bytes, coalesce(l.width, 0) AS width, coalesce(l.height, 0) AS height, coalesce(l.fault, '') AS
  fault, count(*) AS sources, coalesce(sum(u.pages), 0) AS pages, coalesce(sum(u.shown), 0) AS shown,
  coalesce(sum(u.mute), 0) AS mute, coalesce(f.new_path, '') AS new_path, coalesce(f.fate, '') AS fate,
  coalesce(f.reason, '') AS reason, max(a.host != ?) AS elsewhere, coalesce(f.mime, '') AS becomes,
  coalesce(s.role, '') AS role, coalesce(s.fault, '') AS unsuited, s.body IS NOT NULL AND s.said AS decided
  FROM address a JOIN capture c ON c.id = a.capture LEFT JOIN looked l ON l.body = c.body LEFT JOIN file f ON
  f.crossing_id = a.crossing_id AND f.body = c.body LEFT JOIN (SELECT target_id, count(DISTINCT source_id) AS pages,
  sum(how IN ({_MARKS})) AS shown, sum(how IN ({_MARKS}) AND words = '') AS mute FROM reference WHERE crossing_id = ?
  GROUP BY target_id) u ON u.target_id = a.id LEFT JOIN (SELECT key AS body, json_extract(value, '$[0]') AS role,
  json_extract(value, '$[1]') AS fault, json_extract(value, '$[2]') AS said FROM json_each(?)) s ON s.body = c.body
  WHERE a.crossing_id = ? AND a.side = 'old' AND a.type = 'file' AND a.status = 200 AND c.body != '' GROUP BY c.body
"""
Only = Literal["", "mute", "twins", "elsewhere", "fault", "unused", "role", "unsuited", "decided"]
ONLY: dict[Only, str] = {
    "": "1",
    "mute": "mute > 0",
    "twins": "sources > 1",
    "elsewhere": "elsewhere",
    "fault": "fault != ''",
    "unused": "pages = 0",
    "role": "role != ''",
    "unsuited": "unsuited != ''",
    "decided": "decided",
}
ORDERS = {"url": "url", "bytes": "bytes DESC", "pixels": "width * height DESC", "pages": "pages DESC"}


Stand = tuple[str, str, bool]  # role, why it does not suit, whether a person said something


def _all(crossing: int, home: str, search: str, stands: Mapping[str, Stand]) -> Part:
    part = Part(f"({_FILES}) WHERE 1", home, crossing, as_json(dict(stands)), crossing)
    return part.like(search, "url", "name", "new_path")


def of_fields(crossing: int, fields: list[str]) -> list[tuple[str, str]]:
    """(body, field) of the pictures that items have in fields of these names, in the order of their keys."""
    if not fields:
        return []
    where = Part("i.crossing_id = ? AND f.type = 'picture' AND f.lifted IS NOT NULL", crossing).any_of(
        "f.field", fields
    )
    return rows(
        "SELECT DISTINCT c.body, f.field FROM item_field f JOIN item i ON i.id = f.item_id JOIN address a ON "
        "a.crossing_id = i.crossing_id AND a.side = 'old' AND a.url = json_extract(f.lifted, '$.src') JOIN capture c "
        f"ON c.id = a.capture WHERE {where.sql} AND a.type = 'file' AND a.status = 200 AND c.body != '' ORDER BY "
        "f.field, c.body",
        *where.values,
    )


def sizes(some: list[str]) -> dict[str, tuple[int, int]]:
    """The pixels of files, by their bodies."""
    part = Part("1").any_of("body", some or ["-"])
    return {b: (w, h) for b, w, h in rows(f"SELECT body, width, height FROM looked WHERE {part.sql}", *part.values)}


def families(crossing: int, home: str) -> dict[FileFamily, int]:
    """How many files there are of each family."""
    found: dict[FileFamily, int] = {}
    part = _all(crossing, home, "", {})
    for mime, number in rows(f"SELECT mime, count(*) FROM {part.sql} GROUP BY mime", *part.values):
        family = family_of_type(mime)
        found[family] = found.get(family, 0) + number
    return found


def window(
    crossing: int,
    home: str,
    family: FileFamily | None,
    only: Only,
    order: str,
    search: str,
    offset: int,
    limit: int,
    stands: Mapping[str, Stand],
) -> tuple[int, list[MediaFile], dict[str, int]]:
    """(total, rows, how many there are of each that ``only`` asks for) of the files of a family (None: all)."""
    part = _all(crossing, home, search, stands)
    if family is not None:
        types = [mime for (mime,) in rows(f"SELECT DISTINCT mime FROM {part.sql}", *part.values)]
        part = part.any_of("mime", [mime for mime in types if family_of_type(mime) == family] or ["-"])
    sums = ", ".join(f"coalesce(sum({test}), 0)" for test in ONLY.values())
    counts = dict(zip(ONLY, rows(f"SELECT {sums} FROM {part.sql}", *part.values)[0], strict=True))
    columns = ", ".join(MediaFile._fields)
    found = typed(
        MediaFile,
        f"SELECT {columns} FROM {part.sql} AND {ONLY[only]} ORDER BY {ORDERS[order]}, id LIMIT ? OFFSET ?",
        *part.values,
        limit,
        offset,
    )
    return int(counts[only]), found, {name: int(number) for name, number in counts.items() if name}


def every(crossing: int, home: str, stands: Mapping[str, Stand]) -> list[MediaFile]:
    """All files, by their addresses."""
    part = _all(crossing, home, "", stands)
    columns = ", ".join(MediaFile._fields)
    return typed(MediaFile, f"SELECT {columns} FROM {part.sql} ORDER BY url, id", *part.values)


def every_address(crossing: int) -> dict[str, list[str]]:
    """The addresses of all files, by their bodies."""
    found: dict[str, list[str]] = {}
    for body, url in rows(
        "SELECT c.body, a.url FROM address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.side = "
        "'old' AND a.type = 'file' AND c.body != '' ORDER BY a.url",
        crossing,
    ):
        found.setdefault(body, []).append(url)
    return found


def every_text(crossing: int) -> dict[str, list[str]]:
    """The texts that stand for all pictures, each once, by their bodies."""
    found: dict[str, list[str]] = {}
    for body, words in rows(
        "SELECT DISTINCT c.body, r.words FROM reference r JOIN address a ON a.id = r.target_id JOIN capture c ON c.id "
        f"= a.capture WHERE r.crossing_id = ? AND a.side = 'old' AND a.type = 'file' AND r.how IN ({_MARKS}) AND "
        "r.words != '' ORDER BY 1, 2",
        crossing,
    ):
        found.setdefault(body, []).append(words)
    return found


def file_of(crossing: int, home: str, address: int, stands: Mapping[str, Stand]) -> MediaFile | None:
    """The file that was had from an address."""
    part = _all(crossing, home, "", stands)
    columns = ", ".join(MediaFile._fields)
    body = body_of(crossing, address)
    found = typed(MediaFile, f"SELECT {columns} FROM {part.sql} AND body = ?", *part.values, body or "-")
    return found[0] if found else None


class Use(NamedTuple):
    """Where a file is shown or linked: the page, how, and what is said there for it (of a picture its text)."""

    page: int
    key: str
    title: str
    how: str
    words: str


class Source(NamedTuple):
    """An address that a file was had from."""

    id: int
    url: str


def sources(crossing: int, address: int) -> list[Source]:
    """All addresses of the file that was had from one."""
    return typed(
        Source,
        "SELECT a.id, a.url FROM address a JOIN capture c ON c.id = a.capture WHERE a.crossing_id = ? AND a.side = "
        "'old' AND a.type = 'file' AND c.body = ? ORDER BY a.url",
        crossing,
        body_of(crossing, address) or "-",
    )


def body_of(crossing: int, address: int) -> str | None:
    """The body of a file by one of its addresses."""
    found = rows(
        "SELECT c.body FROM address a JOIN capture c ON c.id = a.capture WHERE a.id = ? AND a.crossing_id = ? AND "
        "a.type = 'file' AND c.body != ''",
        address,
        crossing,
    )
    return str(found[0][0]) if found else None


def uses(crossing: int, addresses: list[int], limit: int) -> tuple[int, list[Use]]:
    """(all, the first) places where a file is shown or linked, by its addresses."""
    part = Part("r.crossing_id = ?", crossing).any_of("r.target_id", addresses)
    table = "reference r JOIN address p ON p.id = r.source_id"
    total = rows(f"SELECT count(*) FROM {table} WHERE {part.sql}", *part.values)[0][0]
    return int(total), typed(
        Use,
        f"SELECT p.id, p.key, p.title, r.how, r.words FROM {table} WHERE {part.sql} ORDER BY p.key, r.id LIMIT ?",
        *part.values,
        limit,
    )


class Missing(NamedTuple):
    """A file that pages show or link, and that could not be had; ``problem``: why, “page” where an HTML page came."""

    id: int
    url: str
    status: int
    problem: str
    pages: int


def missing(crossing: int) -> list[Missing]:
    """Every one of them, those on most pages first."""
    return typed(
        Missing,
        "SELECT a.id, a.url, a.status, CASE WHEN a.state = 'done' AND a.status = 200 THEN 'page' ELSE a.reason END, "
        "(SELECT count(DISTINCT r.source_id) FROM reference r WHERE r.target_id = a.id) AS pages FROM address a WHERE "
        "a.crossing_id = ? AND a.side = 'old' AND (a.type = 'file' OR a.wants_file) AND a.state IN ('done', 'failed') "
        "AND (a.state = 'failed' OR a.status != 200 OR a.type = 'page') AND a.status NOT BETWEEN 300 AND 399 ORDER BY "
        "pages DESC, a.url",
        crossing,
    )
