"""A workspace as version 7 left it, with the demo's crossing run to its end and two values set by hand."""

from __future__ import annotations

import shutil
import sqlite3
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from grandferry.core.made import Behind
from grandferry.store import crossings, edits, lift, refit, route
from grandferry.store.db import one, rows
from grandferry.store.migrations import VERSION
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.worker import work_on
from grandferry.work.refit.preview import body_blocks
from grandferry.work.rounds import behind, due

FILE = Path(__file__).parent / "workspace-7.zip"


@pytest.fixture
def old(tmp_path: Path) -> Iterator[int]:
    folder = tmp_path / "workspace"
    with zipfile.ZipFile(FILE) as archive:
        archive.extractall(folder)
    with sqlite3.connect(folder / "grandferry.sqlite") as plain:
        assert plain.execute("PRAGMA user_version").fetchone() == (7,)
    shutil.copytree(folder, tmp_path / "before")
    open_workspace(folder)
    yield 1
    close_workspace()


def run(kind: str, crossing: int) -> None:
    from grandferry.store import jobs

    jobs.add_job(kind, crossing)
    claimed = jobs.claim()
    assert claimed is not None
    work_on(claimed)
    assert jobs.job(claimed.id).state == "done", jobs.job(claimed.id).error


def test_it_opens_with_everything_in_it(old: int, tmp_path: Path) -> None:
    assert one("PRAGMA user_version") == VERSION
    assert rows("PRAGMA foreign_key_check") == [] and one("PRAGMA integrity_check") == "ok"
    with sqlite3.connect(tmp_path / "before" / "grandferry.sqlite") as before:
        for table in (
            "address",
            "item",
            "item_field",
            "refit",
            "capture",
            "pair",
            "plan_row",
            "ledger",
            "file",
            "round",
        ):
            assert one(f"SELECT count(*) FROM {table}") == before.execute(f"SELECT count(*) FROM {table}").fetchone()[0]
    account = crossings.account_of(old)
    assert "unaccounted" not in account and all(counts["planned"] == 0 for counts in account.values())
    assert len(route.decisions(old)) == crossings.counted(old)
    assert lift.coverage(old) and refit.totals(old)["unaccounted"] == 0


def test_what_was_set_by_hand_is_kept_and_is_no_conflict(old: int) -> None:
    assert [(laid.edit.field, laid.edit.value, laid.conflict) for laid in edits.laid(old)] == [
        ("body", "<p>A body set by hand.</p>", False),
        ("title", "A title set by hand", False),
    ]
    home = next(item for item in lift.items(old) if item["key"] == "/")
    assert home["fields"]["title"] == "A title set by hand"
    blocks, _ = body_blocks(old, home["id"], "body")
    assert len(blocks) == 1
    other = next(item for item in lift.items(old) if item["key"] != "/")
    assert len(body_blocks(old, other["id"], "body")[0]) > 1, "bodies kept by that version are read"
    run("update", old)
    assert not any(laid.conflict for laid in edits.laid(old))
    assert all(laid.edit.over for laid in edits.laid(old)), "what they lie over is known now"


def test_nothing_is_behind_that_is_not(old: int) -> None:
    """Lifting and refitting read more than that version did, which is said; kinds and decisions are as they were."""
    found = behind.late(old)
    assert {(late.stage, late.why) for late in found} == {("lift", Behind.OLDER), ("refit", Behind.OLDER)}
    run("update", old)
    assert behind.late(old) == []
    assert crossings.account_of(old) and "unaccounted" not in crossings.account_of(old)
    assert due.due(old, crossings.load_plan(old), "route") == []
