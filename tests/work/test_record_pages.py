"""Records of which no page is captured: made pages of their own, items like any other, their addresses led to only
where they were public."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.kinds import KindPlan
from grandferry.core.page import parse, text_of
from grandferry.core.records.page import kind_of_records, page_of_record
from grandferry.core.records.record import Comment, Record, Wanted
from grandferry.core.sort.rules import Condition
from grandferry.store import crossings, lift, records, refit, route, sort
from grandferry.store.survey import surveyed
from grandferry.work.land.content import Contents
from grandferry.work.land.items import row_of
from grandferry.work.records.take import forget_records, take_records
from grandferry.work.sort.why import why
from tests.ports.test_records import export, item
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
PAGES = [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}]


@pytest.fixture
def crossing(cross: Make, work: Run, tmp_path: Path) -> int:
    """A site of two posts, an export of these, of one that is not on the site any more, and of two drafts."""
    site: dict[str, Any] = {f"/{n}": f"<h1>P{n}</h1><p>Words.</p>" for n in (1, 2)}
    site["/"] = "<a href=/1>1</a><a href=/2>2</a><a href=/3>3</a>"
    kind = {"name": "page", "rules": [{"address": ".*"}], "fields": PAGES, "address": "/p/{slug}"}
    with apps(pages_app(site)) as (port,):
        start = f"http://127.0.0.1:{port}"
        made = cross({"old": {"start": f"{start}/"}, "survey": {"sitemaps": False}, "kinds": [kind]})
        work("survey", made)
    drafts = [item(n, state="draft") for n in (7, 8)]
    whole = export(*(item(n) for n in (1, 2, 3)), *drafts).replace(b"http://a.test", start.encode())
    (tmp_path / "x.xml").write_bytes(whole)
    take_records(made, tmp_path / "x.xml", "x.xml", Wanted())
    return made


def with_kind(crossing: int, *states: str) -> KindPlan:
    said = records.said(crossing, "post", list(states), 50)
    kind = kind_of_records("note", "post", list(states), said)
    plan = crossings.load_plan(crossing)
    plan.kinds.append(kind)
    crossings.save_plan(crossing, plan, [])
    return kind


def test_records_without_a_page_are_counted_by_kind_and_state(crossing: int, work: Run) -> None:
    assert [row[:3] for row in records.alone(crossing)] == [("post", "draft", 2), ("post", "publish", 1)]
    work("sort", crossing)
    assert sort.kind_counts(crossing)["page"] == 3, "a rule over all addresses takes no record"
    assert sort.unsorted_pages(crossing) == [], "and none of them is a page that nobody took"
    own = next(page for page in surveyed.pages(crossing) if page.key.startswith("record:"))
    last = why(crossing, own.address)[-1]
    assert not last.holds and last.checks[-1].condition is Condition.RECORD


def test_drafts_become_items_and_no_redirect_leads_to_them(crossing: int, work: Run) -> None:
    kind = with_kind(crossing, "draft", "publish")
    assert [field.name for field in kind.fields][:4] == ["title", "published", "author", "post_tag"]
    for job in ("sort", "lift", "refit", "route"):
        work(job, crossing)
    plan = crossings.load_plan(crossing)
    items = {
        one.item.key: row_of(one, plan.refit.choices)
        for one in Contents(crossing, plan, every=True)
        if one.kind.name == "note"
    }
    assert len(items) == 3 and all(key.startswith("record:x.xml/") for key in items)
    draft = next(row for key, row in items.items() if key.endswith("/7"))
    assert draft["author"] == "Ada Quill" and draft["post_tag"] == ["Steam & coal"], draft
    assert draft["body_markdown"] and draft["new"].startswith("/note/")
    assert not refit.totals(crossing)["unaccounted"], "every word of a record is accounted for"
    decided = route.decisions(crossing)
    assert decided["/3"].target == next(row["new"] for key, row in items.items() if key.endswith("/3"))
    assert not any("=7" in key or "/7" in key for key in decided), "a draft was at no address that anybody knew"


def test_the_same_file_again_changes_nothing_and_a_changed_draft_is_lifted_again(
    crossing: int, work: Run, tmp_path: Path
) -> None:
    with_kind(crossing, "draft")
    work("sort", crossing)
    assert work("lift", crossing)["done"] == 5
    before = {page.key: page.address for page in surveyed.pages(crossing)}
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    assert {page.key: page.address for page in surveyed.pages(crossing)} == before
    assert work("sort", crossing)["done"] == 0 and work("lift", crossing)["done"] == 0
    text = (tmp_path / "x.xml").read_bytes()
    (tmp_path / "x.xml").write_bytes(text.replace(b"Title 7", b"Another title"))
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    assert work("lift", crossing)["done"] == 1
    assert "Another title" in {row.value for row in lift.held_values(crossing, "note") if row.field == "title"}
    draft = next(page for page in surveyed.pages(crossing) if page.key in before and page.key.endswith("/8"))
    (tmp_path / "x.xml").write_bytes(text.replace(b"/8</link>", b"/eight</link>"))
    take_records(crossing, tmp_path / "x.xml", "x.xml", Wanted())
    assert len(surveyed.pages(crossing)) == len(before), "an address that changed makes no second page"
    assert draft.address in {page.address for page in surveyed.pages(crossing)}
    forget_records(crossing, "x.xml")
    work("lift", crossing)
    assert not lift.held_values(crossing, "note"), "what was forgotten is no item"


def test_a_rule_asks_what_a_captured_page_is_by_its_record(crossing: int, work: Run) -> None:
    plan = crossings.load_plan(crossing)
    plan.kinds.insert(0, KindPlan.model_validate({"name": "post", "rules": [{"record": "post/.*", "address": "/.*"}]}))
    crossings.save_plan(crossing, plan, [])
    work("sort", crossing)
    assert [page.key for page in sort.pages_of_kind(crossing, "post")] == ["/1", "/2"]


def test_a_records_page_holds_its_words_and_nothing_that_runs_over() -> None:
    record = Record(
        title="<Tea>",
        content="One\n\ntwo\nthree<ul><li>a\n\nb</li></ul>four\n\nfive",
        summary="</div></article><b>short",
        terms={"Post tag": ["a & b"]},
        comments=[Comment("Bo", "2024-01-02T03:04:05", "approved", "Yes <i>indeed")],
        files=["http://a.test/x.pdf"],
    )
    page = parse(page_of_record(record.as_json()))
    assert [text_of(page, node) for node in page.select("article > .content > p")] == [
        "One",
        "two three",
        "four",
        "five",
    ]
    assert [text_of(page, node) for node in page.select("article > .summary")] == ["short"]
    assert [text_of(page, node) for node in page.select(".terms.post-tag > li")] == ["a & b"]
    assert [text_of(page, node) for node in page.select(".comments > .comment > .said")] == ["Yes indeed"]
    assert text_of(page, page.select("h1")[0]) == "<Tea>"
