"""How well bodies and fields are proposed, without any rule or teaching, and what two examples teach: the demo's pages
against what they were made from, by three seeds and in three skins.

``python -m bench.lifting [SIZE]``
"""

from __future__ import annotations

import re
import sys
from collections import Counter, defaultdict
from typing import Any

import numpy as np
from numpy.typing import NDArray
from rich.console import Console
from rich.table import Table

from grandferry.core.address import Scope
from grandferry.core.encoding import decode
from grandferry.core.kinds import FieldPlan, KindPlan, SortRule
from grandferry.core.lift.fields import lift_field, lift_page
from grandferry.core.lift.first import first_fields, shared_texts
from grandferry.core.lift.teaching import Example, teach
from grandferry.core.lift.treatments import TreatmentFailed, treat
from grandferry.core.lift.written_as import type_of
from grandferry.core.page import Page, open_page, parse, text_of
from grandferry.core.sort.make import make_of
from grandferry.core.sort.sample import sample
from grandferry.core.treatment import Treatment
from grandferry.demo.skins import SKINS, skinned
from grandferry.demo.wider import build
from grandferry.work.lift.first import LOOKED_AT

from .grouping import SEEDS

LISTS = 'class="list-page"'  # of pages that list others
# repeated parts as the generator writes them
REPEATED = ("ul.list > li", ".list-page #content > ul > li", "div.card", "div.q", "div.story > figure", "li.comment")
REPEATED += ("div.panel", "li.slide", "div.course", "div.sound")
FEWEST = 3  # members
POINTED = 40  # nodes of an element that somebody points at, at most
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


Makes = dict[str, NDArray[np.uint32]]


def some(pages: dict[str, Page], makes: Makes) -> list[Page]:
    """The pages of a kind that are looked at."""
    keys = sorted(pages)
    return [pages[keys[n]] for n in sample([makes[key] for key in keys], LOOKED_AT)]


def score(
    pages: dict[str, Page], makes: Makes, truth: dict[str, dict[str, Any]], site: set[str]
) -> tuple[float, dict[str, float]]:
    """(mean word F1 of the bodies, true field -> the best share of pages on which one proposed field has its value)."""
    fields: list[FieldPlan] = [one.field for one in first_fields(some(pages, makes), site)]
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


def pointed(page: Page, value: Any) -> int:
    """The number of the innermost element that says a value (of a list its first), as it stands or as a date or number
    in it; -1 where none does."""
    wanted = plain(value[0] if isinstance(value, list) else value)
    best = -1
    for node in page.nodes:
        if not node.tag or not node.visible or node.tag in ("html", "body") or node.last - node.n > POINTED:
            continue
        text = text_of(page, node)
        type_, chain = type_of([text])
        figures = re.findall(r"\d[\d.,]*", text)  # a number among words is pointed at with them
        said = plain(text) == wanted or figures == [wanted]
        if text and (said or (type_ != "line" and plain(_brought(text, chain)) == wanted)):
            best = node.n
    return best


def _brought(text: str, chain: list[dict[str, Any]]) -> Any:
    try:
        return treat(text, [Treatment.model_validate(one) for one in chain])
    except TreatmentFailed:
        return None


