"""The database of records: its connection, transactions, and questions in SQL. It is opened by ``workspace``."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, TypeVar

import peewee
from pydantic_core import to_json

from grandferry.core.address import spellings
from grandferry.core.errors import FerryError

APPLICATION_ID = 0x6F657279  # marks the file as ours
PRAGMAS: dict[str, object] = {
    "journal_mode": "wal",
    "foreign_keys": 1,
    "synchronous": "normal",
    "busy_timeout": 10000,
    "cache_size": -32000,
    "mmap_size": 1 << 30,  # a connection lives for one request; without this each begins with a cold cache
}
# for a process that keeps its connection and writes much: what is written is moved into the file less often
WRITER_PRAGMAS: dict[str, object] = {"mmap_size": 0, "wal_autocheckpoint": 8000}

_FULL = (errno.ENOSPC, errno.EDQUOT)

R = TypeVar("R")
records: peewee.DatabaseProxy = peewee.DatabaseProxy()
_folder: Path | None = None


class StoreError(FerryError):
    """The workspace cannot be opened or written; the text says why."""


def fault(problem: BaseException) -> str:
    """The sentence for a fault of the disk or the database: what a person can do about it."""
    for one in _chain(problem):
        code = getattr(one, "sqlite_errorcode", 0) & 0xFF
        if code == sqlite3.SQLITE_FULL or getattr(one, "errno", 0) in _FULL or "disk is full" in str(one):
            return "The disk is full: nothing more can be written to the workspace. Make room, then try again."
        if code in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED) or "is locked" in str(one):
            return "Another program holds the workspace's database. Try again in a moment."
        if code in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN, sqlite3.SQLITE_PERM):
            return f"The workspace cannot be written ({one}). Look at who owns its folder."
        if code in (sqlite3.SQLITE_CORRUPT, sqlite3.SQLITE_NOTADB):
            return f"The workspace's database is damaged ({one}). Take it back from a copy."
    if isinstance(problem, OSError):  # of a file or of a connection: only the system knows
        return f"The system refused it: {problem}."
    return f"The workspace cannot be read or written ({problem})."


def _chain(problem: BaseException) -> Iterator[BaseException]:
    """An error and those it came up over: a transaction that the database ended by itself cannot be rolled back, and
    what it says of that hides why."""
    seen: BaseException | None = problem
    while seen is not None:
        yield seen
        seen = seen.__cause__ or seen.__context__


class Record(peewee.Model):
    class Meta:
        database = records


def remember_folder(folder: Path | None) -> None:
    """Note the folder of the workspace that this process has open, None when it has none (for ``workspace`` alone)."""
    global _folder
    _folder = folder


def is_open() -> bool:
    """Whether this process has a workspace open."""
    return _folder is not None


def workspace_folder() -> Path:
    """The folder of the open workspace. Raises StoreError when none is open."""
    if _folder is None:
        raise StoreError("No workspace is open.")
    return _folder


@contextmanager
def transaction() -> Iterator[None]:
    """One immediate transaction: it takes the write lock at once, so that it can never fail half-way for it."""
    with records.atomic("IMMEDIATE"):
        yield


@contextmanager
def unchecked() -> Iterator[None]:
    """Foreign keys are not looked up while a job writes rows whose keys it made itself, which would cost a fifth of its
    writing. Not within a transaction."""
    records.execute_sql("PRAGMA foreign_keys = 0")
    try:
        yield
    finally:
        records.execute_sql("PRAGMA foreign_keys = 1")


@contextmanager
def connection() -> Iterator[None]:
    """A connection for one request of a thread, closed after it."""
    records.connect(reuse_if_open=True)
    try:
        yield
    finally:
        if not records.is_closed():
            records.close()


def many(sql: str, rows: list[tuple[Any, ...]]) -> None:
    """``executemany`` on the open connection (far quicker than the model layer for long lists)."""
    if rows:
        records.connection().executemany(sql, rows)


def rows(sql: str, *values: Any) -> list[tuple[Any, ...]]:
    return list(records.execute_sql(sql, values).fetchall())


def typed(row: Callable[..., R], sql: str, *values: Any) -> list[R]:
    """The rows as values of a type whose fields stand in the order of the columns."""
    return [row(*found) for found in rows(sql, *values)]


def one(sql: str, *values: Any) -> Any:
    """The first column of the first row, None when there is none."""
    row = records.execute_sql(sql, values).fetchone()
    return row[0] if row else None


def as_json(value: Any) -> str:
    """A value as JSON for a column, far quicker than ``json.dumps``."""
    return to_json(value).decode()


def holds(text: str, *columns: str) -> tuple[str, list[str]]:
    """The condition that one of the columns holds a text as it is written, or as an address writes it, and the values
    of its marks."""
    ways = [way.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") for way in spellings(text)]
    condition = " OR ".join(f"{column} LIKE ? ESCAPE '\\'" for column in columns for _ in ways)
    return f"({condition})", [f"%{way}%" for _ in columns for way in ways]


@dataclass(frozen=True, slots=True)
class Part:
    """A piece of SQL with the values of its marks; conditions are added at its end."""

    sql: str
    values: tuple[Any, ...]

    def __init__(self, sql: str, *values: Any) -> None:
        object.__setattr__(self, "sql", sql)
        object.__setattr__(self, "values", values)

    def and_(self, condition: str, *values: Any) -> Part:
        return Part(f"{self.sql} AND {condition}", *self.values, *values)

    def any_of(self, expression: str, wanted: list[str]) -> Part:
        """Only where the expression has one of these values; as it is when none is named."""
        return self.and_(f"{expression} IN ({','.join('?' * len(wanted))})", *wanted) if wanted else self

    def like(self, text: str, *columns: str) -> Part:
        """Only where one of the columns holds the text; as it is without a text."""
        if not text:
            return self
        condition, values = holds(text, *columns)
        return self.and_(condition, *values)


def now() -> str:
    """The time as ISO 8601 in UTC, to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")
