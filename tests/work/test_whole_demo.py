"""The whole old site of the demo: its corners, its second language, its lists; scored against its generator."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from grandferry.core.lift.bulk import near_spellings
from grandferry.core.lift.unlike import SAYS, Unlike
from grandferry.core.refit.write import to_text
from grandferry.core.side import Side
from grandferry.core.sort.grouping import MIDDLE
from grandferry.demo.__main__ import export
from grandferry.demo.lists import FORGOTTEN, SHEET, SITEMAP, TABLE
from grandferry.demo.wider import WHOLE, build
from grandferry.ports.sources.table import look
from grandferry.store import bodies, crossings, groups, lift, refit, sort
from grandferry.store.db import one, rows
from grandferry.store.route import family_counts
from grandferry.work.refit.content import stored_body
from grandferry.work.survey import ownerlists
from tests.demo import Demo, running_demo
from tests.scoring import adjusted_rand


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Demo]:
    with running_demo(tmp_path_factory.mktemp("whole"), size=WHOLE) as made:
        yield made


def test_every_address_has_its_true_fate_and_is_proven(demo: Demo) -> None:
    truth = demo.site.truth["fates"]
    assert demo.fates() == {key: [fate, new] for key, (fate, new) in truth.items()}
    assert crossings.counted(demo.crossing) == len(truth) > 580
    lone = [key for key in truth if key.startswith("/papers/found/")]
    assert sort.unsorted_pages(demo.crossing) == sorted(lone), "every page but what was written by hand is of some kind"
    both = {row.kind: row.also for row in sort.double_fits(demo.crossing)}
    assert both == {"letter": ["poster"]}, "letters on the back of posters"


def test_every_field_and_every_body_is_as_it_truly_is(demo: Demo) -> None:
    items = {item.key: item for item in lift.items(demo.crossing)}
    pages = demo.site.truth["pages"]
    assert set(items) == set(pages)
    found = [
        (key, name, items[key].fields.get(name), true)
        for key, page in pages.items()
        for name, true in page["fields"].items()
    ]
    assert [one for one in found if one[2] != one[3]] == []
    keys = {item.id: key for key, item in items.items()}
    for number, names in refit.blocks_of(demo.crossing).items():
        blocks: Any = stored_body(names["body"]).content
        page = pages[keys[number]]
        assert to_text(blocks).split() == page["words"], keys[number]
        assert [type(block).__name__ for block in blocks] == [block[0] for block in page["blocks"]], keys[number]
    lost = rows("SELECT sum(unaccounted) FROM refit")[0][0]
    assert lost == 0, "every word of every page is accounted for"


def test_what_nobody_ever_put_right_wants_a_look(demo: Demo) -> None:
    odd = {(one.key, one.field): one.note for one in lift.exceptions(demo.crossing) if one.state == "odd"}
    left = {tuple(one): SAYS[Unlike(why)] for *one, why in demo.site.truth["unlike"]}
    assert {place: odd.get(place) for place in left} == left and len(left) == 4
    assert len(odd) <= 2 * len(left), f"nor is the list full of what is right: {odd}"
    hands = [item.fields["hand"] for item in lift.items(demo.crossing) if item.kind == "letter"]
    near = [{name for name, _ in group.values} for group in near_spellings(hands)]
    typed = demo.site.truth["typed"]
    assert len(typed) == 3 and all(any({wrong, right} <= one for one in near) for wrong, right in typed.items())
    assert sum(map(len, near)) == len(typed) + len(set(typed.values())), "and no others"


def found_by(key: str) -> set[str]:
    return {
        how for (how,) in rows("SELECT f.how FROM found f JOIN address a ON a.id = f.address_id WHERE a.key = ?", key)
    }


def test_the_corners_of_the_site(demo: Demo) -> None:
    assert found_by("/about/feed-only.htm") == {"feed", "log"}
    assert "sitemap" in found_by(next(key for key in demo.site.truth["pages"] if key.startswith("/cy/newyddion/")))
    assert one("SELECT count(*) FROM address WHERE host LIKE 'www.%'") == 0, "the alias is the same site"
    assert one("SELECT count(*) FROM shut_out WHERE reason = 'endless space'") == 2
    assert not any("/calendar.aspx?m=" in url for url in demo.seen), "left out by the plan"
    assert one("SELECT status FROM address WHERE key = '/committee/'") == 401
    assert not any("/private/" in url for url in demo.seen)
    asked = [url for url in demo.seen if "ferry-made-up" not in url and not url.endswith("/robots.txt")]
    assert len(asked) == len(set(asked)), "nothing twice"
    left = {
        key for (key,) in rows("SELECT key FROM address WHERE decision_reason LIKE 'family' || char(9) || 'accounts%'")
    }
    assert left == {f"/members/profile.php?id={n}" for n in range(1, 9)}
    said = sum(answer.body.count(b'<li class="comment"') for answer in demo.site.answers.values())
    assert family_counts(demo.crossing)["comments"] == said > 40


def test_the_board_built_by_scripts_is_captured_as_built(demo: Demo) -> None:
    words, rendered = rows(
        "SELECT a.words, c.rendered FROM address a JOIN capture c ON c.id = a.capture WHERE a.key = '/live/departures.htm'"
    )[0]
    assert rendered and words > 30 and b"Saltmarrow Quay train leaves" in bodies.get(rendered)


def test_text_of_one_language_is_in_no_record_of_the_other(demo: Demo) -> None:
    """The two trees have kinds of their own."""
    kinds = dict(rows("SELECT a.key, s.kind FROM sorted s JOIN address a ON a.id = s.address_id"))
    assert all(kinds[key] in ("newyddion", "tudalen", "overview") for key in kinds if key.startswith("/cy/"))
    assert not {"newyddion", "tudalen"} & {kind for key, kind in kinds.items() if not key.startswith("/cy/")}


def test_the_lists_of_the_owner_can_be_read(demo: Demo) -> None:
    folder = demo.folder / "lists"
    table, sheet = look(folder / TABLE), look(folder / SHEET)
    assert (table.columns[table.address], table.columns[table.visits]) == ("Page address", "Views")
    assert (sheet.columns[sheet.address], sheet.visits) == ("Where", -1)
    for number, name in enumerate((TABLE, SHEET, SITEMAP)):
        path = ownerlists.new_place()
        path.write_bytes((folder / name).read_bytes())
        found = ownerlists.looked_at(path)
        ownerlists.take(Side(demo.crossing), path, name, found.form, found.address, found.visits, [], "")
        forgotten = rows("SELECT target FROM given_address WHERE target LIKE ?", f"%{FORGOTTEN[(1, 0, 2)[number]]}")
        assert len(forgotten) == 1, name
    assert len(demo.site.log) == 50_000


def test_the_large_sizes_have_that_many_addresses_and_are_made_when_asked(tmp_path: Path) -> None:
    site = build(8702, 8703, 5000)
    total = len(site.truth["fates"])
    assert 4500 < total < 5500
    host, key = site.made[-1]
    first, second = site.answer(host, key), site.answer(host, key)
    assert first is not None and second is not None and first.body == second.body
    assert site.answer(host, "/archive/999999/1.htm") is None
    export(tmp_path, build(8702, 8703, 700))
    assert len(list((tmp_path / "old.quillmere.localhost/archive").rglob("*.htm"))) == 100


def test_pages_of_one_template_are_grouped_without_any_rule(demo: Demo) -> None:
    demo.run("group")
    truth = {key: page["template"] for key, page in demo.site.truth["pages"].items()}
    found = {
        page.key: group.number
        for group in groups.groups(demo.crossing, MIDDLE)
        for page in groups.group_pages(demo.crossing, MIDDLE, group.number, 0, 1000)[1]
    }
    assert truth.keys() <= found.keys()
    assert adjusted_rand([truth[key] for key in truth], [found[key] for key in truth]) >= 0.97
