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
from grandferry.core.address import Scope
from grandferry.core.encoding import decode
from grandferry.core.kinds import KindPlan
from grandferry.core.lift.fields import lift_page
from grandferry.core.page import parse
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.write import to_markdown
from grandferry.core.survey.glance import glance

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
    """Seconds for all texts; what is left of them is collected between, and does not count."""
    gc.collect()
    gc.disable()
    seconds = 0.0
    for first in range(0, len(texts), 16):
        began = time.perf_counter()
        for text in texts[first : first + 16]:
            work(text)
        seconds += time.perf_counter() - began
        gc.collect()
    gc.enable()
    return seconds


TEN = KindPlan.model_validate(
    {
        "name": "ten",
        "rules": [{"below": "/"}],
        "fields": [
            {"name": "title", "type": "line", "locators": [{"css": "h1"}, {"meta": "title"}]},
            {"name": "description", "type": "passage", "locators": [{"meta": "description"}]},
            {"name": "language", "type": "line", "locators": [{"css": "html", "attribute": "lang"}]},
            {"name": "canonical", "type": "link", "locators": [{"css": "link[rel=canonical]", "attribute": "href"}]},
            {"name": "author", "type": "line", "locators": [{"json_ld": "author.name"}, {"css": ".author"}]},
            {"name": "day", "type": "date", "locators": [{"css": "time", "attribute": "datetime"}], "treat": ["trim"]},
            {"name": "built", "type": "number", "locators": [{"label": "Built"}], "treat": ["first number"]},
            {"name": "number", "type": "line", "locators": [{"address": "([0-9]+)"}]},
            {"name": "parts", "type": "list", "locators": [{"css": "h2"}]},
            {"name": "body", "type": "blocks", "locators": [{"css": "main"}, {"css": "article"}, {"css": "body"}]},
        ],
    }
)
SCOPE = Scope(hosts=frozenset(["a.test"]), scheme="http")


def _glanced(text: str) -> bytes:
    return glance(text).make


def _lifted(text: str) -> int:
    return len(lift_page(parse(text), TEN, "/a/1", "http://a.test/a/1", SCOPE))


def _refitted(text: str) -> str:
    page = parse(text)
    return to_markdown(refit_nodes(page, [page.body]).blocks)


READING: dict[str, tuple[Callable[[str], object], str]] = {
    "make, facts, links, fingerprint": (_glanced, "as the survey reads a page, its own parse and all"),
    "lift ten fields": (_lifted, "one a body"),
    "refit": (_refitted, "body → blocks → Markdown with its account"),
}


def reading(folder: Path, what: str, most: int, runs: int) -> list[list[str]]:
    """What is read from a page, against our own parse to numbered nodes and one walk over them."""
    files = sorted(folder.rglob("*.html"))
    texts = [decode(f.read_bytes(), "text/html").text for f in files[:: max(1, len(files) // most)][:most]]

    def floor(text: str) -> int:
        return sum(1 for node in parse(text).nodes if node.tag)

    rows = []
    for name, (ours, says) in READING.items():
        pairs = [(timed(ours, texts), timed(floor, texts)) for _ in range(runs)]
        a, b = (statistics.median(p[k] for p in pairs) for k in (0, 1))
        ratio = f"{statistics.median(a / b for a, b in pairs):.2f}"
        rates = [f"{len(texts) / seconds:,.0f} pages/s" for seconds in (a, b)]
        rows.append([f"{name}, {len(texts):,} pages of {what}", *rates, ratio, f"{says}; floor: parse + walk"])
    return rows


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
            rows += reading(folder, what, 300, args.runs)
    table = Table(title="Ours against the floor (median of runs in turn)", title_justify="left")
    for name in ("work", "ours", "floor", "ratio", ""):
        table.add_column(name)
    for line in rows:
        table.add_row(*line)
    Console(width=150).print(table)


if __name__ == "__main__":
    main()
