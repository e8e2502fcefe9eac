"""The long list at 100,000 addresses: windows, orders, filters and searches at the API, and scrolling in the browser.

``python -m bench.long_list [N]`` makes a workspace of N made-up addresses, serves it, and prints milliseconds.
"""

from __future__ import annotations

import random
import statistics
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import httpx

from grandferry.core.plan import Plan
from grandferry.core.route.fate import FATES
from grandferry.core.side import Side
from grandferry.store import crossings, jobs
from grandferry.store.db import many, transaction
from grandferry.store.lists import windows
from grandferry.store.survey.met import folder_of
from grandferry.store.workspace import close_workspace, open_workspace

WORDS = (
    "goods yard signal lever brass kettle ballast coupling gorge meadow station cutting tender boiler lamp whistle"
).split()
SECTIONS = ("news", "shop", "gallery", "timetables", "volunteer", "about", "engines", "archive")


def fill(folder: Path, number: int) -> int:
    """A workspace with one crossing of ``number`` old addresses; gives the crossing."""
    r = random.Random(11)
    open_workspace(folder)
    made = crossings.make_crossing(f"{number:,} addresses")
    plan = Plan.model_validate({"format": 1, "name": made.name, "old": {"start": "http://old.quillmere.localhost/"}})
    crossings.save_plan(made.id, plan, [])
    rows: list[tuple[Any, ...]] = []
    for n in range(number):
        words = [r.choice(WORDS) for _ in range(3)]
        key = f"/{r.choice(SECTIONS)}/{2000 + n % 25}/{'-'.join(words)}-{n}.htm"
        if n % 9 == 0:
            key = f"/list.aspx?id={n}"
        fate = r.choices(FATES, (20, 60, 8, 4, 3, 5))[0]
        rows.append(
            (
                n + 1,
                made.id,
                f"http://old.quillmere.localhost{key}",
                "old.quillmere.localhost",
                key,
                folder_of(key),
                1 + n % 6,
                r.choices((200, 301, 404, 500), (90, 5, 4, 1))[0],
                r.choices(("page", "file"), (85, 15))[0],
                "text/html",
                " ".join(words).title() + f" {n}",
                r.randrange(20, 3000),
                r.randrange(500, 90_000),
                r.choice((0, 0, 1, 3, 40, 900)),
                r.randrange(0, 60),
                fate,
                fate != "unaccounted" and r.random() < 0.7,
            )
        )
    with transaction():
        many(
            "INSERT INTO address (id, crossing_id, side, url, host, key, wants_file, folder, depth, state, reason, "
            "status, type, mime, target, title, words, bytes, visits, in_links, counted, decision, decision_target, "
            "decision_origin, decision_reason, verdict, judged, fate, proven, why, run, first_run, change) VALUES (?, "
            "?, 'old', ?, ?, ?, 0, ?, ?, 'done', '', ?, ?, ?, '', ?, ?, ?, ?, ?, 1, '', '', '', '', '', '', ?, ?, '', "
            "1, 1, '')",
            rows,
        )
        jobs.add_event(made.id, None, "log", "made up")
    windows.prepare(Side(made.id))  # as a worker does at the end of a survey
    close_workspace()
    return int(made.id)


def clock(client: httpx.Client, path: str, **query: Any) -> float:
    begin = time.perf_counter()
    client.get(path, params=query).raise_for_status()
    return (time.perf_counter() - begin) * 1000


