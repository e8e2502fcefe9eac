"""The make of pages, grouping without rules, the rules that separate groups, and their drawings."""

from __future__ import annotations

import random
from collections.abc import Callable

import numpy as np
import pytest

from grandferry.core.page import open_page, parse
from grandferry.core.sort import grouping
from grandferry.core.sort.grouping import CUTS, MIDDLE, group
from grandferry.core.sort.make import make_of, named_traits, selectors
from grandferry.core.sort.miniature import Drawn, Stroke, draw
from grandferry.core.sort.proposal import propose
from grandferry.core.sort.rules import Seen, holds
from grandferry.core.sort.sample import sample

WORDS = "weir lantern ferry tide harbour rope mast gull slip deck".split()


def text(number: int, words: int = 12) -> str:
    chance = random.Random(number)
    return " ".join(chance.choice(WORDS) for _ in range(words))


def written(number: int) -> str:
    """A text as people write it: paragraphs, and now and then something between them."""
    chance = random.Random(number)
    some = [
        f"<h2>{text(number, 3)}</h2>",
        f"<ul><li>{text(number, 4)}</li><li>{text(number, 2)}</li></ul>",
        f"<blockquote><p>{text(number)}</p></blockquote>",
        f"<table><tr><th>{text(number, 1)}</th><td>{number}</td></tr></table>",
        f"<figure><img src=/{number}.png><figcaption>{text(number, 4)}</figcaption></figure>",
    ]
    return "".join(
        f"<p>{text(number + n)}</p>{chance.choice(some) if chance.random() < 0.5 else ''}" for n in range(1, 4)
    )


def around(body: str, name: str = "") -> str:
    return f"<body{name}><header><a href=/><img src=/l.png></a><nav><ul><li>a<li>b</ul></nav></header>{body}<footer><p>x</footer>"


def report(n: int) -> str:
    said = f"<ol class=said>{''.join('<li><b>a</b> b' for _ in range(n % 4))}</ol>" if n % 3 == 0 else ""
    return around(f"<main><h1>{text(n, 3)}</h1><p class=day>{n}</p><div class=text>{written(n)}</div>{said}</main>")


def boat(n: int) -> str:
    rows = "".join(f"<dt>{text(k, 1)}<dd>{k}" for k in range(2 + n % 4))
    return around(
        f"<main><h1>{text(n, 2)}</h1><img class=lead src=/b{n}.png><dl>{rows}</dl><div class=text>{written(n)}</div></main>"
    )


def cards(n: int) -> str:
    inner = "".join(f"<div class=card><h3>{text(k, 2)}</h3><a href=/b/{k}>more</a></div>" for k in range(3 + n % 9))
    return around(f"<main><h1>{text(n, 2)}</h1><div class=cards>{inner}</div></main>")


def ticket(n: int) -> str:
    return around(
        f"<main><h1>{text(n, 2)}</h1><div class=text>{written(n)}</div><form><select><option>1</select></form></main>"
    )


TEMPLATES: list[Callable[[int], str]] = [report, boat, cards, ticket]


def site(sizes: tuple[int, ...] = (60, 25, 12, 18)) -> tuple[list[str], list[str], list[int]]:
    """Pages, their keys (which say nothing), their templates."""
    pages, keys, truth = [], [], []
    for template, size in enumerate(sizes):
        for n in range(size):
            pages.append(TEMPLATES[template](1000 * template + n))
            keys.append(f"/show.php?id={1000 * template + n}")
            truth.append(template)
    return pages, keys, truth


def made(html: str) -> np.ndarray:  # type: ignore[type-arg]
    return make_of(open_page(html).body)  # type: ignore[arg-type]


def same(one: list[int], other: list[int]) -> bool:
    """Whether two ways of grouping put the same pages together."""
    return len({*zip(one, other, strict=True)}) == len(set(one)) == len(set(other))


