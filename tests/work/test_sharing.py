"""A plan as a file, and its parts taken over into another crossing."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest

from grandferry.core.errors import FerryError
from grandferry.store import changes, crossings, lift
from grandferry.store.db import rows
from grandferry.work.plan import sharing
from tests.servers import apps, pages_app, served_api

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
SITE = {
    "/": "<a href=/story/1>1</a><a href=/story/2>2</a>",
    "/story/1": "<title>One</title><div class=t><h1>First</h1><p>Some words</p></div>",
    "/story/2": "<title>Two</title><div class=t><h1>Second</h1><p>More words</p></div>",
}
KINDS = [
    {
        "name": "story",
        "rules": [{"below": "/story"}],
        "address": "/s/{slug}",
        "fields": [
            {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
            {"name": "body", "type": "blocks", "locators": [{"css": ".t"}]},
        ],
    }
]


@pytest.fixture
def two(cross: Make, work: Run) -> Iterator[tuple[int, int]]:
    """Two crossings of one site, surveyed; only the first knows what to do with it."""
    with apps(pages_app(SITE)) as (port,):
        start = {"old": {"start": f"http://127.0.0.1:{port}/"}}
        first = cross(start | {"name": "one", "kinds": KINDS, "route": {"rules": [{"old": "/story", "new": "/s"}]}})
        second = cross(start | {"name": "two", "manners": {"delay": 0, "agent": "Second/1.0"}})
        for crossing in (first, second):
            work("survey", crossing)
    yield first, second


def records(crossing: int) -> list[tuple[str, str, str]]:
    return [(item.key, item.kind, json.dumps(item.fields, sort_keys=True)) for item in lift.items(crossing)]


def test_kinds_taken_over_give_the_same_records_on_the_same_pages(two: tuple[int, int], work: Run) -> None:
    first, second = two
    text = sharing.take_parts(second, sharing.packed(first), ["kinds"], "Bea")
    assert text == "kinds with their fields of one taken over"
    for crossing in two:
        for stage in ("sort", "lift"):
            work(stage, crossing)
    assert records(first) == records(second) and len(records(second)) == 2
    plan = crossings.load_plan(second)
    assert plan.name == "two" and plan.manners.agent == "Second/1.0" and plan.route.rules == []
    assert changes.undo(second, "Bea") == text and crossings.load_plan(second).kinds == []


def test_a_plan_file_is_readable_and_taken_by_the_interface(two: tuple[int, int]) -> None:
    first, second = two
    with served_api() as base, httpx.Client(base_url=f"{base}/api/crossings", timeout=30) as api:
        file = api.get(f"/{first}/plan/file")
        assert file.headers["content-disposition"].endswith('one-plan.zip"')
        with zipfile.ZipFile(io.BytesIO(file.content)) as archive:
            text = archive.read("plan.yaml")
            assert archive.namelist() == ["pairs.csv", "plan.yaml"] and b"name: story" in text
        assert sharing.packed(first) == file.content
        taken = api.put(f"/{second}/plan/file", params={"part": ["rules", "kinds"]}, content=text)
        assert taken.status_code == 200, taken.text
        bad = api.put(f"/{second}/plan/file", params={"part": ["kinds"]}, content=b"kinds: [")
        assert bad.status_code == 422 and "plan.yaml" in bad.text
        assert api.put(f"/{second}/plan/file", params={"part": ["colours"]}, content=text).status_code == 422
    assert [rule.old for rule in crossings.load_plan(second).route.rules] == ["/story"]
    assert len(rows("SELECT 1 FROM change WHERE crossing_id = ?", second)) == 1
    with pytest.raises(FerryError, match="No part"):
        sharing.take_parts(second, text, [], "Bea")
