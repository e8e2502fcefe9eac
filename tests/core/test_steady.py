"""What changes at every request, and what else does."""

from __future__ import annotations

from typing import Any

import pytest

from grandferry.core.survey.steady import ALL, changing, steady


def page(**given: Any) -> str:
    said = {
        "token": "a8f3c9d17b",
        "nonce": "Zm9vYmFy",
        "time": "12:01:59",
        "count": 41,
        "pixel": 881,
        "quote": "Measure twice",
        "text": "All about hens",
        "title": "Hens",
        "next": "/ducks",
        "ad": "",
        **given,
    }
    return (
        "<html><head><title>{title}</title><meta name=csrf-token content={token}><meta name=description content='{text}'>"
        "<script nonce={nonce}>go({count})</script></head><body><!-- made {time} --><nav><a href={next}>next</a></nav>{ad}"
        "<main><h1>{title}</h1><p>{text}</p><aside class=saying><p>{quote}</p></aside></main>"
        "<footer><p>Seen {count} times, last at {time}</p><input type=hidden name=_token value={token}>"
        "<img src='/p.gif?page={next}&amp;r={pixel}'></footer></body></html>"
    ).format(**said)


AGAIN = {"token": "77e0b1c2aa", "nonce": "YmFyYmF6", "time": "12:02:00", "count": 42, "pixel": 17, "quote": "Cut once"}
LATER = {
    "token": "0f0f0f0f0f",
    "nonce": "cXV1eA==",
    "time": "09:15:31",
    "count": 977,
    "pixel": 5,
    "quote": "Rain later",
}


def test_what_changes_at_every_request_is_left_out_on_other_pages_as_well() -> None:
    spots = frozenset(changing(page(), page(**AGAIN)))
    other = {"title": "Ducks", "text": "All about ducks", "next": "/hens"}
    assert steady(page(), spots) == steady(page(**LATER), spots)
    assert steady(page(**other), spots) == steady(page(**other, **LATER), spots), "learned on one page, true of all"
    assert steady(page(), frozenset()) != steady(page(**LATER), frozenset())


@pytest.mark.parametrize(
    "changed",
    [
        {"text": "All about hens and eggs"},
        {"title": "Hens!"},
        {"next": "/geese"},
        {"ad": "<p>News</p>"},
    ],
)
def test_a_change_of_the_page_is_one_whatever_else_changes(changed: dict[str, Any]) -> None:
    spots = frozenset(changing(page(), page(**AGAIN)))
    assert steady(page(), spots) != steady(page(**LATER, **changed), spots)


def test_what_comes_and_goes() -> None:
    spots = frozenset(changing(page(), page(ad="<div class=ad><p>Buy</p></div>")))
    assert steady(page(), spots) == steady(page(ad="<div class=ad><p>Buy</p></div>"), spots)
    assert steady(page(), spots) != steady(page(text="Other", ad="<div class=ad><p>Buy</p></div>"), spots)


def test_a_parameter_is_known_on_every_page_when_two_pages_have_it() -> None:
    def links(token: int) -> str:
        return "".join(f"<a href='/{name}?sid={token}&id={name}'>x</a>" for name in "abc")

    spots = frozenset(changing(links(1), links(2)))
    other = "<a href='/other?sid={}&id={}'>x</a>"
    assert steady(other.format(5, 1), spots) == steady(other.format(6, 1), spots)
    assert steady(other.format(5, 1), spots) != steady(other.format(6, 2), spots)


def test_a_page_that_is_the_same_twice_has_no_such_place() -> None:
    assert changing(page(), page()) == set()
    assert not any(spot.how == ALL and spot.what == "" for spot in changing(page(count=1), page(count=2)))
