"""Sorting by rules, locators, treatments, typed values."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from grandferry.core.address import Scope
from grandferry.core.kinds import FieldPlan, KindPlan, MadeLike, SortRule
from grandferry.core.lift.fields import lift_field, lift_page, treated
from grandferry.core.lift.treatments import TreatmentFailed, treat
from grandferry.core.lift.value import value_hash
from grandferry.core.page import parse
from grandferry.core.sort.grouping import matrix
from grandferry.core.sort.likeness import like, like_each, likeness
from grandferry.core.sort.rules import Seen, explain, may_hold, sort_page
from grandferry.core.survey.glance import glance

SCOPE = Scope(frozenset(["a.test"]))
PAGE = """<html><head><title>T | Site</title><meta name=author content="Ann"><meta property="og:title" content="OG"></head><body class=event>
<h1> The  <b>title</b> </h1><p class=date>Posted on 3rd May 2021</p><a class=t href=/t/1>One</a><a class=t href=/t/2> Two </a>
<table><tr><th>Number:</th><td>No. 1,234.5 t</td></tr><tr><td><b>Built</b></td><td> 1903 </td></tr></table>
<dl><dt>Builder</dt><dd>Brindle</dd></dl><p><strong>Colour:</strong> dark green<br><strong>Axles:</strong> 3</p><p>Owner: The society</p>
<figure><img src="pic/a.png" alt="A picture"><figcaption>Cap</figcaption></figure><div id=body><p>Body</p></div></body></html>"""


def field(**data: Any) -> FieldPlan:
    return FieldPlan.model_validate({"name": "x", "type": "line", **data})


def value(**data: Any) -> Any:
    return lift_field(parse(PAGE), field(**data), "/engines.aspx?id=7", "http://a.test/dir/", SCOPE)


@pytest.mark.parametrize(
    ("data", "expected"),
    [
        ({"locators": [{"css": "h1"}]}, "The title"),
        ({"locators": [{"css": "a.t", "attribute": "href"}]}, "/t/1"),
        ({"locators": [{"meta": "author"}]}, "Ann"),
        ({"locators": [{"meta": "og:title"}]}, "OG"),
        ({"locators": [{"meta": "title"}], "treat": [{"replace": [r" \| .*$", ""]}]}, "T"),
        ({"locators": [{"label": "builder"}]}, "Brindle"),
        ({"locators": [{"label": "Colour"}]}, "dark green"),
        ({"locators": [{"label": "Owner"}]}, "The society"),
        ({"locators": [{"address": r"id=(\d+)"}], "type": "number"}, 7),
        ({"locators": [{"label": "Number"}], "type": "number", "treat": ["first number", {"number": "."}]}, 1234.5),
        ({"locators": [{"label": "Built"}], "type": "number"}, 1903),
        (
            {
                "locators": [{"css": ".date"}],
                "type": "date",
                "treat": [{"replace": ["^Posted on ", ""]}, {"date": "%d %B %Y"}],
            },
            "2021-05-03",
        ),
        ({"locators": [{"css": "a.t"}], "type": "list"}, ["One", "Two"]),
        ({"locators": [{"label": "Colour"}], "type": "choice", "choices": ["Dark Green", "Red"]}, "Dark Green"),
        ({"locators": [{"css": ".none"}, {"css": "h1"}]}, "The title"),
        (
            {"locators": [{"css": "img"}], "type": "picture"},
            {"src": "http://a.test/dir/pic/a.png", "alt": "A picture", "caption": "Cap"},
        ),
    ],
)
def test_locators_and_types(data: dict[str, Any], expected: Any) -> None:
    assert value(**data).value == expected


def test_states_of_a_value() -> None:
    assert value(locators=[{"css": "h1"}]).state == "filled"
    empty = value(locators=[{"css": ".none"}], required=True)
    assert (empty.state, empty.value, empty.locator, empty.note) == ("empty", None, -1, "required")
    many = value(locators=[{"css": "a.t"}])
    assert (many.state, many.value, len(many.nodes)) == ("many", "One", 2)
    odd = value(locators=[{"css": "h1"}], type="date", treat=[{"date": "%Y"}])
    assert odd.state == "odd" and odd.value == "The title" and "not a date" in odd.note
    assert value(locators=[{"css": "h1"}], type="number").state == "odd"
    assert value(locators=[{"css": "h1"}], type="choice", choices=["a"]).note == "not one of a"
    second = value(locators=[{"css": ".none"}, {"css": "h1"}])
    assert second.locator == 1


def test_nine_titles_one_empty_one_many() -> None:
    """Of nine pages, one without and one with two h1."""
    pages = ["<h1>a</h1>"] * 7 + ["<p>none</p>", "<h1>a</h1><h1>b</h1>"]
    kind = KindPlan.model_validate(
        {
            "name": "k",
            "rules": [{"below": "/"}],
            "fields": [{"name": "title", "type": "line", "locators": [{"css": "h1"}]}],
        }
    )
    states = [lift_page(parse(p), kind, "/", "http://a.test/", SCOPE)[0].state for p in pages]
    assert {s: states.count(s) for s in set(states)} == {"filled": 7, "empty": 1, "many": 1}


def test_treatments_in_order() -> None:
    chain = field(locators=[{"css": "x"}], treat=["trim", "collapse", {"replace": ["(a) (b)", r"\2 \1"]}]).treat
    assert [treat("  a   b ", chain[:steps]) for steps in (1, 2, 3)] == ["a   b", "a b", "b a"]
    split = field(locators=[{"css": "x"}], treat=[{"split": ";"}, "trim"]).treat
    assert treat(" a; b ;;c", split) == ["a", "b", "c"]
    comma = field(locators=[{"css": "x"}], treat=["first number", {"number": ","}]).treat
    assert treat("about 1.234,5 km", comma) == 1234.5 and treat("−7", comma) == -7
    with pytest.raises(TreatmentFailed, match="no number"):
        treat("none", comma)
    dates = field(locators=[{"css": "x"}], treat=[{"date": ["%d/%m/%Y", "%Y-%m-%d %H:%M"]}]).treat
    assert treat("03/05/2021", dates) == "2021-05-03" and treat("2021-05-03 10:15", dates) == "2021-05-03T10:15:00"


def test_value_hash_is_of_the_value() -> None:
    assert value_hash({"a": 1, "b": 2}) == value_hash({"b": 2, "a": 1}) != value_hash({"a": 1})


def kinds(*rules: tuple[str, dict[str, str]]) -> list[KindPlan]:
    return [KindPlan.model_validate({"name": name, "rules": [rule]}) for name, rule in rules]


def test_rules_by_address_and_element() -> None:
    made = kinds(
        ("article", {"address": r"/news/.*"}), ("item", {"element": ".price"}), ("event", {"element": "body.event"})
    )
    keys = [f"/news/{n}.htm" for n in range(9)] + ["/newsletter.htm", "/about"]
    assert [sort_page(made, Seen(k, parse("<p>x"))).kind for k in keys] == ["article"] * 9 + ["", ""]
    assert sort_page(made, Seen("/anything", parse("<p class=price>3</p>"))).kind == "item"
    assert sort_page(made, Seen("/x", parse("<body class='event big'>"))).kind == "event"
    assert sort_page(made, Seen("/x", parse("<body class=event-list>"))).kind == ""


def test_first_fit_wins_and_the_others_are_shown() -> None:
    made = kinds(("a", {"below": "/shop"}), ("b", {"element": ".price"}), ("c", {"address": "/shop/.*"}))
    found = sort_page(made, Seen("/shop/mug", parse("<p class=price>")))
    assert (found.kind, found.also) == ("a", ("b", "c"))
    made = kinds(("a", {"below": "/shop"}), ("rest", {"below": "/"}))
    assert sort_page(made, Seen("/shop/mug")).also == (), "what takes all that is left is no other fit"
    assert sort_page(made, Seen("/mug")).kind == "rest"
    both = KindPlan.model_validate({"name": "x", "rules": [{"below": "/a", "element": "h1"}]})
    assert sort_page([both], Seen("/a/b", parse("<p>"))).kind == ""
    assert sort_page([both], Seen("/a/b", parse("<h1>t"))).kind == "x"


@pytest.mark.parametrize(
    ("data", "reason"),
    [
        ({"locators": [{"css": "h1["}]}, "cannot be read"),
        ({"locators": [{"address": "id=(\\d+"}]}, "cannot be read"),
        ({"locators": [{"address": "id"}]}, "one group"),
        ({"locators": [{"css": "h1", "meta": "x"}]}, "exactly one of"),
        ({"locators": []}, "at least 1"),
        ({"locators": [{"css": "h1"}], "treat": [{"trim": True, "collapse": True}]}, "exactly one key"),
        ({"locators": [{"css": "h1"}], "type": "choice"}, "needs its choices"),
        ({"locators": [{"css": "h1"}], "treat": ["polish"]}, "Extra inputs"),
    ],
)
def test_bad_fields_are_refused_with_a_reason(data: dict[str, Any], reason: str) -> None:
    with pytest.raises(ValidationError, match=reason):
        field(**data)


@pytest.mark.parametrize(
    ("selector", "caught"),
    [
        ("body.event", ["event", "event wide"]),
        ("body.event-list", ["event-list"]),
        ("body[data-kind=event]", []),
        ("meta[property='og:type'][content=event]", ["event-list"]),
    ],
)
def test_pages_by_the_value_of_an_elements_property(selector: str, caught: list[str]) -> None:
    """``event`` is not ``event-list``, whatever it begins with."""
    kinds = [KindPlan.model_validate({"name": "event", "rules": [{"element": selector}]})]
    found = []
    for name in ("event", "event-list", "event wide", "uneventful"):
        head = "<meta property=og:type content=event>" if name == "event-list" else ""
        page = parse(f"<html><head>{head}</head><body class='{name}'><p class=event>x</p></body></html>")
        found += [name] if sort_page(kinds, Seen("/x", page)).kind else []
    assert found == caught


def test_why_a_page_is_in_no_kind_is_told_condition_by_condition() -> None:
    kinds = [
        KindPlan.model_validate(
            {
                "name": "engine",
                "rules": [{"below": "/engines/", "element": "table.data"}, {"address": r"/e\d+", "language": "cy"}],
            }
        ),
        KindPlan.model_validate({"name": "page", "rules": [{"below": "/"}]}),
    ]
    found = explain(kinds, Seen("/engines/wren", parse("<p>no table"), "en"))
    assert [(one.kind, one.rule, one.holds) for one in found] == [
        ("engine", 0, False),
        ("engine", 1, False),
        ("page", 0, True),
    ]
    assert [tuple(check) for check in found[0].checks] == [
        ("below", "/engines/", True),
        ("element", "table.data", False),
    ]
    assert [(check.condition, check.holds) for check in found[1].checks] == [("language", False), ("address", False)]
    assert not explain(kinds, Seen("/engines/wren"))[0].checks[1].holds, "a page that cannot be read has no element"
    for one in found:
        assert one.holds == all(check.holds for check in one.checks)
    assert sort_page(kinds, Seen("/engines/wren", parse("<p>no table"), "en")).kind == "page"


@pytest.mark.parametrize(
    ("rule", "caught"),
    [
        ({"element": ".price", "says": r"^£"}, ["/mug"]),
        ({"element": "a", "attribute": "rel"}, ["/tag"]),
        ({"element": "a", "attribute": "href", "says": r"\.pdf$"}, ["/mug"]),
        ({"declares": "product"}, ["/mug", "/tag"]),
        ({"answer": r"^content-type: .*iso-8859-1"}, ["/tag"]),
        ({"below": "/", "unless": [{"element": ".price"}]}, ["/tag"]),
        ({"below": "/", "unless": [{"declares": "Product", "answer": "iso-8859"}, {"address": "/bell"}]}, ["/mug"]),
    ],
)
def test_what_rules_may_ask(rule: dict[str, Any], caught: list[str]) -> None:
    declares = '<script type="application/ld+json">{"@graph": [{"@type": ["Thing", "Product"]}]}</script>'
    pages = {
        "/mug": f"{declares}<p class=price>£3.50</p><a href=/sheet.pdf>sheet</a>",
        "/tag": "<head><meta property=og:type content=product></head><a rel=tag href=/t>t</a>",
        "/bell": "<p class=price>3</p>",
    }
    made = kinds(("x", rule))
    seen = {
        key: Seen(key, parse(html), answer="200\ncontent-type: text/html" + ("; charset=iso-8859-1" * (key == "/tag")))
        for key, html in pages.items()
    }
    assert [key for key, one in seen.items() if sort_page(made, one).kind] == [k for k in caught if k in pages]
    for one in seen.values():
        (said,) = explain(made, one)
        assert said.holds == bool(sort_page(made, one).kind) == all(check.holds for check in said.checks)
        if said.holds:
            assert may_hold(made[0].rules[0], one._replace(page=None)), "no page is passed over without a look"


@pytest.mark.parametrize(
    ("rule", "reason"),
    [
        ({"says": "x"}, "needs an address"),
        ({"below": "/", "says": "x"}, "go with an element"),
        ({"below": "/", "unless": [{"below": "/a", "unless": [{"below": "/b"}]}]}, "Extra inputs"),
        ({"below": "/", "unless": [{}]}, "needs an address"),
        ({"element": "p", "says": "("}, "cannot be read"),
        ({"answer": "(a"}, "cannot be read"),
    ],
)
def test_bad_rules_are_refused_with_a_reason(rule: dict[str, Any], reason: str) -> None:
    with pytest.raises(ValidationError, match=reason):
        SortRule.model_validate(rule)


def test_a_group_is_told_by_its_make_alone() -> None:
    def make(html: str) -> Any:
        return glance(html).make

    posts = [f"<body><div id=c{n}><h1>t</h1><p>{'x ' * n}</p><ul><li>a</ul></div></body>" for n in range(1, 9)]
    lists = [f"<body><div><h1>t</h1>{'<dl><dt>a<dd>b</dl>' * n}</div></body>" for n in range(1, 9)]
    makes = [np.frombuffer(make(html), "<u4") for html in posts + lists]
    rows, traits = matrix(makes)
    told = likeness("like /a", rows, traits, np.arange(16) < 8)
    assert [like(told, one.tobytes()) for one in makes] == [True] * 8 + [False] * 8
    assert like_each(told, rows, traits).tolist() == [True] * 8 + [False] * 8
    few = matrix(makes[:1])
    assert like_each(told, *few).tolist() == [True], "also where most of its traits are on no page"
    # it holds for pages that were not there, and goes through a file
    told = MadeLike.model_validate_json(told.model_dump_json())
    assert like(told, make("<body><div><h1>new</h1><p>one</p><p>two</p><ul><li>a<li>b</ul></div></body>"))
    assert not like(told, make("<body><div><h1>new</h1><dl><dt>a<dd>b<dt>c<dd>d</dl></div></body>")) and not like(
        told, b""
    )
    rule = kinds(("post", {"make": told.model_dump()}))
    assert sort_page(rule, Seen("/x", make=makes[0].tobytes())).kind == "post"
    assert explain(rule, Seen("/x"))[0].checks[0].wanted == "like /a"


def test_the_value_after_each_treatment() -> None:
    page = parse("<b>  No. 12 of 40 </b>")
    made = field(locators=[{"css": "b"}], treat=["trim", "replace: ^No\\. => ", "first number"])
    assert treated(page, made, "/") == ["No. 12 of 40", "No. 12 of 40", " 12 of 40", "12"]
    broken = field(locators=[{"css": "i"}, {"css": "b"}], treat=["trim", "number: .", "trim"])
    assert len(treated(page, broken, "/")) == 2, "as far as it could be applied"
    assert treated(page, field(locators=[{"css": "i"}]), "/") == []
    several = field(type="list", locators=[{"css": "b"}], treat=["split: of"])
    assert treated(page, several, "/")[-1] == ["No. 12", "40"]
