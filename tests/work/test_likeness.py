"""Duplicates, near-duplicates and spellings that may be one; depths; outside things by page."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grandferry.core.side import Side
from grandferry.demo.material import Writer
from grandferry.store.db import rows
from grandferry.store.lists import details
from grandferry.store.lists.windows import Selection, choices, window
from grandferry.store.survey import keptout
from tests.servers import apps, pages_app

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]


def alike(crossing: int, sort: str) -> set[frozenset[str]]:
    groups: dict[int, set[str]] = {}
    for number, key in rows(
        "SELECT l.number, a.key FROM likeness l JOIN address a ON a.id = l.address_id WHERE l.crossing_id = ? AND l.type = ?",
        crossing,
        sort,
    ):
        groups.setdefault(number, set()).add(key)
    return {frozenset(group) for group in groups.values()}


def test_what_is_alike_is_shown_with_reasons_and_never_merged(cross: Make, work: Run) -> None:
    writer = Writer(11)
    texts = [" ".join(writer.paragraph() for _ in range(9)) for _ in range(4)]
    changed = texts[0].split()
    changed[40] = "otherwise"
    site: dict[str, Any] = {
        "/one.htm": f"<title>One</title><p>{texts[0]}</p>",
        "/print/one.htm": f"<title>One, to print</title><p>{texts[0]}</p>",
        "/nearly.htm": f"<title>Nearly</title><p>{' '.join(changed)}</p>",
        "/two.htm": f"<p>{texts[1]}</p>",
        "/Two.htm": f"<p>{texts[2]}</p>",
        "/folder/": f"<p>{texts[3]}</p>",
        "/folder/index.htm": f"<p>{texts[3]}</p>",
        "/a.png": (200, {"Content-Type": "image/png"}, b"\x89PNG-same"),
        "/b.png": (200, {"Content-Type": "image/png"}, b"\x89PNG-same"),
    }
    site["/"] = "<p>home</p>" + "".join(f"<a href={key}>x</a>" for key in site)
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        assert work("survey", crossing)["pages"] == 8
    assert alike(crossing, "same") == {
        frozenset({"/one.htm", "/print/one.htm"}),
        frozenset({"/folder/", "/folder/index.htm"}),
        frozenset({"/a.png", "/b.png"}),
    }
    assert frozenset({"/one.htm", "/print/one.htm", "/nearly.htm"}) in alike(crossing, "near")
    assert not any({"/one.htm", "/two.htm"} <= group for group in alike(crossing, "near"))
    assert alike(crossing, "spelling") == {
        frozenset({"/two.htm", "/Two.htm"}),
        frozenset({"/folder/", "/folder/index.htm"}),
    }
    (two,) = rows("SELECT id FROM address WHERE key = '/two.htm'")
    (other,) = [row for row in details.address(crossing, two[0]).alike if row.type == "spelling"]
    assert other.key == "/Two.htm" and details.address(crossing, other.id).alike[0].why == "letter case; other content"
    counted = dict(choices(Side(crossing), Selection(), "like"))
    assert counted["the same content"] == 6 and counted["nearly the same"] == 1 and counted["maybe one address"] == 2
    total, _ = window(Side(crossing), Selection({"like": ["maybe one address"]}), "key", 0, 10)
    assert total == 2


def test_depth_is_links_from_the_start_whatever_was_met_first(cross: Make, work: Run) -> None:
    site: dict[str, Any] = {f"/p{n}": f"<p>page {n}</p><a href=/p{n + 1}>next</a>" for n in range(1, 6)}
    site |= {"/": "<p>home</p><a href=/p1>a</a>", "/p6": "<p>end</p>", "/lost": "<p>lost</p>"}
    named = "".join(f"<url><loc>{{}}{key}</loc></url>" for key in ("/p5", "/p6", "/lost"))
    with apps(pages_app(site)) as (port,):
        base = f"http://127.0.0.1:{port}"
        site["/sitemap.xml"] = (
            200,
            {"Content-Type": "text/xml"},
            f"<urlset>{named.format(base, base, base)}</urlset>".encode(),
        )
        crossing = cross({"old": {"start": f"{base}/"}})
        work("survey", crossing)
    assert dict(rows("SELECT key, depth FROM address WHERE type = 'page'")) == {
        "/": 0, "/lost": 0, **{f"/p{n}": n for n in range(1, 7)},
    }  # fmt: skip


def test_a_script_of_an_outside_host_on_thirty_pages_is_one_row(cross: Make, work: Run) -> None:
    outside = (
        "<script src=http://measure.test/analytics.js></script><a href='http://friends.test/share?u=x'>Share</a>"
        "<iframe src=http://maps.test/embed></iframe>"
    )
    site: dict[str, Any] = {f"/p{n}": f"<p>page {n}</p>{outside}" for n in range(29)}
    site["/"] = f"<p>home</p>{outside}" + "".join(f"<a href={key}>x</a>" for key in site)
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    total, found = keptout.window(Side(crossing), "", "", "", 0, 10, order="-pages")
    assert total == 3 and {(row.what, row.pages) for row in found} == {
        ("measuring tag", 30),
        ("share or follow link", 30),
        ("embed", 30),
    }
    assert keptout.window(Side(crossing), "", "", "", 0, 10, what="embed")[1][0].url == "http://maps.test/embed"
    assert sorted(keptout.sorts(Side(crossing))) == [
        ("embed", 1, 30),
        ("measuring tag", 1, 30),
        ("share or follow link", 1, 30),
    ]


def test_what_scripts_put_in_and_what_differs_from_page_to_page_alone_is_one_row(cross: Make, work: Run) -> None:
    def page(n: int) -> str:
        return (
            f"<title>Hollow Farm</title><p>page {n}</p><script>(function(d){{s.src='//counter.outside.test/t.js?p={n}'}})(document);"
            'x={"u":"https:\\/\\/shop.outside.test\\/basket","ns":"http://www.w3.org/2000/svg","own":"/p0?x=1"}'
            f"</script><img src='http://pics.outside.test/pixel.gif?page={n}&r={n * 7}'>"
            f"<img src='http://pics.outside.test/photo.php?id={n}'><a href='https://people.test/share?u=/p{n}'>Share</a>"
            "<footer><a href=https://people.test/hollowfarm>We there</a> <a href=https://makers.test/badge>Made by</a></footer>"
            f"{'<a href=https://other.test/hens>hens</a>' if n == 3 else ''}"
        )

    site: dict[str, Any] = {f"/p{n}": page(n) for n in range(6)}
    site["/"] = page(9) + "".join(f"<a href={key}>x</a>" for key in site) + "<a href=/off>off</a>"
    site["/off"] = (301, {"Location": "http://partner.test/in"}, b"")
    with apps(pages_app(site)) as (port,):
        crossing = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "survey": {"sitemaps": False}})
        work("survey", crossing)
    side = Side(crossing)
    total, found = keptout.window(side, "", "", "", 0, 100)
    rows_ = {row.url: (row.what, row.pages, row.addresses) for row in found if row.what != "picture"}
    assert rows_ == {
        "http://counter.outside.test/t.js": ("measuring tag", 7, 7),
        "https://shop.outside.test/basket": ("address in a script", 7, 1),
        "http://pics.outside.test/pixel.gif": ("measuring tag", 7, 7),
        "https://people.test/share": ("share or follow link", 7, 7),
        "https://people.test/hollowfarm": ("profile elsewhere", 7, 1),
        "https://makers.test/badge": ("link", 7, 1),
        "https://other.test/hens": ("link", 1, 1),
        "http://partner.test/in": ("end of a redirect", 0, 1),
    }
    assert [row.source_key for row in found if row.url == "http://partner.test/in"] == ["/off"]
    pictures = [row for row in found if row.what == "picture"]
    assert len(pictures) == 7 and total == len(found) == 15, "other queries, other pictures"
    assert sum(sort.addresses for sort in keptout.sorts(side)) == total == sum(g.count for g in keptout.groups(side))
    pixel = next(row for row in found if row.url.endswith("pixel.gif"))
    assert len(keptout.urls(side, pixel.host, pixel.reason, [pixel.id])) == 7, "the row stands for all of them"
    assert len(keptout.urls(side, pixel.host, pixel.reason, [pictures[0].id])) == 1
