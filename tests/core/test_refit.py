"""HTML to blocks to Markdown and back, judged by other people's parsers."""

from __future__ import annotations

import json
import re

import html5lib
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from grandferry.core.kinds import Step
from grandferry.core.page import parse
from grandferry.core.refit.blocks import CodeBlock, Disclosure, readdress, to_json
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.document import from_document
from grandferry.core.refit.write import to_html, to_json_text, to_markdown, to_text
from tests.core.rendering import rendered, visible_text


def shapes(html: str) -> list[str]:
    """The names of the top blocks."""
    return [type(b).__name__ for b in refit_html(html).blocks]


def markdown(html: str) -> str:
    return to_markdown(refit_html(html).blocks)


def squeezed(text: str) -> str:
    return "".join(text.split())


CASES = {
    "<h2 id=x>A <em>b</em></h2>": "## A *b*\n",
    "<p>one<br>two</p>": "one\\\ntwo\n",
    "<p>one<br><br>two</p>": "one\n\ntwo\n",
    "<ul><li>a<ul><li>b</ul><li>c</ul>": "- a\n  - b\n- c\n",
    "<ol start=4><li>a<li>b</ol>": "4. a\n5. b\n",
    "<ul><li><p>a</p><p>b</p><li>c</ul>": "- a\n\n  b\n\n- c\n",
    "<ul><li>a</ul><ul><li>b</ul>": "- a\n\n+ b\n",
    "<ul><li><input type=checkbox checked> done<li><input type=checkbox> open</ul>": "- [x] done\n- [ ] open\n",
    "<blockquote><p>a</p><p>b</p></blockquote>": "> a\n>\n> b\n",
    "<hr>": "***\n",
    "<pre><code class=language-c>a\n\n  b</code></pre>": "```c\na\n\n  b\n```\n",
    "<pre>```</pre>": "````\n```\n````\n",
    "<table><tr><th>A</th><th align=right>B</th></tr><tr><td>1|2</td><td>x</td></tr></table>": "| A | B |\n| --- | --: |\n| 1\\|2 | x |\n",
    "<p><a href='x y' title='T \"q\"'>l</a> <img src=i.png alt='a]b'></p>": '[l](x%20y "T \\"q\\"") ![a\\]b](i.png)\n',
    "<p>H<sub>2</sub>O <kbd>Ctrl</kbd> <s>old</s> <u>u</u></p>": "H<sub>2</sub>O <kbd>Ctrl</kbd> ~~old~~ <u>u</u>\n",
    "<p><code>a`b</code> <code>`</code></p>": "``a`b`` `` ` ``\n",
    "<p><a href=/d.pdf>Doc</a></p>": "[Doc](/d.pdf)\n",
    "<details open><summary>S</summary><p>t</p></details>": "<details open>\n<summary>S</summary>\n\nt\n\n</details>\n",
    "<font color=red><p>a<p>b</font>": "a\n\nb\n",
    "<b><p>a</p><p>b</p></b>": "**a**\n\n**b**\n",
    "<p>a<b> b </b>c</p>": "a **b** c\n",
    '<p><strong>"q"</strong>word</p>': '<strong>"q"</strong>word\n',
    "<p><em>a</em><strong>b</strong></p>": "*a*__b__\n".replace("__b__", "<strong>b</strong>"),
}


@pytest.mark.parametrize(("html", "expected"), CASES.items())
def test_markdown(html: str, expected: str) -> None:
    if html == "<p><em>a</em><strong>b</strong></p>":
        assert rendered(markdown(html)).strip() == "<p><em>a</em><strong>b</strong></p>"
        return
    assert markdown(html) == expected


