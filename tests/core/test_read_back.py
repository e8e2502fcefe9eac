"""What was written is read back by another reader, and what it lost or added is named."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grandferry.core.refit.blocks import Anchor, CodeBlock, Link, Paragraph, Picture, Text
from grandferry.core.refit.choices import CHOICES, Odd, WrittenAs
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_html, to_markdown, write_markdown
from grandferry.core.refit.written import What, html_read_back, markdown_differs, read_back
from tests.core.test_refit import pieces

BLOCKS = (
    Paragraph((Anchor("a"), Text("Sheds of "), Link("/yard", (Text("the yard"),)), Picture("/shed.png", "a shed"))),
    CodeBlock((Text("shed()\n  yard()"),)),
)


@pytest.mark.parametrize(
    ("written", "what", "lost"),
    [
        ("the yard", What.WORDS, True),
        ("(/yard)", What.LINKS, True),
        ("![a shed](/shed.png)", What.PICTURES, True),
        ('<a id="a"></a>', What.ANCHORS, True),
        ("  yard()", What.CODE, True),
    ],
)
def test_what_a_text_has_lost_is_named(written: str, what: What, lost: bool) -> None:
    whole = to_markdown(BLOCKS)
    assert written in whole and read_back(BLOCKS, whole) == []
    assert (what, lost) in [(found.what, found.lost) for found in read_back(BLOCKS, whole.replace(written, ""))]


def test_what_a_text_has_more_is_named() -> None:
    (found,) = read_back(BLOCKS, to_markdown(BLOCKS) + "\nthree more words\n")
    assert (found.what, found.lost, found.number) == (What.WORDS, False, 3)


LINKED = pieces | st.sampled_from(
    [
        "<a href=#here>",
        "<p id=here>",
        "<li id=here>",
        "<td id=here>",
        "<dt id=here>",
        "<img src='a b.png' alt='*'>",
        "<a href='x(y'>",
        "<a href='/a?b=1&amp;copy=2'>",
        "<pre><a href=y>",
        "<th>",
        "<td colspan=2>",
        "<table>",
        "</table>",
        "<dl>",
        "<figure>",
        "<figcaption>",
        "<caption>",
    ]
)


@settings(max_examples=400, deadline=None)
@given(st.lists(LINKED, max_size=25).map("".join))
def test_no_markup_makes_a_writer_lose_anything(html: str) -> None:
    done = refit_html(html)
    for found in (*markdown_differs(done.blocks), *html_read_back(done.blocks)):
        # raw markup that is nested wrongly is mended by each reader in its own way: a link in two parts
        assert (found.what, found.lost) == (What.LINKS, False) and "<a " in to_html(done.blocks)
    assert [row for row in done.account.lost if row.why.is_open] == []


@settings(max_examples=150, deadline=None)
@given(
    st.lists(LINKED, max_size=20).map("".join),
    st.fixed_dictionaries({odd: st.sampled_from(sorted(of)) for odd, of in CHOICES.items() if odd is not Odd.ANCHORS}),
)
def test_whatever_is_chosen_no_word_is_lost(html: str, choices: dict[Odd, WrittenAs]) -> None:
    done = refit_html(html)
    lost = [row for row in markdown_differs(done.blocks, choices) if row.what is What.WORDS]
    dropped = WrittenAs.REPORT in (choices[Odd.ISLANDS], choices[Odd.FORMS], choices[Odd.EMBEDS])
    marked = choices[Odd.DEFINITIONS] is WrittenAs.MARKED  # a colon that only its own dialect reads
    assert dropped or marked or lost == []


TABLE = "<table><caption>Trains</caption><tr><th>Line<th>Days<tr><th>North<td><p>Monday<p>Friday</table>"


def test_the_choices_for_what_markdown_has_no_mark_for() -> None:
    blocks = refit_html(TABLE).blocks
    assert to_markdown(blocks) == ("Trains\n\n| Line | Days |\n| --- | --- |\n| **North** | Monday<br><br>Friday |\n")
    assert to_markdown(blocks, {Odd.CAPTIONS: WrittenAs.HTML}).startswith("<table>\n<caption>Trains</caption>")
    assert to_markdown(blocks, {Odd.ROW_HEADERS: WrittenAs.HTML}).startswith("<table>\n<caption>")
    terms = refit_html("<dl><dt>Shed<dd>For goods<dt>Yard<dt>Park<dd><p>1<p>2</dl>").blocks
    assert to_markdown(terms) == "- **Shed**\\\n  For goods\n\n- **Yard**\\\n  **Park**\n\n  1\n\n  2\n"
    assert to_markdown(terms, {Odd.DEFINITIONS: WrittenAs.MARKED}).startswith(
        "Shed\n\n:   For goods\n\nYard\nPark\n\n:   1\n"
    )
    sized = refit_html("<p><img src=a.png alt=a width=9></p>").blocks
    written = write_markdown(sized)
    assert (written.text, written.left_out) == ("![a](a.png)\n", {Odd.SIZES: 1})
    assert "width" in to_markdown(sized, {Odd.SIZES: WrittenAs.HTML})
    linked = refit_html("<pre>a <a href=/b>b</a></pre>").blocks
    assert write_markdown(linked).raw_words == 2
    assert write_markdown(linked, {Odd.CODE_LINKS: WrittenAs.PLAIN}) == ("```\na b\n```\n", 0, {Odd.CODE_LINKS: 1})


def test_cells_hold_lists_and_code_within_a_table_of_markdown() -> None:
    html = "<table><tr><th>A<th>B<tr><td><ul><li>one *<li>two|</ul><td><pre>x  = `1`\n\ty | z</pre></table>"
    done = refit_html(html)
    assert write_markdown(done.blocks).raw_words == 0 and markdown_differs(done.blocks) == []
    assert replace(done.account, missing=[]).unaccounted == 0


def test_a_list_that_goes_on_counting_stays_a_list_within_an_item() -> None:
    """CommonMark 0.31, section 5.3: only a list that begins with 1 can interrupt a paragraph."""
    html = "<ul><li>a<ol><li value=1>x</ol><li>b<ol><li value=5>y</ol><li>c<ol start=3><li>z</ol></ul>"
    blocks = refit_html(html).blocks
    assert markdown_differs(blocks) == []
    assert "5. y" in write_markdown(blocks).text
