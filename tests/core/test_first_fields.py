"""Fields proposed for a kind from a few of its pages."""

from __future__ import annotations

from typing import Any

from grandferry.core.lift.first import first_fields
from grandferry.core.page import parse
from tests.core.test_grouping import around, boat, report, written


def proposed(pages: list[str]) -> dict[str, tuple[list[dict[str, Any]], int, int]]:
    return {
        one.field.name: (
            [locator.model_dump(exclude_none=True) for locator in one.field.locators],
            one.filled,
            one.of,
        )
        for one in first_fields([parse(page) for page in pages])
    }


def test_title_and_body_are_read_as_the_pages_have_them() -> None:
    found = proposed([report(n) for n in range(9)])
    assert found == {"title": ([{"css": "h1"}], 9, 9), "body": ([{"css": "main"}], 9, 9)}
    nowhere = [f"<div id=top><a href=/>x</a></div><div class=col7><h1>T</h1>{written(n)}</div>" for n in range(6)]
    assert proposed(nowhere)["body"] == ([{"css": "div.col7"}], 6, 6)


def test_two_layouts_of_one_kind_give_two_locators() -> None:
    one = [f"<div id=nav><a href=/>x</a></div><div id=text><h1>T</h1>{written(n)}</div>" for n in range(6)]
    two = [
        f"<div id=nav><a href=/>x</a></div><table><tr><td class=main><h1>T</h1>{written(n)}</td></table>"
        for n in range(3)
    ]
    assert proposed(one + two)["body"] == ([{"css": "#text"}, {"css": "td.main"}], 9, 9)


def test_what_the_head_says_is_taken_where_it_is_of_the_page() -> None:
    def page(n: int) -> str:
        head = f"<title>Report {n} | Fleet</title><meta name=description content='All of {n}'><meta name=author content='The fleet'>"
        date = f"<meta property=article:published_time content='2021-05-0{n + 1}T09:00:00+02:00'>" if n != 2 else ""
        return f"<html><head>{head}{date}</head>{around(f'<main><h2>no first heading</h2>{written(n)}</main>')}</html>"

    found = proposed([page(n) for n in range(5)])
    assert found["title"][0] == [{"meta": "title"}] and found["description"][1:] == (5, 5)
    assert found["published"] == ([{"meta": "article:published_time"}], 4, 5)
    assert "author" not in found, "the same on every page: of the site, not of its pages"


def test_pages_that_hold_nothing_to_go_by_still_have_a_title_and_a_body() -> None:
    found = proposed(["", "<p>a", "plain text"])
    assert found["title"][1:] == (0, 3) and found["body"][0] == [{"css": "body"}]
    assert set(proposed([boat(1)])) == {"title", "body"}
