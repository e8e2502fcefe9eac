"""Pages that stay behind on purpose: none is made an item of, and each keeps its fate in the account."""

from __future__ import annotations

from grandferry.core.plan import Pair
from grandferry.store import changes, crossings, lift, route
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
