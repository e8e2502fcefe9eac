"""Groups of repeated parts: proposed where they stand, and lifted as records."""

from __future__ import annotations

import sys
from collections import Counter
from typing import Any

import pytest

from grandferry.core.address import Scope
from grandferry.core.kinds import FieldPlan
from grandferry.core.lift.fields import lift_field
from grandferry.core.lift.first import first_fields
from grandferry.core.lift.repeated import groups
from grandferry.core.made import made_from
from grandferry.core.page import parse
from tests.core.test_grouping import around, written

SCOPE = Scope(hosts=frozenset(["a.test"]), scheme="http")


def card(n: int) -> str:
    picture = f"<img src=/p{n}.png alt='View {n}'>" if n != 3 else ""
    return (
        f"<div class=card><a href=/i/{n}>{picture}<h3>Item {n}</h3></a><span class=price>£{n}.50</span>"
        f"<p class=posted>{n + 1} May 2021</p></div>"
    )


def proposed(*pages: str) -> dict[str, FieldPlan]:
    return {one.field.name: one.field for one in first_fields([parse(p) for p in pages]) if one.field.type == "group"}


def records(field: FieldPlan, page: str) -> list[dict[str, Any]]:
    value = lift_field(parse(page), field, "/x", "http://a.test/x", SCOPE)
    assert value.state == "filled"
    return list(value.value)


def test_six_equal_cards_are_a_list_of_six_before_any_rule() -> None:
    page = around(f"<main><h1>All</h1>{''.join(card(n) for n in range(6))}</main>")
    found = proposed(page)
    assert list(found) == ["cards"] and found["cards"].locators[0].css == "div.card"
    read = records(found["cards"], page)
    assert len(read) == 6
    assert read[2] == {
        "link": "http://a.test/i/2",
        "title": "Item 2",
        "price": 2.5,
        "posted": "2021-05-03",
        "picture": {"src": "http://a.test/p2.png", "alt": "View 2", "caption": ""},
    }
    assert read[3]["picture"] is None, "what one of them has not got is empty, not that of the next"


def test_a_list_without_names_is_one_where_it_is_what_the_page_is_for() -> None:
    entries = "".join(f"<li><a href=/{n}>Story number {n}</a> <i>{n} May 2021</i></li>" for n in range(8))
    page = around(f"<div id=list><h1>News</h1><ul>{entries}</ul></div>")
    assert records(proposed(page)["entries"], page)[1]["title"] == "Story number 1"
    text = around(f"<div id=page><h1>T</h1>{written(1) * 6}<ul>{entries[: entries.index('<li>', 9) * 3]}</ul></div>")
    assert proposed(text) == {}, "a list in a text is text"


def test_menus_and_what_many_pages_share_are_no_group() -> None:
    menu = "<div class=menu>" + "".join(f"<div class=entry><a href=/{n}>Part {n}</a><i>{n}</i></div>" for n in range(6))
    pages = [f"{menu}</div><div id=c><h1>T {n}</h1>{written(n)}</div>" for n in range(6)]
    assert proposed(*pages) == {}
    assert proposed(f"<nav>{menu}</div></nav><h1>T</h1>{written(1)}") == {}


def test_members_keep_to_themselves_and_odd_ones_stand_as_they_are() -> None:
    parts = [
        {"name": "a", "css": "b"},
        {"name": "n", "type": "number", "css": "i"},
        {"name": "to", "type": "link", "attribute": "href"},
    ]
    field = FieldPlan.model_validate({"name": "g", "type": "group", "locators": [{"css": "a.m"}], "parts": parts})
    page = "<b>not of one</b><a class=m href=/1><b>One</b><i>1</i></a><a class=m href='mailto:x'><i>two</i></a><a class=m></a>"
    assert records(field, page) == [
        {"a": "One", "n": 1, "to": "http://a.test/1"},
        {"a": None, "n": "two", "to": "mailto:x"},
    ]
    assert lift_field(parse("<p>none"), field, "/x", "http://a.test/x", SCOPE).state == "empty"


def test_a_group_is_told_from_other_fields() -> None:
    field = {"name": "g", "type": "group", "locators": [{"css": "li"}]}
    part = {"name": "a"}
    for wrong, sentence in (
        (field, "a group, and nothing else, has parts"),
        ({**field, "type": "line", "parts": [part]}, "a group, and nothing else, has parts"),
        ({**field, "locators": [{"meta": "x"}], "parts": [part]}, "found by CSS"),
        ({**field, "parts": [part, part]}, "two parts"),
    ):
        with pytest.raises(ValueError, match=sentence):
            FieldPlan.model_validate(wrong)
    plain = FieldPlan.model_validate({"name": "t", "type": "line", "locators": [{"css": "h1"}]})
    had = {k: v for k, v in plain.model_dump(mode="json").items() if k not in ("parts", "proposed")}
    assert made_from(1, [plain]) == made_from(1, [had]), "fields without parts are not behind"


