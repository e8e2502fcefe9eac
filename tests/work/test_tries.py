"""What is tried before it is saved, deciding over many, and what checks have shown, on the demo."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

import pytest

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.kinds import FieldPlan, Locator, SortRule
from grandferry.core.plan import RouteRule
from grandferry.core.standing import Todo, evidence, next_steps, waiting
from grandferry.store import crossings
from grandferry.store.db import one, rows
from grandferry.store.lists import windows
from grandferry.store.manifest import figures
from grandferry.work.lift import tries
from grandferry.work.lift.teach import teach_field
from grandferry.work.lift.tries import ask_map, cover_field, kind_pages, try_field, try_redirect, try_rules
from grandferry.work.refit.preview import body_texts, file_preview, page_preview
from grandferry.work.route import evidence as shown
from grandferry.work.route.decisions import decide_over
from grandferry.work.route.opened import open_groups
from tests.demo import Demo, running_demo


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    with running_demo(tmp_path_factory.mktemp("tries")) as made:
        yield made


def address(key: str) -> int:
    return int(one("SELECT id FROM address WHERE key = ? AND counted = 1", key))


def item_of(page: int) -> int:
    return int(one("SELECT item_id FROM item_source WHERE address_id = ?", page))


def test_sort_rules_are_counted_as_they_would_sort(demo: Demo) -> None:
    for kind in crossings.load_plan(demo.crossing).kinds:
        if kind.items == "none":
            continue
        found = try_rules(demo.crossing, kind.rules)
        sorted_ = one("SELECT count(*) FROM sorted WHERE kind = ?", kind.name)
        assert found.pages >= sorted_ and (found.now or {})[kind.name] == sorted_ and found.looked == found.to_look
    everything = try_rules(demo.crossing, [SortRule(below="/")])
    assert everything.pages == everything.of == 86 and everything.to_look == 0


def test_a_field_is_tried_on_pages_spread_over_its_kind(demo: Demo) -> None:
    pages = kind_pages(demo.crossing, "engine", 5)
    assert len(pages) == len(set(pages)) == 5
    tried = try_field(demo.crossing, FieldPlan(name="t", type="line", locators=[{"css": "h1"}]), pages)
    assert [t.value.value for t in tried if t.value] == [
        one("SELECT title FROM item WHERE key = ?", t.key) for t in tried
    ]
    with pytest.raises(NotThere, match="has no captured page"):
        try_field(demo.crossing, FieldPlan(name="t", type="line", locators=[{"css": "h1"}]), [99999])


def test_places_pointed_at_teach_a_field(demo: Demo) -> None:
    page = address("/engines.aspx?id=4")
    item = item_of(page)
    (nodes,) = rows("SELECT nodes FROM item_field WHERE item_id = ? AND field = 'title'", item)
    taught = teach_field(demo.crossing, "engine", "line", [(page, int(nodes[0].strip("[]")))])
    best, fails = taught.offers[0]
    assert best.locators == [Locator(css="h1")] and len(best.one) == taught.pages and not fails
    with pytest.raises(NotThere, match="no node"):
        teach_field(demo.crossing, "engine", "line", [(page, 10**6)])
    with pytest.raises(NotThere, match="has no captured page"):
        teach_field(demo.crossing, "engine", "line", [(10**6, 1)])


def test_a_redirect_rule_tells_what_it_would_catch(demo: Demo) -> None:
    counts, catches = try_redirect(demo.crossing, RouteRule(old="/news", new="/elsewhere", match="prefix"))
    assert counts["hides"] == 1 and catches[0].key == "/news/" and catches[0].effect == "hides"
    assert counts["already"] == 47 and sum(counts.values()) == one(
        "SELECT count(*) FROM address WHERE counted = 1 AND key LIKE '/news/%'"
    )
    counts, _ = try_redirect(demo.crossing, RouteRule(old=r"/news/\?page=(\d+)", new="/news/", match="pattern"))
    assert set(counts) <= {"agrees", "already"} and sum(counts.values()) == 3
    assert try_redirect(demo.crossing, RouteRule(old="/nowhere", new="/x", match="exact")) == ({}, [])


def test_the_map_is_asked_and_the_rules_are_seen_working(demo: Demo) -> None:
    answer = ask_map(demo.crossing, "/news/?page=2")
    assert answer is not None and (answer.status, answer.location) == (301, "/news/")
    assert ask_map(demo.crossing, "/nowhere") is None
    states = shown.rule_states(demo.crossing)
    assert [s.state for s in states] == ["seen working", "seen working"]
    assert all(s.expected == s.measured > 0 and not s.others for s in states)
    (story,) = shown.round_story(demo.crossing)
    assert story["open"] == 0 and story["before"] is None and story["checked"] == 101
    assert open_groups(demo.crossing) == []


def test_the_manifest_adds_up_and_has_nothing_left_to_do(demo: Demo) -> None:
    found = figures(demo.crossing)
    told = evidence(found)
    assert told.addresses_proven == (101, 101) and told.visits_covered[0] == told.visits_covered[1] > 1000
    assert told.words_carried[0] == told.words_carried[1] and told.items_landed == (73, 73)
    # one page is in no kind, and is decided all the same; one form waits for a person
    assert [s.todo for s in next_steps(found)] == [Todo.UNSORTED, Todo.FORMS]
    assert waiting(found) == {"survey": 0, "sort": 1, "lift": 0, "refit": 0, "route": 0, "land": 0}


def test_pages_pictures_and_bodies_are_shown_from_the_store_alone(demo: Demo) -> None:
    page = address("/engines.aspx?id=4")
    html = page_preview(demo.crossing, page, "HEAD", lambda n: f"store:{n}")
    assert "HEAD" in html and "<script" not in html and 'src="store:' in html and "http://files" not in html
    picture = one("SELECT id FROM address WHERE mime = 'image/png' LIMIT 1")
    assert file_preview(demo.crossing, picture, str)[0] == "image/png"
    style = one("SELECT id FROM address WHERE key = '/style.css'")
    type_, css = file_preview(demo.crossing, style, lambda n: f"store:{n}")
    assert type_.startswith("text/css") and b'url("store:' in css
    script = one("SELECT id FROM address WHERE key = '/flip.js'")
    with pytest.raises(NotThere, match="is not shown here"):
        file_preview(demo.crossing, script, str)
    item = item_of(page)
    old, new, _ = body_texts(demo.crossing, item, "body")
    assert old.split()[:8] == new.split()[:8]


def test_deciding_over_many_is_one_change(demo: Demo) -> None:
    ring = windows.Selection(below="/ring/")
    before = crossings.load_pairs(demo.crossing)
    assert decide_over(demo.crossing, ring, "move", "/railway/", "", "Mara") == (2, "2 addresses to /railway/")
    assert {p.new for p in crossings.load_pairs(demo.crossing) if p.old.startswith("/ring/")} == {"/railway/"}
    from grandferry.store import changes

    changes.undo(demo.crossing, "Mara")
    assert crossings.load_pairs(demo.crossing) == before
    with pytest.raises(FerryError, match="needs a reason"):
        decide_over(demo.crossing, ring, "aside", "", " ", "")
    with pytest.raises(FerryError, match="None of the chosen"):
        decide_over(demo.crossing, windows.Selection(search="nothing like that"), "retire", "", "", "")
    assert decide_over(demo.crossing, ring, "aside", "", "never ours", "")[0] == 2
    aside = crossings.load_plan(demo.crossing).route.aside[-1]
    demo.run("route")
    assert aside.reason == "never ours" and one("SELECT decision_reason FROM address WHERE key = '/ring/a'") != ""
    changes.undo(demo.crossing, "")
    demo.run("route")


def test_how_far_a_field_reaches_is_counted_a_part_at_a_time(demo: Demo, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tries, "COVER_SECONDS", 0.0)
    wanted = FieldPlan(name="t", type="number", locators=[{"css": "td"}])
    looked, states, pages = 0, Counter[str](), set()
    while (part := cover_field(demo.crossing, wanted, "engine", looked)).looked < part.of:
        assert part.looked == looked + 1
        looked = part.looked
        states += part.states
        pages.update(fail[1] for fail in part.fails)
    assert part.of == 12 and (states + part.states).total() == 12 and states["odd"] == len(pages) == 11
