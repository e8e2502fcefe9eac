"""Pages of any age: tables that only arrange, lists of other making, pictures that load later, what office programs
write."""

from __future__ import annotations

import pytest

from grandferry.core.page import parse
from grandferry.core.refit.blocks import Table, readdress
from grandferry.core.refit.convert import Refitted, refit_html
from grandferry.core.refit.read.evidence import Sign, evidence
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.core.refit.written import html_read_back, markdown_differs

LONG = "The shed stands by the river and has a roof of slate that was laid anew last year. " * 4


def refitted(html: str) -> Refitted:
    """With nothing lost on the way, in any form."""
    done = refit_html(html)
    assert done.account.unaccounted == 0 and [row for row in done.account.lost if row.why.is_open] == []
    assert markdown_differs(done.blocks) == [] and html_read_back(done.blocks) == []
    return done


def markdown(html: str) -> str:
    return to_markdown(refitted(html).blocks)


TABLES = {
    "a grid of numbers": ("<tr><td>1<td>2<td>3<tr><td>4<td>5<td>6<tr><td>7<td>8<td>9", False),
    "a row of headers": ("<tr><th>Boat<th>Year<tr><td>Wherry<td>1898", False),
    "a column of headers": (f"<tr><th>Boat<td>Wherry<tr><th>Built<td>{LONG}", False),
    "labels beside long values": (f"<tr><td>Boat<td>Wherry<tr><td>Built<td>{LONG}", False),
    "a caption": ("<caption>Boats</caption><tr><td>Wherry<td>1898", False),
    "a menu beside the text": (f"<tr><td width=150><a href=/>Home</a><td><h1>Shed</h1><p>{LONG}", True),
    "a box with a head": (f"<tr><th>Note<tr><td>{LONG}", True),
    "a picture beside a note": (f"<tr><td rowspan=2><img src=n.png><th>Note<tr><td><p>{LONG}", True),
    "one column": ("<tr><td>Wherry<tr><td>Keel<tr><td>Barge", True),
    "a table in it": ("<tr><td>Boats<td><table><tr><td>1<td>2</table>", True),
}


@pytest.mark.parametrize(("inside", "layout"), TABLES.values(), ids=TABLES)
def test_what_a_table_is_for_is_told_by_what_is_seen_of_it(inside: str, layout: bool) -> None:
    page = parse(f"<table>{inside}</table>")
    assert evidence(page.select("table")[0], page).layout is layout
    first = refitted(f"<table>{inside}</table>").blocks[0]
    assert isinstance(first, Table) is not layout


def test_a_table_in_doubt_is_told_with_what_was_seen() -> None:
    (doubt,) = refit_html("<p>Boats</p><table><tr><td>Wherry<td>1898</table>").doubts
    assert doubt.seen.doubtful and not doubt.seen.layout and doubt.seen.signs == (Sign.NARROW, Sign.SHORT)
    assert refit_html("<table><tr><th>A<th>B<tr><td>1<td>2</table>").doubts == ()


def test_heads_of_a_layout_table_stay_bold() -> None:
    assert markdown(f"<table><tr><th>Note<tr><td>{LONG}</table>").startswith("**Note**\n\nThe shed")


LISTS = {
    "<ul>Boats<br>Sheds</ul>": "Boats\\\nSheds\n",
    "<ul>Boats: <b>old</b> ones<li>Wherry<li>Keel</ul>": "Boats: **old** ones\n\n- Wherry\n- Keel\n",
    "<ul><li>Wherry<li>Keel</ul>": "- Wherry\n- Keel\n",
    "<ul><ul><p>Moved to the right</ul></ul>": "Moved to the right\n",
    "<p>• Wherry<p>•&nbsp;Keel": "- Wherry\n- Keel\n",
    "<p>• Wherry<br>• Keel</p>": "- Wherry\n- Keel\n",
    "<p><font>·</font>&nbsp;&nbsp; Wherry<p>·&nbsp; Keel": "- Wherry\n- Keel\n",
    "<p>• Alone": "• Alone\n",
    "<p>3·5 metres<p>4·5 metres": "3·5 metres\n\n4·5 metres\n",
    "<ol start=3><li>a<li value=9>b<li>c</ol>": "3. a\n9. b\n10. c\n",
    "<ol start=-3><li>a</ol>": "0. a\n",
}


@pytest.mark.parametrize(("html", "expected"), LISTS.items())
def test_lists_are_read_as_what_they_show(html: str, expected: str) -> None:
    assert markdown(html) == expected


def test_numbers_of_lists_are_kept_where_html_has_them() -> None:
    html = to_html(refitted("<ol start=-2 type=a reversed><li>a<li value=7>b</ol>").blocks)
    assert html == '<ol start="-2" type="a" reversed>\n<li>a</li>\n<li value="7">b</li>\n</ol>\n'


def item(level: int, mark: str, text: str) -> str:
    return (
        f"<p class=MsoListParagraph style='margin-left:36pt;mso-list:l0 level{level} lfo1'><![if !supportLists]><span "
        f"style='mso-list:Ignore'>{mark}<span style='font:7pt \"Times New Roman\"'>&nbsp;&nbsp;&nbsp; </span></span>"
        f"<![endif]>{text}<o:p></o:p></p>"
    )


