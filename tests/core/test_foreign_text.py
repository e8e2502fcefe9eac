"""Patterns that meet foreign text take time in line with it: doubling the text must not make it four times as long."""

from __future__ import annotations

import time
from collections.abc import Callable

import pytest

from grandferry.core.preview import safe_css
from grandferry.core.survey.offline import rewrite_css
from grandferry.core.survey.systems import guess

PIECES = ["url(", "url( ", 'url("', "@import ", "@import '", "/*", "/* ", "*/", "(", ")", "{", "\\", '"', "'", " ", "a"]


def work(do: Callable[[str], object], text: str) -> float:
    """The least time of three, in seconds of this process."""
    best = 1e9
    for _ in range(3):
        began = time.process_time()
        do(text)
        best = min(best, time.process_time() - began)
    return best


@pytest.mark.parametrize("piece", PIECES)
@pytest.mark.parametrize(
    "do",
    [lambda t: safe_css(t, lambda raw: raw), lambda t: rewrite_css(t, lambda raw: raw)],
    ids=["preview", "offline copy"],
)
def test_a_style_sheet_is_read_in_linear_time(do: Callable[[str], object], piece: str) -> None:
    once, twice = (work(do, piece * (number // len(piece))) for number in (100_000, 400_000))
    assert twice < 12 * max(once, 0.002), "four times the text, sixteen times the time were quadratic"


def test_the_mark_of_a_system_is_read_up_to_a_length() -> None:
    once, twice = (work(lambda n: guess(("- " * n) + "!", "", {}), n) for n in (10_000, 40_000))  # type: ignore[arg-type, return-value]
    assert twice < 12 * max(once, 0.002)


def test_addresses_of_style_sheets_are_replaced() -> None:
    css = "a{b:url( 'é/1' ) URL(x) url(\"q\")}/* url(no) */@import 'more.css';@IMPORT url(two.css) print;p{c:url()}"
    found: list[str] = []
    made = safe_css(css, lambda raw: found.append(raw) or f"/r/{len(found)}")  # type: ignore[func-returns-value]
    assert found == ["é/1", "x", "q", "two.css", "", "more.css"]
    assert 'url("/r/1") url("/r/2") url("/r/3")' in made and "no" not in made and '@import "/r/6"' in made
    assert rewrite_css("a{b:url(\ud800)}", lambda raw: "x") == 'a{b:url("x")}'
