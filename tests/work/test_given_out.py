"""What a survey gives out: the same addresses in every form, and captures that another reader finds whole."""

from __future__ import annotations

import csv
import datetime
import hashlib
import io
import json
import types
from base64 import b32encode
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from warcio.archiveiterator import ArchiveIterator

from grandferry.core.errors import FerryError
from grandferry.core.side import Side
from grandferry.store.survey import surveyed
from grandferry.work.names import file_name
from grandferry.work.survey.report import COLUMNS, write_addresses
from tests.servers import apps, pages_app

Run = Callable[..., dict[str, Any]]
Make = Callable[..., int]
BIG = bytes(range(256)) * 8000  # lies beside the database
SITE: dict[str, Any] = {
    "/": "<title>=1+1</title><a href=/a>a</a><a href=/old>o</a><a href=/gone>g</a><img src=/big.png>",
    "/a": "<title>Ä \u0645\u0631\u062d\u0628\u0627</title><p>Grüße, and a \x07 bell</p>",
    "/old": (301, {"Location": "/a"}, b""),
    "/big.png": (200, {"Content-Type": "image/png"}, BIG),
}


@pytest.fixture
def walked(cross: Make, work: Run) -> tuple[int, str]:
    with apps(pages_app(SITE)) as (port,):
        start = f"http://127.0.0.1:{port}/"
        crossing = cross({"old": {"start": start, "permission": {"by": "Bea Quill", "date": "1 May"}}})
        work("survey", crossing)
    return crossing, start


def test_csv_json_and_workbook_hold_the_same(walked: tuple[int, str], tmp_path: Path) -> None:
    crossing, _ = walked
    for form in ("csv", "json", "xlsx"):
        write_addresses(Side(crossing), tmp_path / f"x.{form}")
    found = json.loads((tmp_path / "x.json").read_text("utf-8"))
    assert len(found) == 5 and found[0]["title"] == "=1+1"
    sheet = openpyxl.load_workbook(tmp_path / "x.xlsx")["addresses"]
    lines = [list(line) for line in sheet.iter_rows(values_only=True)]
    assert lines[0] == list(COLUMNS) and sheet.freeze_panes == "A2"
    title = sheet.cell(2, COLUMNS.index("title") + 1)
    assert (title.value, title.data_type) == ("=1+1", "s"), "a text that looks like a formula stays a text"
    table = list(csv.DictReader(io.StringIO((tmp_path / "x.csv").read_text("utf-8"))))
    assert table[0]["title"] == "'=1+1"
    for row, line, again in zip(found, lines[1:], table, strict=True):
        assert [value or None for value in row.values()] == [value or None for value in line]
        assert row["address"] == again["address"] and str(row["bytes"]) == again["bytes"]


def test_the_workbook_says_whose_leave_and_what_is_left_out(cross: Make, work: Run, tmp_path: Path) -> None:
    documents = {f"/doc{n}.pdf": (200, {"Content-Type": "application/pdf"}, b"%%PDF-1.4 %d" % n) for n in range(12)}
    site = {"/": "<title>T</title><form></form>" + "".join(f"<a href={key}>d</a>" for key in documents), **documents}
    with apps(pages_app(site)) as (port,):
        start = f"http://127.0.0.1:{port}/"
        permission = {"by": "Bea Quill", "date": "1 May"}
        crossing = cross({"old": {"start": start, "permission": permission}, "leave_out": ["documents"]})
        work("survey", crossing)
    work("route", crossing)
    write_addresses(Side(crossing), tmp_path / "x.xlsx")
    book = openpyxl.load_workbook(tmp_path / "x.xlsx")
    out = list(book["left out on purpose"].iter_rows(min_row=2, values_only=True))
    assert out == sorted((key, "left out on purpose: documents") for key in documents)
    about = [row[:2] for row in book["about this survey"].iter_rows(min_row=2, values_only=True)]
    assert ("leave to copy it given by", "Bea Quill, 1 May") in about and (
        "left out on purpose: documents",
        12,
    ) in about
    assert ("to carry: forms", 1) in about and ("pages", 1) in about
    assert sum(what == "never carries" for what, _ in about) == 3


