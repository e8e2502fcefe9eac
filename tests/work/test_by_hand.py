"""Blocks of a body changed by hand: what lies over which block, kept over re-runs, in conflict when what is under it
has changed."""

from __future__ import annotations

from typing import Any

from grandferry.core.plan import Edit
from grandferry.core.refit.write import to_markdown
from grandferry.store import changes, crossings, lift
from grandferry.work.land.content import Contents
from grandferry.work.refit.content import Lying, as_change
from grandferry.work.refit.preview import lying_blocks
from tests.servers import apps, pages_app
from tests.work.test_groups import Make, Run

BODY = "<h1>A</h1><main><p>One.</p><p>Two.</p><p>Three.</p></main>"
KIND = {
    "name": "page",
    "rules": [{"element": "main"}],
    "address": "/{slug}",
    "fields": [
        {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
        {"name": "body", "type": "blocks", "locators": [{"css": "main"}]},
    ],
}


def body(crossing: int) -> str:
    plan = crossings.load_plan(crossing)
    return next(to_markdown(one.fields["body"].blocks) for one in Contents(crossing, plan, every=True))


def test_blocks_are_set_taken_out_and_put_in_and_conflict_one_by_one(cross: Make, work: Run) -> None:
    pages: dict[str, Any] = {"/": BODY}
    with apps(pages_app(pages)) as (port,):
        crossing = cross(
            {"old": {"start": f"http://127.0.0.1:{port}/"}, "kinds": [KIND], "survey": {"sitemaps": False}}
        )
        for job in ("survey", "sort", "lift", "refit"):
            work(job, crossing)
        item = lift.made(crossing)["/"].item

        def lying() -> list[Lying]:
            return lying_blocks(crossing, item, "body")

        def lay(block: Lying, act: str, value: str | None = None) -> Edit:
            return Edit.model_validate(
                {"old": "/", "field": "body", "block": block.id, "over": block.hash, "act": act, "value": value}
            )

        one, two, three = lying()
        laid = [
            lay(one, "set", "<h2>First</h2><p>and more"), lay(two, "drop"), lay(three, "after", "<p>Last."),
        ]  # fmt: skip
        changes.change_edits(crossing, laid, [], "me", "by hand")
        assert body(crossing) == "## First\n\nand more\n\nThree.\n\nLast.\n"
        assert [(b.value, b.dropped, b.after, b.odd) for b in lying()] == [
            ("<h2>First</h2><p>and more", False, None, False),
            (None, True, None, False),
            (None, False, "<p>Last.", False),
        ]
        pages["/"] = BODY.replace("<main>", "<main><p>New.</p>").replace("Two.", "Another two.")
        for job in ("survey", "sort", "lift", "refit"):
            work(job, crossing, **({"again": True} if job == "survey" else {}))
        found = lying()
        by_text = {to_markdown((b.found,)).strip(): b for b in found if b.found is not None}
        assert by_text["One."].value is not None and not by_text["One."].odd, "it moved, and its change with it"
        assert by_text["Three."].after == "<p>Last." and by_text["New."].value is None
        (adrift,) = [b for b in found if b.odd]
        assert adrift.found is None and adrift.dropped and adrift.laid == {"drop": two.id}
        assert by_text["One."].laid == {"set": one.id} and by_text["One."].id == two.id
        assert body(crossing) == "New.\n\n## First\n\nand more\n\nAnother two.\n\nThree.\n\nLast.\n"
        changes.undo(crossing, "me")
        assert body(crossing) == "New.\n\nOne.\n\nAnother two.\n\nThree.\n"


def test_a_place_that_links_lead_to_stays_in_a_block_changed_by_hand() -> None:
    edit = Edit.model_validate({"old": "/", "field": "body", "value": '<p><a id="x"></a>Two, <a href="#y">y</a>.</p>'})
    (block,) = as_change(edit, "http://old.example/").blocks
    assert to_markdown((block,)) == '<a id="x"></a>Two, [y](#y).\n'
