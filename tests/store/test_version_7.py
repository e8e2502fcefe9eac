"""A workspace as version 7 left it, with the demo's crossing run to its end and two values set by hand."""

from __future__ import annotations

import shutil
import sqlite3
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from grandferry.core.because import sentence
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


def _schema(database: sqlite3.Connection) -> dict[str, list[object]]:
    """Every table, index and trigger with what SQLite knows of it, whatever the words it was made with."""
    found: dict[str, list[object]] = {}
    for kind, name, sql in database.execute("SELECT type, name, sql FROM sqlite_master WHERE name NOT LIKE 'sqlite%'"):
        if kind == "trigger":
            found[name] = [sql]
            continue
        about = ("table_xinfo", "foreign_key_list", "index_list") if kind == "table" else ("index_xinfo",)
        found[name] = [sorted(map(repr, database.execute(f"PRAGMA {ask}({name})"))) for ask in about]
        if kind == "table":
            found[name][2] = sorted(row[1:] for row in database.execute(f"PRAGMA index_list({name})"))
            found[name].append("WITHOUT ROWID" in sql.upper())
        else:
            found[name].append(sql.upper().partition(" WHERE ")[2])
    return found


def test_a_new_file_has_the_schema_that_an_old_one_comes_to(old: int, tmp_path: Path) -> None:
    close_workspace()
    with sqlite3.connect(tmp_path / "workspace" / "grandferry.sqlite") as migrated:
        grown = _schema(migrated)
    open_workspace(tmp_path / "new")
    close_workspace()
    with sqlite3.connect(tmp_path / "new" / "grandferry.sqlite") as new:
        made = _schema(new)
    assert made.keys() == grown.keys() and {n: made[n] for n in made if made[n] != grown[n]} == {}
    assert len(made) > 60


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
    home = next(item for item in lift.items(old) if item.key == "/")
    assert home.fields["title"] == "A title set by hand"
    blocks, _ = body_blocks(old, home.id, "body")
    assert len(blocks) == 1
    other = next(item for item in lift.items(old) if item.key != "/")
    assert len(body_blocks(old, other.id, "body")[0]) > 1, "bodies kept by that version are read"
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


OLD_REASONS = (
    ("pair", "answers 410 by decision"),
    ("rule", "prefix /old folder/x"),
    ("rule", "pattern /a/(\\d+)\\.htm"),
    ("aside", "never ours, (or so they say) on the old site"),
    ("family", "left out on purpose: accounts of people"),
    ("old redirect", "leads to /there?x=1 on the old site"),
    ("old redirect", "leads to /there on the old site (answers 410 by decision)"),
    ("old redirect", "leads to /there on the old site (left out on purpose: documents)"),
    ("old redirect", "leads to /there on the old site (never ours (nor theirs))"),
    ("", "its redirects on the old site go in a circle"),
    ("", "redirects to http://else.test/x?a=b, for which nothing is decided"),
)
OLD_WHYS = (
    "nobody has decided; it would break",
    "retired without a reason, though it is visited or linked",
    "decided as retired, but the check says: answers 404: it would break",
)
OLD_NOTES = (
    "/news/2018/a is another item's place",
    "its kind names no pattern for new addresses",
    "set by a pair",
    "retired by a pair",
    "the plan has no kind “novel” any more",
    "“published” has no value to make an address from.",
    "“3 May” is not a date, so {published:%Y} cannot be made from it.",
    "something a person once wrote",
)


def test_sentences_it_kept_are_codes_now_and_read_as_they_did(tmp_path: Path) -> None:
    folder = tmp_path / "workspace"
    with zipfile.ZipFile(FILE) as archive:
        archive.extractall(folder)
    with sqlite3.connect(folder / "grandferry.sqlite") as plain:
        plain.execute("UPDATE address SET decision = 'retired', verdict = 'missing'")
        ids = [row[0] for row in plain.execute("SELECT id FROM address ORDER BY id")]
        for id_, (origin, reason) in zip(ids, OLD_REASONS, strict=False):
            plain.execute(
                "UPDATE address SET decision_origin = ?, decision_reason = ?, why = ? WHERE id = ?",
                (origin, reason, reason, id_),
            )
        for id_, why in zip(ids[20:], OLD_WHYS, strict=False):
            plain.execute("UPDATE address SET why = ? WHERE id = ?", (why, id_))
        items = [row[0] for row in plain.execute("SELECT id FROM item ORDER BY id")]
        for id_, note in zip(items, OLD_NOTES, strict=False):
            plain.execute("UPDATE item SET note = ? WHERE id = ?", (note, id_))
        plain.execute("UPDATE file SET reason = 'style, script or feed of the old site'")
    open_workspace(folder)
    try:
        for id_, (_, reason) in zip(ids, OLD_REASONS, strict=False):
            kept, why = rows("SELECT decision_reason, why FROM address WHERE id = ?", id_)[0]
            assert sentence(kept) == sentence(why) == reason
        for id_, why in zip(ids[20:], OLD_WHYS, strict=False):
            assert sentence(one("SELECT why FROM address WHERE id = ?", id_)) == why
        for id_, note in zip(items, OLD_NOTES, strict=False):
            assert sentence(one("SELECT note FROM item WHERE id = ?", id_)) == note
        assert {row[0] for row in rows("SELECT reason FROM file")} == {"machinery"}
    finally:
        close_workspace()
