"""Archives of answers (WARC, ISO 28500; packed record by record or not) read back: which addresses they hold, and each
answer as it was. Records are read through warcio, which is imported where one is read: whoever surveys a site itself
need not wait for it."""

from __future__ import annotations

import gzip
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO

from grandferry.core.errors import FerryError

from .apart import lines_apart, write_apart

CHUNK = 64 * 1024
MOST_MEMORY = 700_000_000  # bytes of address space of the process that reads an index
MOST_HEAD = 1_000_000  # letters of the head of one answer
A_SECOND = 5_000_000  # bytes of an archive that are given a second of computing


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
    """All response records of an archive in their order, read in a process of its own. Raises FerryError when it cannot
    be read at all, or not within the bounds; of an archive that is torn, what can be read is given."""
    beyond = FerryError("The archive needs more memory or time than is given to one.", "Divide it into several.")
    seconds = _seconds(path)
    return [Held(*line) for line in lines_apart(__name__, path, 4 * seconds, beyond, "Is it a whole WARC file?")]


def _seconds(path: Path) -> int:
    """The time that is given to an archive of this size."""
    return 60 + path.stat().st_size // A_SECOND


def _index(path: Path) -> Iterator[tuple[str, int, str] | str | None]:
    """Response records; a sentence in the end when none can be read, None when all was read."""
    from warcio.archiveiterator import ArchiveIterator
    from warcio.exceptions import ArchiveLoadFailed

    found = 0
    with path.open("rb") as handle:
        try:
            records = ArchiveIterator(handle, arc2warc=False)
            for record in records:
                head = record.http_headers
                if record.rec_type != "response" or head is None:
                    continue
                if sum(len(name) + len(value) for name, value in head.headers) > MOST_HEAD:
                    continue
                url = (record.rec_headers.get_header("WARC-Target-URI") or "").strip("<>")
                found += 1
                yield url, records.get_record_offset(), record.rec_headers.get_header("WARC-Date") or ""
        except (ArchiveLoadFailed, EOFError, OSError, zlib.error, ValueError) as problem:
            if not found:
                yield f"The archive cannot be read ({problem})."
                return
    yield None


def main(path: str) -> None:
    """Write the index of an archive to standard output, under bounds of this process."""
    write_apart(_index(Path(path)), MOST_MEMORY, _seconds(Path(path)))


def read_answer(handle: BinaryIO, held: Held) -> Answered:
    """One answer of an archive. Raises FerryError when its record is broken."""
    from warcio.archiveiterator import ArchiveIterator
    from warcio.exceptions import ArchiveLoadFailed

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
