"""XPath over a page, further types of fields, further treatments."""

from __future__ import annotations

import time
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from grandferry.core.address import Scope
from grandferry.core.errors import PatternError, UnreadablePage
from grandferry.core.kinds import FieldPlan, Locator
from grandferry.core.lift.fields import lift_field
from grandferry.core.lift.locators import locate
from grandferry.core.page import parse
from grandferry.core.treatment import Treatment, treatment_of
from grandferry.core.xpath import LARGEST, by_xpath, check_xpath

SCOPE = Scope(frozenset(["a.test"]))
PAGE = """<html><body><h1>Wren <i>the</i> boat</h1><h2>Sizes</h2><p id=s>Long: 12 m</p><ul><li class='a b'>one</li><li>two</li></ul>
<a class=sheet href="/files/wren.pdf#p2">sheet</a> tail <p class=see>See <a href="wren2.htm">her sister</a></p><b>Yes</b><u>maybe</u></body></html>"""


def value(type_: str, *treat: Any, **locator: Any) -> Any:
    field = FieldPlan.model_validate({"name": "x", "type": type_, "locators": [locator], "treat": list(treat)})
    return lift_field(parse(PAGE), field, "/boats/wren.htm", "http://a.test/boats/wren.htm", SCOPE)


@pytest.mark.parametrize(
    ("expression", "texts"),
    [
        ("//h2/following-sibling::p[1]", ["Long: 12 m"]),
        ("//li", ["one", "two"]),
        ("//li[contains(concat(' ', @class, ' '), ' b ')]/text()", ["one"]),
        ("//a/@href", ["/files/wren.pdf#p2", "wren2.htm"]),
        ("string(//h1)", ["Wren the boat"]),
        ("count(//li)", ["2"]),
        ("boolean(//table)", []),
        ("//p[.//a]", ["See her sister"]),
        ("//table", []),
        ("//a[@class='sheet']/following-sibling::text()[1]", [" tail "]),
    ],
)
def test_what_xpath_finds(expression: str, texts: list[str]) -> None:
    page = parse(PAGE)
    found = locate(page, Locator(xpath=expression), "/")
    assert [place.text for place in found] == texts
    for place in found:
        if place.node >= 0:
            assert page.nodes[place.node].tag, "a place is an element of the page"


def test_an_element_found_is_the_same_as_by_css() -> None:
    page = parse(PAGE)
    for css, xpath in (("li", "//li"), ("p.see a", "//p[@class='see']/a"), ("body > h1 > i", "/html/body/h1/i")):
        assert locate(page, Locator(css=css), "/") == locate(page, Locator(xpath=xpath), "/")


@pytest.mark.parametrize(
    ("expression", "reason"),
    [
        ("//li[", "cannot be read"),
        ("//*[//a]", "from every element"),
        ("//*[.//*[.//*]]", "from every element"),
        ("//*[count(.//a) > count(.//b)]", "from every element"),
        ("//a//b//c//d//e", "more than 4 times"),
    ],
)
def test_what_cannot_be_read_or_could_take_for_ever_is_refused(expression: str, reason: str) -> None:
    with pytest.raises(PatternError, match=reason):
        check_xpath(expression)
    with pytest.raises(ValidationError, match=reason):
        Locator(xpath=expression)


def test_an_unknown_function_is_told_and_a_page_too_large_is_not_asked() -> None:
    with pytest.raises(PatternError, match="cannot be read"):
        by_xpath(parse(PAGE), "nosuch(//a)")
    with pytest.raises(UnreadablePage, match="too many for XPath"):
        by_xpath(parse("<p>x" * (LARGEST // 2 + 1)), "//p")


def test_the_dearest_expression_there_may_be_ends() -> None:
    page = parse("<div>" * 100 + "<p>x</p>" * 9000)
    begun = time.monotonic()
    by_xpath(page, "//*[count(.//*) > 3]//p")
    assert time.monotonic() - begun < 20


@given(st.text(max_size=80))
def test_any_text_is_read_or_refused(expression: str) -> None:
    try:
        check_xpath(expression)
        by_xpath(parse("<p a=b>x</p>"), expression)
    except PatternError:
        pass


@pytest.mark.parametrize(
    ("type_", "locator", "wanted", "state"),
    [
        ("link", {"css": "p.see"}, "http://a.test/boats/wren2.htm", "filled"),
        ("link", {"css": "a"}, "http://a.test/files/wren.pdf#p2", "many"),
        ("file", {"css": "a.sheet"}, "http://a.test/files/wren.pdf#p2", "filled"),
        ("file", {"css": "a.sheet", "attribute": "href"}, "http://a.test/files/wren.pdf#p2", "filled"),
        ("reference", {"css": "p.see a"}, "http://a.test/boats/wren2.htm", "filled"),
        ("reference", {"fixed": "http://b.test/x"}, "http://b.test/x", "odd"),
        ("link", {"css": "h2"}, "http://a.test/boats/Sizes", "filled"),
        ("link", {"css": "table"}, None, "empty"),
        ("yes_no", {"css": "b"}, True, "filled"),
        ("yes_no", {"fixed": "nein"}, False, "filled"),
        ("yes_no", {"css": "u"}, "maybe", "odd"),
    ],
)
def test_links_files_references_and_yes_or_no(type_: str, locator: Any, wanted: Any, state: str) -> None:
    found = value(type_, **locator)
    assert (found.value, found.state) == (wanted, state)


def test_treatments_that_map_join_shape_and_stand_in() -> None:
    assert value("line", "map: Yes => ja | no => nein", css="b").value == "ja"
    assert value("line", "map: YES => ja", css="b").value == "ja", "letter case aside"
    assert value("line", "map: one => 1", css="b").value == "Yes", "what the table has not stays"
    assert (
        value("line", 'join: ", "', css="li").value == "one, two"
        and value("line", 'join: ", "', css="li").state == "filled"
    )
    assert value("line", "template: <{value}>", css="b").value == "<Yes>"
    assert value("line", "default: none", css="table").value == "none"
    assert value("line", "default: none", css="b").value == "Yes"
    assert value("yes_no", "default: no", css="table").value is False
    assert value("number", "default: many", css="table").state == "odd"
    assert value("list", "split: e", css="li").value == ["on", "two"]


@pytest.mark.parametrize(
    "line", ["map: a => b | c => d e", 'join: ", "', "join: ;", "template: No. {value}", "default: none", "trim"]
)
def test_treatments_are_written_as_they_are_read(line: str) -> None:
    assert Treatment.model_validate(treatment_of(line)).line == line


def test_a_template_without_its_value_is_refused() -> None:
    with pytest.raises(ValidationError, match="holds {value}"):
        Treatment.model_validate({"template": "nothing"})
