"""The whole application as a person starts it, and a browser on it."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import httpx
import pytest

from grandferry.demo.wider import SMALL
from tests.servers import free_port, wait_for

from .chrome import Browser, browser

ROOT = Path(__file__).parents[2]


def two_ports() -> int:
    """A free port whose neighbour is free as well (previews are there)."""
    for _ in range(50):
        port = free_port()
        with socket.socket() as probe:
            try:
                probe.bind(("127.0.0.1", port + 1))
            except OSError:
                continue
        return port
    raise AssertionError("no two neighbouring ports are free")


@dataclass
class Application:
    """The application as a process; ``old`` and ``new`` are the demo's sites, "" without a demo."""

    base: str
    port: int
    folder: Path
    process: subprocess.Popen[bytes]
    old: str = ""
    new: str = ""
    files: str = ""

    def api(self, method: str, path: str, **more: Any) -> Any:
        answer = httpx.request(method, f"{self.base}/api{path}", timeout=30, **more)
        answer.raise_for_status()
        return answer.json()

    def allow(self, crossing: int) -> None:
        """Somebody gives leave to copy the old site, where nobody has yet."""
        known = self.api("GET", f"/crossings/{crossing}/plan")
        if known["plan"]["old"].get("permission") is None:
            known["plan"]["old"]["permission"] = {"by": "Bea Quill", "date": "1 May 2026"}
            self.api("PUT", f"/crossings/{crossing}/plan", json={**known, "text": "leave to copy"})

    def run(self, crossing: int, *kinds: str, **params: Any) -> None:
        """Run jobs to their ends."""
        import time

        if "survey" in kinds:
            self.allow(crossing)
        for kind in kinds:
            job = self.api("POST", "/jobs", json={"crossing": crossing, "kind": kind, **params})
            for _ in range(1200):
                now = self.api("GET", f"/jobs/{job['id']}")
                if now["state"] in ("done", "failed", "stopped"):
                    break
                time.sleep(0.05)
            assert now["state"] == "done", now


@contextmanager
def application(folder: Path, demo: bool = False, port: int = 0, size: int = SMALL) -> Iterator[Application]:
    """``grandferry serve`` (or ``demo``, its old site of about ``size`` addresses) over a folder."""
    port = port or two_ports()
    words = ["demo" if demo else "serve", "--data", str(folder), "--port", str(port)]
    words += ["--size", str(size)] if demo else []
    said = tempfile.TemporaryFile()  # noqa: SIM115 (as long as the process)
    process = subprocess.Popen(
        [sys.executable, "-m", "grandferry", *words], cwd=ROOT, stderr=said, start_new_session=True
    )
    made = Application(f"http://127.0.0.1:{port}", port, folder, process)
    try:
        try:
            wait_for(port, 120, process)
            wait_for(port + 1, 120, process)
        except AssertionError as problem:
            said.seek(0)
            raise AssertionError(f"{problem}: {said.read().decode(errors='replace')[-2000:]}") from None
        if demo:
            import json

            old, new = json.loads((folder / "ports.json").read_text("utf-8"))
            made.old = f"http://old.quillmere.localhost:{old}"
            made.new = f"http://new.quillmere.localhost:{new}"
            made.files = f"files.quillmere.localhost:{old}"
        yield made
    finally:
        if process.poll() is None:
            process.terminate()
            try:
                process.wait(10)
            except subprocess.TimeoutExpired:
                pass
        try:
            os.killpg(process.pid, signal.SIGKILL)
        except ProcessLookupError:
            pass


@pytest.fixture(scope="session")
def crossed(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    """The demo with its own crossing run from end to end: every view is full. Tests leave it as it is."""
    folder = tmp_path_factory.mktemp("crossed")
    with application(folder, demo=True) as made:
        made.run(1, "survey", "sort", "lift", "refit", "route", "land", "check")
        yield made
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture
def copied(crossed: Application) -> int:
    """A crossing of its own with the demo's plan and everything up to the check, that a test may change."""
    plan = crossed.api("GET", "/crossings/1/plan")["plan"]
    name = f"Copy {time.time_ns()}"
    made = crossed.api("POST", "/crossings", json={"name": name, "start": plan["old"]["start"]})["id"]
    known = crossed.api("GET", f"/crossings/{made}/plan")
    crossed.api("PUT", f"/crossings/{made}/plan", json={"plan": {**plan, "name": name}, "revision": known["revision"]})
    pairs = crossed.api("GET", "/crossings/1/pairs")["rows"]
    lines = [{k: p[k] for k in ("old", "new", "status", "match")} for p in pairs]
    crossed.api("POST", f"/crossings/{made}/pairs", json={"set": lines})
    crossed.run(made, "survey", "sort", "lift", "refit", "route")
    return int(made)


@pytest.fixture(scope="session")
def _one_browser() -> Iterator[Browser]:
    with browser() as made:
        yield made


@pytest.fixture
def page(_one_browser: Browser, request: pytest.FixtureRequest) -> Iterator[Browser]:
    """A browser on an empty page; nothing may break a policy or throw while a test runs."""
    _one_browser.go("about:blank")
    yield _one_browser
    if _one_browser.js("return location.protocol") != "about:":
        assert _one_browser.problems() == []
        _one_browser.js(
            "sessionStorage.clear(); for (const k of Object.keys(localStorage)) if (k !== 'grandferry.name') localStorage.removeItem(k)"
        )
