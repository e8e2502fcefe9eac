"""Lists of addresses: sure repeats with their reasons, doubtful ones asked about, bad lines told."""

from __future__ import annotations

import pytest

from grandferry.core.address import Scope, normal
from grandferry.core.survey.spellings import doubts, loosened, read_list

HOME = normal("http://old.test/")
assert HOME is not None
SCOPE = Scope(frozenset(["old.test"]), aliases={"www.old.test": ("http", "old.test")}, scheme="http")


def test_sixty_lines_with_fourteen_sure_repeats_and_two_doubtful_ones() -> None:
    distinct = [f"http://old.test/page-{n}.htm" for n in range(42)] + ["/shop/", "/About.htm"]
    doubtful = ["/shop", "http://old.test/about.htm"]
    repeats = [
        "https://old.test/page-0.htm",
        "http://www.old.test/page-1.htm",
        "http://old.test/page-2.htm#top",
        "http://OLD.test/page-3.htm",
        "http://old.test:80/page-4.htm",
        "http://old.test/%70age-5.htm",
        "http://old.test/page-6.htm?utm_source=letter",
        "/page-7.htm",
        "old.test/page-8.htm",
        "http://old.test/page-9.htm",
        "  http://old.test/page-10.htm  ",
        "http://old.test/a/../page-11.htm",
        "https://www.old.test/page-12.htm#x",
        "http:///old.test/page-13.htm",
    ]
    lines = distinct + doubtful + repeats
    assert len(lines) == 60
    read = read_list(lines, SCOPE, HOME)
    assert (read.lines, len(read.kept), len(read.repeats), len(read.doubtful)) == (60, 46, 14, 2)
    assert [line.of for line in read.repeats] == list(range(1, 15)), "each names the line it repeats"
    why = {line.text: line.why for line in read.repeats}
    assert why["https://old.test/page-0.htm"] == "http and https"
    assert why["http://www.old.test/page-1.htm"] == "with and without www"
    assert why["http://old.test/page-2.htm#top"] == "fragment"
    assert why["http://old.test/page-6.htm?utm_source=letter"] == "parameters that make no difference"
    assert why["http://old.test/page-9.htm"] == "the same line"
    assert [(line.text, line.of, line.why) for line in read.doubtful] == [
        ("/shop", 43, "last slash"),
        ("http://old.test/about.htm", 44, "letter case"),
    ]


def test_bad_outside_and_repaired_lines_are_told() -> None:
    read = read_list(["mailto:a@b.test", "http://else.test/x", "old.test/fine", "two words", "", "/good"], SCOPE, HOME)
    assert [(line.number, line.text) for line in read.bad] == [(1, "mailto:a@b.test"), (4, "two words")]
    assert [(line.number, line.why) for line in read.outside] == [(2, "other host")]
    assert [line.url for line in read.kept] == ["http://old.test/fine", "http://old.test/good"]
    assert [(line.number, line.why) for line in read.repaired] == [(3, "http:// added")]


@pytest.mark.parametrize(
    ("one", "other", "why"),
    [
        ("/a/", "/a", ["last slash"]),
        ("/a/index.htm", "/a/", ["index file"]),
        ("/a/Index.html", "/a", ["index file", "last slash"]),
        ("/A.htm", "/a.htm", ["letter case"]),
        ("/a?x=1&y=2", "/a?y=2&x=1", ["order of parameters"]),
        ("/a?x=B", "/a?x=b", ["letter case"]),
    ],
)
def test_what_may_be_the_same(one: str, other: str, why: list[str]) -> None:
    assert loosened(one) == loosened(other)
    assert doubts(one, other) == why


def test_what_is_never_the_same() -> None:
    assert (
        len({loosened(key) for key in ("/engine/", "/engines/", "/engine-sheds/", "/engine?id=1", "/engine?id=2")}) == 5
    )
