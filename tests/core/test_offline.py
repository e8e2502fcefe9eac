"""Names of files in an offline copy, and references that lead to them."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grandferry.core.address import normal
from grandferry.core.survey.offline import Place, local_name, local_names, rewrite_css, rewrite_page, way


def name(url: str, page: bool = True, mime: str = "text/html") -> str:
    address = normal(url)
    assert address is not None
    return local_name(address, page, mime)


@pytest.mark.parametrize(
    ("url", "page", "expected"),
    [
        ("http://old.test/", True, "old.test/index.html"),
        ("http://old.test/news/", True, "old.test/news/index.html"),
        ("http://old.test/news", True, "old.test/news.html"),
        ("http://old.test/a.htm", True, "old.test/a.html"),
        ("http://old.test:8702/pic/one.png", False, "old.test_8702/pic/one.png"),
    ],
)
def test_plain_names_stay_as_they_are(url: str, page: bool, expected: str) -> None:
    assert name(url, page) == expected


def test_a_page_and_a_folder_of_one_name_stand_beside_each_other() -> None:
    paths = ["/a.html", "/a.html/b", "/a.htm", "/a.htm/", "/c.png", "/c.png/d.png", "/v1.2/x", "/v1.2", "/e", "/e/f"]
    places = [Place(a, "png" not in p, "image/png") for p in paths if (a := normal("http://old.test" + p)) is not None]
    names = set(local_names(places).values())
    folders = {name.rpartition("/")[0] for name in names}
    assert len(names) == len(paths) and not folders & names


def test_long_names_stay_within_what_file_systems_take() -> None:
    deep = "http://old.test/" + "Folder%C3%A9/" * 400
    long = [
        deep + "page?x=" + "y" * 3000,
        deep + "page?x=" + "y" * 3001,
        deep + "p.pdf",
        "http://old.test/" + "z" * 5000,
    ]
    made = [name(url, page=not url.endswith("pdf")) for url in long]
    assert len(set(made)) == 4 and all(len(one) < 260 for one in made) and made[2].endswith(".pdf")


def test_odd_names_are_safe_and_told_apart() -> None:
    one, two = name("http://old.test/a.aspx?id=1"), name("http://old.test/a.aspx?id=2")
    assert one != two and one.startswith("old.test/a-id-1-") and one.endswith(".aspx.html")
    odd = [
        "http://old.test/O'Brien%20caf%C3%A9%25.pdf",
        "http://old.test/o'brien%20caf%C3%A9%25.pdf",
        "http://old.test/CON.txt",
        "http://old.test/" + "x" * 300 + ".pdf",
        "http://old.test/.hidden",
        "http://old.test/a%2F..%2Fb.pdf",
        "http://old.test/%2e%2e%2fetc.pdf",
    ]
    made = [name(url, False, "application/pdf") for url in odd]
    assert len({m.lower() for m in made}) == len(odd)
    for text in made:
        assert all(c.isascii() and (c.isalnum() or c in "._-/") for c in text) and ".." not in text and len(text) < 140
        assert not any(part.startswith(".") or not part for part in text.split("/"))
    assert made == [name(url, False, "application/pdf") for url in odd], "the same every time"


@given(
    st.lists(st.text(st.characters(codec="utf-8"), min_size=1, max_size=30), min_size=1, max_size=8, unique=True),
    st.booleans(),
)
def test_no_two_addresses_share_a_file(paths: list[str], page: bool) -> None:
    places = {str(a): Place(a, page, "") for p in paths if (a := normal("http://old.test/" + p)) is not None}
    names = local_names(places.values())
    assert len({n.lower() for n in names.values()}) == len(places)
    folders = {"/".join(n.split("/")[:k]) for n in names.values() for k in range(1, n.count("/") + 1)}
    assert not folders & set(names.values()), "no file stands where a folder is"


def test_references_of_a_page_and_its_encoding() -> None:
    html = (
        '<html><head><meta http-equiv="Content-Type" content="text/html; charset=windows-1252"><base href="/sub/">'
        "<link rel=stylesheet href=s.css integrity=x><style>b{background:url(bg.png)}</style>"
        '<meta http-equiv=refresh content="5; url=next.htm"></head>'
        '<body background=w.gif style="background:url(\'y.png\')"><a href="a.htm#part">é</a><a href="#here">h</a>'
        '<img src=i.png srcset="i.png 1x, i2.png 2x" data-src=l.png><a href="mailto:x@y">m</a></body></html>'
    )
    asked: list[str] = []

    def find(raw: str) -> str:
        asked.append(raw)
        return raw if raw.startswith("mailto:") else f"L/{raw}"

    made = rewrite_page(html, find)
    for piece in (
        'href="L/s.css"',
        "L/bg.png",
        "5;url=L/next.htm",
        'background="L/w.gif"',
        "L/y.png",
        'href="L/a.htm#part"',
    ):
        assert piece in made, piece
    assert 'srcset="L/i.png 1x, L/i2.png 2x"' in made and 'data-src="L/l.png"' in made and 'href="#here"' in made
    assert "<base" not in made and "integrity" not in made and "windows-1252" not in made
    assert made.index('<meta charset="utf-8">') < made.index("<link") and "é" in made and "#here" not in asked


def test_style_sheets_and_ways() -> None:
    css = '@charset "latin1"; @import "a.css"; i{background:url( b.png )} j{src:url(\'c.woff\')}'
    assert (
        rewrite_css(css, lambda raw: f"../{raw}").strip()
        == '@import "../a.css"; i{background:url("../b.png")} j{src:url("../c.woff")}'
    )
    assert way("old.test/a/b.html", "old.test/pic/x y.png") == "../pic/x%20y.png"
    assert way("index.html", "old.test/index.html") == "old.test/index.html"