@pytest.mark.parametrize(
    "text",
    [
        "* a",
        "a * b",
        "*a*",
        "1. x",
        "1) x",
        "# x",
        "+ x",
        "- x",
        "> x",
        "a_b_c",
        "_a_",
        "__x__",
        "[a](b)",
        "![a](b)",
        "[a]: b",
        "<b>",
        "a<b",
        "&amp;",
        "&copy",
        "AT&T",
        "\\*",
        "a\\",
        "`x`",
        "~~x~~",
        "~x~",
        "---",
        "***",
        "===",
        "a | b",
        "| a |",
        "|---|",
        "!",
        "[x]",
        "[ ] a",
        "x\\_y",
        "http://a.test/_b_",
        "<!-- c -->",
        "2*3*4",
        "snake_case_word",
        "$5 ~ $6",
        "```",
        "~~~",
        "#hash",
        "1986. A year",
        "a]",
        "[a",
        "(a)",
        "+",
        "-",
    ],
)
@pytest.mark.parametrize(
    "form",
    [
        "<p>{}</p>",
        "<ul><li>{}</li></ul>",
        "<h2>{}</h2>",
        "<table><tr><th>{}</th></tr><tr><td>x</td></tr></table>",
        "<p>x<br>{}</p>",
        "<p><b>{}</b></p>",
        "<p><a href=q>{}</a></p>",
        "<p>{}<em>e</em></p>",
        "<blockquote>{}</blockquote>",
    ],
)
def test_special_characters_come_back_as_they_were(text: str, form: str) -> None:
    """What means something in Markdown is escaped there: the rendered text is the text."""
    escaped = text.replace("&", "&amp;").replace("<", "&lt;")
    html = form.format(escaped)
    page = parse(html)
    expected = squeezed("".join(n.text for n in page.inside(page.body) if not n.tag))
    assert squeezed(visible_text(markdown(html))) == expected


@pytest.mark.parametrize(
    "plain",
    ["a * b", "snake_case_word", "5 > 3", "AT&T", "(x)", "a # b", "1.5", "x + y - z", "[1]", "! a", "a | b", "~ 5"],
)
def test_nothing_is_escaped_that_needs_no_escape(plain: str) -> None:
    html = "<p>" + plain.replace("&", "&amp;").replace(">", "&gt;") + "</p>"
    assert markdown(html) == plain + "\n"


CODE = "if a < b && c:\n\treturn `x`  \n\n    '''y'''\\\n<end>"


@pytest.mark.parametrize(
    "around",
    [
        "{}",
        "<ul><li>x{}</li></ul>",
        "<blockquote>{}</blockquote>",
        "<details><summary>s</summary>{}</details>",
        "<ol><li><p>a</p>{}</li></ol>",
        "<table><tr><td>a</td><td>{}</td></tr></table>",
        "<dl><dt>t<dd>{}</dl>",
    ],
)
def test_code_is_kept_byte_for_byte(around: str) -> None:
    escaped = CODE.replace("&", "&amp;").replace("<", "&lt;")
    html = around.format(f'<pre><code class="language-py">{escaped}</code></pre>')
    page = parse(rendered(markdown(html)))
    found = ["".join(n.text for n in page.inside(pre) if not n.tag) for pre in page.select("pre")]
    assert [text.removesuffix("\n") for text in found] == [CODE]
    blocks = refit_html(html).blocks
    assert CODE in to_text(blocks) or "table" in around or "<li>" in around
    assert parse(to_html(blocks)).select("pre")[0].children[0].tag == "code"


@pytest.mark.parametrize("code", ["x", "x\n", "\nx", "\n\n x\n\n", "\tx \n", "a\n\n\nb\n"])
@pytest.mark.parametrize(
    "form", ["<pre>\n{}</pre>", "<pre><code>{}</code></pre>", "<blockquote><pre>\n{}</pre></blockquote>"]
)
def test_first_and_last_line_breaks_of_code_are_kept(code: str, form: str) -> None:
    blocks = refit_html(form.format(code)).blocks

    def texts(html: str) -> list[str]:
        page = parse(html)
        return ["".join(n.text for n in page.inside(pre) if not n.tag) for pre in page.select("pre")]

    assert texts(to_html(blocks)) == [code]
    held = json.dumps(to_json(blocks))
    assert json.dumps(code)[1:-1] in held
    (shown,) = texts(rendered(markdown(form.format(code))))
    assert shown.removesuffix("\n") == code.removesuffix("\n"), "Markdown ends every last line"


def test_constructs_become_blocks() -> None:
    html = """<h1>T</h1><p>p<ul><li>l</ul><table><tr><td>1<td>2<tr><td>3<td>4</table><pre>c</pre><blockquote>q</blockquote>
    <figure><img src=a><figcaption>c</figcaption></figure><hr><dl><dt>t<dd>d</dl><details><summary>s</summary>x</details>
    <iframe src=/v></iframe><p><a href=/a.pdf>A</a></p><form><input name=n></form><x-thing>words</x-thing>"""
    assert shapes(html) == [
        "Heading",
        "Paragraph",
        "List",
        "Table",
        "CodeBlock",
        "Quote",
        "Figure",
        "Divider",
        "Definitions",
        "Disclosure",
        "Embed",
        "FileLink",
        "Form",
        "Island",
    ]
    account = refit_html(html).account
    assert account.islands == {"x-thing": 1} and account.in_islands == 1


