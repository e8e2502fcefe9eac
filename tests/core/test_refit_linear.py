"""What a page costs is in line with its size, whatever it is full of: counted in lines of our code that run, not in
seconds."""

from __future__ import annotations

import sys
from collections.abc import Callable
from types import FrameType
from typing import Any

import pytest

from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import WRITERS

SMALL, LARGE = 60, 240
Case = Callable[[int], str]
CASES: dict[str, Case] = {
    "anchors without an end": lambda n: "<p>" + "".join(f"<a name=n{i}>text " for i in range(n)),
    "links to places": lambda n: "".join(f"<a id=n{i} href=#n{i}>x</a>" for i in range(n)),
    "paragraphs": lambda n: "<p>text" * n,
    "rows": lambda n: "<table>" + "<tr><td>a<td>b<td>12" * n + "</table>",
    "rows with spans": lambda n: "<table>" + "<tr><td rowspan=3>a<td colspan=2>b" * n + "</table>",
    "items": lambda n: "<ul>" + "<li>item" * n + "</ul>",
    "a list without items": lambda n: "<ul>" + "item <b>text</b>" * n + "</ul>",
    "bullets": lambda n: "<p>• item" * n,
    "breaks within a mark": lambda n: "<p><b>" + "item<br><br>" * n,
    "switches": lambda n: "".join(f"<button aria-controls=p{i}>Q</button><div id=p{i}>A</div>" for i in range(n)),
    "pictures that load later": lambda n: "<p>" + "<img src=data:,><noscript><img src=a.jpg></noscript>" * n,
    "terms": lambda n: "<dl>" + "<dt>a<dd>b" * n + "</dl>",
    "footnotes": lambda n: (
        "".join(f"<a href=#f{i} id=r{i}>{i % 99}</a> " for i in range(n))
        + "<ol>"
        + "".join(f"<li id=f{i}>t<a href=#r{i}>b</a>" for i in range(n))
        + "</ol>"
    ),
    "footnotes in one box": lambda n: (
        "".join(f"<a href=#f{i} id=r{i}>{i % 99}</a> " for i in range(n))
        + "<div>"
        + "".join(f"<a id=f{i} href=#r{i}>{i % 99}</a> t" for i in range(n))
        + "</div>"
    ),
    "marks": lambda n: "<p>" + "<b>a<i>b</i></b> " * n,
    "columns": lambda n: "<div>" + "<div class=col>some text</div>" * n + "</div>",
    "a gallery": lambda n: "<div>" + "<img src=a>" * n + "</div>",
    "fields": lambda n: "<form>" + "<label>a<input name=x></label>" * n + "</form>",
    "callouts": lambda n: "<div class=note><p>some words here</div>" * n,
    "unknown elements in each other": lambda n: "<x-y>" * n + "text",
}


def lines_run(html: str) -> int:
    count = 0

    def step(frame: FrameType, event: str, arg: Any) -> Any:
        nonlocal count
        if "grandferry" not in frame.f_code.co_filename:
            return None
        count += event == "line"
        return step

    sys.settrace(step)
    try:
        done = refit_html(html, mask=False)
        for _, write in WRITERS.values():
            write(done.blocks)
    finally:
        sys.settrace(None)
    return count


@pytest.mark.parametrize("case", CASES.values(), ids=CASES)
def test_four_times_the_page_costs_about_four_times_as_much(case: Case) -> None:
    small, large = lines_run(case(SMALL)), lines_run(case(LARGE))
    assert large < 5 * small, f"{small:,} lines, then {large:,}"


def test_links_without_an_end_are_no_nesting() -> None:
    done = refit_html("<p>" + "".join(f"<a name=n{i}>text " for i in range(6_000)))
    assert done.account.words == 6_000 == done.account.in_blocks
