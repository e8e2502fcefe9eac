"""``grandferry demo``: the made-up old site and new system, and the crossing between them."""

from __future__ import annotations

import json
import socket
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated, Any

import typer

from grandferry.core.errors import FerryError
from grandferry.core.route.fate import FATES
from grandferry.store import crossings
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.plan.plans import bring_in

from .common import DONE, OPEN, guarded, print_json, say

FIRST_CHOICE = (8702, 8703)


def _free(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def _ports(folder: Path) -> tuple[int, int]:
    """The ports of the demo's two sites. A demo folder keeps its ports, since they are part of every address."""
    kept = folder / "ports.json"
    if kept.is_file():
        old, new = json.loads(kept.read_text("utf-8"))
        for port in (old, new):
            if not _free(port):
                raise FerryError(
                    f"Port {port}, which this demo folder uses, is taken.",
                    "End what listens there, or choose another --data.",
                )
        return old, new
    chosen = []
    for port in FIRST_CHOICE:
        while not _free(port) or port in chosen:
            port += 10
        chosen.append(port)
    kept.write_text(json.dumps(chosen), "utf-8")
    return chosen[0], chosen[1]


@contextmanager
def sites(folder: Path, size: int) -> Iterator[tuple[int, int]]:
    """The demo's sites as a process of their own; gives their ports. Raises FerryError when they do not start."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        old, new = _ports(folder)
    except OSError as problem:
        raise FerryError(f"The demo folder {folder} cannot be written: {problem.strerror}.") from None
    process = subprocess.Popen(
        [
            sys.executable,
            "-P",
            "-m",
            "grandferry.demo",
            "serve",
            "--data",
            str(folder),
            "--old-port",
            str(old),
            "--new-port",
            str(new),
            "--size",
            str(size),
        ],
        stdout=subprocess.PIPE,
        stdin=subprocess.DEVNULL,
    )
    assert process.stdout is not None
    try:
        if process.stdout.readline().strip() != b"ready":
            raise FerryError("The demo's sites did not start.", "See the message above.")
        yield old, new
    finally:
        process.terminate()
        try:
            process.wait(5)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


@guarded
def command(
    port: Annotated[int, typer.Option(help="port of the application", min=1, max=65535)] = 8700,
    data: Annotated[Path | None, typer.Option(help="the demo's folder (else a temporary one)")] = None,
    headless: Annotated[
        bool, typer.Option("--headless", help="run the demo crossing from end to end and print the account")
    ] = False,
    size: Annotated[
        int,
        typer.Option(help="about how many addresses the old site has: 120, 600, 5000, 100000", min=100, max=1_000_000),
    ] = 600,
    as_json: Annotated[bool, typer.Option("--json", help="machine-readable result on stdout")] = False,
) -> None:
    """The whole application with the demo data; with --headless the demo crossing from end to end."""
    with tempfile.TemporaryDirectory(prefix="grandferry-demo-") as temporary:
        folder = (data or Path(temporary)).expanduser().resolve()
        with sites(folder, size) as (old, new):
            if headless:
                result = _headless(folder, old, new)
                if as_json:
                    print_json(result)
                raise typer.Exit(result["exit"])
            from .serve import run

            workspace = open_workspace(folder / "workspace")
            if not crossings.crossings():  # what somebody changed in a folder that is kept stays
                bring_in(folder / "plan")
            say(f"Old site: http://old.quillmere.localhost:{old}/  new system: http://new.quillmere.localhost:{new}/")
            run(workspace, "127.0.0.1", port)


def _headless(folder: Path, old: int, new: int) -> dict[str, Any]:
    """Run the demo's plan and compare the count of every fate with the demo's truth."""
    from .run import run_crossing

    say(f"Old site: http://old.quillmere.localhost:{old}/  new system: http://new.quillmere.localhost:{new}/")
    workspace = open_workspace(folder / "workspace")
    try:
        crossing, content = bring_in(folder / "plan")
        result = run_crossing(crossing.id, content.plan, "check", workspace)
    finally:
        close_workspace()
    truth = json.loads((folder / "truth.json").read_text("utf-8"))["fate_counts"]
    wrong = {
        fate: [result["fates"][fate], truth.get(fate, 0)]
        for fate in FATES
        if result["fates"][fate] != truth.get(fate, 0)
    }
    for fate, (have, true) in wrong.items():
        say(f"{fate}: {have:,} by the account, {true:,} in truth.")
    result["truth"] = truth
    landed = result["stages"]["land"]
    say(
        f"Landed: {landed['created']:,} created, {landed['changed']:,} changed, {landed['same']:,} the same, "
        f"{landed.get('left', 0):,} not sent again. "
        f"Words: {result['stages']['refit']['words']:,}, {result['stages']['refit']['unaccounted']:,} unaccounted."
    )
    if not wrong and result["exit"] == DONE:
        say("Nothing is unaccounted, nothing is merely planned, and every count equals the truth.")
    result["exit"] = OPEN if wrong else result["exit"]
    return result
