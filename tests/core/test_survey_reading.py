"""References from all that carries them, facts, robots rules, encodings."""

from __future__ import annotations

import pytest

from grandferry.core.encoding import decode
from grandferry.core.errors import PatternError, UnreadablePage
from grandferry.core.page import parse, text_of
from grandferry.core.references import css_links, refresh_target, srcset
from grandferry.core.survey.glance import glance
from grandferry.core.survey.robots import parse_robots

EVERYTHING = """<html><head><base href="/base/"><link rel=stylesheet href=s.css><link rel=icon href=i.ico>
<link rel=canonical href=/c><link rel=alternate hreflang=cy href=/cy><link rel=alternate type="application/rss+xml" href=/f.rss>
<meta http-equiv=refresh content="5; URL='/r'"><meta property=og:image content=/og.png>
<style>@import "imp.css"; b { background: url(bg.png) }</style>
<script type="application/ld+json">{"@type": "Thing", "image": "/ld.png", "x": [{"url": "http://a.test/ld"}]}</script></head>
<body background=body.gif><a href=a.htm>An <b>a</b></a><map><area href=area.htm alt=Ar></map>
<img src=i.png srcset="i2.png 2x, i3.png 480w" alt=Pic data-src=lazy.png><picture><source srcset="p.webp"></picture>
<video src=v.mp4 poster=p.jpg><track src=t.vtt></video><audio src=s.mp3></audio><iframe src=/frame></iframe>
<div style="background-image: url('inline.png')"></div><div data-bg=lazybg.png></div><embed src=e.swf><object data=o.pdf></object>
<a href="javascript:x()">no</a><a href="mailto:x@y">no</a><a href="">no</a><input type=image src=in.png>
<blockquote cite=/q>q</blockquote></body></html>"""


def test_links_from_everything_that_carries_them() -> None:
    seen = glance(EVERYTHING)
    base, links = seen.base, seen.links
    assert base == "/base/"
    found = {(link.how, link.raw) for link in links}
    for expected in [
        ("link", "s.css"),
        ("link", "i.ico"),
        ("canonical", "/c"),
        ("alternate", "/cy"),
        ("feed", "/f.rss"),
        ("meta refresh", "/r"),
        ("meta", "/og.png"),
        ("css import", "imp.css"),
        ("css", "bg.png"),
        ("JSON-LD", "/ld.png"),
        ("JSON-LD", "http://a.test/ld"),
        ("background", "body.gif"),
        ("a", "a.htm"),
        ("area", "area.htm"),
        ("img", "i.png"),
        ("srcset", "i2.png"),
        ("srcset", "i3.png"),
        ("lazy img", "lazy.png"),
        ("srcset", "p.webp"),
        ("video", "v.mp4"),
        ("video", "p.jpg"),
        ("track", "t.vtt"),
        ("audio", "s.mp3"),
        ("iframe", "/frame"),
        ("css", "inline.png"),
        ("lazy div", "lazybg.png"),
        ("embed", "e.swf"),
        ("object", "o.pdf"),
        ("input", "in.png"),
        ("blockquote", "/q"),
    ]:
        assert expected in found, expected
    assert next(link.words for link in links if link.raw == "a.htm") == "An a"
    wants = {link.raw: link.wants_file for link in links}
    assert wants["s.css"] and wants["i.png"] and not wants["a.htm"] and not wants["/c"]


def test_srcset_with_commas_inside_an_address() -> None:
    assert srcset("a,b.png 1x, c.png") == [("a,b.png", 1), ("c.png", 1)]
    assert srcset("/p/w_200,h_100/x.jpg 200w,\n\t/y.jpg 400w") == [("/p/w_200,h_100/x.jpg", 200), ("/y.jpg", 400)]


def test_css_links_and_refresh() -> None:
    css = """@import url("one.css") screen; @import 'two.css'; /* url(no.png) */ a { background: url( three.png ) }
    @media print { b { src: url(four.woff) format("woff"), url("data:x") } }"""
    assert [url for _, url in css_links(css)] == ["one.css", "two.css", "three.png", "four.woff"]
    assert refresh_target("0;url=/x") == "/x"
    assert refresh_target("30") == ""


def test_facts() -> None:
    facts = glance(
        '<html lang=en><head><title>T &amp; U</title><meta name=description content=" D "><meta name=generator content=G>'
        "</head><body><h1>One</h1><h1>Two</h1><p>Some words<img src=x><img src=y alt=''><form></form><svg><title>no</title></svg>"
    ).facts
    assert (facts.title, facts.description, facts.language, facts.generator) == ("T & U", "D", "en", "G")
    assert facts.headings == ["One", "Two"] and facts.pictures_without_alt == 1 and facts.words == 4
    assert "2 first-level headings" in facts.findings() and "1 forms" in facts.findings()


