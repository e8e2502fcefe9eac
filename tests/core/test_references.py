"""One table says what names an address: every part of the program finds the same, and nothing is lost without a record."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grandferry.core.address import Scope
from grandferry.core.filetypes import TABLE, ending_for, family_of_type, is_download, is_packed, looks_like_file
from grandferry.core.kinds import FieldPlan, Locator, Step
from grandferry.core.lift.fields import lift_field
from grandferry.core.page import parse
from grandferry.core.preview import preview_html
from grandferry.core.references import picture_source, runs_script, scheme_of
from grandferry.core.refit.account import MISSING_CAP, Thing
from grandferry.core.refit.convert import Refitted, refit_html
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.core.survey.glance import glance
from grandferry.core.survey.offline import rewrite_page

PICTURES = [
    '<img src="/the.png">',
    '<img data-src="/the.png">',
    '<img src="data:image/gif;base64,R0lGODlhAQABAAAAACw=" data-original="/the.png">',
    '<img src="/img/spacer.gif" data-lazy-src="/the.png">',
    '<img src="/a/1x1.png" data-lazy="/the.png">',
    '<img srcset="/small.png 300w, /the.png 900w">',
    '<img data-srcset="/the.png 2x, /small.png">',
    '<img src="/placeholder.svg" data-original-src="/the.png">',
    '<input type="image" src="/the.png" alt="Go">',
    '<div class="lazy" data-bg="/the.png"></div>',
    '<div data-background-image="url(/the.png)"></div>',
    "<div style=\"background: #fff url('/the.png') no-repeat\"></div>",
    '<p><span data-background="/the.png" title="A view"></span></p>',
    '<a href="/somewhere"><span style="background-image:url(/the.png)"></span></a>',
    '<table><tr><td background="/the.png"></td><td>b</td></tr><tr><td>c</td><td>d</td></tr></table>',
    '<video src="/film.mp4" poster="/the.png"></video>',
    '<section data-src="/the.png"></section>',
]


@pytest.mark.parametrize("markup", PICTURES)
def test_survey_reader_account_lift_preview_and_copy_find_the_same_picture(markup: str) -> None:
    html = f"<body><main><p>Words</p>{markup}</main>"
    assert "/the.png" in {link.raw for link in glance(html).links}
    done = refit_html(html)
    things = done.account.things
    recorded = {lost.raw for lost in done.account.lost}
    assert things[Thing.PICTURES].have + things[Thing.BACKGROUNDS].have == 1
    assert ("/the.png" in to_html(done.blocks)) != ("/the.png" in recorded), "kept, or told; never both"
    asked: list[str] = []
    if "<video" not in markup:  # a film stands as a box in the preview
        preview_html(parse(html), lambda raw: asked.append(raw) or raw)
        assert "/the.png" in asked
    assert "the-local.png" in rewrite_page(html, lambda raw: raw.replace("/the.png", "the-local.png"))
    field = FieldPlan(name="lead", type="picture", locators=[Locator(css="main")])
    scope = Scope(hosts=frozenset(["old.test"]))
    lifted = lift_field(parse(html), field, "/", "http://old.test/", scope).value
    if "<td" not in markup and "<div" not in markup and "<section" not in markup and "<span" not in markup:
        assert lifted is not None and lifted["src"] == "http://old.test/the.png"


def test_a_picture_keeps_its_own_address_unless_that_stands_in_for_another() -> None:
    assert picture_source("img", {"src": "/own.jpg", "data-src": "/other.jpg"}) == "/own.jpg"
    assert picture_source("img", {"src": "/own.jpg", "srcset": "/big.jpg 3x"}) == "/big.jpg"
    widths = "/s.jpg 300w, /m.jpg 1600w, /l.jpg 5200w"
    assert picture_source("img", {"src": "/s.jpg", "srcset": widths}) == "/m.jpg", "the largest that fits"
    assert picture_source("img", {"src": "/blank.gif", "srcset": "/a.jpg 5200w, /b.jpg 4000w"}) == "/b.jpg"
    assert picture_source("img", {"src": "/blanket.jpg", "data-src": "/other.jpg"}) == "/blanket.jpg"
    assert picture_source("img", {"src": "/lib/blank.gif", "data-src": "/other.jpg"}) == "/other.jpg"
    assert picture_source("img", {"data-lazy": "true", "src": "/own.jpg"}) == "/own.jpg"
    assert picture_source("img", {"data-src": "#333"}) == "" == picture_source("img", {"alt": "x"})


@pytest.mark.parametrize(
    "raw",
    [
        "javascript:alert(1)",
        " JavaScript:alert(1)",
        "java\nscript:alert(1)",
        "java\tscript\r\n:alert(1)",
        "\x01\x02javascript:alert(1)",
        "\x00javascript:x",
        "vbscript:x",
        "data:text/html,<script>x</script>",
        "data:image/svg+xml,<svg onload=x>",
        "\u2028javascript:x",
        "java\x00script:alert(1)",
    ],
)
def test_addresses_that_run_scripts_are_known_in_disguise(raw: str) -> None:
    assert runs_script(raw)


@pytest.mark.parametrize(
    "raw",
    ["/javascript:x", "page.html", "mailto:a@b.test", "#javascript:", "http://old.test/", "data:image/png;base64,AA"],
)
def test_other_addresses_do_not(raw: str) -> None:
    assert not runs_script(raw)


def test_schemes() -> None:
    assert scheme_of("HTTP://x") == "http" and scheme_of("a/b:c") == "" and scheme_of("tel:1") == "tel"


def test_every_type_and_ending_stands_in_the_table_once() -> None:
    endings = [e for kind in TABLE for e in kind.endings]
    types = [t for kind in TABLE for t in kind.types]
    assert len(endings) == len(set(endings)) and len(types) == len(set(types))
    assert looks_like_file("/a/b.PDF?x=1") and not looks_like_file("/a.pdf/") and not looks_like_file("/p.aspx")
    assert is_download("http://x.test/a.zip#top") and not is_download("/a.png") and not is_download("/a.html")
    assert family_of_type("image/x-unheard-of") == "pictures" and family_of_type("text/x-odd") == "documents"
    assert ending_for("image/jpeg") == "jpg" and ending_for("application/x-odd") == "bin"
    assert is_packed("image/png") and not is_packed("image/svg+xml") and not is_packed("text/html")


# --- nothing is lost without a record ----------------------------------------------------------------------------------

BOXES = "div p section ul ol li table tr td th dl dt dd blockquote pre h2 h3 figure figcaption span b em code center font details summary form a button label ins sub nav main fieldset legend caption tbody article address small q".split()


@st.composite
def markup(draw: st.DrawFn) -> tuple[str, dict[str, str]]:
    """Random markup, and the things put into it: a mark that is in no other -> what it is."""
    things: dict[str, str] = {}

    def word() -> str:
        return draw(st.sampled_from(["", "", "word ", "two words ", " "]))

    def thing() -> str:
        number = f"x{len(things)}x"
        sort = draw(st.sampled_from(["link", "link", "picture", "picture", "file", "frame", "anchor", "area"]))
        things[number] = sort
        if sort == "link":
            within = draw(st.sampled_from(["word", "<b>bold</b>", "", " ", "<i class=icon></i>", "<img src=/own.png>"]))
            more = draw(st.sampled_from(["", " title=Title", " aria-label=Named"]))
            start = draw(st.sampled_from(["/", "javascript:", "http://old.test/"]))
            return f'<a href="{start}{number}.html"{more}>{within}</a>'
        if sort == "picture":
            return draw(
                st.sampled_from(
                    [
                        f"<img src=/{number}.png>",
                        f"<img data-src=/{number}.png alt=A>",
                        f'<img srcset="/{number}.png 2x">',
                        f"<div data-bg=/{number}.png></div>",
                        f'<div style="background:url(/{number}.png)">text</div>',
                        f'<p style="background:url(/{number}.png)"></p>',
                        f"<span data-src=/{number}.png></span>",
                        f"<a data-src=/{number}.png>text</a>",
                        f"<td background=/{number}.png>cell</td>",
                        f"<input type=image src=/{number}.png>",
                    ]
                )
            )
        if sort == "file":
            return draw(
                st.sampled_from(
                    [
                        f"<a href=/{number}.pdf>a paper</a>",
                        f"<audio src=/{number}.mp3></audio>",
                        f"<video><source src=/{number}.mp4></video>",
                        f"<object data=/{number}.swf></object>",
                        f"<embed src=/{number}.swf>",
                        f"<video src=/film.mp4><track src=/{number}.vtt></video>",
                    ]
                )
            )
        if sort == "frame":
            return f"<iframe src=/{number}></iframe>"
        if sort == "area":
            return f"<map name=m><area href=/{number}></map>"
        holder = draw(st.sampled_from(["p", "li", "td", "h2", "span", "tr", "img", "dt", "dd", "pre", "div", "a"]))
        return f'<{holder} id="{number}">place</{holder}><a href="#{number}">to it</a>'

    def some(depth: int) -> str:
        parts = []
        for _ in range(draw(st.integers(1, 4))):
            if depth and draw(st.booleans()):
                tag = draw(st.sampled_from(BOXES))
                more = draw(st.sampled_from(["", "", " href=/box.html"])) if tag == "a" else ""
                close = f"</{tag}>" if draw(st.integers(0, 5)) else ""
                parts.append(f"<{tag}{more}>{some(depth - 1)}{close}")
            else:
                parts.append(word() + thing() + word())
        return "".join(parts)

    return some(4), things


@settings(max_examples=400, deadline=None)
@given(markup())
def test_no_link_picture_file_frame_or_anchor_is_lost_without_a_record(made: tuple[str, dict[str, str]]) -> None:
    html, things = made
    page = parse(html)
    done: Refitted = refit_html(html)
    written = to_html(done.blocks)
    recorded = " ".join(lost.raw for lost in done.account.lost)
    there = {n.n: " ".join(v or "" for v in n.attrs.values()) for n in page.nodes if n.tag}
    for number, sort in things.items():
        if not any(number in values for values in there.values()):
            continue  # the parser itself dropped the element, as every browser does
        assert number in written or number in recorded, (sort, number, to_markdown(done.blocks))
    for count in done.account.things.values():
        assert count.have >= count.kept >= 0 and count.lost >= 0


def test_a_link_around_a_table_is_the_link_of_every_line_in_it() -> None:
    done = refit_html(
        "<a href=/in><div><table><tr><td>one<td>two<tr><td>three<td><a href=/own>four</a></table></div></a>"
    )
    written = to_html(done.blocks)
    assert written.count('href="/in"') == 3 and written.count('href="/own"') == 1
    assert done.account.things[Thing.LINKS].lost == 0


def test_things_beyond_what_is_listed_are_counted() -> None:
    links = "".join(f'<a href="/{number}">berth {number}</a> ' for number in range(MISSING_CAP + 7))
    done = refit_html(f"<p>words</p><div class=box>{links}</div>", steps=[Step(name="boxes", remove=".box")])
    assert (len(done.account.lost), done.account.unlisted) == (MISSING_CAP, 7)
    assert done.account.things[Thing.LINKS].removed == MISSING_CAP + 7
