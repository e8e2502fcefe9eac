"""Kill -9 in the middle: the worker, and the whole program; the result equals an undisturbed run."""

from __future__ import annotations

import fcntl
import json
import os
import random
import re
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from aiohttp import web

from grandferry.core.errors import StageFailed
from grandferry.core.plan import Plan
from grandferry.demo.__main__ import prepare
from grandferry.demo.newsystem import NewSystem
from grandferry.demo.server import old_app
from grandferry.demo.wider import build
from grandferry.store import crossings, jobs
from grandferry.store.db import rows
from grandferry.store.migrations import VERSION
from grandferry.work.jobs.running import run_job
from grandferry.work.jobs.supervisor import STARTS, Supervisor
from grandferry.work.plan.plans import bring_in
from grandferry.work.rounds.order import STAGES
from tests.servers import apps, free_port, pages_app
from tests.waiting import wait_for


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


def test_a_survey_stopped_and_gone_on_with_asks_nothing_twice(cross: Callable[..., int], workspace: Path) -> None:
    import threading

    seen: list[str] = []
    with apps(slow_site(200, seen, 0.3)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        with Supervisor(workspace):

            def stopper() -> None:
                while len(seen) < 40:
                    time.sleep(0.005)
                jobs.wish(1, "stop")

            thread = threading.Thread(target=stopper)
            thread.start()
            with pytest.raises(StageFailed, match="stopped"):
                run_job("survey", crossing, {})
            thread.join()
            assert run_job("survey", crossing, {})["pages"] == 200
    pages = [path for path in seen if path.startswith("/p")]
    assert len(set(pages)) == 199 and len(pages) - len(set(pages)) <= 8, "but what was in flight"
    assert not list((workspace / "files" / "tmp").glob("spool-*"))


def result_of(crossing: int) -> dict[str, Any]:
    """All that a survey found, without the numbers and moments that differ from run to run."""
    return {
        "addresses": sorted(
            rows(
                "SELECT a.url, a.state, a.status, a.type, a.mime, a.target, a.title, a.words, a.bytes, a.in_links, a.depth, "
                "a.visits, a.counted, a.reason, c.body, c.content FROM address a LEFT JOIN capture c ON c.id = a.capture "
                "WHERE a.crossing_id = ?",
                crossing,
            )
        ),
        "captures": rows("SELECT count(*), count(DISTINCT address_id) FROM capture WHERE crossing_id = ?", crossing),
        "references": sorted(
            rows(
                "SELECT s.url, t.url, r.how, r.raw, r.words FROM reference r JOIN address s ON s.id = r.source_id "
                "JOIN address t ON t.id = r.target_id WHERE r.crossing_id = ?",
                crossing,
            )
        ),
        "found": sorted(
            rows(
                "SELECT a.url, f.how FROM found f JOIN address a ON a.id = f.address_id WHERE f.crossing_id = ?",
                crossing,
            )
        ),
        "kept out": sorted(rows("SELECT url, reason, how, pages FROM shut_out WHERE crossing_id = ?", crossing)),
        "spellings": sorted(
            rows(
                "SELECT a.url, s.url FROM spelling s JOIN address a ON a.id = s.address_id WHERE s.crossing_id = ?",
                crossing,
            )
        ),
    }


@pytest.mark.slow
def test_twenty_kills_over_one_survey_of_the_whole_demo(workspace: Path, tmp_path: Path) -> None:
    """The worker killed at random moments; the result equals an undisturbed one, by the server's own log nothing was
    asked for twice but what was in flight."""
    import asyncio
    import threading

    port = free_port()
    site = build(port, port + 1, 700)
    prepare(tmp_path / "demo", site, port, port + 1)
    seen: list[str] = []
    pause = {"seconds": 0.0}
    dice = random.Random(5)
    kills = {"n": 0}

    def slowed() -> web.Application:
        app = old_app(site, lambda host, key: seen.append(f"{host}{key}"))

        @web.middleware
        async def slowly(request: web.Request, handler: Any) -> web.StreamResponse:
            await asyncio.sleep(pause["seconds"])
            return await handler(request)

        app.middlewares.append(slowly)
        return app

    with apps(slowed, ports=[port]), Supervisor(workspace) as supervisor:
        found, _ = bring_in(tmp_path / "demo" / "plan")
        run_job("survey", found.id, {})
        undisturbed = result_of(found.id)
        asked_once = sorted(set(seen))
        seen.clear()
        pause["seconds"] = 0.2
        name = "Killed again and again"
        text = (tmp_path / "demo" / "plan" / "plan.yaml").read_text("utf-8")
        (tmp_path / "demo" / "plan" / "plan.yaml").write_text(re.sub(r"(?m)^name: .*$", f"name: {name}", text), "utf-8")
        again, _ = bring_in(tmp_path / "demo" / "plan")
        assert again.id != found.id
        ended = threading.Event()

        began = time.monotonic()
        subprocess.run([sys.executable, "-c", "import grandferry.work.jobs.worker"], check=True)
        least = 1.3 * (time.monotonic() - began) + 0.3  # what a worker takes to begin with, on this machine

        def may_be_given_up() -> bool:
            # on a busy machine no moment is late enough for every worker to have gained something
            return any(job.idle_tries >= jobs.IDLE_TRIES - 2 for job in jobs.latest(again.id, 1))

        def killer() -> None:
            while kills["n"] < 20 and not ended.wait(least + 1.1 * dice.random()):
                while may_be_given_up() and not ended.wait(0.02):
                    pass
                try:
                    os.kill(supervisor.pid, signal.SIGKILL)
                    kills["n"] += 1
                except ProcessLookupError:
                    pass

        thread = threading.Thread(target=killer)
        thread.start()
        try:
            run_job("survey", again.id, {})
        finally:
            ended.set()
            thread.join()
    assert kills["n"] == 20
    killed = result_of(again.id)
    for what, rows_ in undisturbed.items():
        assert killed[what] == rows_, what
    asked = [url for url in seen if "ferry-made-up" not in url and not url.endswith(("robots.txt", ".xml", ".xml.gz"))]
    assert set(asked) <= set(asked_once)
    at_once = 8  # what was under way at a kill; all that was answered is in the spool
    assert len(asked) - len(set(asked)) <= 20 * at_once


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


def test_a_worker_whose_writing_takes_long_is_not_taken_for_dead(cross: Callable[..., int], workspace: Path) -> None:
    crossing = cross({"old": {"start": "http://127.0.0.1:1/"}})
    jobs.add_job("survey", crossing, {})
    claimed = jobs.claim()
    assert claimed is not None
    watching = Supervisor(workspace)
    assert not watching._silent()
    long_ago = time.time() - 2 * jobs.STALE
    rows("UPDATE job SET heartbeat = ?", long_ago)
    jobs.sign_of_life().touch()
    assert not watching._silent(), "it cannot write its heartbeat, and still gives a sign of life"
    os.utime(jobs.sign_of_life(), (long_ago, long_ago))
    assert watching._silent()


def test_a_worker_has_time_to_take_up_what_the_last_one_left(cross: Callable[..., int], workspace: Path) -> None:
    """The last one was silent for long; a new one is not killed for it before it could say a word."""
    crossing = cross({"old": {"start": "http://127.0.0.1:1/"}})
    number = jobs.add_job("survey", crossing, {})
    assert jobs.claim() is not None
    long_ago = time.time() - 3 * jobs.STALE
    rows("UPDATE job SET heartbeat = ?", long_ago)
    jobs.sign_of_life().touch()
    os.utime(jobs.sign_of_life(), (long_ago, long_ago))
    with Supervisor(workspace) as supervisor:
        wait_for(lambda: jobs.job(number).ended, 3 * jobs.STALE)
        assert supervisor.restarts == 0


def test_a_worker_that_cannot_start_is_told_and_not_started_for_ever(
    cross: Callable[..., int], workspace: Path, capfd: pytest.CaptureFixture[str]
) -> None:
    crossing = cross({"old": {"start": "http://127.0.0.1:1/"}})
    rows("PRAGMA user_version = 99")  # as if a newer program had opened it meanwhile
    try:
        with Supervisor(workspace) as supervisor:
            for _ in range(2):
                with pytest.raises(StageFailed, match="cannot start"):
                    run_job("survey", crossing, {})
            time.sleep(1)
            assert supervisor.restarts <= STARTS + 1
    finally:
        rows(f"PRAGMA user_version = {VERSION}")
    said = capfd.readouterr().err
    assert "schema version 99" in said and "cannot start" in said and "Traceback" not in said


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
            "--permission",
            "Owner",
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


def test_a_workspace_has_one_worker_at_a_time(cross: Callable[..., int], workspace: Path) -> None:
    """A worker may outlive its program by a moment: what it still writes is not met by that of the next one."""
    job = jobs.add_job("sort", cross({"old": {"start": "http://127.0.0.1:1/"}}))
    with jobs.worker_lock().open("w") as held:
        fcntl.lockf(held, fcntl.LOCK_EX)
        with Supervisor(workspace):
            time.sleep(1.5)
            assert jobs.job(job).state == "queued"
            fcntl.lockf(held, fcntl.LOCK_UN)
            wait_for(lambda: jobs.job(job).state == "done")


@pytest.mark.parametrize(("anew", "state"), [(False, "done"), (True, "stopped")])
def test_what_an_ended_program_left_undone(cross: Callable[..., int], workspace: Path, anew: bool, state: str) -> None:
    """It is gone on with at once where the application is opened again; a command does what it was asked for."""
    left = jobs.add_job("sort", cross({"old": {"start": "http://127.0.0.1:1/"}}))
    assert jobs.claim() is not None
    with Supervisor(workspace, anew=anew):
        wait_for(lambda: jobs.job(left).ended, jobs.STALE / 2)
        assert jobs.job(left).state == state
        assert ("it goes on where it stood" in jobs.job(left).error) == anew
        assert run_job("sort", jobs.job(left).crossing_id, {}) is not None


def test_a_worker_runs_nothing_of_the_folder_it_was_started_in(
    tmp_path: Path, workspace: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Files named as modules that a worker and its children load are not run from the current folder, nor from the
    workspace."""
    mark = tmp_path / "ran"
    here = tmp_path / "here"
    here.mkdir()
    for folder in (here, workspace):
        for name in ("json", "grandferry", "re2", "selectolax", "pickle", "socket", "peewee", "sitecustomize"):
            (folder / f"{name}.py").write_text(f"open({str(mark)!r}, 'a').write('{name} ')\n")
    monkeypatch.chdir(here)
    crossing = crossings.make_crossing("Somewhere").id
    with apps(pages_app({"/": "<title>One</title><p>A page of words."})) as (port,):
        plan = Plan.model_validate(
            {"format": 1, "name": "Somewhere", "old": {"start": f"http://127.0.0.1:{port}/"}, "manners": {"delay": 0}}
        )
        crossings.save_plan(crossing, plan, [])
        with Supervisor(workspace):
            result = run_job("survey", crossing, {})
    assert result["pages"] == 1
    assert not mark.exists(), mark.read_text()
