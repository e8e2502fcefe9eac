"""What clean-up steps take of all pages: named once, read once, its number, where it is missing and where it differs."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.errors import NotThere
from grandferry.core.plan import Edit
from grandferry.core.refit.write import to_markdown
from grandferry.store import changes, crossings, refit
from grandferry.work.pages import page_of
from grandferry.work.refit.preview import block_nodes, captured
from grandferry.work.refit.shared import on_page, shared_part
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    """Thirty pages with a badge in the body; a menu around it marks where one is, has an entry more on two, and is
    missing on one; addresses in it are written by where the page stands."""
    site: dict[str, Any] = {}
    for n in range(30):
        folder = "/deep" if n % 2 else ""
        up = "../" if n % 2 else ""
        entries = [f"<li{' class=on' if k == n else ''}><a href='{up}p{k}'>Page {k}</a></li>" for k in range(2)]
        menu = "".join([*entries, f"<li><a href='{up}news'>News</a></li>" if n in (4, 5) else ""])
        site[f"{folder}/p{n}"] = (
            f"{'' if n == 7 else f'<nav><ul>{menu}</ul></nav>'}<main><h1>Page {n}</h1><p>Words of page {n}.</p>"
            "<div class=badge>Made by <a href=/about>us</a></div></main>"
        )
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    kind = {
        "name": "page",
        "rules": [{"address": ".*/p.*"}],
        "fields": [{"name": "body", "type": "blocks", "locators": [{"css": "main"}]}],
    }
    steps = [
        {"name": "badge", "remove": ".badge"},
        {"name": "menu", "remove": "nav"},
        {"name": "no", "remove": "bogus"},
    ]
    with apps(pages_app(site)) as (port,):
        start = f"http://127.0.0.1:{port}/"
        made = cross(
            {"old": {"start": start}, "survey": {"sitemaps": False}, "kinds": [kind], "refit": {"steps": steps}}
        )
        work("survey", made)
    for stage in ("sort", "lift", "refit"):
        work(stage, made)
    return made


def test_a_badge_named_once_is_taken_from_thirty_of_thirty_pages(crossing: int) -> None:
    part = shared_part(crossing, 0)
    assert (part.pages, part.words, part.versions_all, part.missing_all) == (30, 90, 1, 0)
    assert part.kinds == [("page", 30, 30)]
    assert "Made by [us](http://" in to_markdown(part.blocks) and part.versions[0].pages == 30


def test_where_a_menu_differs_and_where_it_is_missing(crossing: int) -> None:
    part = shared_part(crossing, 1)
    assert (part.pages, part.missing_all) == (29, 1) and [row.key for row in part.missing] == ["/deep/p7"]
    assert [(one.pages, one.more, one.less) for one in part.versions] == [(27, "", ""), (2, "News", "")], (
        "the entry that is marked, and how an address is written, are no difference"
    )
    assert on_page(crossing, 1, part.address) and not on_page(crossing, 1, part.missing[0].address)


def test_a_step_that_finds_nothing_says_so(crossing: int) -> None:
    part = shared_part(crossing, 2)
    assert (part.pages, part.blocks, part.versions, part.missing) == (0, (), [], [])
    with pytest.raises(NotThere):
        shared_part(crossing, 3)


def test_a_step_that_is_named_anew_keeps_its_count(crossing: int, work: Run) -> None:
    plan = crossings.load_plan(crossing)
    steps = [step.model_copy(update={"name": f"the {step.name}"}) for step in plan.refit.steps]
    plan = plan.model_copy(update={"refit": plan.refit.model_copy(update={"steps": steps})})
    changes.change_plan(crossing, plan, changes.revision(crossing), "", "named anew")
    work("refit", crossing)
    assert {name: said.pages for name, said in refit.taken(crossing).items()} == {"the badge": 30, "the menu": 29}


def test_a_block_knows_where_it_comes_from(crossing: int) -> None:
    row = refit.bodies_window(crossing, [], "/p4", "key", 0, 1)[1][0]
    capture = captured(crossing, row.address)
    old = page_of(capture.body, capture.type)
    places = block_nodes(crossing, row.item, "body")
    assert [old.nodes[one.old].tag for one in places] == ["h1", "p"], "what a step took is no block"
    assert [one.new for one in places] == sorted(one.new for one in places) and places[0].new > 0
    words = Edit(old="/p4", field="body", value="<p>By hand.</p><h2>Also</h2>", over="")
    changes.change_edits(crossing, [words], [], "me", "by hand")
    assert [one.old for one in block_nodes(crossing, row.item, "body")] == [-1, -1]
