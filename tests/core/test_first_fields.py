"""Fields proposed for a kind from a few of its pages."""

from __future__ import annotations

from typing import Any

import pytest

from grandferry.core.address import Scope
from grandferry.core.kinds import KindPlan, Locator, SortRule
from grandferry.core.lift.fields import lift_page
from grandferry.core.lift.first import first_fields, look
from grandferry.core.lift.locators import locate
from grandferry.core.made import made_from
from grandferry.core.page import Page, parse
from tests.core.test_grouping import WORDS, around, boat, report, text, written


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
    assert found["title"] == ([{"css": "h1"}], 9, 9) and found["body"] == ([{"css": "div.text"}], 9, 9)
    assert found["day"] == ([{"css": "p.day"}], 9, 9), "what stands once on each page, and differs"
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
    assert set(proposed([boat(1)])) == {"title", "body", "mast", "weir"}, "labels are told on one page as well"


def lifted(pages: list[str]) -> list[dict[str, Any]]:
    """The values of all proposed fields but the body, page by page."""
    parsed = [parse(page) for page in pages]
    kind = KindPlan(name="k", rules=[SortRule(below="/")], fields=[one.field for one in first_fields(parsed)])
    scope = Scope(hosts=frozenset(["a.test"]))
    return [
        {v.field: v.value for v in lift_page(page, kind, "/x", "http://a.test/x", scope) if v.type != "blocks"}
        for page in parsed
    ]


def test_values_of_a_head_are_read_as_what_they_are() -> None:
    def page(n: int) -> str:
        date = f"<meta property=article:published_time content='2021-05-0{n + 1}T09:00:00+02:00'>"
        return (
            f"<html><head><title>Report {n} | Fleet</title>{date}</head>{around(f'<main>{written(n)}</main>')}</html>"
        )

    assert lifted([page(n) for n in range(5)])[1] == {"title": "Report 1", "published": "2021-05-02"}


def engine(n: int, named: bool = True) -> str:
    """A page with a line of who and when, a table of labels, a price and terms; without names its places say it."""

    def of(word: str) -> str:
        return f" class={word}" if named else ""

    line = f"<p{of('posted')}>Posted on {n + 1} May 2021 by <span{of('by')}>{['Ann', 'Ben', 'Cy'][n % 3]}</span></p>"
    rows = f"<tr><td><b>Built:</b></td><td>{1900 + n}</td></tr><tr><td><b>Weight:</b></td><td>{30 + n} tonnes</td></tr>"
    terms = ", ".join(f"<a href=/t/{t}>{t}</a>" for t in ["Steam", "Works", "Shed"][: n % 3 + 1])
    return around(
        f"<div id=content><h1>Engine {n}</h1>{line}<div{of('price')}>£{n}.50</div><table>{rows}</table>"
        f"<blockquote{of('story')}>{written(n)}</blockquote><p{of('tags')}>Filed under: {terms}</p></div>"
    )


@pytest.mark.parametrize("named", [True, False])
def test_fields_are_what_differs_at_the_same_place(named: bool) -> None:
    found = lifted([engine(n, named) for n in range(9)])[2]
    assert found["title"] == "Engine 2" and found["published"] == "2021-05-03"
    assert (found["built"], found["weight"]) == (1902, 32)
    assert found["tags"] == ["Steam", "Works", "Shed"]
    assert found["author" if named else "line"] == "Cy" and found["price" if named else "number"] == 2.5


def test_what_is_no_field() -> None:
    def page(n: int) -> str:
        langs = f"<p class=langs>Languages: <a href=/a>en</a> | <a href=/b{n}>l{n}</a></p>"
        return around(
            f"<h1>T {n}</h1>{langs}<div class=navheader><p>Chapter {n} <a href=/>Next</a></p></div><p class=lead-in>Number {n}:</p><p class=path>Home / {n}</p><p class=same>Same</p>"
            f"<main>{written(n)}<p>Short {n}.</p><p>One more {n}.</p><p>And {n}.</p></main>"
        )

    assert set(lifted([page(n) for n in range(9)])[0]) == {"title"}, "menus, labels, names that are taken, text"


def test_what_visitors_say_is_not_of_the_body() -> None:
    def page(n: int) -> str:
        said = "".join(f"<li><b>Reader {k}</b>: {written(k)}</li>" for k in range(6)) if n % 2 else ""
        comments = f"<blockquote><h3>What readers say</h3><ol>{said}</ol></blockquote>" if said else ""
        return around(f"<div id=page><h1>T {n}</h1><div id=story>{written(n)}</div>{comments}</div>")

    assert proposed([page(n) for n in range(8)])["body"][0] == [{"css": "#story"}]


