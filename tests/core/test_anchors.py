"""Places within pages: every one that a link leads to is kept, and written in every form."""

from __future__ import annotations

import pytest

from grandferry.core.page import parse
from grandferry.core.refit.account import Thing
from grandferry.core.refit.anchors import anchor_name
from grandferry.core.refit.blocks import Heading
from grandferry.core.refit.choices import Odd, WrittenAs
from grandferry.core.refit.convert import Refitted, refit_html
from grandferry.core.refit.page import linker
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.core.refit.written import rendered

OWN = "http://old.test/shed.htm"
PLACES = {
    "an old anchor before a heading": "<a name=here></a><h2>Shed</h2>",
    "a heading": "<h2 id=here>Shed</h2>",
    "a mark within a heading": "<h2>Goods <b id=here>shed</b></h2>",
    "a paragraph": "<p id=here>Shed</p>",
    "a word": "<p>Goods <span id=here>shed</span></p>",
    "a list": "<ul id=here><li>Shed</ul>",
    "an item": "<ul><li>Goods<li id=here>Shed</ul>",
    "an item with a box to tick": "<ul><li id=here><input type=checkbox> Shed</ul>",
    "a table": "<table id=here><tr><th>Shed<th>Yard<tr><td>1<td>2</table>",
    "a part of a table": "<table><thead><tr><th>Shed</thead><tbody id=here><tr><td>Yard<td>1</table>",
    "a row": "<table><tr><td>Shed<td>1<tr id=here><td>Yard<td>2</table>",
    "a cell": "<table><tr><td>Shed<td id=here>1<tr><td>Yard<td>2</table>",
    "a term": "<dl><dt id=here>Shed<dd>For goods</dl>",
    "what it means": "<dl><dt>Shed<dd id=here>For goods</dl>",
    "a box of a term": "<dl><div id=here><dt>Shed<dd>For goods</div></dl>",
    "code": "<pre id=here>shed()</pre>",
    "a place in code": "<pre>shed(<i id=here>1</i>)</pre>",
    "a folding section": "<details id=here><summary>Shed</summary>For goods</details>",
    "the line that folds": "<details><summary id=here>Shed</summary>For goods</details>",
    "a quotation": "<blockquote id=here><p>Shed</blockquote>",
    "a picture": "<p><img id=here src=a.png alt=Shed></p>",
    "a figure": "<figure id=here><img src=a.png alt=Shed><figcaption>Shed</figcaption></figure>",
    "a rule": "<p>Shed<hr id=here>",
    "an empty box": "<p>Shed</p><div id=here></div>",
    "an empty box at the end of a cell": "<table><tr><td>Shed<div id=here></div><td>1<tr><td>2<td>3</table>",
    "a box within a link": "<a href=/x><div id=here></div><div>Shed</div></a>",
    "a form": "<form id=here><input name=q></form>",
    "code of a line": "<p><code id=here>shed</code></p>",
    "a caption": "<table><caption id=here>Sheds</caption><tr><td>1<td>2<tr><td>3<td>4</table>",
}


def refitted(html: str, aimed: dict[str, int] | None = None) -> Refitted:
    return refit_html(html, link=linker(OWN), aimed=aimed)


def names(html: str) -> list[str]:
    return [name for node in parse(html).nodes if node.tag and (name := anchor_name(node))]


@pytest.mark.parametrize("place", PLACES.values(), ids=PLACES)
def test_a_place_that_a_link_leads_to_is_kept_and_written(place: str) -> None:
    done = refitted(f"<p><a href=#here>there</a></p>{place}")
    anchors = done.account.things[Thing.ANCHORS]
    assert (anchors.have, anchors.kept, done.account.aimed) == (1, 1, 1)
    assert names(to_html(done.blocks)).count("here") == 1
    assert names(rendered(to_markdown(done.blocks))).count("here") == 1
    assert done.account.unaccounted == 0


def test_links_of_other_pages_count_however_they_are_written() -> None:
    html = "<p id='the shed'>A</p><p id=yard>B</p><p id=idle>C</p>"
    done = refitted(html, {"the%20shed": 3, "yard": 2, "none": 1})
    assert (done.account.things[Thing.ANCHORS].kept, done.account.aimed) == (2, 5)
    assert to_markdown(done.blocks) == '<a id="the shed"></a>A\n\n<a id="yard"></a>B\n\nC\n'


def test_the_pages_own_address_with_a_fragment_leads_within_the_page() -> None:
    done = refitted("<p id=a>A</p><a href='/shed.htm#a'>1</a> <a href='shed.htm#a'>2</a> <a href='/yard.htm#a'>3</a>")
    assert to_markdown(done.blocks) == '<a id="a"></a>A\n\n[1](#a) [2](#a) [3](http://old.test/yard.htm#a)\n'


def test_of_several_of_one_name_the_first_counts() -> None:
    done = refitted("<p id=a>A</p><p id=a>B</p><a href=#a>x</a>")
    assert done.account.things[Thing.ANCHORS].have == 1 and to_html(done.blocks).count('id="a"') == 1


def test_a_heading_keeps_its_id_and_says_it_once() -> None:
    done = refitted("<h2 id=a>A</h2><h2 id=b>B</h2>", {"a": 1})
    assert to_html(done.blocks) == '<h2 id="a">A</h2>\n<h2 id="b">B</h2>\n'
    assert isinstance(done.blocks[1], Heading) and done.blocks[1].id == "b"
    assert to_markdown(done.blocks) == '## <a id="a"></a>A\n\n## B\n'
    assert to_markdown(done.blocks, {Odd.ANCHORS: WrittenAs.MARKED}) == "## A {#a}\n\n## B {#b}\n"
    assert to_markdown(done.blocks, {Odd.ANCHORS: WrittenAs.REPORT}) == "## A\n\n## B\n"


def test_what_a_step_takes_is_said_with_the_links_that_lead_there() -> None:
    from grandferry.core.kinds import Step

    done = refit_html("<nav id=a>A</nav><p>B</p>", steps=[Step(name="menu", remove="nav")], aimed={"a": 4})
    (lost,) = done.account.lost
    assert (lost.raw, lost.step, lost.links) == ("a", "menu", 4)


def test_the_place_of_the_body_itself_is_kept_where_something_leads_to_it() -> None:
    page = "<a href='#main'>Skip</a><div id=main><h1>A</h1><p>Text{}</div>"
    for more, aimed, kept in (
        ("", {}, False),
        ("", {"main": 1}, False),
        ("", {"main": 2}, True),
        ("<a href='#main'>up</a>", {}, True),
    ):
        done = refit_html(page.format(more), region="#main", aimed=aimed)
        assert ('id="main"' in to_html(done.blocks)) is kept, (more, aimed)
        assert done.account.things[Thing.ANCHORS].lost == 0