def test_comments_and_menus_are_counted_by_the_piece() -> None:
    facts = glance(
        '<nav><ul class="menu"><li><a href=/>Home</a></ul></nav><p>No comment on the navigation menu.</p><div id=menu></div>'
        '<ol class=comments><li class="comment odd" id=comment-7><div class=comment>Fine</div><li class=comment id=comment-8>'
        "Not so</ol>"
    ).facts
    assert (facts.comments, facts.menus) == (2, 2)
    assert glance("<p>comment nav menu").facts.comments == glance("<p>comment nav menu").facts.menus == 0


# RFC 9309 section 5.1 and 5.2, and the wildcard examples of section 2.2.3
SIMPLE = """User-Agent: *
Disallow: *.gif$
Disallow: /example/
Allow: /publications/

User-Agent: foobot
Disallow:/
Allow:/example/page.html
Allow:/example/allowed.gif

User-Agent: barbot
User-Agent: bazbot
Disallow: /example/page.html

User-Agent: quxbot
"""


@pytest.mark.parametrize(
    ("agent", "key", "allowed"),
    [
        ("other", "/x.gif", False),
        ("other", "/x.gif?a", True),
        ("other", "/example/", False),
        ("other", "/publications/a", True),
        ("foobot", "/a", False),
        ("foobot", "/example/page.html", True),
        ("FooBot/2.1", "/example/allowed.gif", True),
        ("barbot", "/example/page.html", False),
        ("bazbot", "/example/page.html", False),
        ("bazbot", "/x.gif", True),
        ("quxbot", "/example/", True),
        ("other", "/robots.txt", True),
    ],
)
def test_robots_as_the_rfc_says(agent: str, key: str, allowed: bool) -> None:
    assert parse_robots(SIMPLE).allows(agent, key) is allowed


def test_robots_longest_match() -> None:
    longest = parse_robots(
        "User-agent: *\nAllow: /example/page/\nDisallow: /example/page/disallowed.gif\nCrawl-delay: 2.5\n"
        "Sitemap: http://a.test/s.xml"
    )
    assert longest.allows("x", "/example/page/") and not longest.allows("x", "/example/page/disallowed.gif")
    assert longest.delay("x") == 2.5 and longest.sitemaps == ["http://a.test/s.xml"]
    assert parse_robots("User-agent: *\nDisallow: /a\nAllow: /a").allows("x", "/a")
    assert not parse_robots("User-agent: *\nDisallow: /a%3cd").allows("x", "/a%3Cd")


@pytest.mark.parametrize(
    ("body", "header", "text", "encoding"),
    [
        ("é".encode(), "", "é", "utf-8"),
        ("é".encode("cp1252"), "", "é", "windows-1252"),
        ("é".encode("cp1252"), "text/html; charset=ISO-8859-1", "é", "windows-1252"),
        (b"\xef\xbb\xbf\xc3\xa9", "text/html; charset=latin1", "é", "utf-8"),
        (b"<meta charset=windows-1251>\xe9", "", "<meta charset=windows-1251>й", "windows-1251"),
        ("é".encode("utf-16-le"), "text/html; charset=utf-16le", "é", "utf-16le"),
    ],
)
def test_encodings(body: bytes, header: str, text: str, encoding: str) -> None:
    found = decode(body, header)
    assert (found.text, found.encoding) == (text, encoding)


def test_a_wrong_encoding_is_said_and_mended() -> None:
    wrong = decode("naïve café".encode("cp1252"), "text/html; charset=utf-8")
    assert wrong.text == "naïve café" and "declared utf-8" in wrong.doubtful
    other = decode("naïve café".encode(), "text/html; charset=no-such-thing")
    assert other.text == "naïve café"


def test_pages() -> None:
    page = parse("<p>a <b>b</b></p><p>c</p>")
    assert [n.n for n in page.nodes] == list(range(len(page.nodes)))
    assert [text_of(page, n) for n in page.select("p")] == ["a b", "c"]
    with pytest.raises(PatternError, match="selector"):
        page.select("p[")
    with pytest.raises(UnreadablePage, match="nests"):
        parse("<div>" * 100_000)


def test_deep_pages_keep_their_words() -> None:
    page = parse("<div>" * 600 + "deep" + "</div>" * 600 + "<p>after")
    assert text_of(page, page.body) == "deep after"
