"""The demo crossing in one process, scored against what its generator knows to be true."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import pytest

from grandferry.core.plan import Edit
from grandferry.core.refit.blocks import walk
from grandferry.core.refit.write import to_markdown, to_text
from grandferry.store import carried, changes, crossings, edits, lift, refit
from grandferry.store.db import rows
from grandferry.store.lift import item_fields
from grandferry.work.refit.content import stored_body
from grandferry.work.rounds.order import STAGES
from grandferry.work.route.run import redirect_map
from tests.core.rendering import visible_text
from tests.demo import Demo, running_demo


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    with running_demo(tmp_path_factory.mktemp("demo"), fail_every=7) as made:
        yield made


def test_every_address_has_its_true_fate_and_is_proven(demo: Demo) -> None:
    assert demo.fates() == {key: [fate, new] for key, (fate, new) in demo.site.truth["fates"].items()}
    account = crossings.account_of(demo.crossing)
    assert {fate: counts["proven"] for fate, counts in account.items() if counts["proven"]} == demo.site.truth[
        "fate_counts"
    ]
    assert sum(c["planned"] for c in account.values()) == 0 and "unaccounted" not in account
    assert (
        sum(sum(c.values()) for c in account.values())
        == crossings.counted(demo.crossing)
        == len(demo.site.truth["fates"])
    )


def test_nothing_was_fetched_twice(demo: Demo) -> None:
    asked = [url for url in demo.seen if "ferry-made-up" not in url and not url.endswith("/robots.txt")]
    assert len(asked) == len(set(asked))
    assert not any("/private/" in url or "PHPSESSID" in url for url in asked)


def test_kinds_are_the_true_ones(demo: Demo) -> None:
    found = dict(rows("SELECT a.key, s.kind FROM sorted s JOIN address a ON a.id = s.address_id"))
    same = {"about": "page", "visit": "page", "volunteer": "page"}
    for key, page in demo.site.truth["pages"].items():
        assert same.get(found[key], found[key]) == page["kind"], key
    assert demo.results["sort"]["kinds"]["overview"] == 12 and demo.results["sort"]["unsorted"] == 1


def test_every_field_of_every_page_is_lifted_right(demo: Demo) -> None:
    items = {item.key: item for item in lift.items(demo.crossing)}
    assert set(items) == set(demo.site.truth["pages"])
    wrong = [
        (key, name, items[key].fields.get(name), true)
        for key, page in demo.site.truth["pages"].items()
        for name, true in page["fields"].items()
        if items[key].fields.get(name) != true
    ]
    assert wrong == []


def stored_blocks(demo: Demo) -> dict[str, tuple[Any, ...]]:
    keys = {item.id: item.key for item in lift.items(demo.crossing)}
    return {keys[item]: stored_body(names["body"]).content for item, names in refit.blocks_of(demo.crossing).items()}


def test_every_body_is_refitted_as_it_truly_is(demo: Demo) -> None:
    """Words in order and the blocks, in each of the ten sorts of messy markup."""
    found = stored_blocks(demo)
    styles = set()
    for key, page in demo.site.truth["pages"].items():
        styles.add(page["style"])
        assert to_text(found[key]).split() == page["words"], key
        assert [type(block).__name__ for block in found[key]] == [block[0] for block in page["blocks"]], key
        assert "".join(visible_text(to_markdown(found[key])).split()) == "".join(page["words"]), key
    assert len(styles) == 10
    assert not any(
        type(thing).__name__ in ("Island", "RawInline") for blocks in found.values() for thing in walk(blocks)
    )


def test_the_loss_account_is_closed(demo: Demo) -> None:
    totals = refit.totals(demo.crossing)
    assert totals["unaccounted"] == 0 and totals["words"] > 10_000
    account = json.loads(
        rows("SELECT r.account FROM refit r JOIN item i ON i.id = r.item_id WHERE i.kind = 'news' LIMIT 1")[0][0]
    )
    assert account["words"][0] == sum(
        (
            account["in_blocks"],
            account["in_islands"],
            account["in_fields"],
            account["furniture"],
            sum(account["removed"].values()),
            account["unaccounted"],
        )
    )
    assert account["removed"]["share box"] == 5 and account["removed"]["cookie bar"] == 8


def test_what_landed_is_what_was_lifted(demo: Demo) -> None:
    """Asked of the new system's own API: every title and field as it truly is, special characters and all."""
    import httpx

    assert demo.results["land"]["refused"] == [] and demo.results["land"]["files"]["carried"] > 20
    assert demo.results["land"]["links_not_moved"] == {"/map.html": 1}, "a frame of the files' host, which stays there"
    landed = {}
    for type_ in ("posts", "engines", "questions", "pages"):
        answer = httpx.get(f"http://127.0.0.1:{demo.new_port}/api/{type_}").json()
        landed |= {thing["attributes"]["path"]: thing["attributes"] for thing in answer["data"]}
    pages = demo.site.truth["pages"]
    assert set(landed) == {page["new"] for page in pages.values()}
    for page in pages.values():
        found = landed[page["new"]]
        assert {name: found[name] for name in page["fields"]} == page["fields"]
    titles = {page["fields"]["title"] for page in pages.values()}
    assert any("&" in t for t in titles) and any(":" in t for t in titles) and any("'" in t for t in titles)


