"""Change sets, long lists and the schema's versions."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from pathlib import Path

import pytest

from grandferry.core.errors import FerryError
from grandferry.core.plan import Pair
from grandferry.core.side import Side
from grandferry.store import changes, crossings, jobs, refit
from grandferry.store.db import holds, one, records, rows, transaction
from grandferry.store.lists import windows
from grandferry.store.lists.tree import Branch
from grandferry.store.migrations import VERSION
from grandferry.store.survey.met import NewAddress, add_addresses
from grandferry.store.workspace import close_workspace, open_workspace

Make = Callable[..., int]


def test_a_workspace_of_the_version_before_is_brought_up_to_date(tmp_path: Path) -> None:
    """What version 1 wrote is all there, and what later versions need is added and filled."""
    import peewee

    from grandferry.store.db import PRAGMAS

    folder = tmp_path / "old"
    folder.mkdir()
    database = peewee.SqliteDatabase(str(folder / "grandferry.sqlite"), pragmas=PRAGMAS)
    records.initialize(database)
    database.connect()
    with database.atomic():
        for statement in (Path(__file__).parent / "v1.sql").read_text().split(";\n"):
            if statement.strip():
                database.execute_sql(statement if " BEGIN " not in statement else statement + ";")
        database.execute_sql("PRAGMA user_version = 1")
        database.execute_sql("PRAGMA application_id = 1868919417")
        database.execute_sql("INSERT INTO crossing (name, created) VALUES ('Old', '2026-01-01')")
        database.execute_sql(
            "INSERT INTO item (crossing_id, kind, key, place, title, new_path, note, lifted_by) VALUES (1, 'k', '/', -1, '', '', '', 0)"
        )
        account = '{"words": [9, 4], "removed": {"share box": 5}, "missing": []}'
        database.execute_sql(
            "INSERT INTO refit (item_id, field, blocks, account, words, in_blocks, in_islands, unaccounted) VALUES (1, 'body', '', ?, 9, 4, 0, 0)",
            (account,),
        )
    database.close()
    with sqlite3.connect(folder / "grandferry.sqlite") as plain:
        assert not plain.execute("SELECT 1 FROM sqlite_master WHERE name = 'change'").fetchone()
    open_workspace(folder)
    try:
        assert one("PRAGMA user_version") == VERSION
        assert [c.name for c in crossings.crossings()] == ["Old"]
        assert changes.revision(1) == 0 and one("SELECT count(*) FROM landing_row") == 0
        assert refit.removed_by_step(1) == {"share box": (1, 5)} and refit.constructs(1) == []
    finally:
        close_workspace()


def test_a_plan_changes_by_revision_and_is_taken_back(cross: Make) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}})
    plan = crossings.load_plan(crossing)
    first = plan.model_copy(update={"final": "http://a.test"})
    revision = changes.change_plan(crossing, first, 0, "Mara", "final host")
    with pytest.raises(changes.Conflict, match="changed elsewhere in the meantime .final host, Mara"):
        changes.change_plan(crossing, plan, 0, "Bea", "late")
    assert crossings.load_plan(crossing).final == "http://a.test"
    changes.change_plan(crossing, first.model_copy(update={"final": "http://b.test"}), revision, "Bea", "again")
    assert changes.undo(crossing, "Bea") == "again" and crossings.load_plan(crossing).final == "http://a.test"
    assert changes.undo(crossing, "Bea") == "final host" and crossings.load_plan(crossing).final is None
    with pytest.raises(FerryError, match="no change to take back"):
        changes.undo(crossing, "Bea")
    assert [c.text for c in changes.changes(crossing)][-1] == "final host"


def test_pairs_keep_their_places_and_come_back(cross: Make) -> None:
    crossing = cross({"old": {"start": "http://old.test/"}}, [Pair(old="/a", new="/1"), Pair(old="/b", new="/2")])
    changes.change_pairs(crossing, [Pair(old="/a", new="/9"), Pair(old="/c", new="/3")], ["/b"], "", "some")
    assert [(p.old, p.new) for p in crossings.load_pairs(crossing)] == [("/a", "/9"), ("/c", "/3")]
    changes.undo(crossing, "")
    assert [(p.old, p.new) for p in crossings.load_pairs(crossing)] == [("/a", "/1"), ("/b", "/2")]


@pytest.fixture
def listed(cross: Make) -> int:
    """Three hundred addresses in three folders and a list asked with queries."""
    crossing = cross({"old": {"start": "http://old.test/"}})
    keys = [f"/{folder}/{n:03}" for folder in ("engine", "engine-sheds", "engines") for n in range(90)]
    keys += [f"/list.aspx?id={n}" for n in range(29)] + ["/"]
    rows = [NewAddress(n + 1, f"http://old.test{key}", "old.test", key, 0, 1, 1) for n, key in enumerate(keys)]
    with transaction():
        add_addresses(Side(crossing), [*rows, NewAddress(900, "http://files.test/x", "files.test", "/x", 1, 1, 1)])
        jobs.add_event(crossing, None, "log", "made")
    return crossing


def test_windows_of_any_depth_agree_with_the_whole_order(listed: int) -> None:
    nothing = windows.Selection()
    for order in ("key", "-key", "depth", "-id"):
        total, whole = windows.window(Side(listed), nothing, order, 0, 500)
        assert total == len(whole) == 301
        pieces = [windows.window(Side(listed), nothing, order, at, 50)[1] for at in range(0, 301, 50)]
        assert [r.id for piece in pieces for r in piece] == [r.id for r in whole]
        assert windows.position(Side(listed), nothing, order, whole[137].id) == 137
    assert windows.position(Side(listed), windows.Selection(search="nowhere"), "key", 1) == -1


def test_a_list_is_made_anew_when_a_job_has_written(listed: int) -> None:
    assert windows.window(Side(listed), windows.Selection(), "key", 100, 10)[0] == 301
    with transaction():
        add_addresses(Side(listed), [NewAddress(901, "http://old.test/new", "old.test", "/new", 0, 1, 1)])
        jobs.add_event(listed, None, "log", "one more")
    assert windows.window(Side(listed), windows.Selection(), "key", 100, 10)[0] == 302


def test_selections_filter_search_and_leave_out(listed: int) -> None:
    def count(**given: object) -> int:
        return windows.window(Side(listed), windows.Selection(**given), "key", 0, 1)[0]  # type: ignore[arg-type]

    assert count(filters={"site": ["own"]}) == 300 and count(filters={"site": ["own", "other"]}) == 301
    assert count(below="/engine/") == 90 and count(below="/list.aspx?") == 29
    assert count(below="/engine") == 90 and count(below="/eng") == 0, "by whole parts"
    assert count(search="list.aspx?id=2") == 10 and count(search="100%") == 0 and count(search="_") == 0
    assert count(ids=(1, 2, 3)) == 3 and count(without=(1, 2, 3)) == 298
    with pytest.raises(FerryError, match="not a filter"):
        count(filters={"colour": ["red"]})
    with pytest.raises(FerryError, match="not a column"):
        windows.window(Side(listed), windows.Selection(), "key; DROP TABLE address", 0, 1)
    choices = dict(windows.choices(Side(listed), windows.Selection(below="/engine/"), "site"))
    assert choices == {"own": 90}


def test_the_tree_counts_by_whole_folders(listed: int) -> None:
    hosts = {b.name: b.addresses for b in windows.branches(Side(listed), "", "/")}
    assert hosts == {"old.test": 300, "files.test": 1}
    tree = {b.name: b.addresses for b in windows.branches(Side(listed), "old.test", "/")}
    assert tree == {"": 1, "engine/": 90, "engine-sheds/": 90, "engines/": 90, "list.aspx?": 29}
    assert windows.branches(Side(listed), "old.test", "/engine/") == [
        Branch(name="", addresses=90, counted=0, unaccounted=0)
    ]
    assert windows.branches(Side(listed), "old.test", "/list.aspx?") == []


def test_the_log_is_told_newest_first(listed: int) -> None:
    number = jobs.add_job("sort", listed)
    with transaction():
        jobs.add_event(listed, number, "progress", "", {"done": 1})
        jobs.add_event(listed, number, "warning", "odd")
    assert [line.text for line in jobs.log_lines(listed, 0, 10, "")] == ["odd", "sort queued", "made"]
    assert [line.text for line in jobs.log_lines(listed, 0, 10, "warning")] == ["odd"]
    assert json.loads(jobs.job(number).params) == {}


@pytest.mark.parametrize(
    ("path", "typed"),
    [
        ("/caf%C3%A9/b.htm", "café"),
        ("/caf%C3%A9/b.htm", "CAFÉ/b"),
        ("/cafe%CC%81/b.htm", "café"),  # written as two signs
        ("/caf%E9/b.htm", "café/b"),  # Latin-1
        ("/d'%C3%A9t%C3%A9", "d'été"),
        ("/q.aspx?n=d%27%C3%A9t%C3%A9", "d'été"),
        ("/q.aspx?n=%22x%22", '"x"'),
        ("/50%25-off", "50%-off"),
        ("/two%20words", "two words"),
        ("/q?n=two+words", "two words"),
        ("/%D0%BC%D0%B8%D1%80", "Мир"),
    ],
)
def test_an_address_is_found_by_what_a_person_types(cross: Make, path: str, typed: str) -> None:
    side = Side(cross({"old": {"start": "http://old.test/"}}))
    keys = [path, "/other", "/cafx", "/q?n=x", "/50-off"]
    with transaction():
        add_addresses(
            side, [NewAddress(n + 1, f"http://old.test{k}", "old.test", k, 0, 1, 1) for n, k in enumerate(keys)]
        )
    total, found = windows.window(side, windows.Selection(search=typed), "key", 0, 10)
    assert total == 1 and found[0].key == path
    condition, values = holds(typed, "key")
    assert rows(f"SELECT key FROM address WHERE {condition}", *values) == [(path,)]
