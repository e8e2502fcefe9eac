"""Captured bodies and blocks, stored once by their SHA-256; large ones lie beside the database."""

from __future__ import annotations

import hashlib
import io
import os
import zlib
from pathlib import Path
from typing import BinaryIO

import peewee
from isal import isal_zlib

from grandferry.core.filetypes import is_packed

from .db import PRAGMAS, StoreError

BESIDE = 1_000_000  # bytes; larger bodies become files of their own
PAGE = 16_384  # bytes of a new database's pages: a packed page of a site fits in one, and is written in half the time

_database: peewee.SqliteDatabase | None = None
_files: Path | None = None


def open_bodies(folder: Path, pragmas: dict[str, object] = PRAGMAS) -> None:
    global _database, _files
    _files = folder / "files"
    (_files / "tmp").mkdir(parents=True, exist_ok=True)
    _database = peewee.SqliteDatabase(str(folder / "bodies.sqlite"), pragmas={"page_size": PAGE, **pragmas}, timeout=10)
    _database.connect(reuse_if_open=True)
    # rows in the order they come, the hash in an index: bodies sorted by their hash take twice the time to write
    _database.execute_sql(
        "CREATE TABLE IF NOT EXISTS body (hash TEXT PRIMARY KEY, size INTEGER NOT NULL, packed INTEGER NOT NULL, data "
        "BLOB)"
    )


def close_bodies() -> None:
    global _database
    if _database is not None and not _database.is_closed():
        _database.close()
    _database = None


def _open() -> tuple[peewee.SqliteDatabase, Path]:
    if _database is None or _files is None:
        raise StoreError("No workspace is open.")
    return _database, _files


def digest(body: bytes) -> str:
    return hashlib.sha256(body).hexdigest()


def pack(body: bytes, mime: str = "") -> tuple[int, bytes]:
    """(1, zlib data) when compressing gains anything, else (0, the body itself). At the quickest level: a seventh
    larger than the next, in half the time."""
    if len(body) > 200 and not is_packed(mime):
        packed = isal_zlib.compress(body, 0)
        if len(packed) < len(body):
            return 1, packed
    return 0, body


def file_of(digest_: str) -> Path:
    return _open()[1] / digest_[:2] / digest_


def temporary() -> Path:
    """A folder on the same disk for bodies that are still arriving."""
    return _open()[1] / "tmp"


def keep_file(path: Path, digest_: str, size: int) -> None:
    """Take a finished temporary file in under its hash (renamed, so that it is there whole or not at all)."""
    database, _ = _open()
    home = file_of(digest_)
    home.parent.mkdir(exist_ok=True)
    os.replace(path, home)
    database.execute_sql("INSERT OR IGNORE INTO body VALUES (?, ?, 2, NULL)", (digest_, size))


def put_many(packed: list[tuple[str, int, int, bytes]]) -> None:
    """Store (hash, size, packed, data) rows in one transaction; those already there are left alone."""
    database, _ = _open()
    if packed:
        with database.atomic("IMMEDIATE"):
            database.connection().executemany("INSERT OR IGNORE INTO body VALUES (?, ?, ?, ?)", packed)


def put(body: bytes, mime: str = "") -> str:
    """Store one body and give its hash."""
    name = digest(body)
    if len(body) > BESIDE:
        path = temporary() / f"{name}.{os.getpid()}"
        path.write_bytes(body)
        keep_file(path, name, len(body))
    else:
        flag, data = pack(body, mime)
        put_many([(name, len(body), flag, data)])
    return name


def path_of(digest_: str) -> Path | None:
    """The file that holds a large body, None for one that lies in the database. Raises KeyError when it is not
    stored."""
    database, _ = _open()
    row = database.execute_sql("SELECT packed FROM body WHERE hash = ?", (digest_,)).fetchone()
    if row is None:
        raise KeyError(digest_)
    return file_of(digest_) if row[0] == 2 else None


def opened(digest_: str) -> BinaryIO:
    """A body to read from; a large one is not read into memory. Raises KeyError when it is not stored."""
    path = path_of(digest_)
    return path.open("rb") if path is not None else io.BytesIO(get(digest_))


def get(digest_: str) -> bytes:
    """The body with that hash. Raises KeyError when it is not stored."""
    database, _ = _open()
    row = database.execute_sql("SELECT packed, data FROM body WHERE hash = ?", (digest_,)).fetchone()
    if row is None:
        raise KeyError(digest_)
    if row[0] == 2:
        return file_of(digest_).read_bytes()
    return zlib.decompress(row[1]) if row[0] else bytes(row[1])
