"""Kill -9 in the middle: the worker, and the whole program; the result equals an undisturbed run."""

from __future__ import annotations

import json
import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from aiohttp import web

from grandferry.demo.__main__ import prepare
from grandferry.demo.newsystem import NewSystem
from grandferry.demo.oldsite import build
from grandferry.demo.server import old_app
from grandferry.store import crossings, jobs, survey
from grandferry.store.db import rows
from grandferry.work.plans import STAGES, bring_in, run_job
from grandferry.work.supervisor import Supervisor
from tests.servers import apps, free_port


def slow_site(count: int, seen: list[str], pause: float) -> web.Application:
    import asyncio

    async def answer(request: web.Request) -> web.Response:
        seen.append(request.path)
        await asyncio.sleep(pause)
        if request.path == "/":
            return web.Response(
                text="".join(f"<a href=/p{n}>{n}</a>" for n in range(1, count)), content_type="text/html"
            )
        if not request.path.startswith("/p"):
            return web.Response(status=404)
        return web.Response(
            text=f"<title>{request.path}</title><a href=http://else.test{request.path}>e</a>", content_type="text/html"
        )

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


def kill_when(condition: Callable[[], bool], supervisor: Supervisor) -> None:
    while not condition():
        time.sleep(0.005)
    os.kill(supervisor.pid, signal.SIGKILL)


def test_a_survey_killed_at_page_fifteen_fetches_each_page_once(cross: Callable[..., int], workspace: Path) -> None:
    import threading

    seen: list[str] = []
    with apps(slow_site(30, seen, 0.05)) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0, "at_once": 1},
                "survey": {"sitemaps": False},
            }
        )
        with Supervisor(workspace) as supervisor:
            killer = threading.Thread(target=kill_when, args=(lambda: "/p15" in seen, supervisor))
            killer.start()
            result = run_job("survey", crossing, {})
            killer.join()
            assert supervisor.restarts == 1
    pages = [path for path in seen if path == "/" or path.startswith("/p")]
    assert result["pages"] == 30 and set(pages) == {"/"} | {f"/p{n}" for n in range(1, 30)}
    assert len(pages) - len(set(pages)) <= 1, "nothing twice but what was in flight"
    assert result["shut_out"] == {"other host": 29}, "what was kept out before the kill is still counted"
    job = jobs.job(1)
    assert (job.state, job.lease) == ("done", 2)


@pytest.mark.slow
def test_twenty_kills_over_one_survey(cross: Callable[..., int], workspace: Path) -> None:
    import threading

    seen: list[str] = []
    dice = random.Random(5)
    kills = {"n": 0}
    with apps(slow_site(900, seen, 0.1)) as (port,):
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0, "at_once": 4},
                "survey": {"sitemaps": False},
            }
        )
        with Supervisor(workspace) as supervisor:
            ended = threading.Event()

            def killer() -> None:
                while kills["n"] < 20 and not ended.wait(1.0 + 1.5 * dice.random()):
                    try:
                        os.kill(supervisor.pid, signal.SIGKILL)
                        kills["n"] += 1
                    except ProcessLookupError:
                        pass

            thread = threading.Thread(target=killer)
            thread.start()
            result = run_job("survey", crossing, {})
            ended.set()
            thread.join()
    pages = [path for path in seen if path == "/" or path.startswith("/p")]
    assert result["pages"] == 900 and {r["title"] for r in survey.address_rows(crossing)} >= {
        f"/p{n}" for n in range(1, 900)
    }
    assert kills["n"] >= 10
    assert len(pages) - len(set(pages)) <= kills["n"] * 8, "no page twice beyond those in flight at a kill"
    assert rows("SELECT count(*), count(DISTINCT address_id) FROM capture") == [(900, 900)]


@pytest.mark.slow
def test_a_landing_killed_again_and_again_makes_nothing_twice(workspace: Path, tmp_path: Path) -> None:
    import threading

    old_port, new_port = free_port(), free_port()
    site = build(old_port, new_port)
    prepare(tmp_path / "demo", site, old_port, new_port)
    target: list[NewSystem] = []
    posts: list[str] = []

    def new_app() -> Any:
        target.append(NewSystem(tmp_path / "new.sqlite"))
        app = target[0].app()

        @web.middleware
        async def slowly(request: web.Request, handler: Any) -> web.StreamResponse:
            import asyncio

            answer = await handler(request)
            if request.method == "POST" and answer.status == 201:
                posts.append(request.path)
                await asyncio.sleep(0.02)  # the answer is late, so a kill can come between the deed and the ledger
            return answer

        app.middlewares.append(slowly)
        return app

    with apps(lambda: old_app(site), new_app, ports=[old_port, new_port]):
        found, _ = bring_in(tmp_path / "demo" / "plan")
        with Supervisor(workspace) as supervisor:
            for stage in STAGES[: STAGES.index("land")]:
                run_job(stage, found.id, {})
            ended = threading.Event()

            def killer() -> None:
                for number in range(5):
                    while len(posts) < (number + 1) * 25 and not ended.wait(0.005):
                        pass
                    if ended.is_set():
                        return
                    try:
                        os.kill(supervisor.pid, signal.SIGKILL)
                    except ProcessLookupError:
                        pass

            thread = threading.Thread(target=killer)
            thread.start()
            run_job("land", found.id, {})
            ended.set()
            thread.join()
            assert supervisor.restarts == 5
            checked = run_job("check", found.id, {})
    assert checked["open"] == []
    assert crossings.account_of(found.id).keys() == site.truth["fate_counts"].keys()
    import sqlite3

    with sqlite3.connect(tmp_path / "new.sqlite") as db:
        count = db.execute("SELECT count(*) FROM thing").fetchone()[0]
    assert count == len(posts) == rows("SELECT count(*) FROM ledger")[0][0], "nothing made twice, nothing left out"


@pytest.mark.slow
def test_the_program_killed_and_run_again_goes_on(tmp_path: Path) -> None:
    """The whole command killed in mid-survey; the same command again ends as an undisturbed one."""
    seen: list[str] = []
    with apps(slow_site(60, seen, 0.05)) as (port,):
        command = [
            sys.executable,
            "-m",
            "grandferry.cli.main",
            "survey",
            f"http://127.0.0.1:{port}/",
            "--delay",
            "0",
            "--at-once",
            "2",
            "--data",
            str(tmp_path / "data"),
            "--json",
        ]
        first = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        while len(seen) < 30:
            time.sleep(0.01)
        first.kill()
        first.wait()
        second = subprocess.run(command, capture_output=True, text=True, timeout=120)
    assert second.returncode == 0, second.stderr
    assert json.loads(second.stdout)["pages"] == 60
    pages = [path for path in seen if path.startswith("/p")]
    assert len(set(pages)) == 59 and len(pages) - 59 <= 6
