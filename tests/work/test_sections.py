"""Sections of a page as items of their own: a section is a record by itself, and nothing of its page is lost or twice."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest
from pydantic import ValidationError

from grandferry.core.address import Scope
from grandferry.core.kinds import KindPlan
from grandferry.core.lift.sections import lift_items
from grandferry.core.mapping import Blocks
from grandferry.core.page import parse
from grandferry.core.plan import Edit
from grandferry.core.refit.blocks import to_json
from grandferry.core.refit.write import to_markdown
from grandferry.store import changes, crossings, lift, refit, route
from grandferry.work.land.content import Contents
from grandferry.work.lift import tries
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]

ASK = (
    "<nav>Way about</nav><main><h1>Questions {n}</h1><p>What people ask.</p>"
    "<h2 id=cost{n}>What does it cost?</h2>About <b>ten</b> pounds.<p>See <a href=/ask1#dogs1>dogs</a>.</p>"
    "<h2><a name=dogs{n}></a>May dogs come?</h2><p>They may.</p>"
    "<h2>Is there tea?</h2><p>There is.</p></main>"
)
FIELDS = [
    {"name": "title", "type": "line", "locators": [{"css": "h2"}]},
    {"name": "body", "type": "blocks", "locators": [{"css": ":scope"}]},
]
KIND = {
    "name": "question", "items": "each", "each": "main h2", "leads": True, "rules": [{"address": "/ask.*"}],
    "fields": FIELDS, "address": "/q/{path}",
}  # fmt: skip


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    site = {f"/ask{n}": ASK.format(n=n) for n in (1, 2)} | {"/ask3": "<main><h1>None yet</h1><p>Come back.</p></main>"}
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    with apps(pages_app(site)) as (port,):
        made = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [KIND]},
        )
        work("survey", made)
    for stage in ("sort", "lift", "refit", "route"):
        work(stage, made)
    return made


def test_a_section_is_a_record_of_its_own(crossing: int) -> None:
    found = {item.key: (item.title, item.new_path) for item in lift.items(crossing)}
    assert found == {
        "/ask1#cost1": ("What does it cost?", "/q/ask1/cost1"),
        "/ask1#dogs1": ("May dogs come?", "/q/ask1/dogs1"),
        "/ask1#section-003": ("Is there tea?", "/q/ask1/section-003"),
        "/ask2#cost2": ("What does it cost?", "/q/ask2/cost2"),
        "/ask2#dogs2": ("May dogs come?", "/q/ask2/dogs2"),
        "/ask2#section-003": ("Is there tea?", "/q/ask2/section-003"),
        "/ask3": ("", "/q/ask3"),
    }, "a page that has none is one itself"
    made = {c.item.key: c.fields["body"] for c in Contents(crossing, crossings.load_plan(crossing))}
    body = made["/ask1#cost1"]
    assert isinstance(body, Blocks)
    assert to_markdown(body.blocks) == "About **ten** pounds.\n\nSee [dogs](/q/ask1/dogs1).\n", (
        "up to the next one, loose text in one line; a link to a section leads to its new place"
    )


def test_every_word_of_the_page_is_accounted_for_once(crossing: int) -> None:
    rows = refit.bodies_window(crossing, [], "/ask1", "key", 0, 9)[1]
    accounts = {row.key: refit.loss_account(row.item, "body") for row in rows}
    first = accounts["/ask1#cost1"]
    lost = {run.text for run in first.missing if not run.why}
    assert lost == {"Way about", "Questions 1", "What people ask."}, (
        "what no section reads, and none of what another does"
    )
    assert accounts["/ask1#dogs1"].unaccounted == accounts["/ask1#section-003"].unaccounted == 0


def test_the_address_of_the_page_says_what_became_of_it(crossing: int) -> None:
    whys = {row.key: row.why for row in route.open_addresses(crossing) if row.fate == "unaccounted"}
    assert "/ask1" in whys and "sections" in whys["/ask1"] and "3" in whys["/ask1"]
    assert "/ask3" not in whys


def test_runs_move_what_changed_alone_and_hand_edits_stay(crossing: int, work: Run) -> None:
    assert work("lift", crossing)["done"] == 0 and work("refit", crossing)["done"] == 0
    before = {row.key: to_json(row.fields) for row in lift.items(crossing)}
    changes.change_edits(crossing, [Edit(old="/ask1#dogs1", field="title", value="By hand")], [], "me", "by hand")
    assert work("lift", crossing, all=True)["edited"] == 1
    after = {row.key: to_json(row.fields) for row in lift.items(crossing)}
    assert after.pop("/ask1#dogs1")["title"] == "By hand" and before.pop("/ask1#dogs1") and after == before
    plan = crossings.load_plan(crossing)
    kind = plan.kinds[0].model_copy(update={"items": "one", "each": "", "leads": False})
    changes.change_plan(
        crossing, plan.model_copy(update={"kinds": [kind]}), changes.revision(crossing), "", "one item a page again"
    )
    assert work("compare", crossing)["values"] > 0
    work("lift", crossing)
    assert sorted(item.key for item in lift.items(crossing)) == ["/ask1", "/ask2", "/ask3"]
    work("route", crossing)
    assert not [
        row for row in route.open_addresses(crossing) if row.key.startswith("/ask") and row.fate == "unaccounted"
    ]


def test_a_field_is_tried_on_every_section(crossing: int) -> None:
    address = next(a for a in tries.kind_pages(crossing, "question", 3))
    title = crossings.load_plan(crossing).kinds[0].fields[0]
    tried = tries.try_field(crossing, title, [address])
    assert [(one.key, one.value.value) for one in tried if one.value] == [
        ("/ask1#cost1", "What does it cost?"), ("/ask1#dogs1", "May dogs come?"), ("/ask1#section-003", "Is there tea?"),
    ]  # fmt: skip
    covered = tries.cover_field(crossing, title, "question", 0)
    assert covered.states == {"filled": 2, "empty": 1}


def test_a_selector_that_finds_half_the_page_makes_no_items(cross: Make, work: Run) -> None:
    page = f"<main>{'<i>x</i>' * 3000}<h2 id=a>A</h2><h2 id=a>B</h2></main>"
    with apps(pages_app({"/": page})) as (port,):
        kind = KIND | {"rules": [{"below": "/"}], "each": "main > *", "leads": False}
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]}
        )
        for stage in ("survey", "sort", "lift"):
            work(stage, crossing)
    assert [item.key for item in lift.items(crossing)] == ["/"]
    assert {row.note for row in lift.exceptions(crossing)} == {
        "the page cannot be read: “main > *” finds 3,002 sections on a page; of more than 2,000 no items are made. "
        "Name what marks a section more closely."
    }
    plan = crossings.load_plan(crossing)
    kinds = [plan.kinds[0].model_copy(update={"each": "h2"})]
    changes.change_plan(crossing, plan.model_copy(update={"kinds": kinds}), changes.revision(crossing), "", "closer")
    work("lift", crossing)
    assert [item.key for item in lift.items(crossing)] == ["/#a", "/#a-002"], "an id that is there twice marks one"


def test_what_holds_a_section_is_read_by_an_attribute_alone() -> None:
    """A box around all sections is the body of none of them; else each would carry what all of them say."""
    page = parse("<html lang=en><body><div class=all><h2>A</h2><p>a</p><h2>B</h2><p>b</p></div></body></html>")
    fields = [
        {"name": "body", "type": "blocks", "locators": [{"css": "div.all"}]},
        {"name": "text", "type": "passage", "locators": [{"css": "p"}]},
        {"name": "language", "type": "line", "locators": [{"css": "html", "attribute": "lang"}]},
    ]
    kind = KindPlan.model_validate({**KIND, "each": "h2", "fields": fields})
    found = lift_items(page, kind, "/x", "http://a.test/x", Scope(hosts=frozenset(["a.test"]), scheme="http"))
    assert [[value.value for value in values] for _, values in found] == [[None, "a", "en"], [None, "b", "en"]]


@pytest.mark.parametrize("wrong", [{"items": "each"}, {"items": "one", "each": "h2"}, {"items": "each", "each": "h2["}])
def test_sections_need_a_selector(wrong: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        KindPlan.model_validate({"name": "x", "rules": [{"below": "/"}], **wrong})
