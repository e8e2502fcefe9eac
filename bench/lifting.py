"""How well bodies and fields are proposed, without any rule or teaching: the demo's pages against what they were made
from, in three skins.

``python -m bench.lifting [SIZE]``
"""

from __future__ import annotations

import sys
from collections import Counter, defaultdict
from typing import Any

import numpy as np
from rich.console import Console
from rich.table import Table

from grandferry.core.address import Scope
from grandferry.core.encoding import decode
from grandferry.core.kinds import FieldPlan, KindPlan, SortRule
from grandferry.core.lift.fields import lift_page
from grandferry.core.lift.first import first_fields, shared_texts
from grandferry.core.page import Page, parse
from grandferry.demo.wider import build
from grandferry.work.lift.first import LOOKED_AT

from .grouping import SKINS, skinned

SAME = 0.99  # of the pages on which a proposed field has to give the true value, to count as found


def words_f1(have: list[str], wanted: list[str]) -> float:
    """F1 of two texts as bags of words."""
    shared = (Counter(have) & Counter(wanted)).total()
    return 2 * shared / max(1, len(have) + len(wanted))


def plain(value: Any) -> str:
    """A value as it is compared: its words, a list's in their order."""
    if isinstance(value, list):
        return "; ".join(map(plain, value))
    if isinstance(value, float) and value.is_integer():
        value = int(value)
    return " ".join(str("" if value is None else value).split()).casefold()


def sample(pages: dict[str, Page]) -> list[Page]:
    """The pages of a kind that are looked at."""
    keys = sorted(pages)
    return [pages[keys[n]] for n in sorted({int(n) for n in np.linspace(0, len(keys) - 1, LOOKED_AT)})]


def score(pages: dict[str, Page], truth: dict[str, dict[str, Any]], site: set[str]) -> tuple[float, dict[str, float]]:
    """(mean word F1 of the bodies, true field -> the best share of pages on which one proposed field has its value)."""
    fields: list[FieldPlan] = [one.field for one in first_fields(sample(pages), site)]
    kind = KindPlan(name="k", rules=[SortRule(below="/")], fields=fields)
    scope = Scope(hosts=frozenset(["a.test"]), scheme="http")
    f1: list[float] = []
    hits: dict[str, Counter[str]] = defaultdict(Counter)
    of: Counter[str] = Counter()
    for key in sorted(pages):
        page, said = pages[key], truth[key]
        values = {v.field: v for v in lift_page(page, kind, key, f"http://a.test{key}", scope)}
        nodes = (values["body"].value or {}).get("nodes", [])
        inner = [n for top in nodes for n in page.inside(page.nodes[top])]
        f1.append(words_f1([w for n in inner if not n.tag and n.visible for w in n.text.split()], said["words"]))
        for name, value in said["fields"].items():
            of[name] += 1
            hits[name].update(v.field for v in values.values() if v.type != "blocks" and plain(v.value) == plain(value))
    return sum(f1) / len(f1), {name: max(hits[name].values(), default=0) / of[name] for name in of}


def report(size: int) -> None:
    """Print the scores over the demo's old site of about ``size`` addresses."""
    console = Console(width=170)
    for skin in SKINS:
        site = build(80, 81, size)
        truth = site.truth["pages"]
        by_kind: dict[str, dict[str, Page]] = defaultdict(dict)
        for (_, key), answer in site.answers.items():
            if key in truth:
                body = answer.body if isinstance(answer.body, bytes) else answer.body.encode()
                by_kind[truth[key]["template"]][key] = parse(skinned(decode(body, "text/html").text, skin, key))
        table = Table(title=f"{skin}: {len(truth):,} pages", title_justify="left")
        for name in ("kind", "pages", "body F1", "fields found", "share of pages with the true value"):
            table.add_column(name)
        total = 0.0
        site_texts = shared_texts([page for pages in by_kind.values() for page in sample(pages)])
        for kind, pages in sorted(by_kind.items()):
            f1, shares = score(pages, truth, site_texts)
            total += f1 * len(pages)
            found = sum(share >= SAME for share in shares.values())
            told = ", ".join(f"{name} {share:.2f}" for name, share in shares.items())
            table.add_row(kind, f"{len(pages):,}", f"{f1:.3f}", f"{found} of {len(shares)}", told)
        table.add_section()
        table.add_row("all", f"{len(truth):,}", f"{total / len(truth):.3f}")
        console.print(table)


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else 600)
