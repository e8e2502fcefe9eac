"""The demo's sites on free ports and its crossing, with stages run in this process."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from grandferry.demo.__main__ import prepare
from grandferry.demo.newsystem import NewSystem
from grandferry.demo.server import old_app
from grandferry.demo.site import Site
from grandferry.demo.wider import SMALL, build
from grandferry.store import jobs
from grandferry.store.db import rows
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs.worker import work_on
from grandferry.work.plan.plans import bring_in
from grandferry.work.rounds.order import STAGES
from tests.servers import apps, free_port


class Demo:
    """The demo's sites and its plan, with stages run in this process."""

    def __init__(self, folder: Path, site: Site, new_port: int, seen: list[str], target: list[NewSystem]):
        self.folder, self.site, self.new_port, self.seen, self.target = folder, site, new_port, seen, target
        self.results: dict[str, Any] = {}

    def bring(self) -> None:
        found, self.content = bring_in(self.folder / "plan")
        self.crossing = int(found.id)

    def run(self, stage: str, **params: Any) -> dict[str, Any]:
        number = jobs.add_job(stage, self.crossing, params)
        claimed = jobs.claim()
        assert claimed is not None
        work_on(claimed)
        done = jobs.job(number)
        assert done.state == "done", done.error
        self.results[stage] = json.loads(done.result)
        return dict(self.results[stage])

    def fates(self) -> dict[str, list[str]]:
        return {
            key: [fate if proven else f"{fate} (planned)", target]
            for key, fate, proven, target in rows(
                "SELECT key, fate, proven, decision_target FROM address WHERE counted = 1"
            )
        }


@contextmanager
def running_demo(folder: Path, fail_every: int = 0, size: int = SMALL) -> Iterator[Demo]:
    """The whole demo, run from survey to check. ``fail_every``: the new system answers every n-th write with 503;
    ``size``: of the old site."""
    old_port, new_port = free_port(), free_port()
    site = build(old_port, new_port, size)
    prepare(folder, site, old_port, new_port)
    seen: list[str] = []
    target: list[NewSystem] = []

    def new_app() -> Any:
        target.append(NewSystem(folder / "new.sqlite", fail_every))
        return target[0].app()

    with apps(
        lambda: old_app(site, lambda host, key: seen.append(f"{host}{key}")), new_app, ports=[old_port, new_port]
    ):
        open_workspace(folder / "workspace")
        made = Demo(folder, site, new_port, seen, target)
        made.bring()
        for stage in STAGES:
            made.run(stage)
        yield made
        close_workspace()
