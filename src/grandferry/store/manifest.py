"""Figures of the whole crossing: what waits in each stage, what to do next, evidence."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import quote

from grandferry.core.because import sentence

from . import crossings, lift, refit
from .db import one, rows


def figures(crossing: int) -> dict[str, Any]:
    """All that the manifest's lines are made of, by name."""
    f: dict[str, Any] = {"plan": crossings.load_plan(crossing)}
    f["addresses"] = crossings.counted(crossing)
    account = crossings.account_of(crossing)
    f["unaccounted"] = sum(account.get("unaccounted", {}).values())
    f["proven"] = sum(v["proven"] for v in account.values())
    f["planned"] = sum(v["planned"] for fate, v in account.items() if fate != "unaccounted")
    where = "FROM address WHERE crossing_id = ? AND side = 'old'"
    f["waiting"], f["failed"], f["pages"], f["undecided"] = rows(
        "SELECT coalesce(sum(state = 'waiting'), 0), coalesce(sum(state = 'failed'), 0), coalesce(sum(type = 'page' "
        f"AND status = 200), 0), coalesce(sum(counted AND decision = ''), 0) {where}",
        crossing,
    )[0]
    f["visits"], f["visits_proven"] = rows(
        f"SELECT coalesce(sum(visits), 0), coalesce(sum(CASE WHEN proven THEN visits END), 0) {where} AND counted = 1",
        crossing,
    )[0]
    f["sorted"], f["unsorted"] = rows(
        "SELECT coalesce(sum(kind != ''), 0), coalesce(sum(kind = ''), 0) FROM sorted WHERE crossing_id = ?", crossing
    )[0]
    f["unsorted"] += max(0, f["pages"] - f["sorted"] - f["unsorted"]) if f["sorted"] + f["unsorted"] else 0
    f["items"] = one("SELECT count(*) FROM item WHERE crossing_id = ?", crossing)
    required = [(k.name, field.name) for k in f["plan"].kinds for field in k.fields if field.required]
    f["lift_open"], f["required_empty"] = 0, 0
    for kind, field, state, count in rows(
        "SELECT i.kind, f.field, f.state, count(*) FROM item i JOIN item_field f ON f.item_id = i.id WHERE "
        f"i.crossing_id = ? AND NOT {lift.EDITED} AND f.state != 'filled' GROUP BY 1, 2, 3",
        crossing,
    ):
        if state == "odd" or (state == "empty" and (kind, field) in required):
            f["lift_open"] += count
            f["required_empty"] += count if state == "empty" else 0
    f["bodies"], f["words"], f["words_lost"], f["bodies_lost"] = rows(
        "SELECT count(*), coalesce(sum(r.words), 0), coalesce(sum(r.unaccounted), 0), coalesce(sum(r.unaccounted > "
        "0), 0) FROM refit r JOIN item i ON i.id = r.item_id WHERE i.crossing_id = ?",
        crossing,
    )[0]
    f["without"] = lift.without_address(crossing)
    f["bodies_lossy"] = refit.bodies_with_losses(crossing)
    f["things"] = {row.name: row for row in refit.things(crossing)}
    f["files"], f["files_carried"], f["files_aside"] = rows(
        "SELECT count(*), coalesce(sum(fate = 'carried'), 0), coalesce(sum(fate = 'set aside'), 0) FROM file WHERE "
        "crossing_id = ?",
        crossing,
    )[0]
    target = f["plan"].land.base if f["plan"].land else ""
    f["landed"] = one(
        "SELECT count(*) FROM ledger WHERE crossing_id = ? AND target = ? AND type = 'item'", crossing, target
    )
    last = rows("SELECT counts FROM landing WHERE crossing_id = ? AND ended != '' ORDER BY id DESC LIMIT 1", crossing)
    f["refused"] = len(json.loads(last[0][0]).get("refused", [])) if last else 0
    f["surveyed_at"] = (
        one("SELECT max(ended) FROM job WHERE crossing_id = ? AND kind = 'survey' AND state = 'done'", crossing) or ""
    )
    round_ = rows(
        "SELECT base, ended FROM round WHERE crossing_id = ? AND ended != '' ORDER BY id DESC LIMIT 1", crossing
    )
    f["checked_host"], f["checked_at"] = round_[0] if round_ else ("", "")
    return f


def waiting(f: dict[str, Any]) -> dict[str, int]:
    """What waits for a person, by stage."""
    return {
        "survey": f["failed"],
        "sort": f["unsorted"] if f["sorted"] or f["unsorted"] else f["pages"],
        "lift": f["lift_open"],
        "refit": f["bodies_lossy"],
        "route": f["unaccounted"] if f["items"] or f["proven"] or f["planned"] else 0,
        "land": f["refused"],
    }


def _many(count: int, one_: str, more: str) -> str:
    return f"{count:,} {one_ if count == 1 else more}"