@pytest.mark.parametrize("form", ["warc.gz", "warc"])
def test_an_archive_is_read_back_whole_with_right_digests(walked: tuple[int, str], tmp_path: Path, form: str) -> None:
    crossing, start = walked
    write_addresses(Side(crossing), tmp_path / f"x.{form}")
    answers: dict[str, tuple[str, bytes, dict[str, str]]] = {}
    with (tmp_path / f"x.{form}").open("rb") as handle:
        for record in ArchiveIterator(handle, check_digests=True):
            if record.rec_type == "warcinfo":
                assert b"Bea Quill" in record.content_stream().read()
                continue
            assert record.rec_type == "response" and record.rec_headers.protocol == "WARC/1.1"
            body = record.content_stream().read()
            assert record.digest_checker.passed, record.digest_checker.problems
            digest = "sha1:" + b32encode(hashlib.sha1(body).digest()).decode()
            assert record.rec_headers.get_header("WARC-Payload-Digest") == digest
            headers = {name.lower(): value for name, value in record.http_headers.headers}
            assert headers["content-length"] == str(len(body))
            key = "/" + record.rec_headers.get_header("WARC-Target-URI").removeprefix(start)
            answers[key] = (record.http_headers.get_statuscode(), body, headers)
    assert answers["/big.png"][:2] == ("200", BIG)
    assert answers["/a"][1].decode() == SITE["/a"] and answers["/old"][0] == "301"
    assert answers["/old"][2]["location"] == "/a"
    kept = {row["address"].removeprefix(start): row for row in surveyed.address_rows(Side(crossing))}
    assert {key.lstrip("/") for key in answers} >= {key for key, row in kept.items() if row["status"] in (200, 301)}


def test_bad_places_and_forms_have_their_sentences(walked: tuple[int, str], tmp_path: Path) -> None:
    crossing, _ = walked
    with pytest.raises(FerryError, match="ends in a form this version does not write"):
        write_addresses(Side(crossing), tmp_path / "x.doc")
    place = tmp_path / "given"
    place.mkdir()
    (place / "file").write_text("x")
    (place / "x.csv").mkdir()
    for out in (place / "file" / "x.csv", place / "x.csv"):
        with pytest.raises(FerryError, match="cannot be written"):
            write_addresses(Side(crossing), out)
    assert sorted(path.name for path in place.iterdir()) == ["file", "x.csv"], "nothing half-written is left"
    assert file_name("Æble & Co. / ../x") == "ble-co.-..-x" and file_name("...") == "crossing"


@pytest.mark.parametrize("form", ["csv", "json", "xlsx", "warc.gz", "warc"])
def test_the_same_crossing_gives_the_same_bytes_at_another_time(
    form: str, cross: Callable[..., int], work: Callable[..., Any], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    pages = {"/": "<title>Start</title><a href=/a>a</a><a href=/b.bin>b</a>", "/a": "<title>A</title><p>Words"}
    pages["/b.bin"] = (200, {"Content-Type": "application/octet-stream"}, bytes(200))  # type: ignore[assignment]
    with apps(pages_app(pages)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    made = []
    for number in range(2):
        folder = tmp_path / str(number)
        folder.mkdir()
        write_addresses(Side(crossing), folder / f"list.{form}")
        made.append((folder / f"list.{form}").read_bytes())
        later = types.SimpleNamespace(datetime=_Later, timezone=datetime.timezone, timedelta=datetime.timedelta)
        monkeypatch.setattr("openpyxl.writer.excel.datetime", later)
        monkeypatch.setattr("warcio.recordbuilder.datetime", _Later)
        monkeypatch.setattr("zipfile.time.time", lambda: 2_000_000_000.0)
    assert made[0] == made[1]


class _Later(datetime.datetime):
    """A clock that runs a day ahead."""

    @classmethod
    def now(cls, tz: datetime.tzinfo | None = None) -> datetime.datetime:  # type: ignore[override]
        return datetime.datetime.now(tz) + datetime.timedelta(days=1)

    @classmethod
    def utcnow(cls) -> datetime.datetime:  # type: ignore[override]
        return datetime.datetime.now(datetime.UTC).replace(tzinfo=None) + datetime.timedelta(days=1)
