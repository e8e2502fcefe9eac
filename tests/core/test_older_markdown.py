"""Markdown for readers of before CommonMark, read by one of them: the same words, links, pictures and code as the
HTML of the same blocks."""

from __future__ import annotations

import markdown
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_html, to_markdown
from tests.generators import Shown, shown

EXTENSIONS = ["extra", "sane_lists"]


def both(html: str) -> tuple[Shown, Shown, str]:
    blocks = refit_html(html).blocks
    text = to_markdown(blocks, older=True)
    return shown(to_html(blocks)), shown(markdown.markdown(text, extensions=EXTENSIONS)), text


CASES = {
    "a line's end": "<p>a<br>b<br><b>c</b></p>",
    "lists within each other": "<ol><li>a<ul><li>b<ul><li>c</ul></ul><li>d</ol>",
    "loose lists": "<ul><li><p>a<p>b<li><p>c</ul>",
    "lists beside each other": "<ul><li>a</ul><ul><li>b</ul><ol><li>x</ol><ol start=7><li>y</ol>",
    "code in an item": "<ul><li>a<pre>x = 1\n\n  y *z*</pre><li>b</ul>",
    "code in a quotation": "<blockquote><p>a<pre>x\n  y</pre></blockquote>",
    "an item that begins with code": "<ul><li><pre>x</pre>a</ul>",
    "an empty item": "<ul><li><li>a</ul>",
    "a list in a quotation in a list": "<ul><li>a<blockquote><ul><li>b</ul></blockquote></ul>",
    "a table": "<table><tr><th>a|b<th>c<tr><td><code>x|y</code><td>d</table>",
    "a table in an item": "<ul><li>a<table><tr><th>b<tr><td>c</table></ul>",
    "what is struck out": "<p>a <s>b</s> ~~c~~ d",
    "characters that mean something": "<p>a * b * c _d_ [e] (f) `g` &lt;h&gt; &amp;copy; \\ {i} {: .j} ~k~ ![l]",
    "beginnings of lines": "<p># a<br>#b<br>- c<br>+ d<br>1. e<br>1) f<br>&gt; g<br>: h<br>    i<br>*[j]: k<br>| l<br>===<br>---<br>~~~<br>[m]: n",
    "titles": """<p><a href="/x" title='a "b" \\c'>d</a> <img src=/y.png alt="[e] *f*" title="g">""",
    "addresses": '<p><a href="/a b(c)">d</a> <a href="/e_f*g*">h</a> <a href="/i?j=k&amp;l=m">n</a>',
    "what is folded": "<details><summary>a</summary><p>b <b>c</b></p><ul><li>d</ul></details>",
    "another language": "<div lang=de dir=rtl><p>a</p><p>b</p></div>",
    "headings": "<h2 id=x>a # b #</h2><h3>{c}</h3><p><a href=#x>d</a>",
    "terms": "<dl><dt>a<dd>b<dt>c<dd><p>d<p>e</dl>",
    "two quotations": "<blockquote>a</blockquote><blockquote>b</blockquote>",
    "marks": "<p><b>a</b><i>b</i>c<b><i>d</i></b> e<sub>f</sub> <b> g </b>h snake_case_name 2*3*4",
    "fences in code": "<pre><code class=language-c++>```\na\n````</code></pre>",
}


@pytest.mark.parametrize("name", list(CASES))
def test_an_older_reader_shows_the_same(name: str) -> None:
    wanted, got, text = both(CASES[name])
    assert (got.words, got.links, got.pictures, got.code) == (
        wanted.words,
        wanted.links,
        wanted.pictures,
        wanted.code,
    ), text
    assert wanted.names <= got.names


@settings(max_examples=150, deadline=None)
@given(st.text(alphabet="ab *_`[](){}<>#+-.!|~:=&;\\\"'123", max_size=40))
def test_a_text_stays_the_text_it_is(text: str) -> None:
    from html import escape

    wanted, got, written = both(f"<p>{escape(text)}</p><ul><li>{escape(text)}</li></ul>")
    assert got.words == wanted.words, written
