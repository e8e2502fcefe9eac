"""Records handed over, joined to captured pages by address: fields read from them, behind when they change."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError
from typer.testing import CliRunner

from grandferry.cli.main import make_app
from grandferry.core.errors import FerryError
from grandferry.core.kinds import FieldPlan
from grandferry.core.records.record import Wanted
from grandferry.store import crossings, lift, records
from grandferry.store.workspace import close_workspace
from grandferry.work.lift.run import behind_work
from grandferry.work.lift.tries import cover_field, try_field
from grandferry.work.records.take import take_records
from tests.ports.test_records import export, item
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
FIELDS = [
    {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
    {"name": "author", "type": "line", "locators": [{"record": "author"}]},
    {"name": "tags", "type": "list", "locators": [{"record": "terms.post_tag"}]},
    {"name": "price", "type": "number", "locators": [{"record": "fields.price"}, {"css": "b"}]},
]


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    site: dict[str, Any] = {f"/{n}": f"<h1>P{n}</h1><b>{n}</b>" for n in range(4)}
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    kind = {"name": "page", "rules": [{"address": "/[0-9]+"}], "fields": FIELDS}
    with apps(pages_app(site)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]})
        work("survey", made)
    work("sort", made)
    work("lift", made)
    return made


def held(crossing: int, field: str) -> dict[str, Any]:
    return {row.key: row.value for row in lift.held_values(crossing, "page") if row.field == field}


def export_of(crossing: int, path: Path, *numbers: int) -> None:
    start = crossings.load_plan(crossing).old.start.rstrip("/")
    path.write_bytes(export(*(item(n) for n in numbers)).replace(b"http://a.test", start.encode()))


def test_fields_are_read_from_an_export_by_address(crossing: int, work: Run, tmp_path: Path) -> None:
    assert set(held(crossing, "author").values()) == {None}
    export_of(crossing, tmp_path / "x.xml", 1, 2, 9)
    taken = take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    assert (taken.found.records, taken.joined, taken.elsewhere, taken.damaged) == (3, 2, 0, "")
    assert [work_.page.key for work_, _ in behind_work(crossing, crossings.load_plan(crossing))[0]] == ["/1", "/2"]
    assert work("lift", crossing)["done"] == 2
    assert held(crossing, "author") == {"/0": None, "/1": "Ada Quill", "/2": "Ada Quill", "/3": None}
    assert held(crossing, "tags")["/1"] == ["Steam & coal"]
    assert work("lift", crossing)["done"] == 0
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    assert not behind_work(crossing, crossings.load_plan(crossing))[0], "the same file again changes nothing"


def test_a_table_is_joined_by_its_column_of_addresses(crossing: int, work: Run, tmp_path: Path) -> None:
    (tmp_path / "prices.csv").write_text("Old address,Price\n/1,3.50\n/3,12\nhttp://elsewhere.test/2,9\n", "utf-8")
    columns = {"Price": "price", "Old address": "address"}
    taken = take_records(crossing, tmp_path / "prices.csv", "prices.csv", Wanted(), columns)
    assert (taken.joined, taken.elsewhere) == (2, 1)
    export_of(crossing, tmp_path / "x.xml", 1)
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    work("lift", crossing)
    assert held(crossing, "price") == {"/0": 0, "/1": 3.5, "/2": 2, "/3": 12}, "and else as the page has it"
    assert held(crossing, "author")["/1"] == "Ada Quill", "two files speak of one address"
    assert [(one.source, one.records, one.joined) for one in records.sources(crossing)] == [
        ("prices.csv", 3, 2),
        ("x.xml", 1, 1),
    ]
    assert records.drop(crossing, "prices.csv") == 3
    assert [w.page.key for w, _ in behind_work(crossing, crossings.load_plan(crossing))[0]] == ["/1", "/3"]


def test_values_are_tried_before_anything_is_lifted(crossing: int, tmp_path: Path) -> None:
    export_of(crossing, tmp_path / "x.xml", 1, 2)
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    pages = {row.key: row.address for row in lift.held_values(crossing, "page")}
    wanted = FieldPlan.model_validate({"name": "x", "type": "line", "locators": [{"record": "fields.mood"}]})
    tried = try_field(crossing, wanted, [pages["/1"], pages["/3"]])
    assert [one.value.value for one in tried if one.value] == ["fair", None]
    assert cover_field(crossing, wanted, "page", 0).states == {"filled": 2, "empty": 2}


def test_what_cannot_be_taken_is_told(crossing: int, tmp_path: Path) -> None:
    export_of(crossing, tmp_path / "x.xml", 1)
    with pytest.raises(FerryError, match="holds no record that is meant"):
        take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted(kinds=["page"]))
    assert records.sources(crossing) == []
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    with pytest.raises(FerryError, match="holds no record that is meant"):
        take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted(kinds=["page"]))
    assert [one.records for one in records.sources(crossing)] == [1], "what it gave before stays"
    with pytest.raises(ValidationError, match="stands on the page"):
        FieldPlan.model_validate({"name": "x", "type": "blocks", "locators": [{"record": "content"}]})
    close_workspace()


def test_the_command_takes_records_in(crossing: int, tmp_path: Path, workspace: Path) -> None:
    export_of(crossing, tmp_path / "x.xml", 1, 2)
    close_workspace()
    given = ["records", str(tmp_path / "x.xml"), "--take", "--data", str(workspace), "--crossing", str(crossing)]
    run = CliRunner().invoke(make_app("records"), given)
    assert run.exit_code == 0 and "2 of them are of pages that are captured" in run.output
    run = CliRunner().invoke(make_app("records"), [*given, "--out", "o.csv"])
    assert run.exit_code == 2 and "Leave one of them out" in run.output
