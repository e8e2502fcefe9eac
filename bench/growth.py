"""How a survey grows: pages per second and memory over the demo's old site in its large sizes, served by nginx."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from tests.servers import nginx

from grandferry.demo.__main__ import export
from grandferry.demo.wider import build

SIZES = (1000, 10_000, 100_000)


def _tree_memory(root: int) -> float:
    """Megabytes of a process and all below it, each page of memory shared between them counted once (PSS)."""
    children: dict[int, list[int]] = {}
    for place in Path("/proc").iterdir():
        if place.name.isdigit():
            try:
                parent = int(re.search(r"\) \S (\d+)", (place / "stat").read_text())[1])  # type: ignore[index]
            except (OSError, TypeError):
                continue
            children.setdefault(parent, []).append(int(place.name))
    total, waiting = 0, [root]
    while waiting:
        process = waiting.pop()
        waiting += children.get(process, [])
        try:
            found = re.search(r"(?m)^Pss:\s+(\d+)", Path(f"/proc/{process}/smaps_rollup").read_text())
        except OSError:
            continue
        total += int(found[1]) if found else 0
    return total / 1024


def measure(size: int, folder: Path, at_once: int = 16) -> dict[str, float]:
    """One survey of the demo's old site of about ``size`` addresses: pages, seconds, the peak of its processes'
    memory."""
    old, new = 80, 81  # in the links; every name below .localhost is this machine, and nginx listens elsewhere
    site = build(old, new, size)
    export(folder / "sites", site)
    del site
    root = folder / "sites" / "old.quillmere.localhost"
    rewrite = "sub_filter_once off; sub_filter 'old.quillmere.localhost:80' $http_host;"
    with nginx(folder / "nginx", f"root {root}; index index.html; {rewrite}") as port:
        command = [
            sys.executable,
            "-m",
            "grandferry.cli.main",
            "survey",
            "--permission",
            "bench",
            f"http://127.0.0.1:{port}/",
            "--delay",
            "0",
        ]
        command += ["--at-once", str(at_once), "--data", str(folder / "data"), "--json"]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
        peak = [0.0]

        def watch() -> None:
            while process.poll() is None:
                peak[0] = max(peak[0], _tree_memory(process.pid))
                time.sleep(1.0 if size > 5000 else 0.2)

        watcher = threading.Thread(target=watch)
        watcher.start()
        out, _ = process.communicate()
        watcher.join()
    found = json.loads(out)
    return {"pages": found["pages"], "seconds": found["seconds"], "megabytes": peak[0]}


def grow(sizes: tuple[int, ...] = SIZES) -> list[dict[str, float]]:
    made = []
    for size in sizes:
        with tempfile.TemporaryDirectory(prefix="ferry-growth-") as temporary:
            made.append(measure(size, Path(temporary)))
    return made
