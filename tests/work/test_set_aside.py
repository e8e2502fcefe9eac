"""Pages that stay behind on purpose: none is made an item of, and each keeps its fate in the account."""

from __future__ import annotations

from grandferry.core.because import sentence
from grandferry.core.plan import Pair
from grandferry.store import changes, crossings, lift, route, sort
from grandferry.work.rounds import behind
from tests.core.test_grouping import report
from tests.work.test_groups import Make, Run, surveyed

SITE = {f"/r{n}": report(n) for n in range(4)} | {"/members/ann": report(7)}
KIND = {"name": "report", "rules": [{"below": "/"}], "address": "/{path}", "fields": []}


def keys(crossing: int) -> set[str]:
    return {item.key for item in lift.items(crossing)}


def test_what_is_set_aside_with_a_reason_is_not_lifted_and_stays_in_the_account(cross: Make, work: Run) -> None:
    site = {"/": "<main>" + "".join(f"<a href={key}>x</a>" for key in SITE) + "</main>", **SITE}
    crossing = surveyed(cross, work, site)
    plan = crossings.load_plan(crossing).model_dump()
    plan |= {"kinds": [KIND], "route": {"aside": [{"address": "/r[01]", "reason": "superseded"}]}}
    changes.change_plan(crossing, type(crossings.load_plan(crossing)).model_validate(plan), 0, "me", "two out")
    work("update", crossing)
    assert keys(crossing) == {"/", "/r2", "/r3"}, "those two, and a person's own page, are out"
    decided = route.decisions(crossing)
    assert {key: decided[key].fate for key in ("/r0", "/r1", "/r2", "/members/ann")} == {
        "/r0": "set aside",
        "/r1": "set aside",
        "/r2": "stays",
        "/members/ann": "set aside",
    }
    changes.change_pairs(crossing, [Pair(old="/r0", new="/kept")], [], "me", "one is wanted after all")
    assert [late.key for late in behind.late(crossing) if late.stage == "lift"] == ["/r0"]
    work("update", crossing)
    assert keys(crossing) == {"/", "/r0", "/r2", "/r3"} and route.decisions(crossing)["/r0"].target == "/kept"
    changes.undo(crossing, "me")
    changes.undo(crossing, "me")
    work("update", crossing)
    assert keys(crossing) == set(), "without the kind there is no item"


def test_a_page_spelt_otherwise_is_no_second_item_and_goes_where_the_page_goes(cross: Make, work: Run) -> None:
    pages = {"/docs/": report(1), "/docs/index.html": report(1), "/Docs/": report(1), "/docs/index.php": report(2)}
    links = "".join(f"<a href={key}>x</a>" for key in pages)
    crossing = surveyed(cross, work, {"/": f"<main>{links}</main>", **pages})
    plan = crossings.load_plan(crossing).model_dump() | {"kinds": [KIND | {"rules": [{"address": "/(docs|Docs)/.*"}]}]}
    changes.change_plan(crossing, type(crossings.load_plan(crossing)).model_validate(plan), 0, "me", "a kind")
    told = work("update", crossing)
    assert keys(crossing) == {"/docs/", "/docs/index.php"}, "what says something else is a page of its own"
    decided = {key: (one.fate, one.target, one.origin) for key, one in route.decisions(crossing).items()}
    listed = {
        page.key: (page.item > 0, sentence(page.why)) for page in sort.kind_pages(crossing, "report", [], 0, 9)[1]
    }
    assert listed["/docs/"] == (True, "") and listed["/Docs/"] == (False, "the same page as /docs/, spelt otherwise")
    home = decided["/docs/"][1]
    assert decided["/docs/index.html"] == decided["/Docs/"] == ("merged", home, "twin")
    assert decided["/docs/index.php"][1] not in ("", home), told
    alone = plan | {"kinds": [KIND | {"rules": [{"address": "/docs/index.*"}]}]}
    known = changes.revision(crossing)
    changes.change_plan(crossing, type(crossings.load_plan(crossing)).model_validate(alone), known, "me", "files")
    work("update", crossing)
    assert keys(crossing) == {"/docs/index.html", "/docs/index.php"}, (
        "where no item is made of the page, one is of its twin"
    )
    changes.undo(crossing, "me")
    work("update", crossing)
    assert keys(crossing) == {"/docs/", "/docs/index.php"}
    changes.change_pairs(crossing, [Pair(old="/Docs/", new="/elsewhere")], [], "me", "by hand")
    work("update", crossing)
    assert route.decisions(crossing)["/Docs/"].target == "/elsewhere" and "/Docs/" not in keys(crossing)
