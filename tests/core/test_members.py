"""Members of a group: parts in them, what follows them, what is left in them, groups in groups."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from grandferry.core.address import Scope
from grandferry.core.kinds import FieldPlan
from grandferry.core.lift.fields import lift_field
from grandferry.core.lift.value import Value
from grandferry.core.page import parse

SCOPE = Scope(hosts=frozenset(["a.test"]), scheme="http")


def group(css: str, *parts: dict[str, Any]) -> FieldPlan:
    return FieldPlan.model_validate(
        {"name": "group", "type": "group", "locators": [{"css": css}], "parts": list(parts)}
    )


def read(html: str, field: FieldPlan) -> Value:
    return lift_field(parse(f"<body>{html}</body>"), field, "/x", "http://a.test/d/x", SCOPE)


HEADING = {"name": "heading", "type": "line"}
REST = {"name": "body", "type": "blocks"}


def test_four_folding_panels_are_four_pairs_of_heading_and_body() -> None:
    panels = "".join(
        f"<details><summary>Panel {n}</summary>Plain words <b>{n}</b><p>and <a href=../p{n}>more</a></p></details>"
        for n in range(4)
    )
    found = read(panels, group("details", HEADING | {"css": "summary"}, REST))
    assert len(found.value) == 4
    assert found.value[2] == {
        "heading": "Panel 2",
        "body": '<p>Plain words <strong>2</strong></p>\n<p>and <a href="http://a.test/p2">more</a></p>',
    }


def test_what_follows_a_member_up_to_the_next_one_is_a_part_of_it() -> None:
    html = "<h2>All</h2><h3>A</h3>loose <i>text</i><p>one</p><p>two</p><h3>B</h3><ul><li>x</ul><h2>Else</h2><p>no</p>"
    found = read(html, group("h3", HEADING, REST | {"follows": True}))
    assert [member["heading"] for member in found.value] == ["A", "B"]
    assert found.value[0]["body"] == "<p>loose <em>text</em></p>\n<p>one</p>\n<p>two</p>"
    assert "x" in found.value[1]["body"] and "no" not in found.value[1]["body"], "a heading above it ends it"
    first = read(html, group("h3", HEADING, {"name": "first", "css": "p", "follows": True}))
    assert [member["first"] for member in first.value] == ["one", None]


def test_members_in_holders_are_followed_by_what_follows_these() -> None:
    html = "".join(f"<dt><button>Ask {n}</button></dt><dd>Answer {n}</dd>" for n in range(3))
    found = read(f"<dl>{html}</dl>", group("button", HEADING, {"name": "said", "type": "passage", "follows": True}))
    assert found.value[1] == {"heading": "Ask 1", "said": "Answer 1"}


def test_groups_nest() -> None:
    inner = {"name": "title", "css": "a"}, {"name": "link", "type": "link", "css": "a", "attribute": "href"}
    menu = "<ul class=menu><li><a href=/a>A</a><ul><li><a href=/a1>A1</a><li><a href=/a2>A2</a></ul><li><a href=/b>B</a></ul>"
    entries = {"name": "entries", "type": "group", "css": "ul > li > ul > li", "parts": list(inner)}
    found = read(menu, group(".menu > li", *inner, entries))
    assert found.value == [
        {
            "title": "A",
            "link": "http://a.test/a",
            "entries": [{"title": "A1", "link": "http://a.test/a1"}, {"title": "A2", "link": "http://a.test/a2"}],
        },
        {"title": "B", "link": "http://a.test/b", "entries": None},
    ]


def test_slides_have_picture_caption_link_and_time() -> None:
    slides = "".join(
        f"<figure><a href=/s{n}><img data-src=/p{n}.png src=/blank.gif alt='View {n}'></a><figcaption>Slide {n}"
        f"</figcaption><time datetime=2021-05-0{n + 1}>then</time></figure>"
        for n in range(3)
    )
    parts = (
        {"name": "picture", "type": "picture", "css": "img"},
        {"name": "caption", "css": "figcaption"},
        {"name": "link", "type": "link", "css": "a", "attribute": "href"},
        {"name": "time", "type": "date", "css": "time", "attribute": "datetime"},
    )
    assert read(slides, group("figure", *parts)).value[1] == {
        "picture": {"src": "http://a.test/p1.png", "alt": "View 1", "caption": "Slide 1"},
        "caption": "Slide 1",
        "link": "http://a.test/s1",
        "time": "2021-05-02",
    }


def test_words_that_no_part_reads_are_not_claimed() -> None:
    html = "".join(f"<div class=card><b>Card {n}</b><p>Words of it.</p></div>" for n in range(3))
    page = parse(html)
    value = lift_field(page, group(".card", {"name": "title", "css": "b"}), "/x", "http://a.test/x", SCOPE)
    assert {page.nodes[n].tag for n in value.nodes} == {"b"}
    whole = lift_field(page, group(".card", {"name": "title", "css": "b"}, REST), "/x", "http://a.test/x", SCOPE)
    assert [page.nodes[n].tag for n in whole.nodes] == ["b", "p"] * 3


@pytest.mark.parametrize(
    "part",
    [
        {"name": "inner", "type": "group", "css": "li"},
        {"name": "inner", "type": "group", "parts": [{"name": "a"}]},
        {"name": "inner", "type": "group", "css": "li", "parts": [{"name": "a"}, {"name": "a"}]},
        {"name": "inner", "type": "line", "parts": [{"name": "a"}]},
    ],
)
def test_a_group_in_a_group_has_a_selector_and_parts(part: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        group("div", part)


def test_what_datetime_says_is_what_the_words_say_and_other_attributes_are_not() -> None:
    html = "<li><b>Ada</b> <time datetime='2021-05-02'>2 May</time> <a href=/x>a way</a></li>" * 2
    day = {"name": "day", "type": "date", "css": "time", "attribute": "datetime"}
    way = {"name": "way", "type": "link", "css": "a", "attribute": "href"}
    page = parse(f"<body>{html}</body>")
    found = lift_field(page, group("li", {"name": "by", "css": "b"}, day, way), "/x", "http://a.test/d/x", SCOPE)
    assert found.value[0] == {"by": "Ada", "day": "2021-05-02", "way": "http://a.test/x"}
    assert {page.nodes[n].tag for n in found.nodes} == {"b", "time"}, "the words of the link do not go over"
    plan = FieldPlan.model_validate(
        {"name": "day", "type": "date", "locators": [{"css": "time", "attribute": "datetime"}]}
    )
    assert not lift_field(page, plan, "/x", "", SCOPE).beside
