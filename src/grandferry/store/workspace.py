"""Opening and closing a workspace: its two databases, records and bodies, and the version of their schema."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

import peewee

from .bodies import close_bodies, open_bodies
from .db import PRAGMAS, WRITER_PRAGMAS, StoreError, is_open, records, remember_folder
from .migrations import migrate


def ready_folder(folder: Path | str) -> Path:
    """The folder of a workspace, made when it is new. Raises StoreError when it cannot be written."""
    folder = Path(folder).expanduser().resolve()
    try:
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)  # a site's access and pages are its owner's alone
        probe = folder / ".write-test"
        probe.write_bytes(b"")
        probe.unlink()
    except OSError as problem:
        raise StoreError(
            f"The data folder {folder} cannot be written: {problem.strerror or problem}.",
            "Choose another one with --data, or change its permissions.",
        ) from None
    return folder


def open_workspace(folder: Path | str, mapped: bool = True) -> Path:
    """Open (and make, when new) the workspace in ``folder`` for this process; bring its schema up to date. ``mapped``:
    the file is read through memory, which a process that keeps its connection has no need of.

    Raises StoreError when the folder cannot be written or was written by a newer program.
    """
    folder = ready_folder(folder)
    close_workspace()
    pragmas = PRAGMAS if mapped else PRAGMAS | WRITER_PRAGMAS
    database = peewee.SqliteDatabase(str(folder / "grandferry.sqlite"), pragmas=pragmas, timeout=10)
    records.initialize(database)
    try:
        database.connect(reuse_if_open=True)
        migrate(database)
    except (peewee.DatabaseError, sqlite3.DatabaseError) as problem:
        database.close()
        raise StoreError(f"The workspace {folder} cannot be opened: {problem}.") from None
    remember_folder(folder)
    open_bodies(folder, pragmas)
    for file in folder.glob("*.sqlite"):
        with contextlib.suppress(OSError):  # of somebody else's file
            file.chmod(0o600)
    return folder


def close_workspace() -> None:
    """Close this process's connections."""
    if not is_open():
        return
    close_bodies()
    if not records.is_closed():
        records.close()
    remember_folder(None)
