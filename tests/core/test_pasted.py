"""Pairs as they are pasted: out of a sheet, out of a mail, by hand."""

from __future__ import annotations

import pytest

from grandferry.core.route.pasted import read_lines


@pytest.mark.parametrize(
    ("line", "old", "new", "status", "match"),
    [
        ("/a.htm\t/new/a", "/a.htm", "/new/a", 301, "exact"),
        (
            "http://old.example.test/a.htm\thttp://else.example.test/b#c",
            "/a.htm",
            "http://else.example.test/b#c",
            301,
            "exact",
        ),
        ("/a b.htm\t/new a", "/a%20b.htm", "/new%20a", 301, "exact"),
        ("/a.htm -> /b", "/a.htm", "/b", 301, "exact"),
        ("/a.htm → /b", "/a.htm", "/b", 301, "exact"),
        ("/list,7.htm, /b", "/list,7.htm", "/b", 301, "exact"),
        ("/a.htm;/b", "/a.htm", "/b", 301, "exact"),
        ("/a.htm   /b", "/a.htm", "/b", 301, "exact"),
        ("/a.htm\t410", "/a.htm", "", 410, "exact"),
        ("/a.htm, gone", "/a.htm", "", 410, "exact"),
        ("/list,7.htm 410", "/list,7.htm", "", 410, "exact"),
        ("/a.htm", "/a.htm", "", 410, "exact"),
        ("/a/\t/b/\tprefix", "/a/", "/b/", 301, "prefix"),
        (r"/a/(\d+)" + "\t/b/{1}\t308\tpattern", r"/a/(\d+)", "/b/{1}", 308, "pattern"),
    ],
)
def test_a_line_is_read(line: str, old: str, new: str, status: int, match: str) -> None:
    ((_, _, pair, refusal, _),) = read_lines(line)
    assert pair is not None, refusal
    assert (pair.old, pair.new, pair.status, pair.match) == (old, new, status, match)


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("/a.htm,relative.htm", "one address or two"),
        ("/a,b", "one address or two"),
        ("/a.htm\t/b\t/c", "“/c” stands after the new address"),
        ("/a.htm\tnowhere", "neither a path nor an http address"),
        ("/a/(\\d+)\t/b/{2}\tpattern", "{2}"),
        ("/a/(\t/b\tpattern", "("),
        ("/a.htm\t//other/b", "“//”"),
        ("/a.htm\t/b\t410", "cannot have the new address"),
    ],
)
def test_what_cannot_be_read_says_why(line: str, says: str) -> None:
    ((number, text, pair, refusal, _),) = read_lines(f"\n\n  {line}\n")
    assert (number, text, pair) == (3, line, None) and says in refusal


def test_the_second_line_of_an_old_address_is_told() -> None:
    first, second = read_lines("/a.htm\t/b\nhttp://old.example.test/a.htm\t/c")
    assert first.pair is not None and second.pair is None and second.refusal == "Line 1 is of the same old address."
