"""Redirect maps of 100,000 lines and 200 rules: writing, reading back, loading and answering by each server, and the
evaluator against a dictionary look-up and one match of RE2.

``python -m bench.maps [servers ...]``
"""

from __future__ import annotations

import http.client
import random
import sys
import tempfile
import time
from pathlib import Path
from statistics import median

import re2
from tests.redirecting import REAL

from grandferry.core.route.evaluate import evaluate
from grandferry.core.route.redirects import Redirect, RedirectMap, map_of
from grandferry.ports.servers import SERVERS, write_out

LINES, RULES = 100_000, 200


def large_map(lines: int = LINES, rules: int = RULES) -> RedirectMap:
    """Lines as a large site has them, half of the rules folders and half patterns."""
    draw = random.Random(5)
    words = ["news", "team", "guide", "report", "archive", "über", "product", "event"]
    made = []
    for n in range(lines):
        path = f"/{draw.choice(words)}/{draw.randint(1990, 2025)}/{draw.choice(words)}-{n}.html"
        if n % 10 == 0:
            path = f"/{draw.choice(words)}.aspx?id={n}"
        made.append(Redirect(path.replace("ü", "%C3%BC"), f"/new/{draw.choice(words)[:4]}/{n}".replace("ü", "u")))
    for n in range(rules // 2):
        made.append(Redirect(f"/folder-{n}", f"/moved/{n}", 301, "prefix"))
        made.append(Redirect(rf"/old-{n}/([^/?]+)\.php\?p=(\d+)", f"/pages-{n}/{{1}}/{{2}}", 301, "pattern"))
    return map_of(made)


def answered(port: int, requests: list[str]) -> list[float]:
    """Milliseconds of each answer, on a connection that stays."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    found = []
    for request in requests:
        start = time.perf_counter()
        connection.request("GET", request)
        connection.getresponse().read()
        found.append((time.perf_counter() - start) * 1000)
    return found


def servers(table: RedirectMap, names: list[str]) -> None:
    """What writing, loading and answering take, per server."""
    draw = random.Random(6)
    hits = draw.sample(list(table.exact), 400)
    misses = [f"/nothing/{n}" for n in range(200)]
    for name in names:
        with tempfile.TemporaryDirectory(prefix="maps-") as folder:
            start = time.perf_counter()
            files = write_out(table, name, Path(folder) / "maps")
            wrote = time.perf_counter() - start
            size = sum(file.stat().st_size for file in files) / 1e6
            said = f"{name:14} written and read back {wrote:5.1f} s, {size:5.1f} MB"
            if name in REAL and name != "htaccess":
                start = time.perf_counter()
                with REAL[name](Path(folder) / "maps", Path(folder) / "run") as port:
                    loaded = time.perf_counter() - start
                    answered(port, hits[:5])
                    hit, miss = answered(port, hits), answered(port, misses)
                said += (
                    f"; config test and start {loaded:5.1f} s; a hit {median(hit):5.2f} ms (99 of 100 "
                    f"{sorted(hit)[int(len(hit) * 0.99)]:5.2f}), a miss {median(miss):5.2f} ms"
                )
            print(said, flush=True)


def evaluator(table: RedirectMap) -> None:
    """The evaluator against a dictionary look-up and one match of RE2, on exact lines, and on as many addresses that no
    line answers, so that every rule is asked."""
    keys = random.Random(7).sample(list(table.exact), 20_000)
    keys += [f"/nothing/{n}/here.html" for n in range(20_000)]
    one = re2.compile(r"/old-1/([^/?]+)\.php\?p=(\d+)")

    def floor() -> float:
        start = time.perf_counter()
        for key in keys:
            table.exact.get(key)
            one.fullmatch(key)
        return time.perf_counter() - start

    def ours() -> float:
        start = time.perf_counter()
        for key in keys:
            evaluate(table, key)
        return time.perf_counter() - start

    ratios = [ours() / floor() for _ in range(7)]
    print(f"evaluate: {median(ratios):.2f} times a look-up and one match ({len(keys):,} requests)")


if __name__ == "__main__":
    made = large_map()
    evaluator(made)
    servers(made, sys.argv[1:] or list(SERVERS))