def next_steps(f: dict[str, Any]) -> list[dict[str, Any]]:
    """What to do next, in the order of the work, each with what it would settle."""
    plan = f["plan"]
    steps: list[dict[str, Any]] = []

    def add(stage: str, settles: int, of: str, text: str, to: str = "") -> None:
        steps.append({"stage": stage, "text": text, "settles": settles, "of": of, "to": to or stage})

    if not f["addresses"] and not f["pages"]:
        add("survey", 1, "site", "Nothing is known of the old site yet. Survey it.")
        return steps
    if f["waiting"]:
        add(
            "survey",
            f["waiting"],
            "addresses",
            f"{_many(f['waiting'], 'address waits', 'addresses wait')} to be fetched",
            "survey?state=waiting",
        )
    if not plan.kinds:
        add(
            "sort", f["pages"], "pages", f"{_many(f['pages'], 'page is', 'pages are')} in no kind. Make the first kind."
        )
    elif not f["sorted"]:
        add("sort", f["pages"], "pages", f"The kinds have rules. Sort {_many(f['pages'], 'page', 'pages')}.")
    elif f["unsorted"]:
        add(
            "sort",
            f["unsorted"],
            "pages",
            f"No rule catches {_many(f['unsorted'], 'page', 'pages')}",
            "sort?tab=unsorted",
        )
    if f["sorted"] and not f["items"]:
        add(
            "lift",
            f["sorted"],
            "pages",
            f"{_many(f['sorted'], 'page is', 'pages are')} sorted, and nothing is lifted yet",
        )
    if f["lift_open"]:
        add(
            "lift",
            f["lift_open"],
            "fields",
            f"{_many(f['lift_open'], 'field is', 'fields are')} odd, or required and empty",
        )
    if f["items"] and not f["bodies"]:
        add(
            "refit",
            f["items"],
            "items",
            f"{_many(f['items'], 'item is', 'items are')} lifted, and no body is refitted yet",
        )
    if f["words_lost"]:
        add(
            "refit",
            f["words_lost"],
            "words",
            f"{_many(f['words_lost'], 'word', 'words')} unaccounted for on {_many(f['bodies_lost'], 'page', 'pages')}",
        )
    lost = {name: row for name, row in f["things"].items() if row.lost and name != "backgrounds"}
    if lost:
        told = ", ".join(_many(row.lost, name.removesuffix("s"), name) for name, row in lost.items())
        bodies = f["bodies_lossy"]
        text = f"{told} of {_many(bodies, 'body', 'bodies')} not in {'its' if bodies == 1 else 'their'} blocks"
        add("refit", sum(row.lost for row in lost.values()), "things", text, "refit?tab=losses&order=-lost")
    for row in f["without"]:
        text = f"{_many(row.count, 'item', 'items')} of the kind {row.kind} get no new address: {sentence(row.reason)}"
        add("route", row.count, "items", text, f"route?tab=places&kind={quote(row.kind)}")
    if f["unaccounted"]:
        text = f"{_many(f['unaccounted'], 'address is', 'addresses are')} unaccounted"
        add("route", f["unaccounted"], "addresses", text, "route?tab=open")
    if f["items"] and plan.land is None:
        add("land", f["items"], "items", "No target is named to land at", "land?tab=target")
    elif f["items"] > f["landed"]:
        left = f["items"] - f["landed"]
        add("land", left, "items", f"{_many(left, 'item is', 'items are')} not in the new system yet")
    elif f.get("unsent"):
        add(
            "land",
            1,
            "landing",
            "What goes over has changed since it was landed. Land again; only what changed is sent",
        )
    if f["refused"]:
        add("land", f["refused"], "things", f"The new system refused {_many(f['refused'], 'thing', 'things')}")
    if f["planned"] and not plan.interim:
        add("route", f["planned"], "addresses", "No interim host is named to check against", "survey?tab=scope")
    elif f["planned"]:
        them = "it" if f["planned"] == 1 else "them"
        text = f"{_many(f['planned'], 'fate is', 'fates are')} planned, and no check has proven {them}"
        add("route", f["planned"], "addresses", text, "route?tab=rounds")
    return steps


def _carried(f: dict[str, Any], thing: str) -> tuple[int, int]:
    """(kept in blocks, had) of a sort of thing in the bodies; what steps took is neither."""
    row = f["things"].get(thing)
    return (row.have - row.removed - row.lost, row.have - row.removed) if row else (0, 0)


def evidence(f: dict[str, Any]) -> dict[str, Any]:
    return {
        "addresses_proven": (f["proven"], f["addresses"]),
        "visits_covered": (f["visits_proven"], f["visits"]),
        "words_carried": (f["words"] - f["words_lost"], f["words"]),
        "links_carried": _carried(f, "links"),
        "pictures_carried": _carried(f, "pictures"),
        "documents_carried": _carried(f, "files"),
        "frames_carried": _carried(f, "frames"),
        "anchors_carried": _carried(f, "anchors"),
        "files_carried": (f["files_carried"], f["files"] - f["files_aside"]),
        "items_landed": (min(f["landed"], f["items"]), f["items"]),
        "surveyed_at": f["surveyed_at"],
        "checked_at": f["checked_at"],
        "checked_host": f["checked_host"],
    }
