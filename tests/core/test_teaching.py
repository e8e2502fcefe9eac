"""Teaching by example: what is read from places that somebody pointed at."""

from __future__ import annotations

import pytest

from grandferry.core.kinds import FieldPlan, Locator
from grandferry.core.lift.locators import locate
from grandferry.core.lift.teaching import Example, Offer, teach
from grandferry.core.page import Page, parse, text_of

NAMES = ["Ada Quill", "Tom Osmer", "Petra Vane", "Owen Strake", "Hetty Lorimer", "Jonas Birdsall"]


def element(page: Page, text: str) -> int:
    """The innermost element that says a text."""
    return max(node.n for node in page.nodes if node.tag and text_of(page, node) == text)


def taught(pages: list[Page], texts: dict[int, str], type_: str = "line") -> list[Offer]:
    examples = [Example(place, element(pages[place], text)) for place, text in texts.items()]
    return teach(pages, [f"/p{n}" for n in range(len(pages))], examples, type_)


def read(page: Page, offer: Offer) -> list[str]:
    return next((found for one in offer.locators if (found := [p.text for p in locate(page, one, "/")])), [])


def test_a_name_that_says_what_a_thing_is_wins_over_its_place() -> None:
    pages = [
        parse(f"<h1>On rails {n}</h1><p><span class='x{n}7a91'>{name}</span> <i itemprop='place'>Yard {n}</i></p>")
        for n, name in enumerate(NAMES)
    ]
    best = taught(pages, {0: "Yard 0"})[0]
    assert best.locators == [Locator(css='i[itemprop="place"]')] and len(best.one) == len(NAMES)
    # a class that is another on each page reads one page alone: its place is better
    best, *others = taught(pages, {1: "Tom Osmer"})
    assert [read(page, best) for page in pages] == [[name] for name in NAMES] and "7a91" not in str(best.locators)
    assert others, "there is a runner-up"


def test_a_label_is_held_to_where_the_rows_are_not_the_same_ones() -> None:
    pages = []
    for n, name in enumerate(NAMES):
        rows = [f"<tr><th>Keeper</th><td>{name}</td></tr>", f"<tr><th>Tracks</th><td>{n + 2}</td></tr>"]
        extra = "<tr><th>Opened</th><td>1874</td></tr>" if n % 2 else ""
        pages.append(parse(f"<table>{extra}{''.join(rows if n % 3 else reversed(rows))}</table>"))
    for example in range(len(pages)):
        best = taught(pages, {example: NAMES[example]})[0]
        assert [read(page, best) for page in pages] == [[name] for name in NAMES]
        assert best.locators[0].label == "Keeper"


def test_a_second_example_refines_what_the_first_left_open() -> None:
    pages = [
        parse(f"<div><h1>Halt {n}</h1>{'<p>by nobody</p>' if n % 2 else ''}<p class='who lead'>{name}</p></div>")
        if n < 4
        else parse(f"<div><h1>Halt {n}</h1><em>{name}</em></div>")
        for n, name in enumerate(NAMES)
    ]
    one = taught(pages, {0: NAMES[0]})[0]
    assert one.none == [4, 5] and not read(pages[4], one), "the pages on which it fails are told"
    both = taught(pages, {0: NAMES[0], 4: NAMES[4]})[0]
    assert both.agreed == 2 and len(both.locators) == 2
    assert [read(page, both) for page in pages] == [[name] for name in NAMES]


def test_the_head_is_offered_after_what_a_reader_sees() -> None:
    pages = [
        parse(
            f"<head><meta name=author content='{name}'><script type='application/ld+json'>"
            f'{{"@type": "Article", "author": {{"name": "{name}"}}}}</script></head><b class=by>{name}</b>'
        )
        for name in NAMES
    ]
    offers = taught(pages, {0: NAMES[0], 3: NAMES[3]})
    assert [offer.locators[0].model_dump(exclude_none=True) for offer in offers] == [
        {"css": "b.by"},
        {"meta": "author"},
        {"json_ld": "Article.author.name"},
    ]


def test_a_date_is_offered_with_its_type_and_treatments() -> None:
    pages = [parse(f"<h1>t{n}</h1><p class=on>Posted on {n + 3} May 2021</p>") for n in range(5)]
    best = taught(pages, {0: "Posted on 3 May 2021"})[0]
    assert best.type == "date" and best.treat
    FieldPlan.model_validate({"name": "d", "type": best.type, "locators": best.locators, "treat": best.treat})


def test_one_member_teaches_a_list() -> None:
    pages = [
        parse(f"<p><a href=/>home</a></p><h1>t{n}</h1><p>Filed under <a>rail{n}</a>, <a>steam{n}</a></p>")
        for n in range(4)
    ]
    best = taught(pages, {0: "rail0"}, "list")[0]
    assert [read(page, best) for page in pages] == [[f"rail{n}", f"steam{n}"] for n in range(4)]


def test_one_member_teaches_a_group_with_its_parts() -> None:
    card = "<div class=card><h3>{0}</h3><p>from {0}</p><a href='/{1}'>more</a></div>"
    pages = [
        parse("<main>" + "".join(card.format(name, k + 10 * n) for k, name in enumerate(NAMES[: 2 + n])) + "</main>")
        for n in range(4)
    ]
    best = taught(pages, {1: NAMES[2]}, "group")[0]
    assert best.locators == [Locator(css="div.card")] and best.agreed == 1 and best.one == [0, 1, 2, 3]
    assert {part["type"] for part in best.parts} == {"line", "link"}
    FieldPlan.model_validate({"name": "cards", "type": "group", "locators": best.locators, "parts": best.parts})


def test_nothing_is_offered_for_what_cannot_be_told_apart() -> None:
    with pytest.raises(IndexError):
        teach([parse("<p>x</p>")], ["/"], [Example(0, 99)], "line")
    page = parse("<p>same</p>" * 3)
    offers = teach([page], ["/"], [Example(0, page.body.children[1].n)], "line")
    assert offers[0].locators[0].css is not None and ":nth-of-type(2)" in offers[0].locators[0].css


def test_what_a_selector_cannot_name_is_taught_by_another_way() -> None:
    deep = "<div class='a b c d'>" * 6
    pages = [parse(f"<body>{deep}<p>Keeper: <o:p class='1x'>{name}</o:p></p>{'</div>' * 6}</body>") for name in NAMES]
    best = taught(pages, {0: "Ada Quill"})[0]
    assert [read(page, best) for page in pages] == [[name] for name in NAMES]


def test_a_number_among_words_is_taught_as_one() -> None:
    pages = [parse(f"<p class=when>Opened in {1860 + n} by {n + 2} people</p><p>Text {n}.</p>") for n in range(5)]
    examples = [Example(n, pages[n].select("p.when")[0].n) for n in (0, 3)]
    offer = teach(pages, [f"/{n}" for n in range(5)], examples, "number")[0]
    assert (offer.type, offer.treat[0]) == ("number", {"first_number": True})
    assert teach(pages, [f"/{n}" for n in range(5)], examples, "line")[0].type == "line"
