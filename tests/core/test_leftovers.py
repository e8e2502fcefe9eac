"""What an old system left in its pages: found, told, and taken out by a step that says so."""

from __future__ import annotations

import pytest

from grandferry.core.kinds import Step
from grandferry.core.page import parse
from grandferry.core.refit.convert import Refitted, refit_html, refit_nodes
from grandferry.core.refit.leftovers import leftovers, stray_tags
from grandferry.core.refit.write import to_html, to_text

LONG = (
    "The firebox crown will need a new casting, and the pattern is lost, as patterns are. The works at Carrowmere have "
    "offered to make another from the drawing, if somebody finds the drawing in time."
)
SHORT = "Throws an error when the record cannot be set, whatever it is that stands in the way."


@pytest.mark.parametrize(
    ("html", "found"),
    [
        ("<p>[gallery ids='1,2' columns=3]</p>", {"Short code": 1}),
        ("<p>See [button url=/x]here[/button] now</p>", {"Short code": 2}),
        ("<p>He said [sic] so [1], see [the note] and array[i=0]</p>", {}),
        ("<p>Lorem ipsum dolor sit amet.</p>", {"Dummy text": 1}),
        (f"<p>{LONG}</p><p>Between</p><p>{LONG}</p>", {"Paragraph that stands there twice": 1}),
        (f"<p>{SHORT}</p><p>{SHORT}</p>", {}),
        ("<p><img src=/img/placeholder.png></p>", {"Picture that keeps a place": 1}),
        ("<p><img src=/img/place.png></p>", {}),
        ("<p><img src=/colours/grey.png></p>", {}),
        ("<p><img src='data:image/gif;base64,R0lGODlhAQABAAAAACw='></p>", {"Picture that keeps a place": 1}),
        (f"<p><img src='data:image/png;base64,{'iVBOR' * 80}'></p>", {}),
    ],
)
def test_leftovers_are_told(html: str, found: dict[str, int]) -> None:
    assert leftovers(refit_html(html).blocks) == found


def test_what_is_no_tag_says_nothing_of_what_it_holds() -> None:
    page = parse(
        "<body><p>By Ann <ann@here.test>:<br>Mends</p><p>the <x-y>pump</x-y> and <b/c>seal</b/c>, <limits.h> last</p>"
    )
    done = refit_nodes(page, [page.body])
    assert stray_tags(page, [page.body]) == {"Tag that is none": 2}
    assert "ann@here" not in to_html(done.blocks) and "<x-y>pump</x-y>" in to_html(done.blocks)
    assert done.account.unaccounted == 0 and done.account.in_islands == 1
    assert stray_tags(parse("<p><o:p>a</o:p>"), [parse("<p><o:p>a</o:p>").body]) == {}


def stepped(html: str, tidy: str) -> Refitted:
    page = parse(f"<body>{html}")
    return refit_nodes(page, [page.body], steps=[Step(name="tidy", tidy=tidy)])  # type: ignore[arg-type]


def test_short_codes_are_taken_out_and_accounted_for() -> None:
    done = stepped(
        "<h2>A</h2><p>[gallery ids='1,2']</p><p>[caption id=x]<img src=a.png alt=b>[/caption]</p><p>c</p>",
        "no_short_codes",
    )
    assert to_text(done.blocks).split() == ["A", "c"]
    assert [type(block).__name__ for block in done.blocks] == ["Heading", "Paragraph", "Paragraph"], "the picture stays"
    assert done.account.removed == {"tidy": 5} and done.account.unaccounted == 0


def test_raw_markup_loses_its_looks() -> None:
    html = "<x-box class=a style='color:red'><p align=left title=t>Text</p></x-box><p>Plain</p>"
    done = stepped(html, "unstyled")
    assert '<x-box><p title="t">Text</p></x-box>' in to_html(done.blocks)
    assert done.treated == {"tidy": 3} and done.account.unaccounted == 0


def test_hostile_text_costs_no_more_than_its_length() -> None:
    text = "[a " + "b=" * 200_000 + "[[a b=c" * 50_000
    assert leftovers(refit_html(f"<p>{text}</p>").blocks) == {}
