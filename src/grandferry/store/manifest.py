"""The figures of a whole crossing, out of every stage's records."""

from __future__ import annotations

import json
from collections import Counter

from grandferry.core.route.sisters import SisterFate
from grandferry.core.standing import Figures

from . import crossings, lift, refit, route, sisters
from .db import one, rows


def figures(crossing: int, unsent: bool = False) -> Figures:
    """All that the manifest's lines are made of. ``unsent``: what goes over has changed since it was landed."""
    plan = crossings.load_plan(crossing)
    account = crossings.account_of(crossing)
    where = "FROM address WHERE crossing_id = ? AND side = 'old'"
    waiting, failed, pages = rows(
        "SELECT coalesce(sum(state = 'waiting'), 0), coalesce(sum(state = 'failed'), 0), coalesce(sum(type = 'page' "
        f"AND status = 200), 0) {where}",
        crossing,
    )[0]
    visits, visits_proven = rows(
        f"SELECT coalesce(sum(visits), 0), coalesce(sum(CASE WHEN proven THEN visits END), 0) {where} AND counted = 1",
        crossing,
    )[0]
    sorted_, unsorted = rows(
        "SELECT coalesce(sum(kind != ''), 0), coalesce(sum(kind = ''), 0) FROM sorted WHERE crossing_id = ?", crossing
    )[0]
    if sorted_ + unsorted:
        unsorted += max(0, pages - sorted_ - unsorted)
    required = {(kind.name, field.name) for kind in plan.every_kind for field in kind.fields if field.required}
    fields = rows(
        f"SELECT i.kind, f.field, {lift.STATE}, count(*) FROM item i JOIN item_field f ON f.item_id = i.id WHERE "
        f"i.crossing_id = ? AND NOT {lift.EDITED} AND {lift.STATE} != 'filled' GROUP BY 1, 2, 3",
        crossing,
    )
    bodies, words, words_lost, bodies_lost = rows(
        "SELECT count(*), coalesce(sum(r.words), 0), coalesce(sum(r.unaccounted), 0), coalesce(sum(r.unaccounted > "
        "0), 0) FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?",
        crossing,
    )[0]
    files, carried, aside = rows(
        "SELECT count(*), coalesce(sum(fate = 'carried'), 0), coalesce(sum(fate = 'set aside'), 0) FROM file WHERE "
        "crossing_id = ?",
        crossing,
    )[0]
    elsewhere = Counter[str]()
    for line in sisters.hosts(crossing, plan.side("old").host):
        elsewhere[line.fate] += line.count
    target = plan.land.base or "" if plan.land else ""
    if plan.land is not None and plan.land.in_folder:
        last_at = "SELECT target FROM landing WHERE crossing_id = ? AND NOT dry ORDER BY id DESC LIMIT 1"
        target = one(f"SELECT coalesce(({last_at}), '')", crossing)
    landings = rows(
        "SELECT counts FROM landing WHERE crossing_id = ? AND ended != '' ORDER BY id DESC LIMIT 1", crossing
    )
    last = json.loads(landings[0][0]) if landings else {}
    rounds = rows(
        "SELECT base, ended FROM round WHERE crossing_id = ?1 AND ended != '' AND (?2 = '' OR base = ?2) ORDER BY id "
        "DESC LIMIT 1",
        crossing,
        (plan.interim or "").rstrip("/"),
    )
    return Figures(
        addresses=crossings.counted(crossing),
        unaccounted=sum(account.get("unaccounted", {}).values()),
        planned=sum(v["planned"] for fate, v in account.items() if fate != "unaccounted"),
        proven=sum(v["proven"] for v in account.values()),
        waiting=waiting,
        failed=failed,
        pages=pages,
        visits=visits,
        visits_proven=visits_proven,
        kinds=len(plan.every_kind),
        sorted=sorted_,
        unsorted=unsorted,
        items=one("SELECT count(*) FROM item WHERE crossing_id = ?", crossing),
        lift_open=sum(
            count
            for kind, field, state, count in fields
            if state == "odd" or (state == "empty" and (kind, field) in required)
        ),
        bodies=bodies,
        words=words,
        words_lost=words_lost,
        bodies_lost=bodies_lost,
        bodies_lossy=refit.bodies_with_losses(crossing),
        things=tuple(refit.things(crossing)),
        placeless=tuple(lift.without_address(crossing)),
        forms_open=len({row.mark for row in refit.forms(crossing)} - {one.form for one in plan.refit.forms}),
        questions=len(plan.route.asked),
        provisional=route.provisional(crossing),
        files=files,
        files_carried=carried,
        files_aside=aside,
        sisters=elsewhere.total(),
        sisters_carried=elsewhere[SisterFate.CARRIED],
        sisters_aside=elsewhere[SisterFate.ASIDE],
        sisters_breaking=elsewhere[SisterFate.BREAKS] + elsewhere[SisterFate.NOT_HAD],
        target=plan.land is not None,
        interim=bool(plan.interim),
        landed=one(
            "SELECT count(*) FROM ledger WHERE crossing_id = ? AND target = ? AND type = 'item'", crossing, target
        ),
        refused=sum(last.get(thing, {}).get("refused", 0) for thing in ("file", "item", "redirect")),
        unsent=unsent,
        surveyed_at=one("SELECT max(ended) FROM survey_run WHERE crossing_id = ? AND side = 'old'", crossing) or "",
        checked_host=rounds[0][0] if rounds else "",
        checked_at=rounds[0][1] if rounds else "",
    )
