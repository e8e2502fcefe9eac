"""Constructs of newer pages as blocks: folding sections, tabs, callouts, columns, galleries, buttons, forms, footnotes;
and every block comes back from its HTML as it was."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest

from grandferry.core.refit.blocks import Anchor, Block, Form, FormField, NoteRef, to_json, walk
from grandferry.core.refit.choices import Odd, WrittenAs
from grandferry.core.refit.convert import Refitted, refit_html
from grandferry.core.refit.write import to_html, to_markdown
from grandferry.core.refit.written import html_read_back, markdown_differs
from tests.core.test_writers import SAMPLES

WARN = "Mind the gap between train and quay."
CASES: dict[str, tuple[str, list[str]]] = {
    "a box that says what it is by its class": (
        f"<div class='admonition warning'><p class='admonition-title'>Warning</p><p>{WARN}</div>",
        ["Callout"],
    ),
    "by its role": (f"<section role=note><p>{WARN}</section>", ["Callout"]),
    "a note that is a table": (
        f"<div class=note><table><tr><td rowspan=2><img src=n.png><th>Note<tr><td><p>{WARN}</table></div>",
        ["Callout"],
    ),
    "a class that only holds the word": (f"<div class='footnote-area'><p>{WARN}</div>", ["Paragraph"]),
    "tabs by their roles": (
        "<div><ul role=tablist><li role=tab aria-controls=p1>One<li role=tab aria-controls=p2>Two</ul>"
        "<div id=p1 role=tabpanel>First</div><div id=p2 role=tabpanel>Second</div></div>",
        ["Tabs"],
    ),
    "tabs by links and a class": (
        "<div class=tabs><ul><li><a href=#x>One</a><li><a href=#y>Two</a></ul><div><div id=x>First</div>"
        "<div id=y>Second</div></div></div>",
        ["Tabs"],
    ),
    "a list of contents": (
        "<div><ul><li><a href=#x>One</a><li><a href=#y>Two</a></ul><div id=x>First</div><div id=y>Second</div></div>",
        ["List", "Paragraph", "Paragraph"],
    ),
    "a fold by a data attribute": (
        "<div><h4><a data-toggle=collapse href=#c>Question</a></h4></div><div id=c><p>Answer</div>",
        ["Disclosure"],
    ),
    "a fold that says it is closed": (
        "<button aria-expanded=false>Question</button><div hidden><p>Answer</div>",
        ["Disclosure"],
    ),
    "a gallery": (
        "<div><a href=1b.jpg><img src=1.jpg alt=One></a><a href=2b.jpg><img src=2.jpg></a>"
        "<figure><img src=3.jpg><figcaption>Third</figcaption></figure></div>",
        ["Gallery"],
    ),
    "two pictures are none": ("<div><img src=1.jpg><img src=2.jpg></div>", ["Paragraph"]),
    "columns": (
        "<div><div class=col-6><p>Left</div><div class='col-6 last'><p>Right</div></div>",
        ["Columns"],
    ),
    "a link like a button": ("<p><a class='btn btn-big' href=/buy>Buy</a></p>", ["Button"]),
    "such a link within a line": ("<p>Or <a class=btn href=/buy>buy</a> it</p>", ["Paragraph"]),
    "a switch for a script": ("<p><button onclick='x()'>Go</button></p>", ["Button"]),
    "footnotes": (
        "<p>Text<sup><a href=#fn1 id=r1>1</a></sup> and <a href=#fn2 id=r2>[2]</a></p>"
        "<ol><li id=fn1><p>First <a href=#r1>back</a><li id=fn2>Second <a href=#r2>^</a></ol>",
        ["Paragraph", "Footnotes"],
    ),
    "a list that only links up": ("<p id=a>Text</p><ol><li><a href=#a>1</a></ol>", ["Paragraph", "List"]),
}


def plain(blocks: tuple[Block, ...]) -> Any:
    """Blocks without the numbers of their nodes, neighbouring texts as one."""
    return _joined(json.loads(re.sub(r', "(?:node|switch)": \d+', "", json.dumps(to_json(blocks)))))


def _joined(value: Any) -> Any:
    if isinstance(value, dict):
        return {name: _joined(inner) for name, inner in value.items()}
    if not isinstance(value, list):
        return value
    out: list[Any] = []
    for one in map(_joined, value):
        last = out[-1] if out else None
        if isinstance(one, dict) and isinstance(last, dict) and one.get("type") == last.get("type") == "Text":
            out[-1] = {"type": "Text", "text": last["text"] + one["text"]}
        else:
            out.append(one)
    return out


def again(blocks: tuple[Block, ...]) -> tuple[Block, ...]:
    """Blocks written as HTML and read, with the same places aimed at."""
    aimed = {thing.name: 1 for thing in walk(blocks) if isinstance(thing, Anchor)}
    aimed |= {thing.anchor: 1 for thing in walk(blocks) if isinstance(thing, NoteRef) and thing.anchor}
    return refit_html(to_html(blocks), aimed=aimed, mask=False).blocks


@pytest.mark.parametrize(("html", "expected"), CASES.values(), ids=CASES)
def test_a_construct_is_read_as_what_it_is(html: str, expected: list[str]) -> None:
    done: Refitted = refit_html(html)
    assert [type(block).__name__ for block in done.blocks] == expected
    assert done.account.unaccounted == 0 and [row for row in done.account.lost if row.why.is_open] == []
    assert markdown_differs(done.blocks) == [] and html_read_back(done.blocks) == []
    if expected != ["Button"]:  # what a switch does is a script's, and goes
        assert plain(again(done.blocks)) == plain(done.blocks)


@pytest.mark.parametrize("sample", SAMPLES, ids=lambda s: type(s).__name__)
def test_every_block_comes_back_from_its_html(sample: Block) -> None:
    read = again((sample,))
    assert plain(again(read)) == plain(read)
    assert {type(block) for block in read} == {type(sample)}


def test_a_form_is_listed_field_by_field() -> None:
    html = (
        "<form action=/send method=POST><label for=n>Name</label><input id=n name=name required>"
        "<label>Mail <input type=email name=mail></label><select name=day><option>Monday<option>Friday</select>"
        "How many? <input name=many type=number><input type=radio name=way value=1 aria-label='by boat'>"
        "<input type=radio name=way aria-label='on foot'><input type=hidden name=token value=1><textarea name=text "
        "placeholder='Your words'></textarea><button>Send</button></form>"
    )
    (form,) = refit_html(html).blocks
    assert isinstance(form, Form) and (form.action, form.method) == ("/send", "post")
    assert form.fields == (
        FormField("name", "Name", "text", True),
        FormField("mail", "Mail", "email"),
        FormField("day", "", "select", options=("Monday", "Friday")),
        FormField("many", "How many?", "number"),
        FormField("way", "way", "radio", options=("by boat", "on foot")),
        FormField("token", "", "hidden"),
        FormField("text", "Your words", "textarea"),
    )


def test_marks_that_only_some_dialects_have() -> None:
    callout = refit_html(CASES["a box that says what it is by its class"][0]).blocks
    assert to_markdown(callout) == f"> **Warning**\n>\n> {WARN}\n"
    assert to_markdown(callout, {Odd.CALLOUTS: WrittenAs.MARKED}) == f"> [!WARNING]\n> {WARN}\n"
    notes = refit_html(CASES["footnotes"][0]).blocks
    assert to_markdown(notes, {Odd.FOOTNOTES: WrittenAs.MARKED}) == (
        "Text[^fn1] and [^fn2]\n\n[^fn1]: First \n\n[^fn2]: Second \n"
    )
    assert "[1](#fn1)" in to_markdown(notes) and '1. <a id="fn1"></a>First [back](#r1)' in to_markdown(notes)
