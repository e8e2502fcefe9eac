"""What a person says of files: kept by what the plan calls them, whatever becomes of their captures."""

from __future__ import annotations

from collections.abc import Mapping

from grandferry.core.media.said import FileSaid

from .db import many, one, rows


def as_json(said: FileSaid) -> str:
    """As it is kept and noted in a change set: what says nothing is left out."""
    return said.model_dump_json(exclude_defaults=True)


def every(crossing: int) -> list[FileSaid]:
    """All of it, in order of what the plan calls the files."""
    found = rows("SELECT content FROM said WHERE crossing_id = ? ORDER BY file", crossing)
    return [FileSaid.model_validate_json(content) for (content,) in found]


def of_file(crossing: int, file: str) -> FileSaid:
    """What is said of one file."""
    found = raw(crossing, file)
    return FileSaid(file=file) if found is None else FileSaid.model_validate_json(found)


def raw(crossing: int, file: str) -> str | None:
    found = one("SELECT content FROM said WHERE crossing_id = ? AND file = ?", crossing, file)
    return None if found is None else str(found)


def put_raw(crossing: int, wanted: Mapping[str, str | None]) -> None:
    """Set lines (JSON), or take them away (None), within the caller's transaction."""
    many("DELETE FROM said WHERE crossing_id = ? AND file = ?", [(crossing, file) for file in wanted])
    many(
        "INSERT INTO said (crossing_id, file, content) VALUES (?, ?, ?)",
        [(crossing, file, content) for file, content in wanted.items() if content is not None],
    )