def test_layout_tables_are_read_as_their_cells() -> None:
    html = "<table><tr><td><h1>Title</h1><p>text</td><td><table><tr><td>a</td><td>b</td></tr></table></td></tr></table>"
    assert shapes(html) == ["Heading", "Paragraph", "Table"]


def test_spans_and_captions_are_written_as_html_without_blank_lines() -> None:
    html = "<table><caption>C</caption><tr><td rowspan=2>a<td>b<tr><td>c</table>"
    text = markdown(html)
    assert 'rowspan="2"' in text and "<caption>C</caption>" in text and "\n\n" not in text.strip()


@pytest.mark.parametrize(
    "html",
    [
        "<div class=q onclick=\"flip('a1')\">Open me</div><div id=a1 style='display:none'><p>Inside</div>",
        "<h3><button aria-expanded=false aria-controls=p1>Open me</button></h3><div id=p1 hidden><p>Inside</div>",
        "<details><summary>Open me</summary><p>Inside</details>",
    ],
)
def test_folding_sections_however_they_are_made(html: str) -> None:
    (block,) = refit_html(html).blocks
    assert isinstance(block, Disclosure)
    assert to_text((block,)) == "Open me\n\nInside\n"


NASTY = [
    "<p>a<b>b<i>c</b>d</i>e",
    "<table>x<tr>y<td>z</table>w",
    "<ul>a<li>b<p>c</ul>d",
    "<a href=1>x<a href=2>y</a>z",
    "<p>a<div>b</p>c</div>d",
    "<TD>no table",
    "<b><p>x</b>y</p>z",
    "<dl><p>a<dd>b<dt>c</dl>",
    "</p>a<br/></br>b",
    "<h1>a<h2>b</h1>c",
    "<center><font><li>x</font></center>y",
    "a<!-- b -->c<!d>e",
    "<select><option>a<option>b</select>c",
    "<i>a<p>b<i>c",
    "<table><td>a<table><td>b</table>c</table>d",
    "<p><table><tr><td>x</td></tr></table>y",
    "<button>a<p>b</button>c",
    "<em><h2>t</em>u</h2>",
    "&notit; &amp;amp; &#x41;&bogus;",
    "<pre>\n\na\n</pre>",
]


@pytest.mark.parametrize("html", NASTY)
def test_broken_markup_keeps_its_words_in_order(html: str) -> None:
    """Referee: html5lib's tree of the same markup."""
    tree = html5lib.parse(html, treebuilder="etree", namespaceHTMLElements=False)
    body = tree.find("body")
    for comment in [e for e in body.iter() if not isinstance(e.tag, str)]:
        comment.text = ""
    expected = squeezed("".join(body.itertext()))
    result = refit_html(html)
    assert squeezed(to_text(result.blocks)) == expected
    assert squeezed(visible_text(to_markdown(result.blocks))) == expected
    assert result.account.unaccounted == 0


TAGS = [
    "p",
    "div",
    "b",
    "i",
    "em",
    "strong",
    "ul",
    "ol",
    "li",
    "table",
    "tr",
    "td",
    "th",
    "h2",
    "blockquote",
    "pre",
    "code",
    "a href=x",
    "span",
    "dl",
    "dt",
    "dd",
    "font",
    "center",
    "sub",
    "u",
    "s",
    "details",
    "summary",
    "figure",
    "figcaption",
    "kbd",
    "x-y",
    "section",
]
pieces = st.one_of(
    st.sampled_from(
        [f"<{t}>" for t in TAGS] + [f"</{t.split()[0]}>" for t in TAGS] + ["<br>", "<hr>", "<img src=a alt=b>"]
    ),
    st.text(alphabet="ab *_`[]()<>&#!~|\\-+.1 \n\t:\"'é\u00a0", max_size=12).map(
        lambda t: t.replace("&", "&amp;").replace("<", "&lt;")
    ),
)


