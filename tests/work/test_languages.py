"""A kind once per language by one setting; the texts of one never stand in a record of the other."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest
from pydantic import ValidationError

from grandferry.core.kinds import KindPlan
from grandferry.core.plan import Plan
from grandferry.core.sort.rules import language_of
from grandferry.store import crossings, lift
from grandferry.store.db import rows
from tests.servers import apps, pages_app, served_api

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


def letter(language: str, n: int, says: str) -> str:
    declared = f' lang="{language}"' if language else ""
    return f"<html{declared}><title>{says} {n}</title><div class=t><h1>{says} {n}</h1><p>{says} and {says}</p></div>"


SITE = {
    "/": "<html lang=en>"
    + "".join(f"<a href={tree}/letters/{n}>x</a>" for tree in ("", "/da", "/nn-NO") for n in (1, 2)),
    "/letters/1": letter("en-GB", 1, "weaving"),
    "/letters/2": letter("", 2, "spinning"),  # says nothing of its language
    "/da/letters/1": letter("da", 1, "vævning"),
    "/da/letters/2": letter("en", 2, "spinding"),  # its template says another
    "/nn-NO/letters/1": letter("nn", 1, "veving"),
    "/nn-NO/letters/2": letter("nn", 2, "spinning på norsk"),
}
KIND = {
    "name": "letter",
    "label": "Letter",
    "rules": [{"address": "(?:/[^/]+)?/letters/\\d+"}],
    "address": "/{language}/post/{slug}",
    "languages": ["en", "da"],
    "fields": [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": ".t"}]},
    ],
}


@pytest.fixture
def crossing(cross: Make, work: Run) -> Iterator[int]:
    with apps(pages_app(SITE)) as (port,):
        number = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "kinds": [KIND], "survey": {"sitemaps": False}})
        for stage in ("survey", "sort", "lift", "refit", "route"):
            work(stage, number)
        yield number


def items(crossing: int) -> dict[str, tuple[str, str]]:
    """old key -> (kind, new address) of every item."""
    return {item.key: (item.kind, item.new_path) for item in lift.items(crossing)}


def test_one_setting_gives_a_kind_for_each_language_and_another_is_in_neither(crossing: int) -> None:
    assert items(crossing) == {
        "/letters/1": ("letter_en", "/en/post/weaving-1"),
        "/letters/2": ("letter_en", "/en/post/spinning-2"),
        "/da/letters/1": ("letter_da", "/da/post/vaevning-1"),
        "/da/letters/2": ("letter_da", "/da/post/spinding-2"),
    }
    assert {
        key for (key,) in rows("SELECT a.key FROM sorted s JOIN address a ON a.id = s.address_id WHERE kind = ''")
    } == {
        "/",
        "/nn-NO/letters/1",
        "/nn-NO/letters/2",
    }
    for item in lift.items(crossing):
        said = json.dumps(item.fields, ensure_ascii=False)
        assert ("vævning" in said or "spinding" in said) == (item.kind == "letter_da")


def test_a_language_more_moves_its_pages_and_no_other(crossing: int, work: Run) -> None:
    before = items(crossing)
    data = crossings.load_plan(crossing).model_dump(mode="json")
    data["kinds"][0]["languages"].append("nn")
    crossings.save_plan(crossing, Plan.model_validate(data), [])
    work("sort", crossing)
    assert work("lift", crossing)["done"] == 2
    work("route", crossing)
    assert items(crossing) == before | {
        "/nn-NO/letters/1": ("letter_nn", "/nn/post/veving-1"),
        "/nn-NO/letters/2": ("letter_nn", "/nn/post/spinning-pa-norsk-2"),
    }


def test_the_kinds_are_told_with_their_languages_and_called_as_the_target_has_them(crossing: int) -> None:
    with served_api() as api:
        told = httpx.get(f"{api}/api/crossings/{crossing}/kinds").json()
    assert [(k["name"], k["of"], k["pages"]) for k in told["kinds"]] == [
        ("letter_en", "letter", 2),
        ("letter_da", "letter", 2),
    ]
    assert told["languages"] == {"en": 3, "nn": 2, "da": 1}
    land = {"target": "jsonapi", "base": "http://new.test/", "types": {"letter": "posts", "letter_da": "indlaeg"}}
    plan = Plan.model_validate(crossings.load_plan(crossing).model_dump(mode="json") | {"land": land})
    assert plan.item_types == {"letter_en": "posts", "letter_da": "indlaeg"}


@pytest.mark.parametrize(
    ("key", "declared", "language"),
    [
        ("/letters/1", "en-GB", "en"),
        ("/letters/1", "", "en"),
        ("/da/letters/1", "en", "da"),
        ("/site/da_DK/letters/1", "en", "da"),
        ("/deep/down/da/1", "en", "en"),
        ("/dance/1", "en", "en"),
        ("/da?page=2", "", "da"),
        ("/fr/x", "", "en"),
        ("/x", "FR_ca", "fr"),
        ("/da-about-us-all-long/x", "en", "en"),
    ],
)
def test_the_language_of_a_page(key: str, declared: str, language: str) -> None:
    assert language_of(key, declared, ("en", "da")) == language


def test_two_kinds_never_have_one_name() -> None:
    other = KIND | {"name": "letter_da", "languages": []}
    with pytest.raises(ValidationError, match="letter_da"):
        Plan.model_validate({"format": 1, "name": "T", "old": {"start": "http://a.test/"}, "kinds": [KIND, other]})
    with pytest.raises(ValidationError):
        KindPlan.model_validate(KIND | {"languages": ["English"]})
