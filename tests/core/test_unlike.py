"""Values that want a look: unlike all others of their field, or left until there is something to say."""

from __future__ import annotations

from typing import Any

import pytest

from grandferry.core.lift.unlike import SAYS, Unlike, left_over, left_over_in, unlike
from grandferry.core.page import parse

NAMES = ["Ada Quill", "Tom Osmer", "Petra Vane", "Owen Strake", "Hetty Lorimer", "Jonas Birdsall", "Idris Fenn"] * 3


@pytest.mark.parametrize(
    ("type_", "others", "odd", "why"),
    [
        ("line", NAMES, "By " + "and ".join(NAMES), Unlike.LONG),
        ("passage", [f"{'A sentence of some length. ' * (4 + n % 3)}" for n in range(15)], "None.", Unlike.SHORT),
        ("line", [f"No. {n}" for n in range(40)], "unknown", Unlike.FORM),
        ("number", list(range(20, 60)), 90_000, Unlike.FAR),
        ("number", [32] * 20, 3.2, Unlike.FAR),
        ("date", [f"20{n:02d}-05-01" for n in range(5, 25)], "1905-05-01", Unlike.FAR),
        ("list", [["a", "b"]] * 20, ["a"] * 30, Unlike.LONG),
    ],
)
def test_a_value_unlike_all_others_is_told(type_: str, others: list[Any], odd: Any, why: Unlike) -> None:
    assert unlike(type_, others) == {}
    assert unlike(type_, [*others[:7], odd, *others[7:]]) == {7: why}
    assert unlike(type_, [others[0], odd]) == {}, "of two it cannot be told which is the odd one"


@pytest.mark.parametrize(
    ("type_", "values"),
    [
        ("line", ["Wren steams again", "A day out", "Notes", "Bell", "What the boiler told us at the very last"] * 5),
        ("number", [1, 2, 3, 5, 8, 13, 21, 34, 55, 89, 144, 233, 377]),
        ("date", [f"{year}-01-01" for year in range(1990, 2025)]),
        ("date", ["soon"] * 20),
        ("picture", [{"src": "a"}] * 20),
    ],
)
def test_values_that_merely_differ_are_left_alone(type_: str, values: list[Any]) -> None:
    assert unlike(type_, values) == {}


@pytest.mark.parametrize(
    ("value", "why"),
    [
        ("Lorem ipsum dolor sit amet", Unlike.FILLER),
        ("Your text here", Unlike.FILLER),
        ("TBD", Unlike.FILLER),
        ("xxx", Unlike.FILLER),
        (["Steam", "todo"], Unlike.FILLER),
        ({"src": "http://a.test/img/placeholder.png", "alt": ""}, Unlike.STAND_IN),
        ({"src": "http://a.test/img/no-image_2.gif", "alt": ""}, Unlike.STAND_IN),
        ({"src": "http://a.test/img/placeholder-pub/wren.png", "alt": ""}, None),
        ({"src": "http://a.test/img/wren.png?size=default-image", "alt": ""}, None),
        ("The test run went well", None),
        ("Testing the boiler", None),
        ("A sample of text books", None),
        (32, None),
        (None, None),
    ],
)
def test_what_was_left_until_there_is_something_to_say(value: Any, why: Unlike | None) -> None:
    assert left_over(value) == why


@pytest.mark.parametrize(
    ("html", "why"),
    [
        ("<p>Lorem ipsum dolor sit amet, so it begins</p>", Unlike.FILLER),
        ("<p>A page with something to say for itself.</p><p>Insert your text here.</p>", Unlike.FILLER),
        ("<p>What it can do, and what it cannot:</p><ul><li>test</li><li>todo</li></ul>", None),
        ("<p>The very same words once more, please.</p>" * 3, Unlike.AGAIN),
        ("<p>The very same words once more, please.</p>" * 2, None),
        ("<li>ask</li>" * 5, None),
        ("<ul><li><p>The very same words once more, please.</p></ul>" * 2, None),
        ("<p>New in the second edition of this manual.</p>" * 4 + f"<p>{'other words ' * 90}</p>", None),
        ("<p>x</p><img src=/i/dummy_2.gif>", Unlike.STAND_IN),
        ("<p>A body about trains, and nothing else.</p><img src=/i/wren.gif><img src=/i/spacer.gif>", None),
    ],
)
def test_bodies_that_want_a_look(html: str, why: Unlike | None) -> None:
    page = parse(f"<body>{html}</body>")
    assert left_over_in(page, [page.body.n]) == why


def test_every_reason_has_its_sentence() -> None:
    assert set(SAYS) == set(Unlike)
