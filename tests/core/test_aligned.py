"""What became of each block of a body that was altered as a whole."""

from __future__ import annotations

import pytest

from grandferry.core.refit.aligned import aligned
from grandferry.core.refit.blocks import Block
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_markdown


def blocks(*lines: str) -> list[Block]:
    made: list[Block] = []
    for line in lines:
        made += refit_html(line if line.startswith("<") else f"<p>{line}</p>").blocks
    return made


def told(of: list[Block]) -> list[str]:
    return [to_markdown((block,)).strip() for block in of]


@pytest.mark.parametrize(
    ("ours", "theirs", "first", "became"),
    [
        ("a b c", "a b c", [], [None, None, None]),
        ("a b c", "a x c", [], [None, ["x"], None]),
        ("a b c", "a c", [], [None, [], None]),
        ("a b c", "x a b y c z", ["x"], [None, (None, ["y"]), (None, ["z"])]),
        ("a b c", "c", [], [[], [], None]),
        ("a b", "", [], [[], []]),
        ("a <h2>b</h2> c", "<h2>x</h2> y", [], [[], ["## x"], ["y"]]),
    ],
)
def test_each_block_is_told_of(
    ours: str, theirs: str, first: list[str], became: list[None | list[str] | tuple[None, list[str]]]
) -> None:
    came, found = aligned([[block] for block in blocks(*ours.split())], blocks(*theirs.split()))
    assert told(came) == first
    said = [
        (None if one.now is None else told(one.now), told(one.behind)) if one.behind
        else None if one.now is None else told(one.now)
        for one in found
    ]  # fmt: skip
    assert said == became


def test_a_thing_that_is_read_as_several_blocks_stays_together() -> None:
    _, found = aligned([blocks("a", "b"), blocks("c")], blocks("a", "x", "y", "c"))
    assert [one.now and told(one.now) for one in found] == [["a", "x"], None] and told(found[0].behind) == ["y"]
    _, found = aligned([blocks("a", "b"), blocks("c")], blocks("a", "new", "b", "c"))
    assert [one.now and told(one.now) for one in found] == [["a", "new", "b"], None]


def test_a_heading_without_the_name_it_had_is_the_same() -> None:
    _, found = aligned([blocks("<h2 id=tides>Tides</h2>")], blocks("<h2>Tides</h2>"))
    assert found[0].now is None