def measure(base: str, crossing: int, number: int) -> list[tuple[str, float, float]]:
    """(what, the first time, the median of nine more) in milliseconds."""
    path = f"/api/crossings/{crossing}/addresses"
    asked: list[tuple[str, str, dict[str, Any]]] = [
        ("first rows", path, {}),
        ("window in the middle", path, {"offset": number // 2}),
        ("window at the end", path, {"offset": number - 100}),
        ("sorted by visits, first rows", path, {"order": "-visits"}),
        ("sorted by visits, middle", path, {"order": "-visits", "offset": number // 2}),
        ("sorted by title, first rows", path, {"order": "title"}),
        ("sorted by title, middle", path, {"order": "title", "offset": number // 2}),
        ("filter: unaccounted, first rows", path, {"fate": "unaccounted"}),
        ("filter: pages answering 2xx", path, {"family": "page", "answer": "2xx"}),
        ("search: brass", path, {"search": "brass"}),
        ("search: nothing fits", path, {"search": "zzzz"}),
        ("below /news/", path, {"below": "/news/"}),
        ("position of one address", path + "/position", {"address": number // 3}),
        ("choices of a filter", path + "/choices", {"name": "answer"}),
        ("tree: hosts", f"/api/crossings/{crossing}/tree", {}),
        ("tree: first folders", f"/api/crossings/{crossing}/tree", {"host": "old.quillmere.localhost"}),
        ("tree: /news/", f"/api/crossings/{crossing}/tree", {"host": "old.quillmere.localhost", "below": "/news/"}),
        ("account", f"/api/crossings/{crossing}", {}),
        ("manifest", f"/api/crossings/{crossing}/manifest", {}),
        ("open, by shape", f"/api/crossings/{crossing}/open", {}),
    ]
    found = []
    with httpx.Client(base_url=base, timeout=60) as client:
        client.get("/api/health")
        for what, where, query in asked:
            first = clock(client, where, **query)
            found.append((what, first, statistics.median(clock(client, where, **query) for _ in range(9))))
    return found


SCROLL = """
const done = arguments[0], list = document.querySelector('.list'), times = [];
let last = performance.now(), n = 0;
function frame(now) {
  times.push(now - last); last = now; list.scrollTop += 280;
  if (++n < 150) requestAnimationFrame(frame); else { times.sort((a, b) => a - b); done(times.slice(1)); }
}
requestAnimationFrame(frame);
"""
BLANK = "return [...document.querySelectorAll('.list .r .c')].some(c => c.innerText === '…')"


def scroll(base: str, crossing: int) -> list[tuple[str, float]]:
    """Frames while scrolling ten rows a frame, five times; the bar dragged to cold places; loading the first view."""
    from tests.browser.chrome import browser

    told = []
    with browser() as page:
        p95s, jumps = [], []
        for _ in range(5):
            page.go(f"{base}/c/{crossing}/survey")
            page.until("document.querySelectorAll('.list .r').length > 10")
            times = page.driver.execute_async_script(SCROLL)
            p95s.append(times[int(0.95 * len(times))])
        told.append(("frame, 95th percentile (worst of five runs)", max(p95s)))
        told.append(("frame, 95th percentile (median of five)", statistics.median(p95s)))
        for part in (0.5, 0.1, 0.9, 0.33, 0.7):
            begin = time.perf_counter()
            page.js("const l=document.querySelector('.list'); l.scrollTop = l.scrollHeight * arguments[0]", part)
            time.sleep(0.01)
            while page.js(BLANK):
                time.sleep(0.005)
            jumps.append((time.perf_counter() - begin) * 1000)
        told.append(("bar dragged to a cold place, rows shown (median)", statistics.median(jumps)))
    loads, interactive = [], []
    for _ in range(5):
        with browser() as page:
            begin = time.perf_counter()
            page.go(f"{base}/c/{crossing}/survey")
            page.until("document.querySelectorAll('.list .r').length > 10")
            loads.append((time.perf_counter() - begin) * 1000)
            interactive.append(page.js("return performance.getEntriesByType('navigation')[0].domContentLoadedEventEnd"))
            size = page.js(
                "return performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js')).reduce((s, e) => "
                "s + e.transferSize, 0)"
            )
    told.append(("cold load to rows on screen (median of five)", statistics.median(loads)))
    told.append(("cold load to scripts run (median of five)", statistics.median(interactive)))
    told.append(("script transferred for this view, kB", size / 1000))
    return told


def main(number: int = 100_000) -> None:
    from tests.browser.conftest import application

    with tempfile.TemporaryDirectory() as temporary:
        crossing = fill(Path(temporary), number)
        with application(Path(temporary)) as app:
            print(f"{number:,} addresses; milliseconds: the first time, then the median of nine")
            for what, first, more in measure(app.base, crossing, number):
                print(f"  {what:38} {first:8.0f} {more:8.0f}")
            if number <= 200_000:
                for what, value in scroll(app.base, crossing):
                    print(f"  {what:52} {value:8.0f}")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 100_000)
