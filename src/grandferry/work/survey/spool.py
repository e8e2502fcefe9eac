"""Answers as they came, kept beside the database until they are written down in it.

What a survey fetches is read, and written in batches; a kill in between would lose it, and the site would be asked
again. So every answer goes to the end of a small file first, which costs next to nothing, and the run that takes the
survey up again begins with what it finds there. A file is begun with every batch and removed when all that stands in it
is written down.

A record is two lengths (four bytes each, little-endian), a JSON object of what the answer says, and its body.
"""

from __future__ import annotations

import json
import os
import struct
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from pydantic_core import to_json

from grandferry.core.side import Side
from grandferry.core.survey.secrets import is_secret_header
from grandferry.net.fetch import Fetched

_LENGTHS = struct.Struct("<II")
_LARGEST = 64_000_000  # bytes of a record that are believed
KEPT_BACK = "(not kept)"


def without_keys(headers: dict[str, str]) -> dict[str, str]:
    """Response headers as they may be kept."""
    if not any(map(is_secret_header, headers)):
        return headers
    return {name: KEPT_BACK if is_secret_header(name) else value for name, value in headers.items()}


class Spool:
    """The files of one run over a side of a crossing in ``folder``. Those of other runs of it are of no more use and
    are removed."""

    def __init__(self, folder: Path, side: Side, run: int):
        self._folder = folder
        of = f"spool-{side.crossing}-{side.name}-"
        self._name = f"{of}{run}-"
        for path in folder.glob(f"{of}*"):
            if not path.name.startswith(self._name):
                path.unlink()
        self._left = sorted(int(path.name.removeprefix(self._name)) for path in folder.glob(f"{self._name}*"))
        self._number = self._left[-1] + 1 if self._left else 1
        self._file: BinaryIO | None = None
        self._open: dict[int, int] = {}  # file -> answers in it that are not yet written down

    def left(self) -> Iterator[tuple[int, Fetched]]:
        """The answers that a worker before this one was given and may not have written down, each with the number of
        its file, which ``done`` is to be told."""
        for number in self._left:
            with self._path(number).open("rb") as file:
                found = list(_records(file))
            self._open[number] = len(found)
            for got in found:
                yield number, got

    def keep(self, got: Fetched) -> int:
        """Put an answer into safety; gives the number of its file."""
        if self._file is None:
            self._file = self._path(self._number).open("wb", buffering=0)
            self._open[self._number] = 0
        said = {
            "url": got.url,
            "status": got.status,
            "headers": without_keys(got.headers),
            "size": got.size,
            "hashed": got.hashed,
            "seconds": got.seconds,
            "kind": got.kind,
            "error": got.error,
            "path": got.path.name if got.path is not None else "",
        }
        head = to_json(said)
        os.writev(self._file.fileno(), (_LENGTHS.pack(len(head), len(got.body)), head, got.body))
        self._open[self._number] += 1
        return self._number

    def done(self, numbers: list[int]) -> None:
        """These answers, by the numbers of their files, are written down; what comes next goes to a new file."""
        for number in numbers:
            self._open[number] -= 1
        if self._file is not None:
            self._file.close()
            self._file = None
            self._number += 1
        for number in [number for number, answers in self._open.items() if not answers]:
            del self._open[number]
            self._path(number).unlink(missing_ok=True)

    def rest(self) -> None:
        """End this run's part; what is not yet written down is there for the next."""
        if self._file is not None:
            self._file.close()
            self._file = None

    def close(self) -> None:
        """Remove what is left: all that is of use has been written down."""
        self.rest()
        for number in self._open:
            self._path(number).unlink(missing_ok=True)
        self._open.clear()

    def _path(self, number: int) -> Path:
        return self._folder / f"{self._name}{number}"


def _records(file: BinaryIO) -> Iterator[Fetched]:
    """The whole records of a file; the last may have been cut by a kill."""
    while len(lengths := file.read(_LENGTHS.size)) == _LENGTHS.size:
        head_length, body_length = _LENGTHS.unpack(lengths)
        if head_length + body_length > _LARGEST:
            return
        head, body = file.read(head_length), file.read(body_length)
        if len(head) < head_length or len(body) < body_length:
            return
        try:
            said = json.loads(head)
            name = said.pop("path")
            path = Path(file.name).parent / Path(name).name if name else None
            got = Fetched(**said, body=body, path=path)
        except (ValueError, KeyError, TypeError):
            return
        if got.path is None or got.path.is_file():
            yield got