def test_what_an_office_program_writes_is_read_as_text_with_its_marks() -> None:
    html = (
        "<html xmlns:o='urn:x'><body><!--[if gte mso 9]><xml><o:x>1</o:x></xml><![endif]-->"
        "<p class=MsoNormal><b style='mso-bidi-font-weight:normal'>Sheds</b> of <st1:place>Maltby</st1:place>, "
        "<span style='font-style: italic'>old</span> <span style='text-decoration:line-through'>new</span><o:p></o:p>"
        "</p>" + item(1, "1.", "First") + item(2, "o", "Inner") + item(1, "2.", "Second") + "<p><o:p>&nbsp;</o:p></p>"
    )
    assert markdown(html) == "**Sheds** of Maltby, *old* ~~new~~\n\n1. First\n   - Inner\n2. Second\n"
    assert markdown("<b style='font-weight:normal'><p>a<p>b</b>") == "a\n\nb\n"


PICTURES = {
    "<img src=/spacer.gif data-src=/shed.jpg>": "/shed.jpg",
    "<img src=data:image/gif;base64,R0 class=lazy><noscript><img src=/shed.jpg></noscript>": "/shed.jpg",
    "<picture><source srcset='/s.jpg 400w, /shed.jpg 1200w'><img src=data:,></picture>": "/shed.jpg",
    "<img src=/s.jpg srcset='/s.jpg 300w, /shed.jpg 1200w, /vast.jpg 8000w'>": "/shed.jpg",
    "<img src=/shed.jpg data-src=/other.jpg>": "/shed.jpg",
}


@pytest.mark.parametrize(("html", "source"), PICTURES.items())
def test_the_picture_shown_is_the_real_one(html: str, source: str) -> None:
    assert markdown(f"<p>{html}</p>") == f"![]({source})\n"


def test_a_picture_that_is_a_heading_stays_one_and_a_map_keeps_its_areas() -> None:
    assert markdown("<h1><img src=logo.png alt='Maltby Sheds'></h1>") == "# ![Maltby Sheds](logo.png)\n"
    done = refitted("<p><img src=map.png usemap=#m><map name=m><area href=/shed coords=0,0,9,9 alt=Shed></map></p>")
    moved = readdress(done.blocks, lambda href: href.replace("/shed", "/new/"), lambda src: f"/files/{src}")
    assert 'href="/new/"' in to_html(moved) and 'src="/files/map.png"' in to_html(moved)
    assert 'usemap="#m"' in to_html(moved)


def test_links_in_raw_markup_go_to_their_new_places() -> None:
    done = refitted("<form><a href=/a>a</a><img srcset='/b.png 1x, /c.png 2x'><i style='background:url(/d.png)'></i>"
                    "<input></form>")  # fmt: skip
    html = to_html(readdress(done.blocks, lambda href: "/new" + href, lambda src: "/files" + src))
    assert 'href="/new/a"' in html and "/files/b.png 1x, /files/c.png 2x" in html and "/files/d.png" in html


def test_two_breaks_end_a_paragraph_also_with_blanks_between_and_within_marks() -> None:
    assert markdown("<p>one<br>&nbsp;<br>two") == "one\n\ntwo\n"
    assert markdown("<p><b>one<br><br>two</b> three") == "**one**\n\n**two** three\n"


def test_another_language_or_direction_is_kept() -> None:
    html = "<html lang=en><p lang=en>a<p lang=cy>b<div dir=rtl lang=he><p>c</div>"
    assert to_html(refitted(html).blocks) == (
        '<p>a</p>\n<div lang="cy">\n<p>b</p>\n</div>\n<div lang="he" dir="rtl">\n<p>c</p>\n</div>\n'
    )


def test_films_keep_their_sources_poster_and_captions() -> None:
    html = (
        "<video poster=p.png><source src=a.mp4><source src=a.webm type=video/webm><track src=a.vtt srclang=en></video>"
    )
    assert to_html(refitted(html).blocks) == (
        '<video src="a.mp4" poster="p.png" controls><source src="a.webm" type="video/webm">'
        '<track src="a.vtt" srclang="en"></video>\n'
    )


def test_code_in_a_term_is_code() -> None:
    assert markdown("<dl><dt><pre>shed\nyard</pre><dd>For goods</dl>") == "- **`shed`\\\n  `yard`**\\\n  For goods\n"


def test_numbers_of_lines_beside_code_are_no_code() -> None:
    html = "<table><tr><td><pre>1\n2\n3</pre><td><pre><code class=language-c>a\n  b\nc</code></pre></table>"
    done = refitted(html)
    assert to_markdown(done.blocks) == "```c\na\n  b\nc\n```\n"
    assert done.account.code_lines == [3, 3] and done.account.in_blocks == done.account.words == 6
    beside = "<table><tr><td>1898<td><pre>a</pre><tr><td>7<td><pre>b</pre></table>"
    assert isinstance(refitted(beside).blocks[0], Table), "values beside code are values"
