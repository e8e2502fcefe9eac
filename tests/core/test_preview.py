"""Captured pages made safe; selectors of what was pointed at."""

from __future__ import annotations

import re

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grandferry.core.lift.pointing import selector_of
from grandferry.core.page import direction_of, parse
from grandferry.core.preview import preview_html, safe_css

KNOWN = {"/a.png": "http://store/1", "/s.css": "http://store/2"}


def shown(html: str, **more: object) -> str:
    return preview_html(parse(html), lambda raw: KNOWN.get(raw, ""), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    "html",
    [
        "<script>x()</script><p>a",
        "<body onload=x()><p onclick='x()'>a",
        "<a href='javascript:x()'>a</a><p>a",
        "<meta http-equiv=refresh content='0;url=//x'><p>a",
        "<base href=//x><form action=//x target=_top><input autofocus onfocus=x()></form><p>a",
        "<iframe src=//x></iframe><object data=//x></object><embed src=//x><p>a",
        "<svg onload=x()><script>x()</script><a xlink:href='javascript:x()'>t</a></svg><p>a",
        "<link rel=prefetch href=/s.css><link rel=import href=//x><p>a",
        "<style>@import '//x'; p{background:url(//x/y.png)}</style><p style='background:url(//x)'>a",
        "<p data-gf=7 nonce=abc>a",
        "<math><mtext><style><img src=x onerror=x()></style></mtext></math><p>a",
        "<svg><style>&lt;img src=x onerror=x()&gt;</style></svg><p>a",
        "<svg><style><![CDATA[</style><img src=x onerror=x()>]]></style></svg><p>a",
        "<math><style>a&lt;!--&lt;/style&gt;&lt;img src=x onerror=x()&gt;</style></math><p>a",
        "<svg><desc><style>&lt;/style>&lt;script>x()</style></desc></svg><p>a",
        "<style><!<!----></style ><img src=x onerror=x()></style><p>a",
        "<svg><title><style>&lt;img src=x onerror=x()></style></title></svg><p>a",
        "<p style='content:\"&lt;/style>&lt;img onerror=x()>\"'>a",
        "<noscript><p title='</noscript><img src=x onerror=x()>'></noscript><p>a",
        "<textarea></textarea><img src=x onerror=x()></textarea><p>a",
        "<title></title><img src=x onerror=x()></title><p>a",
        "<xmp><script>x()</script></xmp><p>a",
        "<plaintext><script>x()</script>a",
    ],
)
def test_nothing_acts(html: str) -> None:
    out = shown(html)
    again = parse(out)  # what a browser would make of it
    for node in again.nodes:
        assert node.tag not in ("script", "base", "iframe", "object", "embed", "meta", "animate", "noscript"), out
        for name, value in node.attrs.items():
            assert not name.startswith("on") and name not in ("action", "target", "srcdoc", "xlink:href", "nonce"), out
            assert not (value or "").strip().lower().startswith("javascript:") or name == "data-href", out
        assert not node.get("href") or node.tag == "link"
    assert "//x" not in re.sub(r'data-href="[^"]*"|<gf-box[^>]*>[^<]*</gf-box>', "", out)
    assert "a" in "".join(n.text for n in again.nodes if n.visible)


def test_numbers_pictures_and_styles() -> None:
    out = shown("<link rel=stylesheet href=/s.css><body><h1 class=x>T</h1><img src=/a.png alt=A><img src=/none.png>")
    assert '<link rel="stylesheet" href="http://store/2">' in out
    assert 'src="http://store/1"' in out and "none.png" not in out
    page = parse("<link rel=stylesheet href=/s.css><body><h1 class=x>T</h1><img src=/a.png alt=A><img src=/none.png>")
    heading = page.select("h1")[0].n
    assert f'<h1 data-gf="{heading}" class="x">T</h1>' in out


def test_marked_words_are_set_off() -> None:
    page = parse("<body><p>kept <b>lost</b></p>")
    number = next(n.n for n in page.nodes if n.text == "lost")
    out = preview_html(page, lambda raw: "", marks={number: ("lost", 'in "no" block')})
    assert f'<gf-mark class="lost" title="in &quot;no&quot; block" data-gf="{number}">lost</gf-mark>' in out


