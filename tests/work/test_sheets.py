"""Decisions given out as a table, altered in a spreadsheet, brought back: only the altered rows change."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import openpyxl
import pytest

from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.plan import Aside, Pair
from grandferry.ports.planfolder import PlanFolder, read_plan, write_plan
from grandferry.store import changes, crossings, route
from grandferry.work.route.decisions import asides_of, keys_of
from grandferry.work.survey import ownerlists, sheets
from tests.servers import apps, pages_app

SITE = {"/": "".join(f"<a href=/p{n}>{n}</a>" for n in range(8)), **{f"/p{n}": f"<p>page {n}" for n in range(8)}}


@pytest.fixture
def crossing(cross: Callable[..., int], work: Callable[..., Any]) -> int:
    with apps(pages_app(SITE)) as (port,):
        number = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "survey": {"sitemaps": False},
                "route": {"rules": [{"old": "/p7", "match": "exact", "new": "/seven"}]},
            }
        )
        work("survey", number)
    work("route", number)
    return number


def out_as_csv(crossing: int, folder: Path) -> list[dict[str, str]]:
    sheets.write_decisions(crossing, folder / "d.csv")
    return list(csv.DictReader(io.StringIO((folder / "d.csv").read_text("utf-8-sig"))))


def brought(rows: list[dict[str, str]], delimiter: str = ",") -> Path:
    text = io.StringIO()
    table = csv.DictWriter(text, list(rows[0]), delimiter=delimiter)
    table.writeheader()
    table.writerows(rows)
    path = ownerlists.new_place()
    path.write_text(text.getvalue(), "utf-8", newline="")
    return path


def told(crossing: int) -> dict[str, tuple[str, str]]:
    return {key: (d.fate or "", d.target) for key, d in route.decisions(crossing).items()}


def test_only_altered_rows_change(crossing: int, work: Callable[..., Any], tmp_path: Path) -> None:
    rows = out_as_csv(crossing, tmp_path)
    assert len(rows) == 9
    by = {row["address"]: row for row in rows}
    assert (by["/p7"]["decision"], by["/p7"]["new address"]) == ("moved", "/seven")
    before = told(crossing)
    assert sheets.read_decisions(crossing, brought(rows)).same == 9, "nothing altered, nothing said"
    by["/p1"] |= {"decision": "moved", "new address": "/one"}
    by["/p2"] |= {"decision": "retired", "new address": ""}
    by["/p3"] |= {"decision": "Set aside", "why": "kept by the museum"}
    by["/p4"] |= {"decision": "moved", "new address": ""}
    by["/p5"] |= {"decision": "sunk"}
    rows.reverse()  # as a spreadsheet sorts them
    path = brought([{**row, "my notes": "x"} for row in rows], delimiter=";")
    assert ownerlists.looked_at(path).form == "decisions"
    read = sheets.read_decisions(crossing, path)
    assert (read.same, len(read.altered), len(read.bad)) == (4, 3, 2)
    assert sorted(why for _, _, why in read.bad)[0].startswith("moved needs a new address")
    sheets.take_decisions(crossing, path, [], "Bea")
    work("route", crossing)
    assert told(crossing) == before | {
        "/p1": ("moved", "/one"),
        "/p2": ("retired", ""),
        "/p3": ("set aside", ""),
    }
    assert not path.exists()
    assert changes.undo(crossing, "Bea") == "3 rows of a table brought back"
    work("route", crossing)
    assert told(crossing) == before


def test_rows_decided_here_meanwhile_are_asked_about(crossing: int, work: Callable[..., Any], tmp_path: Path) -> None:
    rows = out_as_csv(crossing, tmp_path)
    by = {row["address"]: row for row in rows}
    by["/p1"] |= {"decision": "moved", "new address": "/theirs"}
    here = [Pair(old="/p1", new="/ours"), Pair(old="/p2", new="/two")]
    changes.change_pairs(crossing, here, [], "Bea", "by hand")
    work("route", crossing)
    path = brought(rows)
    read = sheets.read_decisions(crossing, path)
    assert [(row.address, row.meanwhile, row.was[1]) for row in read.altered] == [("/p1", True, "/ours")]
    assert read.same == 8, "what was decided here and not altered there stays"
    with pytest.raises(FerryError, match="anything new"):
        sheets.take_decisions(crossing, path, [], "Bea")
    sheets.take_decisions(crossing, path, [read.altered[0].number], "Bea")
    work("route", crossing)
    assert told(crossing)["/p1"] == ("moved", "/theirs") and told(crossing)["/p2"] == ("moved", "/two")


def test_a_workbook_goes_out_and_comes_back(crossing: int, tmp_path: Path) -> None:
    sheets.write_decisions(crossing, tmp_path / "d.xlsx")
    book = openpyxl.load_workbook(tmp_path / "d.xlsx")
    sheet = book.active
    assert sheet is not None and [c.value for c in sheet[1]] == list(sheets.COLUMNS)
    row = next(r for r in sheet.iter_rows(min_row=2) if r[0].value == "/p6")
    row[1].value, row[2].value = "moved", "/six"
    path = ownerlists.new_place()
    book.save(tmp_path / "altered.xlsx")
    path.write_bytes((tmp_path / "altered.xlsx").read_bytes())
    assert ownerlists.looked_at(path).form == "decisions"
    assert [row.says[1] for row in sheets.read_decisions(crossing, path).altered] == ["/six"]


def test_another_table_is_no_table_of_decisions(crossing: int) -> None:
    path = ownerlists.new_place()
    path.write_text("address,decision\n/p1,moved\n")
    with pytest.raises(FerryError, match="as given out"):
        sheets.read_decisions(crossing, path)


def test_reasons_are_kept_and_decisions_taken_back_by_the_sheet(
    crossing: int, work: Callable[..., Any], tmp_path: Path
) -> None:
    rows = out_as_csv(crossing, tmp_path)
    by = {row["address"]: row for row in rows}
    by["/p1"] |= {"decision": "retired", "why": "the shop is closed, says Ada"}
    by["/p2"] |= {"decision": "moved", "new address": "/two", "why": "asked for by the owner"}
    by["/p3"] |= {"decision": "set aside", "why": "kept by the museum"}
    by["/p4"] |= {"decision": "set aside", "why": "kept by the museum"}
    sheets.take_decisions(crossing, brought(rows), [], "Bea")
    work("route", crossing)

    def whys() -> dict[str, str]:
        return {key: sentence(d.reason) for key, d in route.decisions(crossing).items() if d.fate}

    said = {
        "/p1": "the shop is closed, says Ada",
        "/p2": "asked for by the owner",
        "/p3": "kept by the museum",
        "/p4": "kept by the museum",
    }
    assert said.items() <= whys().items()
    plan, pairs = crossings.load_plan(crossing), crossings.load_pairs(crossing)
    write_plan(tmp_path / "plan", PlanFolder(plan, pairs, []))
    assert [p.reason for p in read_plan(tmp_path / "plan").pairs] == [said["/p1"], said["/p2"]]

    rows = out_as_csv(crossing, tmp_path)
    by = {row["address"]: row for row in rows}
    by["/p2"] |= {"new address": "/second"}  # the words of the owner stay what they are
    by["/p1"] |= {"decision": "unaccounted", "why": ""}
    by["/p3"] |= {"decision": "unaccounted"}
    by["/p7"] |= {"decision": "unaccounted"}  # decided by a rule, which no row takes back
    read = sheets.read_decisions(crossing, path := brought(rows))
    assert [(address, why.partition(";")[0]) for _, address, why in read.bad] == [
        ("/p7", "says unaccounted, but it is decided by rule")
    ]
    sheets.take_decisions(crossing, path, [], "Bea")
    work("route", crossing)
    assert told(crossing)["/p1"] == told(crossing)["/p3"] == ("", "")
    assert told(crossing)["/p2"] == ("moved", "/second") and whys()["/p2"] == said["/p2"]
    assert whys()["/p4"] == said["/p4"], "what was set aside together with it stays so"
    changes.undo(crossing, "Bea")
    work("route", crossing)
    assert said.items() <= whys().items()


def test_what_a_wider_pattern_sets_aside_is_not_taken_back_by_one_row(
    crossing: int, work: Callable[..., Any], tmp_path: Path
) -> None:
    plan = crossings.load_plan(crossing)
    plan.route.aside.append(Aside(address=r"/p[12]", reason="old drafts"))
    changes.change_plan(crossing, plan, changes.revision(crossing), "Bea", "aside")
    work("route", crossing)
    rows = out_as_csv(crossing, tmp_path)
    next(row for row in rows if row["address"] == "/p1")["decision"] = "unaccounted"
    ((_, address, why),) = sheets.read_decisions(crossing, brought(rows)).bad
    assert address == "/p1" and "pattern /p[12]" in why


def test_an_address_set_aside_by_name_is_known_again() -> None:
    keys = ["/a.htm?x=1|2", "/b(c)", "/d", "/e\\f"]
    for some in (keys, keys[:1], keys[2:3]):
        (aside,) = asides_of(some, "because")
        assert keys_of(aside) == some
    assert keys_of(Aside(address=r"/news/.*", reason="because")) == []