def test_words_make_no_difference_and_structure_does() -> None:
    assert np.array_equal(
        made("<body><h1>a</h1><div class=x>b</div>"), made("<body><h1>c d</h1><div class=x>e f g</div>")
    )
    assert np.array_equal(made("<body><ul><li>1<li>2</ul>"), made("<body><ul><li>1<li>2<li>3<li>4</ul>"))
    assert np.array_equal(made("<body><p class=post-12>a"), made("<body><p class=post-7>a"))
    assert not np.array_equal(made("<body class=event>a"), made("<body class=event-list>a"))
    assert not np.array_equal(made("<body><h1>a</h1><dl><dt>a</dl>"), made("<body><h1>a</h1><ul><li>a</ul>"))


def test_pages_of_four_templates_come_apart_whatever_stands_in_them() -> None:
    pages, keys, truth = site()
    found = group([made(page) for page in pages], keys)
    assert same(list(found.labels[MIDDLE]), truth)
    assert [int(n) for n in np.bincount(found.labels[MIDDLE])] == [60, 25, 18, 12], "numbered by size"
    many = [int(label.max()) + 1 for label in found.labels]
    assert many == sorted(many, reverse=True) and len(many) == len(CUTS)
    for fine, coarse in zip(found.labels, found.labels[1:], strict=False):
        assert len({*zip(fine, coarse, strict=True)}) == fine.max() + 1, "a group lies within one of the next cut"


def test_without_any_class_too() -> None:
    pages, keys, truth = site()
    bare = [page.replace(" class=", " data-x=") for page in pages]
    assert same(list(group([made(page) for page in bare], keys).labels[MIDDLE]), truth)


def test_names_made_for_each_page_do_no_harm() -> None:
    pages, keys, truth = site()
    chance = random.Random(3)
    noisy = [page.replace("<main>", f"<main class='k{chance.random()}' id=p{chance.random()}>") for page in pages]
    assert same(list(group([made(page) for page in noisy], keys).labels[MIDDLE]), truth)


def test_the_order_of_pages_makes_no_difference() -> None:
    pages, keys, _ = site()
    makes = [made(page) for page in pages]
    first = group(makes, keys).labels
    order = random.Random(9).sample(range(len(pages)), len(pages))
    other = group([makes[n] for n in order], [keys[n] for n in order]).labels
    for one, two in zip(first, other, strict=True):
        assert same([int(one[n]) for n in order], [int(n) for n in two])


