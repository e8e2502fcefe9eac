"""``./ferry bench``: our figures beside the floor's, measured in the same run on the same site served by nginx."""

from __future__ import annotations

import argparse
import gc
import json
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from rich.console import Console
from rich.table import Table
from tests.servers import nginx

from bench import site
from bench.growth import grow
from grandferry.core.encoding import decode
from grandferry.core.page import parse
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.write import to_markdown

REAL = Path("/usr/share/doc/python3.11/html")  # a documentation site, where its Debian package is installed


def process(command: list[str]) -> tuple[dict[str, float], float, float]:
    """(its JSON, its own seconds from start to end, CPU seconds) of a command."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    began = time.perf_counter()
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    whole = time.perf_counter() - began
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    if not done.stdout:
        raise SystemExit(done.stderr)
    return json.loads(done.stdout), whole, after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def survey(url: str, what: str, runs: int) -> list[list[str]]:
    """The survey against the bare walk, in turn; medians. Once as the served application makes it, by a worker that is
    there, and once as a command, from its start to its end."""
    python = [sys.executable, "-m"]
    command = [
        *python,
        "grandferry.cli.main",
        "survey",
        url,
        "--permission",
        "bench",
        "--delay",
        "0",
        "--at-once",
        "16",
    ]
    walks: list[float] = []
    served: list[float] = []
    commands: list[float] = []
    cpu: list[list[float]] = [[], []]
    for _ in range(runs):
        with tempfile.TemporaryDirectory() as folder:
            walked, _, used = process([*python, "bench.floor_walk", url, f"{folder}/floor.sqlite"])
            walks.append(walked["seconds"])
            cpu[1].append(used)
            ours, _, _ = process([*python, "bench.served", url, f"{folder}/served"])
            served.append(ours["seconds"])
            told, whole, used = process([*command, "--data", f"{folder}/data", "--json"])
            commands.append(whole)
            cpu[0].append(used)
        if not walked["pages"] == ours["pages"] == told["pages"]:
            raise SystemExit(f"the walks differ: {walked['pages']} pages by the floor, {ours['pages']} by the survey")
    pages = int(walked["pages"])
    floor = statistics.median(walks)

    def row(name: str, seconds: list[float], note: str) -> list[str]:
        ours = statistics.median(seconds)
        return [
            name,
            f"{ours:.2f} s ({pages / ours:,.0f} pages/s)",
            f"{floor:.2f} s ({pages / floor:,.0f} pages/s)",
            f"{ours / floor:.2f}",
            note,
        ]

    ours_cpu, floor_cpu = (statistics.median(seconds) for seconds in cpu)
    return [
        row(f"survey, {pages:,} pages of {what}, 16 at once", served, "by a worker that is there"),
        row("… as a command, start to end", commands, f"CPU {ours_cpu:.1f} s against {floor_cpu:.1f} s"),
    ]


def timed(work: Callable[[str], object], texts: list[str]) -> float:
    gc.collect()
    gc.disable()
    began = time.perf_counter()
    for number, text in enumerate(texts):
        work(text)
        if number % 16 == 15:
            gc.collect()
    gc.enable()
    return time.perf_counter() - began


def refit(folder: Path, most: int, runs: int) -> list[list[str]]:
    """Body to blocks to Markdown, against our own parse and one walk over the nodes."""
    files = sorted(folder.rglob("*.html"))[:most]
    texts = [decode(f.read_bytes(), "text/html").text for f in files]

    def floor(text: str) -> int:
        return sum(1 for node in parse(text).nodes if node.tag)

    def ours(text: str) -> str:
        page = parse(text)
        return to_markdown(refit_nodes(page, [page.body]).blocks)

    pairs = [(timed(ours, texts), timed(floor, texts)) for _ in range(runs)]
    ratio = statistics.median(a / b for a, b in pairs)
    a, b = (statistics.median(p[k] for p in pairs) for k in (0, 1))
    size = sum(map(len, texts)) / len(texts) / 1000
    return [
        [
            f"refit, {len(texts):,} pages of {size:.0f} kB",
            f"{len(texts) / a:,.0f} pages/s",
            f"{len(texts) / b:,.0f} pages/s",
            f"{ratio:.2f}",
            "body → blocks → Markdown with its account, against parse + walk",
        ]
    ]


def main() -> None:
    parser = argparse.ArgumentParser(prog="ferry bench")
    parser.add_argument("--pages", type=int, default=8000, help="size of the made-up site")
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument(
        "--site", type=Path, help="a folder of pages to measure on instead (its index.html is the start)"
    )
    parser.add_argument(
        "--growth", action="store_true", help="survey the demo of 1,000, 10,000 and 100,000 pages instead"
    )
    parser.add_argument(
        "--score",
        type=int,
        nargs="?",
        const=600,
        metavar="SIZE",
        help="instead how well groups, bodies and fields are proposed, against what the demo's pages were made from",
    )
    args = parser.parse_args()
    if args.score:
        from bench import grouping, lifting

        grouping.report(args.score)
        lifting.report(args.score)
        return
    if args.growth:
        table = Table(title="Growth of a survey (the demo's old site, 16 at once, no delay)", title_justify="left")
        for name in ("pages", "seconds", "pages a second", "peak memory of all processes"):
            table.add_column(name, justify="right")
        for row in grow():
            rate = row["pages"] / row["seconds"]
            table.add_row(f"{row['pages']:,}", f"{row['seconds']:,.1f}", f"{rate:,.0f}", f"{row['megabytes']:,.0f} MB")
        Console(width=120).print(table)
        return
    with tempfile.TemporaryDirectory(prefix="ferry-bench-") as temporary:
        root = Path(temporary)
        folders = [args.site]
        if args.site is None:
            folders = [root / "site", *(folder for folder in (REAL,) if folder.is_dir())]
            site.make(folders[0], args.pages)
        rows = []
        for number, folder in enumerate(folders):
            files = [file.stat().st_size for file in folder.rglob("*.html")]
            what = f"{sum(files) / len(files) / 1000:.0f} kB"
            with nginx(
                root / f"nginx{number}", f"root {folder}; location = / {{ try_files /index.html =404; }}"
            ) as port:
                rows += survey(f"http://127.0.0.1:{port}/", what, args.runs)
        rows += refit(folders[0], 300, args.runs)
    table = Table(title="Ours against the floor (median of runs in turn)", title_justify="left")
    for name in ("work", "ours", "floor", "ratio", ""):
        table.add_column(name)
    for line in rows:
        table.add_row(*line)
    Console(width=150).print(table)


if __name__ == "__main__":
    main()
