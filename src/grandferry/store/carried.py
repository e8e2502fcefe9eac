"""Files that are carried: what was captured, where each goes, what becomes of it."""

from __future__ import annotations

from typing import NamedTuple

from grandferry.core.route.places import CapturedFile, PlacedFile

from .db import many, rows, typed


def captured(crossing: int) -> list[CapturedFile]:
    """Every captured file, in order of its url."""
    return typed(
        CapturedFile,
        "SELECT a.id, a.url, a.key, a.host, c.body, a.mime, a.bytes, coalesce((SELECT r.words FROM reference r WHERE "
        "r.target_id = a.id AND r.words != '' AND r.how != 'css' ORDER BY r.id LIMIT 1), ''), coalesce((SELECT p.key "
        "FROM reference r JOIN address p ON p.id = r.source_id WHERE r.target_id = a.id AND p.type = 'page' ORDER BY "
        "r.id LIMIT 1), ''), coalesce(l.mime, ''), coalesce(l.width, 0), coalesce(l.height, 0) FROM address a JOIN "
        "capture c ON c.id = a.capture LEFT JOIN looked l ON l.body = c.body WHERE a.crossing_id = ? AND a.side = "
        "'old' AND a.type = 'file' AND a.status = 200 AND c.body != '' ORDER BY a.url",
        crossing,
    )


def settled(crossing: int) -> dict[str, tuple[str, str, str, str, str]]:
    """What is kept of each file, by its body: name, type, new path, text, and why it is set aside."""
    found = rows("SELECT body, name, mime, new_path, alt, reason FROM file WHERE crossing_id = ?", crossing)
    return {body: tuple(row) for body, *row in found}


def store(crossing: int, files: list[PlacedFile], sources: list[tuple[str, int]]) -> None:
    """Files, and their sources (body, address)."""
    many(
        "INSERT INTO file (crossing_id, body, name, mime, bytes, new_path, alt, fate, reason) VALUES (?, ?, ?, ?, ?, "
        "?, ?, ?, ?) ON CONFLICT (crossing_id, body) DO UPDATE SET name = excluded.name, mime = excluded.mime, "
        "new_path = excluded.new_path, alt = excluded.alt, reason = excluded.reason, "
        "fate = CASE WHEN file.fate = 'carried' AND excluded.fate = 'unaccounted' AND file.new_path = "
        "excluded.new_path THEN 'carried' ELSE excluded.fate END",
        [(crossing, *file) for file in files],
    )
    ids = dict(rows("SELECT body, id FROM file WHERE crossing_id = ?", crossing))
    wanted = {file.body for file in files}
    many("DELETE FROM file WHERE id = ?", [(id_,) for body, id_ in ids.items() if body not in wanted])
    many("INSERT OR IGNORE INTO file_source (file_id, address_id) VALUES (?, ?)", [(ids[b], a) for b, a in sources])


class KeptFile(NamedTuple):
    """A file as it is kept."""

    id: int
    body: str
    name: str
    mime: str
    new_path: str
    alt: str
    fate: str


def files(crossing: int) -> list[KeptFile]:
    """All files, in order of their new paths."""
    names = ", ".join(KeptFile._fields)
    return typed(KeptFile, f"SELECT {names} FROM file WHERE crossing_id = ? ORDER BY new_path, id", crossing)


def places(crossing: int) -> dict[str, str]:
    """old url -> new path of every file that is carried or to be carried."""
    return dict(
        rows(
            "SELECT a.url, f.new_path FROM file f JOIN file_source s ON s.file_id = f.id JOIN address a ON a.id = "
            "s.address_id WHERE f.crossing_id = ? AND f.new_path != ''",
            crossing,
        )
    )


def fates(crossing: int) -> dict[str, int]:
    return dict(rows("SELECT fate, count(*) FROM file WHERE crossing_id = ? GROUP BY fate", crossing))
