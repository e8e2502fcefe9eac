"""How well pages are grouped without rules: the demo's pages against their templates, three seeds, three skins; and
how long it takes against one product of the same matrix with itself.

``python -m bench.grouping [SIZE]``
"""

from __future__ import annotations

import sys
import time
from collections import Counter

from rich.console import Console
from rich.table import Table
from tests.scoring import adjusted_rand

from grandferry.core.address import loose_shape
from grandferry.core.encoding import decode
from grandferry.core.page import open_page
from grandferry.core.sort.grouping import CUTS, MIDDLE, group, matrix
from grandferry.core.sort.make import make_of
from grandferry.demo.site import SEED, Site
from grandferry.demo.skins import SKINS, skinned
from grandferry.demo.wider import build

SEEDS = (SEED, SEED + 1, SEED + 2)


def archived(site: Site) -> dict[str, str]:
    """Pages of the large sizes, which are made when they are asked for: key -> template."""
    return {key: "box" if key.endswith("/") else "dispatch" for _, key in site.made}


def report(size: int) -> None:
    """Print the scores over the demo's old site of about ``size`` addresses, by three seeds and in three skins."""
    table = Table(title=f"Grouping without rules: the demo at {size:,}", title_justify="left")
    for name in (
        "seed", "skin", "pages", *(f"cut {cut}{' *' if n == MIDDLE else ''}" for n, cut in enumerate(CUTS)), "groups",
        "time",
    ):  # fmt: skip
        table.add_column(name, justify="right")
    for seed in SEEDS:
        site = build(80, 81, size, seed)
        template = {key: page["template"] for key, page in site.truth["pages"].items()} | archived(site)
        bodies = {key: answer.body for (_, key), answer in site.answers.items() if key in template}
        bodies |= {key: found.body for host, key in site.made if (found := site.answer(host, key)) is not None}
        for skin in SKINS:
            _score(table, skin, seed, template, bodies)
    Console(width=170).print(table)


def _score(table: Table, skin: str, seed: int, template: dict[str, str], bodies: dict[str, bytes]) -> None:
    makes, shapes = [], []
    for key in template:
        page = open_page(skinned(decode(bodies[key], "text/html").text, skin, key))
        makes.append(make_of(page.body))  # type: ignore[arg-type]
        shapes.append(loose_shape(key))
    began = time.perf_counter()
    found = group(makes, shapes)
    took = time.perf_counter() - began
    rows = matrix(makes)[0]
    began = time.perf_counter()
    _ = rows @ rows.T
    product = time.perf_counter() - began
    templates = list(template.values())
    scores = [f"{adjusted_rand(templates, list(label)):.3f}" for label in found.labels]
    groups = int(found.labels[MIDDLE].max()) + 1
    told = f"{took:.2f} s, {took / product:.1f} products"
    table.add_row(str(seed), skin, f"{len(template):,}", *scores, str(groups), told)
    apart = Counter(zip(templates, found.labels[MIDDLE].tolist(), strict=True))
    mixed = [f"{name} in {n}: {count}" for (name, n), count in apart.items() if count != templates.count(name)]
    if mixed:
        Console(stderr=True).print(f"{seed}, {skin}: divided: {', '.join(mixed)}", highlight=False)


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else 600)
