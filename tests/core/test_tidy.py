"""Steps over whole bodies: headings in order, links without what counts visitors."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grandferry.core.kinds import Step
from grandferry.core.refit.blocks import Heading, Link, walk
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.tidy import no_gaps, one_h1


def refitted(html: str, tidy: str) -> tuple[list[int], list[str], dict[str, int], int]:
    done = refit_html(html, steps=[Step(name="s", tidy=tidy)])  # type: ignore[arg-type]
    levels = [one.level for one in walk(done.blocks) if isinstance(one, Heading)]
    return (
        levels,
        [one.href for one in walk(done.blocks) if isinstance(one, Link)],
        done.treated,
        done.account.unaccounted,
    )


def headings(levels: list[int]) -> str:
    return "".join(f"<h{n}>h</h{n}><p>text" for n in levels)


@pytest.mark.parametrize(
    ("had", "now", "places"),
    [([1, 2, 3], [1, 2, 3], 0), ([1, 2, 1, 2, 3], [1, 2, 2, 3, 4], 1), ([1, 1, 1], [1, 2, 2], 2), ([2, 3], [2, 3], 0), ([1, 1, 6], [1, 2, 6], 1)],
)  # fmt: skip
def test_one_heading_of_the_first_level(had: list[int], now: list[int], places: int) -> None:
    levels, _, treated, lost = refitted(headings(had), "one_h1")
    assert levels == now and treated == ({"s": places} if places else {}) and lost == 0


@pytest.mark.parametrize(
    ("had", "now"),
    [([2, 4, 4, 2], [2, 3, 3, 2]), ([1, 3, 5, 3], [1, 2, 3, 2]), ([3, 1, 4], [3, 1, 2]), ([2, 3, 4], [2, 3, 4])],
)
def test_no_gaps_between_levels(had: list[int], now: list[int]) -> None:
    levels, _, treated, lost = refitted(f"<blockquote>{headings(had)}</blockquote>", "no_gaps")
    assert levels == now and lost == 0
    assert treated.get("s", 0) == sum(a != b for a, b in zip(had, now, strict=True))


@given(st.lists(st.integers(1, 6), max_size=12))
def test_what_is_in_order_stays_so(had: list[int]) -> None:
    blocks = refit_html(headings(had)).blocks
    for tidy in (one_h1, no_gaps):
        once, _ = tidy(blocks)
        again, moved = tidy(once)
        assert again == once and moved == 0
        assert len(list(walk(once))) == len(list(walk(blocks)))


def test_links_lose_what_counts_visitors_and_nothing_else() -> None:
    html = (
        "<p><a href='/a?utm_source=x&id=7&fbclid=y#z'>a</a> <a href='/b?utm_medium=m'>b</a> <a href='/c?id=1&amp;b=%20'>c</a>"
        " <a href='mailto:a@b.test?subject=utm_source=1'>d</a>"
    )
    _, links, treated, lost = refitted(html, "untracked")
    assert links == ["/a?id=7#z", "/b", "/c?id=1&b=%20", "mailto:a@b.test?subject=utm_source=1"]
    assert treated == {"s": 2} and lost == 0


@pytest.mark.parametrize(
    "data", [{"tidy": "all"}, {"tidy": "one_h1", "remove": "p"}, {"tidy": "no_gaps", "act": "data"}, {}]
)
def test_a_step_does_one_thing(data: dict[str, str]) -> None:
    with pytest.raises(ValueError):
        Step.model_validate({"name": "s", **data})
