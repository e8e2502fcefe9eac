"""Captures as WARC 1.1 (ISO 28500:2017), each record packed on its own, with SHA-1 digests of block and payload.

Bodies are kept as they were after their transfer and content codings were taken off, so the headers that named a coding
or a length of the coded form are left out, and a length of what is there is put in.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from http import HTTPStatus
from io import BytesIO
from pathlib import Path
from typing import BinaryIO
from uuid import NAMESPACE_URL, uuid5

from warcio.statusandheaders import StatusAndHeaders
from warcio.warcwriter import WARCWriter

from grandferry.core.survey.secrets import is_secret_header

_OF_THE_CODING = frozenset(
    ("content-encoding", "transfer-encoding", "content-length", "connection", "keep-alive", "trailer")
)


@dataclass(frozen=True, slots=True)
class Archived:
    """One answer: ``at`` as ISO 8601; ``body`` its bytes or a file that holds them."""

    url: str
    at: str
    status: int
    headers: dict[str, str]
    body: bytes | Path


def _reason(status: int) -> str:
    try:
        return HTTPStatus(status).phrase
    except ValueError:
        return "Unknown"


def _moment(at: str) -> str:
    return datetime.fromisoformat(at).astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _id(*parts: str) -> str:
    """A record's id out of what it holds (RFC 9562 section 5.5), so that the same captures give the same bytes."""
    return f"<urn:uuid:{uuid5(NAMESPACE_URL, chr(10).join(parts))}>"


def write_warc(
    out: BinaryIO, name: str, info: dict[str, str], answers: Iterable[Archived], at: str, packed: bool = True
) -> int:
    """Write a warcinfo record of the moment ``at`` (ISO 8601) and one response record an answer. Gives the number of
    responses."""
    writer = WARCWriter(out, gzip=packed, warc_version="1.1")
    about = writer.create_warcinfo_record(name, info)
    about.rec_headers.replace_header("WARC-Record-ID", _id(name, at, *(f"{k}: {v}" for k, v in info.items())))
    about.rec_headers.replace_header("WARC-Date", _moment(at))
    writer.write_record(about)
    number = 0
    for answer in answers:
        size = answer.body.stat().st_size if isinstance(answer.body, Path) else len(answer.body)
        headers = [(n.title(), _one_line(v)) for n, v in answer.headers.items() if _is_written(n)]
        headers.append(("Content-Length", str(size)))
        head = StatusAndHeaders(f"{answer.status} {_reason(answer.status)}", headers, protocol="HTTP/1.1")
        payload: BinaryIO = answer.body.open("rb") if isinstance(answer.body, Path) else BytesIO(answer.body)
        with payload:
            record = writer.create_warc_record(
                answer.url,
                "response",
                payload=payload,
                length=size,
                http_headers=head,
                warc_headers_dict={
                    "WARC-Date": _moment(answer.at),
                    "WARC-Record-ID": _id(str(number), answer.url, answer.at, str(answer.status), str(size)),
                },
            )
            writer.write_record(record)
        number += 1
    return number


def _is_written(header: str) -> bool:
    return header.lower() not in _OF_THE_CODING and not is_secret_header(header)


def _one_line(value: str) -> str:
    return " ".join(value.split())
