"""How well pages are grouped without rules: the demo's pages against their templates, in three skins, and how long it
takes against one product of the same matrix with itself.

``python -m bench.grouping [SIZE]``
"""

from __future__ import annotations

import hashlib
import re
import sys
import time
from collections import Counter

from rich.console import Console
from rich.table import Table
from selectolax.lexbor import LexborHTMLParser
from tests.scoring import adjusted_rand

from grandferry.core.address import loose_shape
from grandferry.core.encoding import decode
from grandferry.core.page import open_page
from grandferry.core.sort.grouping import CUTS, MIDDLE, group, matrix
from grandferry.core.sort.make import make_of
from grandferry.demo.wider import build

BOXES = re.compile(r"<(/?)(?:section|article|header|footer|nav|ul|li|figure|figcaption|h2|h3|dl|dt|dd)\b")
SKINS = ("as it is", "boxes", "bare")


def skinned(html: str, skin: str, page: str) -> str:
    """A page in another skin: nested boxes with generated class names, some of them new on each page, or tables without
    any class or id."""
    if skin == "as it is":
        return html
    tree = LexborHTMLParser(html)
    for node in list(tree.root.traverse()) if tree.root is not None else []:
        names = (node.attributes.get("class") or "").split()
        for name in ("class", "id"):
            if name in node.attributes:
                del node.attrs[name]
        if skin == "boxes" and names:
            fixed = (hashlib.md5(name.encode()).hexdigest()[:6] for name in names)
            node.attrs["class"] = " ".join(
                ["x" + name for name in fixed] + ["p" + hashlib.md5(page.encode()).hexdigest()]
            )
    made = str(tree.html)
    if skin == "boxes":
        return BOXES.sub(r"<\1div", made)
    return re.sub(r"<div\b[^>]*>", "<table><tr><td>", made).replace("</div>", "</td></tr></table>")


def report(size: int) -> None:
    """Print the scores over the demo's old site of about ``size`` addresses."""
    site = build(80, 81, size)
    truth = site.truth["pages"]
    bodies = {key: answer.body for (_, key), answer in site.answers.items() if key in truth}
    table = Table(title=f"Grouping without rules: the demo at {size:,}, {len(truth):,} pages", title_justify="left")
    for name in ("skin", *(f"cut {cut}{' *' if n == MIDDLE else ''}" for n, cut in enumerate(CUTS)), "groups", "time"):
        table.add_column(name, justify="right")
    for skin in SKINS:
        makes, shapes = [], []
        for key in truth:
            body = bodies[key] if isinstance(bodies[key], bytes) else bodies[key].encode()
            page = open_page(skinned(decode(body, "text/html").text, skin, key))
            makes.append(make_of(page.body))  # type: ignore[arg-type]
            shapes.append(loose_shape(key))
        began = time.perf_counter()
        found = group(makes, shapes)
        took = time.perf_counter() - began
        rows = matrix(makes)[0]
        began = time.perf_counter()
        _ = rows @ rows.T
        product = time.perf_counter() - began
        templates = [page["template"] for page in truth.values()]
        scores = [f"{adjusted_rand(templates, list(label)):.3f}" for label in found.labels]
        groups = int(found.labels[MIDDLE].max()) + 1
        table.add_row(skin, *scores, str(groups), f"{took:.2f} s, {took / product:.1f} products")
        apart = Counter(zip(templates, found.labels[MIDDLE].tolist(), strict=True))
        mixed = [f"{name} in {n}: {count}" for (name, n), count in apart.items() if count != templates.count(name)]
        if mixed:
            Console(stderr=True).print(f"{skin}: divided: {', '.join(mixed)}", highlight=False)
    Console(width=150).print(table)


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else 600)