def test_four_folding_panels_are_proposed_as_heading_and_body() -> None:
    panels = "".join(f"<details><summary>Panel {n}</summary><p>Words of {n}.</p></details>" for n in range(4))
    page = around(f"<main><h1>T</h1>{written(1)}<div class=fold>{panels}</div></main>")
    found = proposed(page)["panels"]
    assert [(part.name, part.type) for part in found.parts] == [("heading", "line"), ("body", "blocks")]
    assert records(found, page)[3] == {"heading": "Panel 3", "body": "<p>Words of 3.</p>"}


@pytest.mark.parametrize(
    "pair",
    [
        "<div class=q>Is it {n}?</div><div class=a><p>It is {n}.</p></div>",
        "<dt>Is it {n}?</dt><dd><p>It is {n}.</p></dd>",
        "<div onclick='flip({n})'>Is it {n}?</div><div><p>It is {n}.</p></div>",
        "<h3><button aria-expanded=false>Is it {n}?</button></h3><div><p>It is {n}.</p></div>",
    ],
    ids=["classes", "terms", "switches", "headings"],
)
def test_questions_are_proposed_with_their_answers(pair: str) -> None:
    asked = "".join(pair.format(n=n) for n in range(5))
    box = f"<dl id=faq>{asked}</dl>" if "<dt>" in pair else f"<div id=faq>{asked}</div>"
    page = around(f"<main><h1>T</h1>{box}</main>")
    assert records(proposed(page)["questions"], page)[4] == {"question": "Is it 4?", "answer": "<p>It is 4.</p>"}


def test_a_text_with_headings_in_it_is_no_list_of_questions() -> None:
    text = "".join(f"<h2>Part {n}</h2>{written(n + 20)}" for n in range(4))
    plain = "".join(f"<h2>Part {n}</h2><p>Words of it.</p>" for n in range(4))
    assert proposed(around(f"<main><h1>T</h1>{text}</main>"), around(f"<main><h1>U</h1>{plain}</main>")) == {}
    named = [
        "".join(f"<h3 class=head>Part {n} {k}</h3><p>Words of {n} {k}.</p><pre>{k}</pre><p>On.</p>" for k in range(4))
        for n in range(3)
    ]
    assert proposed(*(around(f"<main><h1>T {n}</h1>{one}</main>") for n, one in enumerate(named))) == {}


def test_slides_are_proposed_with_the_picture_that_is_shown() -> None:
    slides = "".join(
        f"<figure><img data-src=/p{n}.png src=/blank.gif><figcaption>Slide {n}</figcaption></figure>" for n in range(3)
    )
    page = around(f"<main><h1>T</h1>{written(2)}<div class=slides>{slides}</div></main>")
    assert records(proposed(page)["figures"], page)[1] == {
        "picture": {"src": "http://a.test/p1.png", "alt": "", "caption": "Slide 1"},
        "caption": "Slide 1",
    }


def test_lists_of_several_templates_are_one_field_where_they_hold_the_same() -> None:
    def listing(number: int, box: str) -> str:
        entries = "".join(f"<li><a href=/{number}-{n}>Story {number} {n}</a></li>" for n in range(6))
        return around(f"<div id=list><h1>Part {number}</h1><ul {box}>{entries}</ul></div>")

    pages = [listing(n, "class=news" if n % 2 else "") for n in range(6)]
    (found,) = proposed(*pages).values()
    assert [locator.css for locator in found.locators] == ["#list > ul > li", "ul.news > li"] or len(
        found.locators
    ) == 2
    assert all(len(records(found, page)) == 6 for page in pages)


def test_a_few_comments_on_some_pages_are_a_group() -> None:
    def post(number: int) -> str:
        said = "".join(
            f"<li class=comment><b>Reader {number}</b>: {written(number * 9 + n)[3:40]}" for n in range(number)
        )
        box = f"<div class=said><h3>Said</h3><ol>{said}</ol></div>" if number < 3 else ""
        return around(f"<main><h1>T {number}</h1><div class=text>{written(number)}</div>{box}</main>")

    pages = [post(n) for n in range(8)]
    found = proposed(*pages)["comments"]
    assert [part.type for part in found.parts] == ["line", "blocks"] and len(records(found, pages[2])) == 2