def test_a_title_without_the_sign_of_its_link_and_without_the_name_of_the_site() -> None:
    found = lifted([f"<title>No {n} – The fleet</title><h1>No {n}<a href=#x>¶</a></h1>{written(n)}" for n in range(5)])
    assert found[3]["title"] == "No 3"
    found = lifted([f"<title>No {n} – The fleet</title><h1>The fleet</h1>{written(n)}" for n in range(5)])
    assert found[3]["title"] == "No 3", "a first heading that is the same everywhere is the site's"


def test_what_a_page_declares_is_read_by_a_path_of_names() -> None:
    said = (
        '{"@context": "https://schema.org", "@graph": [{"@type": "WebSite", "name": "Fleet", "author": {"name": "Us"}}, '
        '{"@type": ["Article"], "name": "Report", "author": [{"name": "Ann"}, {"name": "Ben"}], "pages": 12, "no": null}]}'
    )
    page = parse(f"<script type='application/ld+json'>{said}</script><script type=application/ld+json>{{bad</script>")

    def read(path: str) -> list[str]:
        return [place.text for place in locate(page, Locator(json_ld=path), "")]

    assert read("name") == ["Fleet", "Report"] and read("Article.name") == ["Report"]
    assert read("Article.author.name") == ["Ann", "Ben"] and read("pages") == ["12"]
    assert read("no") == read("nothing.here") == read("author") == []
    assert [place.text for place in locate(page, Locator(fixed="always"), "")] == ["always"]
    deep = parse(f"<script type=application/ld+json>{'[' * 5000}</script>")
    assert locate(deep, Locator(json_ld="a"), "") == []
    with pytest.raises(ValueError, match="exactly one of"):
        Locator(json_ld="a", fixed="b")


def test_fields_that_every_system_wants_are_taken_from_the_head() -> None:
    def page(n: int) -> str:
        said = f'{{"@type": "Article", "datePublished": "2021-05-0{n + 1}", "author": {{"name": "Ann {n}"}}}}'
        return (
            f"<html lang=en><head><title>No {n}</title><link rel=canonical href=/c{n}>"
            f"<meta property=og:image content=/p{n}.png><meta property=article:modified_time content=2022-01-0{n + 1}>"
            f"<script type=application/ld+json>{said}</script></head>{around(f'<main>{written(n)}</main>')}</html>"
        )

    assert lifted([page(n) for n in range(5)])[1] == {
        "title": "No 1",
        "published": "2021-05-02",
        "modified": "2022-01-02",
        "author": "Ann 1",
        "language": "en",
        "canonical": "/c1",
        "picture": {"src": "http://a.test/p1.png", "alt": "", "caption": ""},
    }


def test_what_came_later_makes_nothing_behind() -> None:
    had = {"css": "h1", "attribute": None, "meta": None, "label": None, "address": None}
    assert made_from(1, [Locator(css="h1")]) == made_from(1, [had])
    assert made_from(1, [Locator(fixed="a")]) != made_from(1, [Locator(fixed="b")])


def test_short_pages_whose_way_on_is_longer_than_they_are() -> None:
    """What leads on names the pages before and after, so that it is another on every page."""
    pages = [
        f"<body><div class=navheader><table><tr><th>Part {n} of the works manual of boats</th></tr><tr><td><a href=/{n - 1}>"
        f"Back to part {n - 1}, on keels</a></td></tr></table></div><div class=part><h2>Part {n}</h2><p>Tar, {n} times.</p>"
        f"</div><div class=navfooter><a href=/{n + 1}>On to part {n + 1}, on masts</a></div></body>"
        for n in range(9)
    ]
    assert proposed(pages)["body"][0] == [{"css": "div.part"}]
    alone = [
        f"<body><div class=menu><h1>Menu {n}</h1><p>Soup of the day {n}, and a roll.</p></div></body>" for n in range(9)
    ]
    assert proposed(alone)["body"][0] == [{"css": "div.menu"}], "what is nearly all of a page is its content"


def test_words_of_somebodys_sentences_are_no_fields() -> None:
    def page(n: int) -> str:
        more = (
            "and so the story of the boat goes on for a while, as such stories do, until the tide turns and all go home"
        )
        return (
            f"<body><div class=text><h1>Boat {n}</h1><p>She is called <em class=name>Wren {n}</em>, {more} by {n}.</p>"
            f"<p class=by>Written by <span class=author>Ada {n}</span></p></div></body>"
        )

    found = proposed([page(n) for n in range(9)])
    assert "author" in found and "name" not in found


