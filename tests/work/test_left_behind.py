"""Nothing runs on when what started it was killed: neither what reads pages, nor a browser in the loop of a page."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.net.browser import find_browser
from grandferry.store import jobs
from grandferry.work.jobs.child import ALONE_SECONDS
from grandferry.work.jobs.supervisor import Supervisor
from tests.servers import apps, pages_app
from tests.waiting import SECONDS, wait_for


def running() -> dict[int, tuple[int, str]]:
    """pid -> (parent's pid, when it was started) of every process that runs."""
    found = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                told = (entry / "stat").read_text().rpartition(")")[2].split()
            except OSError:
                continue
            if told[0] != "Z":
                found[int(entry.name)] = (int(told[1]), told[19])
    return found


def below(pid: int) -> set[tuple[int, str]]:
    """All that a process has started, and what that has (pid, when it was started)."""
    all_ = running()
    found: set[int] = set()
    more = {pid}
    while more:
        more = {child for child, (parent, _) in all_.items() if parent in more} - found
        found |= more
    return {(one, all_[one][1]) for one in found}


def none_is_left(of: set[tuple[int, str]]) -> bool:
    now = {(pid, started) for pid, (_, started) in running().items()}
    return not of & now


POOL = """
import sys, threading, time
sys.path.insert(0, {here!r})
from grandferry.work.jobs.pool import PagePool
from tests.work.test_left_behind import stuck
threading.Thread(target=lambda: list(PagePool(2).run(stuck, [{folder!r}] * 100)), daemon=True).start()
time.sleep(600)
"""


def stuck(folder: str) -> None:
    """Hold the interpreter for good, as a page may that is read in one call of a library."""
    (Path(folder) / f"stuck-{os.getpid()}").touch()
    re.match("(a+)+$", "a" * 64 + "b")


@pytest.mark.slow
def test_children_that_are_stuck_in_a_page_end_though_nobody_is_left_to_end_them(tmp_path: Path) -> None:
    code = POOL.format(here=os.getcwd(), folder=str(tmp_path))
    parent = subprocess.Popen([sys.executable, "-c", code])
    wait_for(lambda: len(list(tmp_path.iterdir())) == 2, 60.0)
    started = below(parent.pid)
    parent.kill()
    parent.wait()
    wait_for(lambda: none_is_left(started), ALONE_SECONDS + SECONDS)


@pytest.mark.slow
@pytest.mark.parametrize("stage", ["lift", "refit"])
def test_a_killed_worker_leaves_no_reader_of_pages(
    cross: Callable[..., int], work: Callable[..., Any], workspace: Path, stage: str
) -> None:
    pages: dict[str, Any] = {
        f"/p{n}": f"<h1>Page {n}</h1><div id=b>{f'<p>Words of paragraph and page {n}</p>' * 300}</div>"
        for n in range(300)
    }
    pages["/"] = "".join(f"<a href={key}>{key}</a>" for key in pages)
    with apps(pages_app(pages)) as (port,):
        fields = [
            {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
            {"name": "body", "type": "blocks", "locators": [{"css": "#b"}]},
        ]
        crossing = cross(
            {
                "old": {"start": f"http://127.0.0.1:{port}/"},
                "manners": {"delay": 0},
                "kinds": [{"name": "page", "rules": [{"element": "#b"}], "fields": fields}],
            }
        )
        for before in ("survey", "sort", "lift")[: 2 if stage == "lift" else 3]:
            work(before, crossing)
    with Supervisor(workspace) as supervisor:
        jobs.ask_job(stage, crossing, {})
        first = supervisor.pid
        wait_for(lambda: len(below(first)) >= 2)
        started = below(first)
        os.kill(first, signal.SIGKILL)
        wait_for(lambda: none_is_left(started))


@pytest.mark.slow
@pytest.mark.skipif(not find_browser(), reason="no Chromium on this machine")
def test_a_killed_worker_leaves_no_browser_in_a_loop(cross: Callable[..., int], workspace: Path) -> None:
    pages: dict[str, Any] = {"/": "<a href=/loop>x</a>", "/loop": "<title>L</title><script>while (true);</script>"}
    with apps(pages_app(pages)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"browser": ["^/loop$"]}})
        with Supervisor(workspace) as supervisor:
            jobs.ask_job("survey", crossing, {})
            first = supervisor.pid

            def looping() -> set[tuple[int, str]]:
                found = below(first)
                named = [Path(f"/proc/{pid}/cmdline") for pid, _ in found]
                return (
                    found if any(b"--type=renderer" in path.read_bytes() for path in named if path.exists()) else set()
                )

            wait_for(looping, 60.0)
            time.sleep(1.0)
            started = below(first)
            os.kill(first, signal.SIGKILL)
            wait_for(lambda: none_is_left(started))
