"""Tables as people hand them over, and such as were made to do harm."""

from __future__ import annotations

import io
import re
import subprocess
import zipfile
from collections.abc import Callable
from pathlib import Path

import openpyxl
import pytest

from grandferry.core.errors import FerryError
from grandferry.ports.sources import table, workbook
from grandferry.ports.sources.serverlog import AGENT, LINE, LINE_CAP, TARGET
from grandferry.ports.sources.table import look, number, table_rows

SHEET = "xl/worksheets/sheet1.xml"


def book(path: Path, alter: Callable[[bytes], bytes] = lambda sheet: sheet) -> Path:
    """A workbook of two rows, its first sheet altered."""
    made = openpyxl.Workbook()
    for row in (["Page", "Views"], ["/a", 12]):
        made.active.append(row)
    kept = io.BytesIO()
    made.save(kept)
    with zipfile.ZipFile(kept) as before, zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as after:
        for part in before.infolist():
            data = before.read(part)
            after.writestr(part, alter(data) if part.filename == SHEET else data)
    return path


@pytest.mark.parametrize("end", ["\r", "\n", "\r\n"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t"])
def test_any_line_end_is_one(tmp_path: Path, end: str, delimiter: str) -> None:
    path = tmp_path / "t.csv"
    path.write_bytes(end.join([f"page{delimiter}views", f"/a{delimiter}3", f'"/b{end}c"{delimiter}4']).encode())
    assert list(table_rows(path)) == [["page", "views"], ["/a", "3"], ["/b\nc", "4"]]
    assert look(path).address == 0 and look(path).visits == 1


def test_long_cells_are_taken_and_an_open_quotation_is_told(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text(f"page,note\n/a,{'x' * 500_000}\n")
    assert [len(cell) for cell in list(table_rows(path))[1]] == [2, 500_000]
    path.write_text('page,note\n/a,"left open\n' + "/b,c\n" * 400_000)
    with pytest.raises(FerryError, match="quotation mark left open"):
        list(table_rows(path))


def test_counts_of_any_length_are_counts_or_none() -> None:
    assert [number(c) for c in ("1,204", "1 204", "9" * 16, "9" * 9000, "²", "-")] == [1204, 1204, 0, 0, 0, 0]


def test_a_workbook_is_read_as_text(tmp_path: Path) -> None:
    assert list(table_rows(book(tmp_path / "t.xlsx"))) == [["Page", "Views"], ["/a", "12"]]
    assert list(table_rows(book(tmp_path / "named.csv"))) == [["Page", "Views"], ["/a", "12"]]


@pytest.mark.parametrize(
    ("alter", "told"),
    [
        (lambda s: s[:200], "cannot be read after row"),
        (lambda s: s.replace(b'<row r="2"', b'<row r="1048576"'), "more than 10,000 empty rows"),
        (lambda s: s.replace(b'<row r="2"', b'<row r="99999999999999999999"'), "more than 10,000 empty rows"),
        (lambda s: s.replace(b"<v>12</v>", b"<v>99</v><v>" + b"9" * 300 + b"</v>"), ""),
        (lambda s: s.replace(b"<v>12</v>", b"<v>" + b"9" * 5000 + b"</v>"), ""),
        (lambda s: s.replace(b't="n"', b't="s"'), "cannot be read after row"),
        (lambda s: s.replace(b't="n"', b't="d"'), ""),
        (lambda s: s.replace(b"<v>12</v>", b"<v>1" + b"0" * 500_000_000 + b"</v>"), "unpacks to more than"),
    ],
)
def test_a_broken_workbook_is_a_sentence(tmp_path: Path, alter: Callable[[bytes], bytes], told: str) -> None:
    path = book(tmp_path / "t.xlsx", alter)
    if not told:
        assert list(table_rows(path))[1][0] == "/a"
        return
    with pytest.raises(FerryError, match=told):
        list(table_rows(path))


def test_a_workbook_that_wants_too_much_ends_its_own_process(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    row = b"<row>" + b'<c t="inlineStr"><is><t>x</t></is></c>' * 400_000 + b"</row>"
    path = book(tmp_path / "t.xlsx", lambda s: re.sub(rb"</sheetData>", row * 16 + b"</sheetData>", s))
    assert path.stat().st_size < 1_000_000
    with pytest.raises(FerryError, match=r"needs more memory or time|cannot be read after row"):
        monkeypatch.setattr(workbook, "MOST_SECONDS", 4)
        list(table_rows(path))


@pytest.mark.parametrize("spoil", ["cut", "sum", "method", "locked"])
def test_an_archive_that_is_no_workbook_is_a_sentence(tmp_path: Path, spoil: str) -> None:
    path = book(tmp_path / "t.xlsx")
    data = bytearray(path.read_bytes())
    heads = [m.start() for m in re.finditer(rb"PK\x01\x02", data)]
    if spoil == "cut":
        data = data[: len(data) // 2]
    for at in heads:
        if spoil == "sum":
            data[at + 16] ^= 0xFF
        if spoil == "method":
            data[at + 10] = 97
        if spoil == "locked":
            data[at + 8] |= 1
    path.write_bytes(bytes(data))
    with pytest.raises(FerryError, match="workbook"):
        list(table_rows(path))


def test_no_process_is_left_when_reading_is_given_up(tmp_path: Path) -> None:
    rows = table_rows(book(tmp_path / "t.xlsx"))
    next(rows)
    rows.close()  # type: ignore[attr-defined]
    assert not subprocess.run(["pgrep", "-f", str(tmp_path / "t.xlsx")], capture_output=True, check=False).stdout


@pytest.mark.parametrize(
    "piece", [b"[", b'[x] "GET ', b'[] "G x ', b"\\\\", b"1", b'[1] "A 1', b' "', b"\xff", b'[t] "GET / H" 200 1 "']
)
def test_a_line_of_a_log_is_gone_over_once(piece: bytes) -> None:
    """The engine is one that never goes back: a line twice as long has no more than the states of two."""
    assert type(LINE).__module__ == "re2"
    LINE.match(b"a b " + (piece * LINE_CAP)[:LINE_CAP])


def test_a_line_of_a_log_in_any_encoding_is_read() -> None:
    line = b'::1 - - [1/May/2026:13:55:36 +0000] "GET /caf\xe9?q=\xff HTTP/1.1" 200 23 "-" "Mozilla/5.0 \xe9"'
    found = LINE.match(line)
    assert found is not None and (found[TARGET], found[AGENT]) == (b"/caf\xe9?q=\xff", b"Mozilla/5.0 \xe9")


def test_a_table_of_too_many_cells_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "t.csv"
    path.write_text("/a,1,2,3\n" * 50)
    monkeypatch.setattr(table, "MOST_CELLS", 100)
    for made in (path, book(tmp_path / "t.xlsx")):
        if made is not path:
            monkeypatch.setattr(table, "MOST_CELLS", 3)
        with pytest.raises(FerryError, match="more than .* cells"):
            list(table_rows(made))