def test_of_translations_not_every_paragraph_is_a_field() -> None:
    pages = [
        "<body><div class=text><h1>" + f"T{n}</h1>" + "".join(f"<p>w{n}{k} v{n}{k}</p>" for k in range(1)) + "<h2>a</h2>"
        + f"<div><b>x{n}</b></div><center>y{n}</center><address>z{n}</address><p>{'word ' * 40}{n}</p></div></body>"
        for n in range(9)
    ]  # fmt: skip
    assert [name for name in proposed(pages) if name.startswith("line")] == []


def test_a_body_read_by_the_locator_of_other_kinds_where_that_is_nearly_as_good() -> None:
    def page(n: int, box: str = "id=text") -> Page:
        foot = f"<div id=foot>Read from page {n}</div>"
        return parse(f"<div id=all><div {box}><h1>T {n}</h1><p>{text(n, 60)}</p></div>{foot}</div>")

    pages = [page(n) for n in range(6)]
    seen = look(pages)
    usual = seen.read_by("#all")
    assert [one.css for one in seen.fields[1].field.locators] == ["#text"]
    assert [one.css for one in usual[1].field.locators] == ["#all"] and usual[1].filled == 6
    assert [one.css for one in seen.read_by("#foot")[1].field.locators] == ["#text"]
    assert [one.css for one in seen.read_by("#gone")[1].field.locators] == ["#text"]


def test_of_pages_with_hardly_a_word_the_body_is_where_it_is_on_others() -> None:
    pages = [parse(f"<p class=when>May {n}</p><div id=text><h1>Title {n}</h1><p>The same.</p></div>") for n in range(5)]
    assert [one.css for one in look(pages).read_by("#text")[1].field.locators] == ["#text"]


def test_a_part_that_fits_some_pages_closer_is_no_body() -> None:
    """On a few pages nearly all of the own words stand in an example; that is no place to read bodies from."""

    def page(n: int) -> Page:
        own = f"<div class=example><p>{text(n, 50)}</p></div>" if n % 4 == 0 else f"<p>{text(n, 50)}</p>"
        return parse(f"<div id=content><p>{text(1, 30)}</p>{own}</div>")

    assert [one.css for one in first_fields([page(n) for n in range(12)])[1].field.locators] == ["#content"]


def test_what_has_no_name_is_no_field_where_the_template_gives_names() -> None:
    def pages(name: str) -> list[Page]:
        return [
            parse(
                f"<div {name}><h1>T {n}</h1></div><div {name}><b>Word {n}</b></div><div {name}><p>{text(n, 40)}</div>"
            )
            for n in range(6)
        ]

    assert "line" in {one.field.name for one in first_fields(pages(""))}
    assert "line" not in {one.field.name for one in first_fields(pages("class=box"))}


def test_labels_in_plain_cells_and_boxes_and_numbers_among_words() -> None:
    def page(n: int) -> str:
        cells = f"<table><tr><td>Size<td>{n} by {n + 3} cm<tr><td>Paper<td>sort {chr(97 + n)}</table>"
        boxes = f"<div class=facts><div>Owner</div><div>Ada {n}</div><div>Built</div><div>19{n}1</div></div>"
        return f"<h1>T {n}</h1>{cells}{boxes}<p class=since>Open since 18{n}5</p><div class=text>{written(n)}</div>"

    fields = {one.field.name: one.field for one in first_fields([parse(page(n)) for n in range(9)])}
    labels = {name: one.locators[0].label for name, one in fields.items() if one.locators[0].label}
    assert labels == {"size": "Size", "paper": "Paper", "owner": "Owner", "built": "Built"}
    assert (fields["built"].type, fields["since"].type, fields["size"].type) == ("number", "number", "line")


def test_a_body_beside_groups_holds_none_of_them_where_nothing_is_left_out() -> None:
    def page(n: int, more: str = "") -> str:
        cards = "".join(
            f"<div class=dish><h4>Dish {n} {k}</h4><p class=says>It is {text(n * 5 + k, 12)}</p></div>"
            for k in range(4)
        )
        return f"<div id=all><h1>T {n}</h1><div class=about>{written(n)}</div><div class=menu>{cards}{more}</div></div>"

    found = proposed([page(n) for n in range(6)])
    assert found["dishes"][1:] == (6, 6) and found["body"][0] == [{"css": "div.about"}]
    left = [page(n, f"<p>{text(90 + n, 40)}</p>") for n in range(6)]
    assert proposed(left)["body"][0] != [{"css": "div.about"}], "a paragraph would be in no field"


