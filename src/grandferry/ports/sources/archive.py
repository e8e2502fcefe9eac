"""Archives of answers (WARC, ISO 28500; packed record by record or not) read back: which addresses they hold, and each
answer as it was. Records are read through warcio."""

from __future__ import annotations

import gzip
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO

from warcio.archiveiterator import ArchiveIterator
from warcio.exceptions import ArchiveLoadFailed

from grandferry.core.errors import FerryError

CHUNK = 64 * 1024


@dataclass(frozen=True, slots=True)
class Held:
    """A response record: the address it answers and where it begins in the file."""

    url: str
    offset: int
    at: str


@dataclass(slots=True)
class Answered:
    """An answer out of an archive; ``chunks`` are its body without transfer and content codings."""

    url: str
    at: str
    status: int
    headers: dict[str, str] = field(default_factory=dict)
    chunks: Iterator[bytes] = field(default_factory=lambda: iter(()))


def is_archive(path: Path) -> bool:
    """Whether a file begins like a WARC file, packed or not."""
    with path.open("rb") as handle:
        start = handle.read(5)
    if start[:2] == b"\x1f\x8b":
        try:
            with gzip.open(path) as packed:
                start = packed.read(5)
        except (OSError, EOFError, zlib.error):
            return False
    return start == b"WARC/"


def read_index(path: Path) -> list[Held]:
    """All response records of an archive in their order. Raises FerryError when it cannot be read at all; of an archive
    that is torn, what can be read is given."""
    found: list[Held] = []
    with path.open("rb") as handle:
        try:
            records = ArchiveIterator(handle, arc2warc=False)
            for record in records:
                if record.rec_type == "response" and record.http_headers is not None:
                    url = (record.rec_headers.get_header("WARC-Target-URI") or "").strip("<>")
                    found.append(
                        Held(url, records.get_record_offset(), record.rec_headers.get_header("WARC-Date") or "")
                    )
        except (ArchiveLoadFailed, EOFError, OSError, zlib.error) as problem:
            if not found:
                raise FerryError(f"The archive cannot be read ({problem}).", "Is it a whole WARC file?") from None
    return found


def read_answer(handle: BinaryIO, held: Held) -> Answered:
    """One answer of an archive. Raises FerryError when its record is broken."""
    handle.seek(held.offset)
    try:
        record = next(iter(ArchiveIterator(handle)))
        head = record.http_headers
        status = int(head.get_statuscode())
    except (StopIteration, ArchiveLoadFailed, EOFError, OSError, zlib.error, ValueError, AttributeError) as problem:
        raise FerryError(f"Its record in the archive is broken ({problem}).") from None
    headers: dict[str, str] = {}
    for name, value in head.headers:
        known = headers.get(name.lower())
        headers[name.lower()] = f"{known}, {value}" if known else value
    stream = record.content_stream()
    return Answered(held.url, held.at, status, headers, iter(lambda: stream.read(CHUNK), b""))
