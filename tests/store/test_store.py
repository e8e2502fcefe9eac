"""The workspace: schema versions, bodies, jobs and their leases, plans as rows."""

from __future__ import annotations

import os
import sqlite3
import time
from pathlib import Path

import pytest

from grandferry.core.errors import FerryError
from grandferry.core.plan import Pair, Plan
from grandferry.store import bodies, crossings, jobs
from grandferry.store.db import StoreError, transaction
from grandferry.store.migrations import VERSION
from grandferry.store.schema import Address, Job
from grandferry.store.workspace import close_workspace, open_workspace


def test_a_newer_workspace_is_refused(tmp_path: Path) -> None:
    open_workspace(tmp_path)
    close_workspace()
    with sqlite3.connect(tmp_path / "grandferry.sqlite") as db:
        assert db.execute("PRAGMA user_version").fetchone()[0] == VERSION
        db.execute(f"PRAGMA user_version = {VERSION + 1}")
    with pytest.raises(StoreError, match="Install a newer"):
        open_workspace(tmp_path)
    with sqlite3.connect(tmp_path / "grandferry.sqlite") as db:
        db.execute(f"PRAGMA user_version = {VERSION}")
        db.execute("PRAGMA application_id = 7")
    with pytest.raises(StoreError, match="not a Grand Ferry workspace"):
        open_workspace(tmp_path)