def test_more_pages_than_are_grouped_go_to_the_nearest_group(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(grouping, "SAMPLE", 60)
    monkeypatch.setattr(grouping, "BLOCK", 7)
    pages, keys, truth = site((200, 90, 40, 70))
    assert same(list(group([made(page) for page in pages], keys).labels[MIDDLE]), truth)


def test_one_page_none_and_pages_all_alike() -> None:
    assert [len(label) for label in group([], []).labels] == [0] * len(CUTS)
    assert [list(label) for label in group([made("<p>a")], ["/"]).labels] == [[0]] * len(CUTS)
    alike = group([made("<main><h1>a</h1><p>b</main>")] * 1000, [f"/{n}" for n in range(1000)])
    assert set(alike.labels[MIDDLE]) == {0}


def _named(pages: list[str]) -> dict[int, str]:
    names: dict[int, str] = {}
    for page in pages:
        names |= selectors(open_page(page).body)  # type: ignore[arg-type]
    return names


def test_selectors_find_what_traits_say() -> None:
    page = "<html class=js><body id=top class='event wide'><div class='a b2'><h1 id=t>x</h1></div>"
    parsed = parse(page)
    traits = {int(n) for n in made(page)}
    found = {s for t, s in selectors(open_page(page).body).items() if t in traits}  # type: ignore[arg-type]
    assert {"html.js", "body.event", "body.wide", "body#top", "div.a", "h1#t"} <= found
    assert all(parsed.select(selector) for selector in found), "each finds something on its page"
    assert not any("b2" in selector for selector in found), "it stands for b1 as well"


def test_a_rule_for_each_group_with_what_it_catches() -> None:
    pages, keys, truth = site()
    keys = [f"/boats/{key[13:]}.htm" if n == 1 else key for key, n in zip(keys, truth, strict=True)]
    found = group([made(page) for page in pages], keys)
    proposals = propose(found, found.labels[MIDDLE], keys, _named(pages))
    assert [(p.right, p.missed, p.wrong) for p in proposals] == [(60, 0, 0), (25, 0, 0), (18, 0, 0), (12, 0, 0)]
    assert proposals[1].rule.below == "/boats/" and proposals[1].name == "boats"
    for number, proposal in enumerate(proposals):
        caught = [holds(proposal.rule, Seen(key, parse(page))) for key, page in zip(keys, pages, strict=True)]
        assert caught == [label == number for label in found.labels[MIDDLE]], proposal.rule


def test_what_no_rule_separates_says_what_it_takes() -> None:
    pages = ["<main><h1>a</h1><p>b</main>"] * 20
    keys = [f"/a{n}" for n in range(20)]
    found = group([made(page) for page in pages], keys)
    label = np.array([0] * 15 + [1] * 5)
    one, two = propose(found, label, keys, _named(pages[:1]))
    assert (one.right + one.missed, two.right + two.missed) == (15, 5) and one.wrong == 5 and two.wrong == 15


def test_a_drawing_shows_what_pages_share_in_order() -> None:
    pages = [boat(n) for n in range(30)] + [report(n) for n in range(200)]
    found = group([made(page) for page in pages], ["/"] * len(pages))
    uses = np.asarray(found.rows[:30].mean(axis=0)).ravel()
    everywhere = np.asarray(found.rows.mean(axis=0)).ravel()
    shared = {int(t) for t in found.traits[uses >= 0.5]}
    drawn = draw(open_page(pages[0]).body, shared, {int(t) for t in found.traits[everywhere > 0.75]})  # type: ignore[arg-type]

    def strokes(one: Drawn) -> list[tuple[str, bool]]:
        return [(one.what, one.own)] if not one.parts else [s for part in one.parts for s in strokes(part)]

    found_ = strokes(drawn)
    assert found_[0] == (Stroke.PICTURE, False) and found_[-1] == (Stroke.TEXT, False), "head and foot are everybody's"
    assert (Stroke.LIST, True) in found_ and (Stroke.PICTURE, True) in found_
    assert (
        found_.index((Stroke.HEADING, False)) < found_.index((Stroke.PICTURE, True)) < found_.index((Stroke.LIST, True))
    )


def test_pages_unlike_the_others_are_among_those_that_are_looked_at() -> None:
    makes = [make_of(open_page(report(n)).body) for n in range(60)]  # type: ignore[arg-type]
    makes[41] = make_of(open_page(around("<center><h4>x</h4><p class=odd>y</center>")).body)  # type: ignore[arg-type]
    assert 41 in sample(makes, 12) and sample(makes, 12) == sample(makes, 12)
    assert len(sample(makes, 12)) <= 12 and {0, 59} <= set(sample(makes, 12))
    assert sample(makes[:5], 12) == [0, 1, 2, 3, 4] and sample([], 12) == []


def test_a_make_tells_whether_a_plain_selector_finds_anything() -> None:
    made = set(make_of(open_page("<div class='text a7'><p>a</div><main id=all><p>b</main>").body).tolist())  # type: ignore[arg-type]
    found = {
        css: bool(named_traits(css) & made) for css in ("div.text", "div.a9", "#all", "div.more", "p.text", "#text")
    }
    assert found == {"div.text": True, "div.a9": True, "#all": True, "div.more": False, "p.text": False, "#text": False}
    assert not named_traits("body > div") and not named_traits("main"), "of a place it says nothing"