def test_style_sheets_lead_only_to_the_store() -> None:
    css = (
        "@import '/s.css'; @import url(//x/y.css); a { background: URL( \"/a.png\" ) } /* url(//x) */ </style><script>"
    )
    out = safe_css(css, lambda raw: KNOWN.get(raw, ""))
    assert "http://store/2" in out and "http://store/1" in out and "//x" not in out and "</style" not in out
    same = '@media (width < 40em) { a > b::after { content: "x \\3c y" } }'
    assert safe_css(same, lambda raw: "") == same


@settings(max_examples=300, deadline=None)
@given(
    st.lists(
        st.sampled_from(
            [
                "<p>",
                "<svg>",
                "<style>",
                "</style>",
                "<!--",
                "-->",
                "<math>",
                "<a href=javascript:1>",
                "<x onx=1>",
                "<textarea>",
                "</textarea>",
                "<title>",
                "</title>",
                "&lt;img src=x onerror=1&gt;",
                "<![CDATA[",
                "]]>",
                "<desc>",
                "<foreignObject>",
                "<mtext>",
                "<!",
                "--!>",
                "<img src=x onerror=1>",
                "<script>",
                "</script>",
                "'",
                '"',
                ">",
                "<table>",
                "<td>",
                "<select>",
                "<template>",
                "x",
            ]
        ),
        max_size=20,
    ).map("".join)
)
def test_no_soup_of_tags_brings_a_script_back(html: str) -> None:
    for node in parse(shown(f"<body>{html}")).nodes:
        assert node.tag != "script" and not any(name.startswith("on") for name in node.attrs)


@pytest.mark.parametrize(
    ("html", "wanted"),
    [
        ("<h1>T</h1>", "h1"),
        ("<p>a</p><p id=lead>b</p>", "#lead"),
        ("<p>a</p><p class='x price'>b</p><p class=x>c</p>", "p.price"),
        ("<div class=a><h2>x</h2></div><div class=story><h2 class=y>b</h2></div>", "h2.y"),
        ("<div class=a><span>x</span></div><div class=story><span>b</span></div>", "div.story span"),
        ("<p id=p12345>b</p><p>x</p>", "p:nth-of-type(1)"),
    ],
)
def test_the_plainest_selector_that_tells_apart(html: str, wanted: str) -> None:
    page = parse(f"<body>{html}")
    text = "b" if ">b<" in html else "T"
    node = next(n for n in page.nodes if not n.tag and n.text == text)
    found = selector_of(page, node.n)
    assert found.endswith(wanted)
    assert [n.n for n in page.select(found)] == [node.parent.n]  # type: ignore[union-attr]


@settings(max_examples=150, deadline=None)
@given(
    st.lists(
        st.sampled_from(
            ["<div>", "</div>", "<p class=a>", "<p>", "<b id=x>", "</b>", "<ul><li>", "<li>", "</ul>", "t"]
        ),
        max_size=25,
    ).map("".join)
)
def test_every_element_can_be_pointed_at(html: str) -> None:
    page = parse(f"<body>{html}")
    for node in page.inside(page.body):
        if node.tag and node.tag not in ("html", "body"):
            assert page.select(selector_of(page, node.n))[0].n == node.n


@pytest.mark.parametrize(
    ("html", "direction"),
    [
        ('<html dir="rtl"><body>x', "rtl"),
        ('<body dir="RTL">x', "rtl"),
        ('<html lang="he"><body>x', "rtl"),
        ('<html lang="ar-EG"><body dir="ltr">x', "ltr"),
        ('<html lang="az-Arab"><body>x', "rtl"),
        ('<html lang="cy"><body>x', "ltr"),
        ("<body>x", ""),
    ],
)
def test_the_direction_a_page_is_read_in(html: str, direction: str) -> None:
    assert direction_of(parse(html)) == direction
