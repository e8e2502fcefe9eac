"""A change over the values of many items: counted and shown before, one change set, taken back whole; history."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pytest

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.lift.bulk import Bulk
from grandferry.store import changes, edits, lift
from grandferry.store.db import rows
from grandferry.work.lift import bulk
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
COPY = Bulk(act="copy", field="date", to="created", empty=True)


@pytest.fixture
def crossing(cross: Make, work: Run) -> int:
    """Sixty pages, each with a date; thirty-seven say when they were created, and five of them something odd."""
    site: dict[str, Any] = {}
    for n in range(60):
        created = f"<i class=c>2019-01-{n % 28 + 1:02d}</i>" if n < 37 else ""
        tag = ("News", "news ", "NEWS", "Steam")[n % 4]
        site[f"/p{n:02d}"] = f"<h1>Page {n:02d}</h1><b class=d>2021-05-{n % 28 + 1:02d}</b>{created}<u>{tag}</u>"
    site["/"] = "".join(f"<a href={key}>{key}</a>" for key in site)
    fields = [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "date", "type": "date", "locators": [{"css": "b.d"}]},
        {"name": "created", "type": "date", "locators": [{"css": "i.c"}]},
        {"name": "tags", "type": "list", "locators": [{"css": "u"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "body"}]},
    ]
    kind = {"name": "page", "rules": [{"address": "/p.*"}], "fields": fields}
    with apps(pages_app(site)) as (port,):
        made = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}, "kinds": [kind]})
        work("survey", made)
    work("sort", made)
    work("lift", made)
    return made


def held(crossing: int, field: str) -> list[Any]:
    return [row.value for row in lift.held_values(crossing, "page") if row.field == field]


def test_a_copy_where_it_is_empty_is_counted_shown_made_and_taken_back(crossing: int, work: Run) -> None:
    before = held(crossing, "created")
    looked = bulk.look(crossing, "page", COPY)
    assert (looked.changed, looked.of) == (23, 60)
    assert [(one.key, one.change.before, one.change.after) for one in looked.shown] == [
        (f"/p{n}", None, f"2021-05-{n % 28 + 1:02d}") for n in (37, 38, 39)
    ]
    assert held(crossing, "created") == before and not edits.edits(crossing), "a look changes nothing"
    assert bulk.make(crossing, "page", COPY, "", "Ada")[0] == 23
    assert None not in held(crossing, "created") and held(crossing, "created")[:37] == before[:37]
    with pytest.raises(FerryError, match="alter no value"):
        bulk.make(crossing, "page", COPY, "", "Ada")
    work("lift", crossing, all=True)
    assert None not in held(crossing, "created"), "it holds over another run"
    changes.undo(crossing, "Ada")
    assert held(crossing, "created") == before, "one undo restores all sixty"


def test_an_items_history_names_the_change_and_what_was_there(crossing: int) -> None:
    bulk.make(crossing, "page", COPY, "", "Ada")
    bulk.make(crossing, "page", Bulk(act="replace", field="created", find="2021", text="2020"), "/p40", "Tom")
    newest, oldest = changes.of_value(crossing, "/p40")
    assert (newest.field, newest.before, newest.by) == ("created", "2021-05-13", "Tom")
    assert newest.text == "“2021” replaced by “2020” in created: 1 of 1 in page"
    assert (oldest.before, oldest.text) == (None, "date copied to created where that is empty: 23 of 60 in page")
    assert changes.of_value(crossing, "/p4") == [], "another key that begins alike has none"
    changes.undo(crossing, "Tom")
    assert [one.undone for one in changes.of_value(crossing, "/p40")] == [True, False]


def test_near_equal_spellings_are_gathered(crossing: int) -> None:
    (near,) = bulk.spellings(crossing, "page", "tags")
    assert {value for value, _ in near.values} == {"News", "news", "NEWS"}
    table = {value: "News" for value, _ in near.values}
    assert bulk.make(crossing, "page", Bulk(act="map", field="tags", table=table), "", "")[0] == 30
    assert bulk.spellings(crossing, "page", "tags") == []
    assert sorted({tag for tags in held(crossing, "tags") for tag in tags}) == ["News", "Steam"]


def test_what_cannot_be_done_is_told_and_left(crossing: int) -> None:
    looked = bulk.look(crossing, "page", Bulk(act="copy", field="title", to="date"))
    assert looked.changed == 0 and looked.problems == {"not a date (ISO 8601)": 60} and len(looked.failing) == 20
    with pytest.raises(FerryError, match="not a date"):
        bulk.make(crossing, "page", Bulk(act="copy", field="title", to="date"), "", "")
    for wish, reason in (
        (Bulk(act="fill", field="nowhere", text="x"), "no field “nowhere”"),
        (Bulk(act="copy", field="title", to="body"), "a body or a group"),
    ):
        with pytest.raises(FerryError, match=reason):
            bulk.look(crossing, "page", wish)
    with pytest.raises(NotThere, match="no kind"):
        bulk.look(crossing, "pages", COPY)
    assert rows("SELECT count(*) FROM edit") == [(0,)]


def test_what_was_moved_away_stays_away(crossing: int, work: Run) -> None:
    bulk.make(crossing, "page", Bulk(act="move", field="date", to="created"), "", "")
    assert held(crossing, "date") == [None] * 60 and None not in held(crossing, "created")
    work("lift", crossing, all=True)
    assert held(crossing, "date") == [None] * 60