def test_links_in_bodies_lead_to_new_places(demo: Demo) -> None:
    import http.client

    connection = http.client.HTTPConnection("127.0.0.1", demo.new_port)
    pages = demo.site.truth["pages"]
    looked = 0
    for page in pages.values():
        connection.request("GET", page["new"])
        html = connection.getresponse().read().decode()
        assert "old.quillmere" not in html and "files.quillmere" not in html.replace(
            "http://files.quillmere.localhost", "", html.count("map.html")
        ), page["new"]
        looked += html.count('href="/engines/') + html.count('src="/media/')
    assert looked > len(pages)


def test_a_second_run_changes_nothing(demo: Demo) -> None:
    files = [(f.new_path, f.fate) for f in carried.files(demo.crossing)]
    fetched = len(demo.seen)
    demo.bring()
    results = {stage: demo.run(stage) for stage in STAGES}
    assert (results["land"]["created"], results["land"]["changed"]) == (0, 0) and results["land"]["same"] > 150
    assert [(f.new_path, f.fate) for f in carried.files(demo.crossing)] == files
    assert len(demo.seen) - fetched <= 3, "only robots.txt, the sitemap and the made-up address are asked again"
    assert results["check"]["open"] == []


def test_the_map_covers_every_address_and_holds_no_host(demo: Demo) -> None:
    table = redirect_map(demo.crossing)
    assert all("localhost" not in line.old + line.new for line in table.redirects)
    assert len(table.redirects) < len(demo.site.truth["fates"])


def test_a_hand_edit_survives_a_run_and_a_change_below_it_is_a_conflict(demo: Demo) -> None:
    key = next(k for k, p in demo.site.truth["pages"].items() if p["kind"] == "engine")
    edit = Edit(old=key, field="builder", value="By hand", over="not-the-hash", by="Ann", at="2026-01-01")
    changes.change_edits(demo.crossing, [edit], [], "Ann", "builder set")
    demo.run("lift")
    item = next(i for i in lift.items(demo.crossing) if i.key == key)
    assert item.fields["builder"] == "By hand"
    row = next(f for f in item_fields(item.id) if f.field == "builder")
    assert row.lifted == demo.site.truth["pages"][key]["fields"]["builder"] and row.conflict == 1
    assert [laid.conflict for laid in edits.laid(demo.crossing)] == [True]
    assert changes.undo(demo.crossing, "Ann") == "builder set"
    assert edits.edits(demo.crossing) == []
    item = next(i for i in lift.items(demo.crossing) if i.key == key)
    assert item.fields["builder"] == demo.site.truth["pages"][key]["fields"]["builder"]


def test_a_changed_decision_is_planned_again_until_checked(demo: Demo) -> None:
    rows("UPDATE pair SET new = '/questions/' WHERE old = '/engines.aspx'")
    demo.run("route")
    assert demo.fates()["/engines.aspx"] == ["moved (planned)", "/questions/"]
    demo.run("check")
    assert demo.fates()["/engines.aspx"][0] == "unaccounted (planned)", "the host still answers the old way"
    demo.run("land")
    demo.run("check")
    assert demo.fates()["/engines.aspx"][0] == "unaccounted (planned)", (
        "it leads there, to a page that says something else"
    )
    rows("UPDATE pair SET new = '/engines/' WHERE old = '/engines.aspx'")
    for stage in ("route", "land", "check"):
        demo.run(stage)
    assert "unaccounted" not in crossings.account_of(demo.crossing)


def test_a_dry_run_sends_nothing(demo: Demo) -> None:
    ledger_before = rows("SELECT count(*) FROM ledger")
    rows("UPDATE ledger SET sent = 'x' WHERE type = 'item' AND key = '/'")
    dry = demo.run("land", dry=True)
    assert (dry["created"], dry["changed"]) == (0, 1) and rows("SELECT count(*) FROM ledger") == ledger_before
    assert demo.run("land")["changed"] == 1
