"""Schema versions. Each from 7 on is one file of statements, ``v8.sql`` and so on, run in a transaction of its own and
never changed once released. A new file is made from ``now.sql``, which is what they come to."""

from __future__ import annotations

import sqlite3
from importlib.resources import files

import peewee

from ..db import APPLICATION_ID, StoreError
from .before import STEPS

FIRST = 7  # the first version that is a file of statements
VERSION = 20


def _statements(name: str) -> list[str]:
    """The statements of a file (a trigger holds several)."""
    found, part = [], ""
    for line in (files(__package__) / f"{name}.sql").read_text("utf-8").splitlines(keepends=True):
        if not part and (line.startswith("--") or not line.strip()):
            continue
        part += line
        if sqlite3.complete_statement(part):
            found.append(part.strip())
            part = ""
    return found


def _step(database: peewee.SqliteDatabase, version: int) -> int:
    """Take a file one step on; gives the version it is at then."""
    if 0 < version < FIRST:
        STEPS[version](database)
        return version + 1
    name, reached = ("now", VERSION) if version == 0 else (f"v{version + 1}", version + 1)
    for statement in _statements(name):
        database.execute_sql(statement)
    return reached


def migrate(database: peewee.SqliteDatabase) -> None:
    """Bring the schema from its version to ours, one step a transaction. Raises StoreError for a newer file."""
    version = database.execute_sql("PRAGMA user_version").fetchone()[0]
    mark = database.execute_sql("PRAGMA application_id").fetchone()[0]
    if version > VERSION:
        raise StoreError(
            f"This workspace has schema version {version}; this program knows {VERSION}.",
            "Install a newer Grand Ferry.",
        )
    if version and mark != APPLICATION_ID:
        raise StoreError("The file grandferry.sqlite is not a Grand Ferry workspace.", "Choose another folder.")
    while version < VERSION:
        with database.atomic("EXCLUSIVE"):
            version = database.execute_sql("PRAGMA user_version").fetchone()[0]  # another process may have been quicker
            if version < VERSION:
                version = _step(database, version)
                database.execute_sql(f"PRAGMA user_version = {version}")
                database.execute_sql(f"PRAGMA application_id = {APPLICATION_ID}")
