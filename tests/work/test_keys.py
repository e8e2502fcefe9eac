"""Keys in the code of pages: masked in every value, body and thing delivered, unless a person lets one of them over."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

import httpx
import pytest

from grandferry.core.plan import Plan
from grandferry.core.refit.write import to_markdown
from grandferry.core.route.fate import Decision
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.secrets import mark_of
from grandferry.store import crossings, lift, refit
from grandferry.work.land.content import Rewriter
from grandferry.work.refit.content import stored_body
from tests.servers import apps, pages_app, served_api

Make = Callable[..., int]
Run = Callable[..., dict[str, Any]]
MAP, FORM, META, DATA, SHOWN = (
    "AZx81Qm27Lp09Vt55",
    "k9Qw2Er7Ty1Ui5Op",
    "m3Nb6Vc9Xz2Lk5Jh",
    "d4Fg7Hj1Kl0Qw3Er",
    "s8Ty5Ui2Op9As6Df",
)
SITE = {
    "/": "<a href=/looms/1>1</a><a href=/looms/2>2</a>",
    "/looms/1": f"""<head><title>One</title><meta name="weather-api-key" content="{META}"></head><div class=t><h1>First</h1>
<p title="secret: '{FORM}'" data-api-key="{DATA}">Some <a href="https://post.test/in?api_key={FORM}">words</a>.</p>
<iframe src="https://maps.test/show?key={MAP}&amp;at=3" title="Where we are"></iframe>
<form action="https://post.test/in?api_key={FORM}"><input name=q></form>
<pre>token = "{SHOWN}"</pre><a href="/own?access_token={FORM}">to ourselves</a></div>
<script>fetch(u, {{headers: {{Authorization: "Bearer {FORM}"}}}}); var token = "{SHOWN}"</script>""",
    "/looms/2": "<title>Two</title><div class=t><h1>Second</h1><p>No key at all.</p></div>",
    f"/own?access_token={FORM}": "<title>Own</title>",
}
KINDS = [
    {
        "name": "loom",
        "rules": [{"below": "/looms"}],
        "address": "/l/{slug}",
        "fields": [
            {"name": "title", "type": "line", "locators": [{"css": "h1"}]},
            {"name": "weather", "type": "line", "locators": [{"css": "meta[name]", "attribute": "content"}]},
            {"name": "hint", "type": "passage", "locators": [{"css": "p", "attribute": "title"}]},
            {"name": "marks", "type": "list", "locators": [{"css": "p", "attribute": "data-api-key"}]},
            {"name": "body", "type": "blocks", "locators": [{"css": ".t"}]},
        ],
    }
]


@pytest.fixture
def crossing(cross: Make, work: Run) -> Iterator[int]:
    with apps(pages_app(SITE)) as (port,):
        number = cross({"old": {"start": f"http://127.0.0.1:{port}/"}, "kinds": KINDS, "survey": {"sitemaps": False}})
        work("survey", number)
        for stage in ("sort", "lift", "refit"):
            work(stage, number)
        yield number


def carried(crossing: int) -> str:
    """All that is kept of the first page to go over, as text."""
    item = next(item for item in lift.items(crossing) if item.key == "/looms/1")
    body = stored_body(refit.blocks_of(crossing)[item.id]["body"])
    return json.dumps(item.fields, ensure_ascii=False) + repr(body) + to_markdown(body.content)


def test_keys_are_masked_in_values_bodies_and_addresses_and_what_a_visitor_reads_is_not(crossing: int) -> None:
    found = carried(crossing)
    assert found.count(SHOWN) >= 2, "the words of a page stay its words"
    for key in (MAP, META, DATA):
        assert key not in found and f"{key[:2]}… (" in found
    ours = f"/own?access_token={FORM}"
    assert FORM not in found.replace(ours, ""), "but in an address of the old site, which is looked up by it"
    assert "https://maps.test/show?key=AZ… (17 characters)&at=3" in found


def test_an_old_address_that_stays_is_masked_when_it_goes_over(crossing: int) -> None:
    plan = crossings.load_plan(crossing)
    site = plan.old.start.rstrip("/")
    rewriter = Rewriter(scope_of(plan.side("old")), {}, {}, frozenset())
    assert rewriter.link(f"{site}/own?access_token={FORM}") == f"{site}/own?access_token=k9… (16 characters)"
    assert rewriter.source(f"{site}/p.png?api_key={FORM}&w=3") == f"{site}/p.png?api_key=k9… (16 characters)&w=3"
    kept = Rewriter(scope_of(plan.side("old")), {}, {}, frozenset([mark_of(FORM)]))
    assert kept.link(f"{site}/own?access_token={FORM}") == f"{site}/own?access_token={FORM}"
    moved = {f"/own?access_token={FORM}": Decision("moved", "/new/own", "by hand")}
    assert Rewriter(scope_of(plan.side("old")), moved, {}, frozenset()).link(f"{site}/own?access_token={FORM}") == (
        "/new/own"
    )


def test_a_key_that_is_let_over_moves_the_pages_that_hold_it_and_no_other(crossing: int, work: Run) -> None:
    plan = crossings.load_plan(crossing)
    data = plan.model_dump(mode="json") | {"carried_keys": [{"mark": mark_of(MAP), "name": "key"}]}
    crossings.save_plan(crossing, Plan.model_validate(data), [])
    assert work("lift", crossing)["done"] == 1
    assert work("refit", crossing)["done"] == 1
    found = carried(crossing)
    assert f"https://maps.test/show?key={MAP}&at=3" in found and META not in found
    assert work("lift", crossing)["done"] == 0 and work("refit", crossing)["done"] == 0


def test_keys_are_listed_by_name_and_mark_with_their_pages(crossing: int) -> None:
    with served_api() as api:
        keys = httpx.get(f"{api}/api/crossings/{crossing}/keys").json()
    assert {key["mark"] for key in keys} == {mark_of(key) for key in (MAP, FORM, META, DATA, SHOWN)}
    assert {key["key"] for key in keys} == {"/looms/1"} and not any(key["carried"] for key in keys)
    assert not any(key in json.dumps(keys) for key in (MAP, FORM, META, DATA))
