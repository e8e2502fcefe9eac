"""What is written runs nothing, whatever disguise a page used, and no raw tag becomes visible text."""

from __future__ import annotations

import re

import html5lib
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grandferry.core.references import SETS
from grandferry.core.refit.clean import clean
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_html, to_markdown, to_text
from tests.core.rendering import rendered, visible_text

SCHEMES = ["javascript:", "JaVaScRiPt:", "java&#10;script:", "java&Tab;script:", "&#1;javascript:", " javascript:", "java&#0;script:", "jav&#x09;ascript&colon;", "vbscript:", "data:text/html,", "&#x2028;javascript:"]  # fmt: skip
ACTING = {"script", "object", "embed", "base", "meta", "link", "style", "template", "noscript"}


def acts(html: str) -> list[str]:
    """What in some HTML would run or act in a browser, told by another parser than ours."""
    tree = html5lib.parse(html, namespaceHTMLElements=False)
    found = []
    for element in tree.iter():
        if not isinstance(element.tag, str):
            continue
        name = element.tag.rpartition("}")[2]
        if name in ("script", "base", "template", "noscript") or (name in ("meta", "link", "style") and element.attrib):
            found.append(name)
        for key, value in element.attrib.items():
            key = key.rpartition("}")[2].lower()
            bare = re.sub(r"[\x00-\x20\x7f-\xa0\u2028\u2029\ufeff\ufffd]", "", value).lower()
            if key.startswith("on") or key == "srcdoc":
                found.append(f"{name} {key}")
            address = key in (
                "href",
                "src",
                "action",
                "formaction",
                "data",
                "poster",
                "cite",
                "xlink:href",
                "background",
            )
            if address and re.match(r"(?:java|vb|live)script:|data:(?!image/(?!svg))", bare):
                found.append(f"{name} {key}={value}")
    return found


@pytest.mark.parametrize("scheme", SCHEMES)
@pytest.mark.parametrize(
    "markup",
    [
        '<a href="{}alert(1)">words</a>',
        '<form action="{}x"><input name=a><button formaction="{}x">words</button></form>',
        '<iframe src="{}x">words</iframe>',
        '<object data="{}x"><a href="{}y">words</a></object>',
        '<embed src="{}x">',
        '<svg><a xlink:href="{}x"><text>words</text></a></svg>',
        '<math><maction actiontype="statusline" xlink:href="{}x">words</maction></math>',
        '<map name=m><area href="{}x"></map>',
        '<table background="{}x"><tr><td>words<td>b<tr><td>c<td>d</table>',
        '<blockquote cite="{}x"><p>words</blockquote>',
        '<video poster="{}x" src="{}y"></video>',
        '<img src="{}x" alt="words" width=3>',
        '<canvas onclick="x()"><a href="{}x">words</a></canvas>',
        '<ruby>a<rt><a href="{}x">words</a></rt></ruby>',
        '<p><select onchange="x()"><option>words</select> <a href="{}x"><b>bold</b></a>',
    ],
)
def test_no_script_address_in_any_disguise_is_written(markup: str, scheme: str) -> None:
    blocks = refit_html(markup.replace("{}", scheme)).blocks
    assert acts(to_html(blocks)) == []
    assert acts(rendered(to_markdown(blocks))) == []


@pytest.mark.parametrize(
    "markup",
    [
        '<form onsubmit=x()><p onclick="x()">words <input onfocus=x() autofocus></form>',
        '<svg onload="x()"><style>@import "x"</style><script>x()</script><text>words</text></svg>',
        '<iframe srcdoc="<script>x()</script>"></iframe>',
        '<svg><foreignObject><iframe srcdoc="x"></iframe></foreignObject><a><animate attributeName=href values="javascript:x()"/></a></svg>',
        '<math><mtext><table><mglyph><style><!--</style><img title="--&gt;&lt;img src=1 onerror=x()&gt;">',
        "<form><math><mtext></form><form><mglyph><style></math><img src onerror=x()>",
        '<custom-box style="background:url(javascript:x())" data-x="<script>">words</custom-box>',
        '<form><div style="width: expr/**/ession(x())">words</div><input></form>',
        "<button><!--[if IE]><script>x()</script><![endif]-->words</button>",
        '<form><input name="a"><noscript><p title="</noscript><img src=x onerror=x()>"></noscript></form>',
        '<button a"b=1 c<d=2 onclick>words</button>',
        '<o:p onclick="x()">words</o:p><form><v:shape href="javascript:x()">more</v:shape><input></form>',
    ],
)
def test_islands_are_written_without_anything_that_acts(markup: str) -> None:
    blocks = refit_html(markup).blocks
    for html in (to_html(blocks), rendered(to_markdown(blocks))):
        assert acts(html) == [], html