@settings(max_examples=400, deadline=None)
@example("<figure><h2><figcaption>1")
@example("<code><s>1<s>1")
@example("1<br>\xa0")
@example("<code><a href=x>]:")
@example("<p><b><a href=x><code>]: y</code></a></b>")
@given(st.lists(pieces, max_size=25).map("".join))
def test_any_markup_keeps_every_word(html: str) -> None:
    """Whatever the soup, all visible text stands in the blocks, in the Markdown and in the HTML."""
    page = parse(html)
    expected = squeezed("".join(n.text for n in page.inside(page.body) if not n.tag and n.visible))
    result = refit_html(html)
    assert result.account.unaccounted == 0 and result.account.kept == result.account.words
    again = parse(to_html(result.blocks))
    shown = "".join(n.text for n in again.inside(again.body) if not n.tag and n.visible)
    # a summary or caption stands first or last in its box, wherever the soup had it
    order = sorted if "<summary>" in html or "<figcaption>" in html else list
    for text in (to_text(result.blocks), shown, visible_text(to_markdown(result.blocks))):
        assert order(squeezed(text)) == order(expected)
    assert from_document(json.loads(to_json_text(result.blocks))) == result.blocks


def test_the_account_shows_what_a_step_took() -> None:
    result = refit_html("<p>keep <span class=x>drop these</span> words</p>", steps=[Step(name="badge", remove=".x")])
    account = result.account
    assert (account.words, account.in_blocks, account.removed) == (4, 2, {"badge": 2})
    (missing,) = account.missing
    assert (missing.text, missing.why, missing.where) == ("drop these", "badge", "body > p > span")


def test_the_account_notices_words_outside_the_region() -> None:
    result = refit_html("<div id=a>one two</div><div>three</div>", region="#none")
    assert result.account.unaccounted == 3 and result.blocks == ()


def test_the_proposed_region_leaves_navigation_out() -> None:
    links = "".join(f"<li><a href=/{k}>Entry {k}</a>" for k in range(30))
    html = (
        f"<div id=nav><ul>{links}</ul></div><div id=main><h1>T</h1>"
        + "<p>Many words of real content stand here.</p>" * 10
        + "</div>"
    )
    text = to_text(refit_html(html, region="auto").blocks)
    assert "Entry" not in text and text.count("real content") == 10


@pytest.mark.parametrize("text", ["\\\\", "*a*", "`x`", "[a](b)", "_b_", "~~c~~", "a\\\\*", "&amp;lt;"])
def test_raw_markup_within_a_line_is_no_markdown(text: str) -> None:
    html = f"<p>before <x-y title='*t*'>{text}</x-y> after <svg><text>{text}</text></svg></p>"
    page = parse(html)
    expected = "".join(n.text for n in page.inside(page.body) if not n.tag)
    assert squeezed(visible_text(markdown(html))) == squeezed(expected)


def test_links_inside_code_stay_links() -> None:
    html = "<pre>a <a href=x>b</a> c</pre><p><code>f(<a href=y>T</a>)</code></p>"
    result = refit_html(html)
    assert (
        result.account.as_json()["links"] == [2, 2]
        and isinstance(result.blocks[0], CodeBlock)
        and result.blocks[0].text == "a b c"
    )
    assert re.findall(r'href="(\w)"', rendered(to_markdown(result.blocks))) == ["x", "y"]


def test_code_lines_are_counted_however_they_end() -> None:
    account = refit_html("<pre>a<br>b\nc\n</pre><pre>d</pre>").account
    assert account.code_lines == [4, 4]


def test_readdress_changes_links_and_sources_everywhere() -> None:
    html = "<ul><li><a href=/a>x</a><figure><img src=/i.png><figcaption><a href=/a>c</a></figcaption></figure></ul><iframe src=/f></iframe>"
    blocks = readdress(refit_html(html).blocks, lambda h: "/new" + h, lambda s: "/media" + s)
    text = json.dumps(to_json(blocks))
    assert text.count('"/new/a"') == 2 and '"/media/i.png"' in text and '"/media/f"' in text


def test_a_key_in_the_code_of_a_form_is_masked_and_what_is_shown_is_not() -> None:
    key = "k7Qz41xWm09TnB5cYv83"
    html = f'<body><form><input name="q"><script>var apiKey = "{key}";</script><p>Find it</p></form></body>'
    (island,) = refit_html(html).blocks
    assert key not in island.html and "k7…" in island.html and [w.text for w in island.words] == ["Find it"]
    shown = f'<body><form><input name="q"><p>apiKey = "{key}"</p></form></body>'
    assert key in refit_html(shown).blocks[0].html
