"""What a person writes and the program reads, both ways: treatments as lines, shapes and texts as patterns."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from grandferry.core.address import shape, shape_pattern, to_key
from grandferry.core.keptout import KeptOut, LetIn, one_by_one, ways
from grandferry.core.kinds import FieldPlan
from grandferry.core.lift.treatments import treat
from grandferry.core.patterns import compile_pattern, escape
from grandferry.core.treatment import Treatment


def chain(*lines: str) -> list[Treatment]:
    field = {"name": "x", "type": "line", "locators": [{"css": "p"}], "treat": list(lines)}
    return FieldPlan.model_validate(field).treat


@pytest.mark.parametrize(
    ("line", "text", "value"),
    [
        ("trim", "  a  ", "a"),
        ("first number", "about 1 200 m", "1 200"),
        ("replace: ^Mr\\.? => Mr", "Mr. Fennick", "Mr Fennick"),
        ("replace: , => ", "a,b", "ab"),
        ("date: %d %B %Y | %d.%m.%Y", "3.5.2019", "2019-05-03"),
        ("date: %H:%M", "07:30", "1900-01-01T07:30:00"),
        ("split: ;", "a; b;c", ["a", "b", "c"]),
        ("number: ,", "1.234,5", 1234.5),
    ],
)
def test_a_line_is_read_does_what_it_says_and_is_written_as_it_was(line: str, text: str, value: object) -> None:
    (made,) = chain(line)
    assert treat(text, [made]) == value
    assert chain(made.line) == [made], "what is shown can be typed again"


@pytest.mark.parametrize(
    "line", ["no such thing", "replace: ( => x", "number: x", "split:", "replace", "first number: 3", ""]
)
def test_a_line_that_says_nothing_is_refused(line: str) -> None:
    with pytest.raises(ValidationError):
        chain(line)


def test_a_treatment_written_as_data_is_the_same_one() -> None:
    field = {"name": "x", "type": "line", "locators": [{"css": "p"}], "treat": [{"date": ["%d %B %Y", "%d.%m.%Y"]}]}
    assert FieldPlan.model_validate(field).treat == chain("date: %d %B %Y | %d.%m.%Y")


@given(st.text(min_size=1, max_size=40).filter(lambda text: "\x00" not in text))
def test_an_escaped_text_holds_for_itself_alone(text: str) -> None:
    pattern = compile_pattern(escape(text))
    assert pattern.fullmatch(text) and not pattern.fullmatch(text + "x")
    assert compile_pattern(f"^{escape(text)}$").search(text)


_PART = st.text("abcxyz0123456789.-_", min_size=1, max_size=8)


@given(st.lists(_PART, min_size=1, max_size=4), st.dictionaries(_PART, _PART | st.just(""), max_size=2))
def test_the_pattern_of_a_shape_holds_for_every_address_of_it(parts: list[str], query: dict[str, str]) -> None:
    asked = "&".join(f"{name}={value}" for name, value in query.items())
    key = to_key("/" + "/".join(parts) + (f"?{asked}" if asked else ""))
    assert compile_pattern(shape_pattern(shape(key))).fullmatch(key), (key, shape(key))


def test_the_varying_parts_of_a_shape_are_captured() -> None:
    pattern = compile_pattern(shape_pattern(shape("/news/2019/04/a-day-out.htm")))
    assert pattern.fullmatch("/news/2020/11/winter.htm").groups() == ("2020", "11", "winter")
    assert not pattern.fullmatch("/news/2020/11/winter.html") and not pattern.fullmatch("/news/x/11/winter.htm")


def test_the_ways_to_let_in_fit_the_reason() -> None:
    assert ways(KeptOut.OTHER_HOST) == (LetIn.FILES, LetIn.PAGES, LetIn.ALIAS)
    assert LetIn.FILES not in ways(KeptOut.OTHER_HOST, files=False)
    assert ways(KeptOut.ROBOTS) == () and not one_by_one(KeptOut.ROBOTS), "that is the owner's to say"
    assert ways(KeptOut.ENDLESS) == (LetIn.ENDLESS,) and not one_by_one(KeptOut.ENDLESS)
    for reason in KeptOut:
        assert reason in (KeptOut.LET_IN, KeptOut.ROBOTS) or ways(reason), reason