def test_what_stands_in_members_is_no_field_of_its_own() -> None:
    def page(number: int) -> str:
        asked = "".join(
            f"<div class=q>Is it {number}-{n}?</div><div class=a id=answer{n}>It is {number}-{n}.</div>"
            for n in range(2 + number % 2)
        )
        return around(f"<main><h1>T {number}</h1><div class=faq>{asked}</div></main>")

    fields = {one.field.name: one for one in first_fields([parse(page(n)) for n in range(6)])}
    assert set(fields) == {"title", "body", "questions"} and fields["questions"].filled == 6


def test_lists_of_thousands_are_looked_through_once() -> None:
    """Every element looked at beside every other one would be tens of millions of looks here."""
    entries = "".join(f"<li class=entry><a href=/{n}>Entry {n}</a> <i>{n} May 2021</i></li>" for n in range(6000))
    pairs = "".join(f"<div class=q>Is it {n}?</div><div class=a>It is {n}.</div>" for n in range(6000))
    looked = Counter[str]()

    def counting(frame: Any, event: str, _: Any) -> None:
        if event == "call":
            looked[frame.f_code.co_name] += 1

    page = around(f"<main><ul>{entries}</ul></main>"), around(f"<main>{pairs}</main>")
    sys.setprofile(counting)
    try:
        found = [set(proposed(one)) for one in page]
    finally:
        sys.setprofile(None)
    assert found == [{"entries"}, {"questions"}]
    assert looked["_sort"] < 200_000


def test_media_are_proposed_with_where_they_play() -> None:
    films = "".join(f"<div class=film><h3>Film {n}</h3><iframe src=/films/{n}></iframe></div>" for n in range(4))
    page = around(f"<main><h1>T</h1>{written(3)}<div class=films>{films}</div></main>")
    assert records(proposed(page)["films"], page)[2] == {"title": "Film 2", "link": "http://a.test/films/2"}


def test_what_repeats_in_members_is_a_group_of_theirs() -> None:
    def course(n: int, k: int) -> str:
        dishes = "".join(f"<li><b>Dish {n} {k} {d}</b> <i class=price>{d + k}.50</i></li>" for d in range(2 + k % 2))
        return f"<div class=course><h4>Course {n} {k}</h4><ul>{dishes}</ul></div>"

    pages = [parse(f"<h1>T {n}</h1><div class=card>{''.join(course(n, k) for k in range(3))}</div>") for n in range(4)]
    found = [one.plan for one in groups(pages, (), ())]
    plan = next(one for one in found if one.name == "courses")
    inner = next(part for part in plan.parts if part.type == "group")
    assert [(part.name, part.type) for part in plan.parts] == [("title", "line"), ("entries", "group")]
    assert (inner.css, [(part.name, part.type) for part in inner.parts]) == (
        "ul > li",
        [("text", "line"), ("price", "number")],
    )
    lists = [
        parse("".join(f"<div class=panel><h3>P {n} {k}</h3><div><p>So {n}{k}.</p><ul><li>a {n}<li>b {k}</ul></div></div>" for k in range(3)))
        for n in range(4)
    ]  # fmt: skip
    assert all(part.type != "group" for one in groups(lists, (), ()) for part in one.plan.parts), "a list of a text"


def test_links_of_a_text_and_sections_in_sections_are_no_group() -> None:
    def page(n: int) -> str:
        links = "".join(f"<li><a class=ref href=#s{k}>Chapter {n} {k}</a></li>" for k in range(4))
        text = "".join(
            f"<div class=section><h3>Part {n} {k}</h3><p>Words of part {k} in {n}, with <a class=ref href=/x{k}>one way"
            f"</a>, <a class=ref href=/y{k}>another {n}</a> and <a class=ref href=/z{k}>a third {k}</a>.</p>"
            f"<div class=section><h4>Below {n} {k}</h4><p>More of it.</p></div></div>"
            for k in range(4)
        )
        return f"<h1>Book {n}</h1><div class=toc><ul>{links}</ul></div><div class=section>{text}</div>"

    found = groups([parse(page(n)) for n in range(5)], (), ())
    assert not {"a.ref", "div.section"} & {one.css for group in found for one in group.plan.locators}


def test_the_parts_of_a_page_are_no_group() -> None:
    def page(n: int) -> str:
        cards = "".join(f"<div class=x{n}{k}><h3>Card {n} {k}</h3><p>Words of {n} {k}.</p></div>" for k in range(5))
        menu = "<div><h3>Ways</h3><p>Home</p></div>"
        foot = f"<div><h3>The foot</h3><p>Page {n}</p></div><div><h3>Asked</h3><p>{n} times</p></div>"
        return f"<body>{menu}<div><h1>Deck {n}</h1><div>{cards}</div></div>{foot}</body>"

    found = groups([parse(page(n)) for n in range(5)], (), ())
    assert [one.css for group in found for one in group.plan.locators] == ["body > div:nth-of-type(2) > div > div"]
