"""Shared fixtures: an open workspace, jobs run in this process, the demo's truth."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.plan import Pair, Plan
from grandferry.store import crossings, jobs
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.worker import work_on


@pytest.fixture
def workspace(tmp_path: Path) -> Iterator[Path]:
    folder = open_workspace(tmp_path / "workspace")
    yield folder
    close_workspace()


@pytest.fixture
def cross(workspace: Path) -> Callable[..., int]:
    """Make a crossing from plan data; gives its number."""

    def make(data: dict[str, Any], pairs: list[Pair] | None = None) -> int:
        plan = Plan.model_validate({"format": 1, "name": "Test", "manners": {"delay": 0, "at_once": 8}, **data})
        found = crossings.crossing_named(plan.name) or crossings.make_crossing(plan.name)
        crossings.save_plan(found.id, plan, pairs or [])
        return int(found.id)

    return make


@pytest.fixture
def work(workspace: Path) -> Callable[..., dict[str, Any]]:
    """Run a job to its end in this process; gives its result. Fails the test when the job fails."""
    import json

    def run(kind: str, crossing: int, fails: bool = False, **params: Any) -> dict[str, Any]:
        number = jobs.add_job(kind, crossing, params)
        claimed = jobs.claim()
        assert claimed is not None and claimed.id == number
        work_on(claimed)
        done = jobs.job(number)
        if fails:
            assert done.state == "failed", done.state
            return {"error": done.error}
        assert done.state == "done", done.error
        return dict(json.loads(done.result))

    return run
