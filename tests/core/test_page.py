"""A page's text as a visitor reads it."""

from __future__ import annotations

import pytest

from grandferry.core.page import could_find, names_in, parse, text_of


@pytest.mark.parametrize(
    "block", ["p", "div", "ul", "h2", "table", "blockquote", "pre", "section", "dl", "button", "hr"]
)
@pytest.mark.parametrize("holder", ["div", "td", "li", "section"])
def test_a_block_and_bare_text_beside_it_are_never_one_word(block: str, holder: str) -> None:
    inner = "<tr><td>in<b>ner</b>" if block == "table" else "in<b>ner</b>"
    closed = f"<{block}>" if block == "hr" else f"<{block}>{inner}</{block}>"
    page = parse(f"<table><tr><td><{holder}>be<i>fore</i>{closed}aft<u>er</u></{holder}></table>")
    assert text_of(page, page.body) == ("before after" if block == "hr" else "before inner after")


@pytest.mark.parametrize(
    ("selector", "html", "could"),
    [
        (".share, #Foot p", "<p class='Share big'>", True),
        (".share, #Foot p", "<p id=foot>", True),
        (".share.big", "<p class=share>", False),
        ("div > .größe", "<p class='größe'>", True),
        ("p", "<div>", True),
        ("[class^=sh]", "<div>", True),
        ("p:not(.share)", "<p>", True),
        ("", "", True),
    ],
)
def test_what_a_selector_asks_for_is_told_without_parsing(selector: str, html: str, could: bool) -> None:
    assert could_find(html, names_in(selector)) is could
