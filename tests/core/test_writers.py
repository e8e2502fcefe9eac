"""Every type of block stands in every writer, and says its words there."""

from __future__ import annotations

import json
from typing import get_args

import pytest

from grandferry.core.page import parse
from grandferry.core.refit.blocks import (
    Block,
    Button,
    Callout,
    Cell,
    CodeBlock,
    Column,
    Columns,
    Definitions,
    Disclosure,
    Divider,
    Embed,
    Entry,
    Figure,
    FileLink,
    Footnotes,
    Form,
    FormField,
    Gallery,
    Heading,
    Island,
    Link,
    List,
    ListItem,
    Note,
    Paragraph,
    Passage,
    Picture,
    Quote,
    Row,
    Shot,
    Source,
    Tab,
    Table,
    Tabs,
    Text,
    Track,
    to_json,
)
from grandferry.core.refit.body import body_from_json, body_of, body_to_json
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.document import from_document
from grandferry.core.refit.write import WRITERS
from grandferry.core.refit.write.total import NAMES
from tests.core.rendering import visible_text

WORDS = (Text("Goods shed & yard"),)
P = Paragraph(WORDS)
SAMPLES: list[Block] = [
    P,
    Heading(2, WORDS, "shed"),
    List(True, (ListItem((P,)), ListItem((P,), True)), 3),
    Table((Row((Cell((P,), True), Cell((P,)))), Row((Cell((P,)), Cell((P,), colspan=2)))), WORDS),
    CodeBlock(WORDS, "python"),
    Quote((P,), "http://old.test/"),
    Figure((P,), WORDS),
    Divider(),
    Definitions((Entry((WORDS,), ((P,),)),)),
    Disclosure(WORDS, (P,), True),
    Embed(
        "http://film.test/1",
        "video",
        "Goods shed & yard",
        "/a.png",
        -1,
        (Source("/a.webm", "video/webm"),),
        (Track("/a.vtt", "captions", "en"),),
    ),
    Passage((P,), "cy", "rtl"),
    Callout("tip", WORDS, (P,)),
    Tabs((Tab(WORDS, (P,)), Tab(WORDS, ()))),
    Columns((Column((P,)), Column((P,)))),
    Gallery((Shot(Picture("/a.png"), WORDS, "/b.png"), Shot(Picture("/c.png")), Shot(Picture("/d.png")))),
    Button(WORDS, "/go"),
    Form(
        (FormField("name", "Name", "text", True), FormField("day", options=("a", "b"))),
        "<form><label>Goods shed &amp; yard <input></label></form>",
        WORDS,
        "/send",
        "post",
    ),
    Footnotes((Note("n1", (P,), ("r1",)),)),
    FileLink(Link("/a.pdf", WORDS)),
    Island("<x-map><p>Goods shed &amp; yard</p></x-map>", WORDS, "x-map"),
]
SILENT = (Divider, Embed)


def test_the_samples_are_all_there_is() -> None:
    assert {type(sample) for sample in SAMPLES} == set(get_args(Block)) == set(NAMES)


@pytest.mark.parametrize("sample", SAMPLES, ids=lambda s: type(s).__name__)
@pytest.mark.parametrize("form", sorted(WRITERS))
def test_every_block_is_written_in_every_form_with_its_words(form: str, sample: Block) -> None:
    written = WRITERS[form][1]((sample,))
    assert isinstance(written, str)
    if form == "blocks":
        assert from_document(json.loads(written)) == (sample,)
    elif not isinstance(sample, SILENT):
        shown = {"markdown": visible_text, "html": visible_text, "text": str}[form](written)
        assert "Goods shed & yard" in " ".join(shown.split())


def test_a_body_comes_back_from_its_stored_form_with_ids_and_places() -> None:
    html = "<div class=b><p>One<p>Two<ul><li>a</ul><p id=last>One</div>"
    page = parse(html)
    region = page.select(".b")
    blocks = refit_html(html, region=".b").blocks
    body = body_of(page, region, blocks)
    stored = body_from_json(json.loads(json.dumps(body_to_json(body))))
    assert stored.content == body.content and stored.region == body.region
    assert [(p.id, p.place, p.hash) for p in stored.blocks] == [(p.id, p.place, p.hash) for p in body.blocks]
    assert len({placed.id for placed in body.blocks}) == 4
    assert [placed.place for placed in body.blocks] == ["0/p1", "0/p2", "0/ul1", "0/p#last"]
    assert body.blocks[0].hash == body.blocks[3].hash, "the same words"
    before = [placed.id for placed in body.blocks]
    changed = html.replace("One<p>", "Quite other words<p>").replace("<div class=b>", "<nav>x</nav><div class=b>")
    other = parse(changed)
    again = body_of(other, other.select(".b"), refit_html(changed, region=".b").blocks)
    assert len(again.blocks) == 4 and again.region.words != body.region.words
    assert body_from_json(to_json(blocks)).content == blocks, "what versions before kept"
    assert [placed.id for placed in again.blocks] == before, "ids outlive other words and what stands around the body"