@pytest.mark.parametrize(
    "markup",
    [
        '<p>one <button a"b="1" {curly}="2" @click="go" :bind="x" #ref>two</button> three</p>',
        '<p>a <o:p x:y="1">b</o:p> c</p>',
        '<p>a <st1:place w:st="on">b</st1:place> c <select [x]="1"><option>d</option></select></p>',
        '<form><fieldset><legend>a</legend><st1:city>b</st1:city><input @x="1"></fieldset></form>',
        '<p>x <my-box (y)="z()">in it</my-box> after</p>',
        '<custom-thing title="a\n\nb"><p>one</p></custom-thing>',
        "<p>a <svg viewBox='0 0 1 1'><text>b &lt; c</text></svg> d</p>",
    ],
)
def test_raw_tags_do_not_become_visible_text(markup: str) -> None:
    blocks = refit_html(markup).blocks
    seen = "".join(visible_text(to_markdown(blocks)).split())
    assert seen == "".join(to_text(blocks).split())
    assert "<" not in seen.replace("b<c", "")


@pytest.mark.parametrize("name", sorted(SETS))
def test_a_set_of_pictures_runs_nothing_and_keeps_its_commas(name: str) -> None:
    assert name not in clean(f'<img {name}="/a.png 1x, java&#1;script:x() 2x" alt="quay">')
    harmless = "/a,b.png 1x, data:image/png;base64,AA== 2x"
    assert f'{name}="{harmless}"' in clean(f'<img {name}="{harmless}">')


def test_what_is_harmless_stays() -> None:
    html = '<form action="/send" method="post"><label for="a">Name</label><input id="a" name="javascript:" value="on"></form>'
    assert clean(html) == html
    assert (
        clean('<svg viewBox="0 0 2 2"><path d="M0 0"></path></svg>')
        == '<svg viewBox="0 0 2 2"><path d="M0 0"></path></svg>'
    )
    assert clean("<pre>\n\nx</pre>") == "<pre>\n\nx</pre>"


ATTRIBUTES = st.sampled_from(
    [
        "onclick=x()",
        "href='javascript:x()'",
        "src=java&#9;script:x()",
        "style='a:expression(x())'",
        "title='<script>'",
        "class=a",
        'x"y=1',
        "{a}=b",
        "srcdoc=x",
        "formaction=javascript:x",
        "data-x='-->'",
        "action=vbscript:x",
        "xlink:href=javascript:x",
    ]  # fmt: skip
)
TAGS = st.sampled_from(
    "form svg math button select custom-a o:p iframe a div p table td style script title textarea xmp noscript template object canvas font span mtext annotation-xml foreignObject desc frameset input img".split()
)


@settings(max_examples=300, deadline=None)
@given(st.lists(st.tuples(TAGS, st.lists(ATTRIBUTES, max_size=3), st.booleans(), st.sampled_from(["", "word", "<!--", "-->", "]]>", "&lt;b&gt;"])), max_size=12))  # fmt: skip
def test_random_nasty_markup_is_written_harmless(pieces: list[tuple[str, list[str], bool, str]]) -> None:
    html = "".join(
        f"<{tag} {' '.join(attrs)}>{text}{f'</{tag}>' if close else ''}" for tag, attrs, close, text in pieces
    )
    blocks = refit_html(f"<p>start {html}").blocks
    written = to_html(blocks)
    assert acts(written) == [], written
    assert acts(rendered(to_markdown(blocks))) == [], to_markdown(blocks)