def test_a_folder_that_cannot_be_used(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("x")
    with pytest.raises(StoreError, match="cannot be written"):
        open_workspace(tmp_path / "file")
    (tmp_path / "bad").mkdir()
    (tmp_path / "bad" / "grandferry.sqlite").write_bytes(b"this is no database at all, but quite long enough" * 50)
    with pytest.raises(StoreError, match="cannot be opened"):
        open_workspace(tmp_path / "bad")


@pytest.mark.skipif(os.geteuid() == 0, reason="root may write anywhere")
def test_a_folder_without_leave(tmp_path: Path) -> None:
    tmp_path.chmod(0o500)
    with pytest.raises(StoreError, match="cannot be written"):
        open_workspace(tmp_path / "x")


def test_a_workspace_opened_again_keeps_everything(workspace: Path) -> None:
    crossings.make_crossing("One")
    digest = bodies.put(b"a body that is long enough to be packed " * 20, "text/html")
    close_workspace()
    open_workspace(workspace)
    assert [c.name for c in crossings.crossings()] == ["One"]
    assert bodies.get(digest) == b"a body that is long enough to be packed " * 20
    with pytest.raises(KeyError):
        bodies.get("0" * 64)


@pytest.mark.parametrize("body", [b"", b"small", b"x" * 5000, os.urandom(5000), os.urandom(1_500_000)])
def test_bodies_come_back_as_they_went(workspace: Path, body: bytes) -> None:
    assert bodies.get(bodies.put(body)) == body
    assert bodies.put(body) == bodies.digest(body)
    assert bodies.file_of(bodies.digest(body)).exists() == (len(body) > bodies.BESIDE)


def test_a_plan_comes_back_as_it_went(workspace: Path) -> None:
    plan = Plan.model_validate(
        {
            "format": 1,
            "name": "One",
            "old": {"start": "http://a.test/", "permission": {"by": "Ann", "date": "today"}},
            "interim": "http://n.test",
            "kinds": [{"name": "b", "rules": [{"below": "/b"}]}, {"name": "a", "rules": [{"below": "/a"}]}],
            "refit": {"steps": [{"name": "s", "remove": ".x"}]},
            "land": {"base": "http://n.test"},
            "route": {
                "rules": [{"old": "/x", "new": "/y"}],
                "aside": [{"address": "/z", "reason": "because"}],
                "files": "/m/{name}",
            },
        }
    )
    pairs = [Pair(old="/b", new="/c"), Pair(old="/a", status=410)]
    number = crossings.make_crossing("One").id
    crossings.save_plan(number, plan, pairs)
    assert crossings.load_plan(number) == plan and crossings.load_pairs(number) == pairs
    crossings.save_plan(number, plan.model_copy(update={"kinds": []}), [])
    assert crossings.load_plan(number).kinds == [] and crossings.load_pairs(number) == []
    with pytest.raises(FerryError, match="is there already"):
        crossings.make_crossing("One")


def test_a_lease_fences_the_worker_before_off(workspace: Path) -> None:
    number = jobs.add_job("sort", None)
    first = jobs.claim()
    assert first is not None and jobs.claim() is None
    jobs.note_progress(number, first.lease, {"done": 1})
    Job.update(heartbeat=time.time() - 60).execute()
    second = jobs.claim()
    assert second is not None and second.lease == first.lease + 1
    for late in (
        lambda: jobs.note_progress(number, first.lease, {}),
        lambda: jobs.beat(number, first.lease),
        lambda: jobs.finish(number, first.lease, "done"),
    ):
        with pytest.raises(jobs.Fenced):
            late()
    jobs.finish(number, second.lease, "done", {"x": 1})
    assert jobs.job(number).state == "done"


def test_a_job_whose_worker_always_dies_fails_in_the_end(workspace: Path) -> None:
    number = jobs.add_job("sort", None)
    for _ in range(jobs.IDLE_TRIES + 1):
        assert jobs.claim() is not None
        Job.update(heartbeat=0).execute()
    assert jobs.claim() is None
    assert jobs.job(number).state == "failed" and "no further than before" in jobs.job(number).error


def test_the_tally_is_kept_by_the_writing_transaction(workspace: Path) -> None:
    number = crossings.make_crossing("One").id
    plain = {"crossing": number, "host": "a", "key": "/x", "folder": "/x/"}
    with transaction():
        one = Address.create(url="u1", counted=True, **plain)
        Address.create(url="u2", counted=False, **plain)
        two = Address.create(url="u3", counted=True, **plain)
    assert crossings.account_of(number) == {"unaccounted": {"planned": 2, "proven": 0}}
    Address.update(fate="moved", proven=True).where(Address.id == one.id).execute()
    Address.update(counted=True).where(Address.url == "u2").execute()
    assert crossings.account_of(number) == {
        "unaccounted": {"planned": 2, "proven": 0},
        "moved": {"planned": 0, "proven": 1},
    }
    two.delete_instance()
    try:
        with transaction():
            Address.update(fate="retired").execute()
            raise RuntimeError
    except RuntimeError:
        pass
    assert crossings.counted(number) == 2 and "retired" not in crossings.account_of(number)


def test_every_part_of_a_plan_is_kept(workspace: Path) -> None:
    """Whatever the plan's model may hold comes back from the records as it was."""
    plan = Plan.model_validate(
        {
            "format": 1,
            "name": "Whole",
            "old": {"start": "http://old.test/", "permission": {"by": "Bea", "date": "1 May"}},
            "interim": "http://new.test/",
            "final": "http://www.new.test/",
            "manners": {"delay": 2},
            "survey": {"depth": 3, "browser": ["^/live/"]},
            "new": {"start": "http://new.test/en/", "aliases": ["neu.test"], "manners": {"at_once": 9}},
            "kinds": [{"name": "news", "label": "News", "rules": [{"below": "/news/"}], "languages": ["en", "cy"]}],
            "refit": {
                "steps": [
                    {"name": "badge", "remove": ".badge"},
                    {"name": "tip", "select": ".tip", "act": "callout", "box": "tip", "kinds": ["news"], "off": True},
                ],
                "markdown": {"definitions": "html"},
                "forms": [{"form": "0123456789ab", "state": "wired up", "note": "as /letters"}],
            },
            "route": {"aside": [{"address": "/x/.*", "reason": "old"}], "files": "/media/{name}"}
            | {"questions": [{"about": ["/a?b=1"], "asked": "Still sold?", "until": "parent"}]},
            "media": {"roles": [{"name": "lead", "width": 1200, "shape": "16:9"}], "remake": {"widest": 2000}},
            "leave_out": ["documents"],
            "carried_keys": [{"mark": "0123456789ab", "name": "key"}],
            "land": {"target": "jsonapi", "base": "http://new.test/api"},
        }
    )
    assert {name for name in Plan.model_fields if getattr(plan, name) != Plan.model_fields[name].default} == set(
        Plan.model_fields
    ), "a new part of the plan belongs into this test"
    made = crossings.make_crossing(plan.name)
    crossings.save_plan(made.id, plan, [])
    assert crossings.load_plan(made.id) == plan