def taught(pages: dict[str, Page], truth: dict[str, dict[str, Any]]) -> dict[str, float]:
    """True field -> share of pages with its value after two pages showed it (one, where there is one); -1 where no
    element says it."""
    scope = Scope(hosts=frozenset(["a.test"]), scheme="http")
    keys = sorted(pages)
    shares: dict[str, float] = {}
    for name in sorted({name for key in keys for name in truth[key]["fields"]}):
        has = [key for key in keys if truth[key]["fields"].get(name)]
        shown = (
            {key: pointed(pages[key], truth[key]["fields"][name]) for key in {has[len(has) // 3], has[-1]}}
            if has
            else {}
        )
        shown = {key: node for key, node in shown.items() if node >= 0}
        if not shown:
            shares[name] = -1
            continue
        looked = sorted({*(keys[int(n)] for n in np.linspace(0, len(keys) - 1, LOOKED_AT)), *shown})
        true = truth[next(iter(shown))]["fields"][name]
        type_ = "list" if isinstance(true, list) else "number" if isinstance(true, int | float) else "line"
        examples = [Example(looked.index(key), node) for key, node in shown.items()]
        offer = next(iter(teach([pages[key] for key in looked], looked, examples, type_)), None)
        shares[name] = 0.0
        if offer is not None:
            plan = FieldPlan.model_validate(
                {"name": "x", "type": offer.type, "locators": offer.locators, "treat": offer.treat}
            )
            values = [lift_field(pages[key], plan, key, f"http://a.test{key}", scope).value for key in keys]
            right = [plain(v) == plain(truth[key]["fields"].get(name)) for v, key in zip(values, keys, strict=True)]
            shares[name] = sum(right) / len(right)
    return shares


def members_of(html: str) -> set[int]:
    """How many members the lists, cards, comments, figures, questions of a page have, as the generator writes them."""
    page = parse(html)
    return {len(found) for css in REPEATED if len(found := page.select(css)) >= FEWEST}


def gathered(pages: dict[str, Page], makes: Makes, wanted: dict[str, set[int]], site: set[str]) -> tuple[int, int]:
    """On how many of the pages that have repeated parts a proposed group has just as many members; and how many have
    some."""
    fields = [one.field for one in first_fields(some(pages, makes), site) if one.field.type == "group"]
    scope = Scope(hosts=frozenset(["a.test"]), scheme="http")
    right = 0
    for key, numbers in wanted.items():
        values = (lift_field(pages[key], field, key, f"http://a.test{key}", scope).value for field in fields)
        right += any(len(value) in numbers for value in values if value)
    return right, len(wanted)


def report(size: int) -> None:
    """Print the scores over the demo's old site of about ``size`` addresses, by three seeds and in three skins: kind by
    kind for the first seed, their sums for all."""
    console = Console(width=170)
    sums = Table(title=f"Bodies and fields: the demo at {size:,}", title_justify="left")
    for name in ("seed", "skin", "pages", "body F1", "least of a kind", "fields found", "with two examples", "groups"):
        sums.add_column(name, justify="right")
    for seed in SEEDS:
        site = build(80, 81, size, seed)
        truth = site.truth["pages"]
        for skin in SKINS:
            by_kind: dict[str, dict[str, Page]] = defaultdict(dict)
            wanted: dict[str, dict[str, set[int]]] = defaultdict(dict)
            makes: Makes = {}
            for (_, key), answer in site.answers.items():
                as_made = decode(answer.body, "text/html").text if answer.type.startswith("text/html") else ""
                kind = truth[key]["template"] if key in truth else "list" if LISTS in as_made else ""
                if kind:
                    html = skinned(as_made, skin, key)
                    by_kind[kind][key] = parse(html)
                    makes[key] = make_of(open_page(html).body)  # type: ignore[arg-type]
                    if numbers := members_of(as_made):
                        wanted[kind][key] = numbers
            site_texts = shared_texts([page for pages in by_kind.values() for page in some(pages, makes)])
            groups = [gathered(by_kind[kind], makes, has, site_texts) for kind, has in wanted.items()]
            by_kind.pop("list", None)
            table, told = _by_kind(f"{skin}: {len(truth):,} pages", by_kind, makes, truth)
            in_groups = f"{sum(n for n, _ in groups)} of {sum(n for _, n in groups)}"
            sums.add_row(str(seed), skin, f"{len(truth):,}", *told, in_groups)
            if seed == SEEDS[0]:
                console.print(table)
    console.print(sums)


def _by_kind(
    title: str, by_kind: dict[str, dict[str, Page]], makes: Makes, truth: dict[str, dict[str, Any]]
) -> tuple[Table, tuple[str, str, str, str]]:
    table = Table(title=title, title_justify="left")
    for name in ("kind", "pages", "body F1", "fields found", "share of pages with the true value", "by two examples"):
        table.add_column(name)
    total = 0.0
    number = found_all = taught_all = fields_all = 0
    site_texts = shared_texts([page for pages in by_kind.values() for page in some(pages, makes)])
    f1s: list[float] = []
    for kind, pages in sorted(by_kind.items()):
        f1, shares = score(pages, makes, truth, site_texts)
        f1s += [f1] if len(pages) > 1 else []
        total += f1 * len(pages)
        number += len(pages)
        found = sum(share >= SAME for share in shares.values())
        told = ", ".join(f"{name} {share:.2f}" for name, share in shares.items())
        by_two = taught(pages, truth)
        right = sum(max(share, shares.get(name, 0.0)) >= SAME for name, share in by_two.items())
        lacks = ", ".join(f"{n} {f'{s:.2f}' if s >= 0 else 'is no text'}" for n, s in by_two.items() if s < SAME)
        said = f"{right} of {len(by_two)}{' · ' if lacks else ''}{lacks}"
        table.add_row(kind, f"{len(pages):,}", f"{f1:.3f}", f"{found} of {len(shares)}", told, said)
        found_all, taught_all, fields_all = found_all + found, taught_all + right, fields_all + len(shares)
    return table, (
        f"{total / number:.3f}",
        f"{min(f1s):.3f}",
        f"{found_all} of {fields_all}",
        f"{taught_all} of {fields_all}",
    )


if __name__ == "__main__":
    report(int(sys.argv[1]) if len(sys.argv) > 1 else 600)