def test_groups_are_called_by_words() -> None:
    def page(n: int) -> str:
        rows = "".join(f"<div class=q8f3><b>Name {n} {k}</b> <i>{k} of {n}</i></div>" for k in range(4))
        return f"<h1>T {n}</h1><div class=text>{written(n)}</div><h2>Our crew</h2><div>{rows}</div>"

    assert "our_crew" in proposed([page(n) for n in range(6)])


def test_a_page_that_has_nothing_of_what_others_have_is_read_as_a_whole() -> None:
    tables = [f"<p><a href=/>x</a></p><h1>T {n}</h1><table class=all><tr><td>{written(n)}</table>" for n in range(8)]
    loose = [f"<p><a href=/>x</a></p><h1>T {n}</h1><p>{text(50 + n, 40)}</p>" for n in range(2)]
    assert proposed(tables + loose)["body"] == ([{"css": "table.all"}, {"css": "body"}], 8, 10)
    bare = [f"<p><a href=/>x</a></p><h1>T {n}</h1>" for n in range(2)]
    assert proposed(tables + bare)["body"] == ([{"css": "table.all"}], 8, 10)


def test_a_title_ends_before_the_sites_name_in_brackets() -> None:
    pages = [f"<title>Part {chr(65 + n)} (The manual)</title><h2>a</h2>{written(n)}" for n in range(5)]
    title = first_fields([parse(page) for page in pages])[0].field
    page = parse(pages[2])
    kind = KindPlan(name="k", rules=[SortRule(below="/")], fields=[title])
    assert lift_page(page, kind, "/", "http://a.test/", Scope(frozenset(), "http"))[0].value == "Part C"


def test_the_picture_that_stands_for_a_page() -> None:
    def page(n: int, logo: str = "") -> str:
        more = f"<div class=text>{written(n)}<p><img src=/x{n}.png><img src=/y{n}.png></p></div>"
        return f"<div class=top><img class=logo src=/logo.png></div><h1>T {n}</h1><img class=lead src=/p{n}.png>{more}"

    assert proposed([page(n) for n in range(5)])["picture"] == ([{"css": "img.lead"}], 5, 5)
    boxed = [
        f"<h1>T {n}</h1><div class=face><img src=/p{n}.png></div><div class=text>{written(n)}</div>" for n in range(5)
    ]
    assert proposed(boxed)["picture"] == ([{"css": "div.face > img"}], 5, 5)
    same = [f"<h1>T {n}</h1><img class=lead src=/one.png><div class=text>{written(n)}</div>" for n in range(5)]
    assert "picture" not in proposed(same), "the same on all of them says nothing of a page"


def test_of_several_headings_the_one_of_the_content_is_the_title() -> None:
    logo = "<div id=hd><h1>The fleet</h1></div>"
    pages = [f"{logo}<div id=doc><div class=text><h1>Report {n}</h1>{written(n)}</div></div>" for n in range(5)]
    assert proposed(pages)["title"] == ([{"css": "#doc h1"}], 5, 5)
    twice = [f"<div id=top><h1>Report \n {n}</h1></div><h1>Report {n}</h1>{written(n)}" for n in range(5)]
    assert proposed(twice)["title"] == ([{"css": "#top h1"}], 5, 5)


def test_places_that_say_the_same_are_one_value() -> None:
    kind = KindPlan.model_validate(
        {
            "name": "page",
            "rules": [{"below": "/"}],
            "fields": [
                {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
                {"name": "way", "type": "link", "locators": [{"css": "a"}]},
                {"name": "shown", "type": "picture", "locators": [{"css": "img"}]},
            ],
        }
    )
    scope = Scope(hosts=frozenset(["a.test"]), scheme="http")

    def states(body: str) -> list[str]:
        return [one.state for one in lift_page(parse(body), kind, "/", "http://a.test/", scope)]

    same = "<h1>A  boat</h1><h1>A boat</h1><a href=/x>x</a><a href=x>y</a><img src=/p.png><img src=p.png>"
    assert states(same) == ["filled"] * 3
    other = "<h1>A boat</h1><h1>A ship</h1><a href=/x>x</a><a href=/y>y</a><img src=/p.png><img src=/q.png>"
    assert states(other) == ["many"] * 3


def test_a_foot_without_links_is_no_body() -> None:
    menu = "".join(f"<li><a href=/{n}>Way number {n} of many</a></li>" for n in range(12))
    pages = [
        f"<ul id=nav>{menu}</ul><div id=content><h1>Book {n}</h1><p>Version 3</p></div>"
        f"<div class=footer><p>Copyright {1990 + n} of all that is in here, by its authors.</p></div>"
        for n in range(5)
    ]
    assert {"css": "div.footer"} not in proposed(pages)["body"][0]


def post(n: int) -> str:
    tags = ", ".join(f"<a rel=tag href=/tag/{word}>{word}</a>" for word in WORDS[n % 5 : n % 5 + 1 + n % 2])
    figure = f"<figure class=right><img src=/{n}.png><figcaption>View {n}</figcaption></figure>"
    return (
        f"<header><p>The shore</p></header><main><article class=post><header class=head><h1>Post {n}</h1><div class=meta>On"
        f" <time class=day datetime='2021-05-0{n + 1}T09:00:00+00:00'>May {n + 1}</time> by <a class=author href=/by/{n}>"
        f"Ada {WORDS[n]}</a></div></header><div class=content>{written(n)}{figure}</div><footer class=foot>Filed under {tags}"
        "</footer></article></main><footer>The shore</footer>"
    )


def test_the_head_and_foot_of_an_article_are_its_own_and_nothing_is_proposed_twice() -> None:
    found = proposed([post(n) for n in range(8)])
    assert found["author"] == ([{"css": ".author"}], 8, 8) and found["tags"] == ([{"css": '[rel~="tag"]'}], 8, 8)
    assert found["published"][0] == [{"css": "time", "attribute": "datetime"}]
    assert found["body"][0] == [{"css": "div.content"}] and found["picture"][0] == [{"css": "figure.right > img"}]
    assert set(found) == {"title", "body", "author", "tags", "published", "picture"}, "neither the box around them"
    around_all = [post(n).replace("<article class=post>", "").replace("</article>", "") for n in range(8)]
    outside = [page.replace("<main>", "").replace("</main>", "") for page in around_all]
    assert "tags" not in proposed(outside), "what stands at the foot of the page is of the site"


def test_labels_and_values_in_one_cell_are_fields_and_leave_the_text_around_them_to_the_body() -> None:
    def page(n: int) -> str:
        menu = "<td><a href=/>Home</a><br><a href=/w>Walks</a><br><a href=/b>Birds</a><br>visitors</td>"
        said = f"<b>Leader:</b> {WORDS[n].title()} Moss<br><b>Length:</b> {n + 2} miles<br>"
        foot = f"<center>Last updated {n + 1} June 1999.</center>"
        cell = f"<td><h2>Walk {n}</h2>{said}{written(n)}</td>"
        return f"<title>The club: Walk {n}</title><table><tr>{menu}{cell}</tr></table>{foot}"

    found = first_fields([parse(page(n)) for n in range(9)])
    fields = {one.field.name: one.field for one in found}
    assert list(fields)[2:] == ["leader", "length", "modified"] and fields["modified"].type == "date"
    assert fields["body"].locators == [Locator(css="body > table > tbody > tr > td:nth-of-type(2)")], "without the menu"
    value = lift_page(
        parse(page(3)),
        KindPlan.model_validate({"name": "walk", "rules": [{"below": "/"}], "fields": [fields["title"].model_dump()]}),
        "/",
        "",
        Scope(hosts=frozenset(["a.test"]), scheme="http"),
    )[0]
    assert value.value == "Walk 3"


def test_of_a_class_with_a_hash_the_element_is_the_name() -> None:
    def page(n: int) -> str:
        rows = "".join(
            f"<div class=List_row__x1><b class=List_who__k9>{WORDS[k]} {n}</b> <i>on {k}</i></div>" for k in range(4)
        )
        where = f"<p class=Event_where__7ab>{WORDS[n].title()} Hall</p>"
        return f"<h1>T {n}</h1>{where}<div class=text>{written(n)}</div><h2>Our crew</h2><div>{rows}</div>"

    fields = {one.field.name: one.field for one in first_fields([parse(page(n)) for n in range(6)])}
    assert fields["where"].locators == [Locator(css="p.Event_where__7ab")]
    assert [part.name for part in fields["our_crew"].parts][:1] == ["who"], "rows say less than their heading"
