"""Crossings and their plans as rows."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from typing import Any

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.plan import Pair as PairLine
from grandferry.core.plan import Plan

from .db import many, now, one, rows, transaction
from .fates import fates_follow
from .schema import Crossing, Pair, PlanRow

PAIR_COLUMNS = 'crossing_id, position, old, new, status, "match", reason'
SINGLE = ("old", "interim", "final", "manners", "survey", "new", "leave_out", "carried_keys", "land", "media")


def crossing(number: int) -> Crossing:
    found = Crossing.get_or_none(Crossing.id == number)
    if found is None:
        raise NotThere(f"There is no crossing {number}.")
    return found


def crossing_named(name: str) -> Crossing | None:
    return Crossing.get_or_none(Crossing.name == name)


def crossings() -> list[Crossing]:
    return list(Crossing.select().order_by(Crossing.id))


def make_crossing(name: str) -> Crossing:
    """A new, empty crossing. Raises FerryError when the name is taken."""
    with transaction():
        if crossing_named(name) is not None:
            raise FerryError(f"A crossing named “{name}” is there already.", "Choose another name.")
        return Crossing.create(name=name, created=now())


def save_plan(number: int, plan: Plan, pairs: list[PairLine]) -> None:
    """Store a plan as the crossing's decisions, in the place of those it had."""
    with transaction():
        write_parts(number, plan)
        Pair.delete().where(Pair.crossing == number).execute()
        many(
            f"INSERT INTO pair ({PAIR_COLUMNS}) VALUES (?, ?, ?, ?, ?, ?, ?)",
            [(number, at, p.old, p.new, p.status, p.match, p.reason) for at, p in enumerate(pairs)],
        )


def write_parts(number: int, plan: Plan) -> None:
    """A plan's parts as rows, in the place of those there were (within the caller's transaction)."""
    data = plan.model_dump(mode="json", exclude_defaults=False)
    parts: list[tuple[str, int, str, Any]] = [(part, 0, "", data[part]) for part in SINGLE if data[part] is not None]
    parts += [("kind", k, kind["name"], kind) for k, kind in enumerate(data["kinds"])]
    parts += [("step", k, step["name"], step) for k, step in enumerate(data["refit"]["steps"])]
    parts += [("form", k, form["form"], form) for k, form in enumerate(data["refit"]["forms"])]
    parts += [("rule", k, "", rule) for k, rule in enumerate(data["route"]["rules"])]
    parts += [("aside", k, "", aside) for k, aside in enumerate(data["route"]["aside"])]
    parts += [("accept", k, "", accept) for k, accept in enumerate(data["route"]["accept"])]
    parts += [("question", k, "", question) for k, question in enumerate(data["route"]["questions"])]
    if data["refit"]["markdown"]:
        parts.append(("markdown", 0, "", data["refit"]["markdown"]))
    if data["route"]["files"]:
        parts.append(("files", 0, "", data["route"]["files"]))
    lines = [(part, at, name, json.dumps(content, ensure_ascii=False)) for part, at, name, content in parts]
    put_rows(number, lines)


def put_rows(number: int, lines: Iterable[Sequence[Any]]) -> None:
    """Rows of a plan (part, position, name, JSON) in the place of those there were; fates follow."""
    with fates_follow(number):
        PlanRow.delete().where(PlanRow.crossing == number).execute()
        many(
            "INSERT INTO plan_row (crossing_id, part, position, name, content) VALUES (?, ?, ?, ?, ?)",
            [(number, *line) for line in lines],
        )


def meant(number: int | None) -> int:
    """The crossing that a command is for: the one it names, or the only one. Raises FerryError."""
    if number is not None:
        return crossing(number).id
    there = crossings()
    if len(there) != 1:
        named = "; ".join(f"{one.id}: {one.name}" for one in there) or "none is there yet"
        raise FerryError(
            f"The workspace holds {len(there)} crossings ({named}).", "Say with --crossing which one is meant."
        )
    return int(there[0].id)


def load_plan(number: int) -> Plan:
    """The crossing's plan, put together from its rows. Raises NotThere when it has none."""
    found = crossing(number)
    return plan_of(
        found.name,
        rows("SELECT part, content FROM plan_row WHERE crossing_id = ? ORDER BY part, position", number),
    )


def plan_of(name: str, lines: Iterable[Sequence[Any]]) -> Plan:
    """A plan put together from its rows (part, JSON), those of one part in their order. Raises NotThere when there is
    none."""
    data: dict[str, Any] = {"format": 1, "name": name, "kinds": [], "refit": {"steps": [], "forms": []}}
    route: dict[str, Any] = {"rules": [], "aside": [], "accept": [], "questions": []}
    lists = {"kind": data["kinds"], "step": data["refit"]["steps"], "rule": route["rules"], "aside": route["aside"]}
    lists |= {"accept": route["accept"], "form": data["refit"]["forms"], "question": route["questions"]}
    for part, content in lines:
        value = json.loads(content)
        if part in lists:
            lists[part].append(value)
        elif part == "files":
            route["files"] = value
        elif part == "markdown":
            data["refit"]["markdown"] = value
        else:
            data[part] = value
    if "old" not in data:
        raise NotThere(f"The crossing “{name}” has no plan yet.")
    data["route"] = route
    return Plan.model_validate(data)


def last_change(number: int) -> str:
    """The moment (ISO 8601) from which on all is as it is: of the newest capture or change, else of its making."""
    found = rows(
        "SELECT (SELECT max(at) FROM capture WHERE crossing_id = c.id), (SELECT max(at) FROM change "
        "WHERE crossing_id = c.id), c.created FROM crossing c WHERE c.id = ?",
        number,
    )[0]
    return max(moment for moment in found if moment)


def load_pairs(number: int) -> list[PairLine]:
    found = rows('SELECT old, new, status, "match", reason FROM pair WHERE crossing_id = ? ORDER BY position', number)
    return [
        PairLine(old=old, new=new, status=status, match=match, reason=why) for old, new, status, match, why in found
    ]


def account_of(number: int) -> dict[str, dict[str, int]]:
    """Counts by fate: ``{fate: {"planned": n, "proven": n}}`` for the fates that occur."""
    account: dict[str, dict[str, int]] = {}
    for fate, proven, count in rows(
        "SELECT fate, proven, sum(count) FROM tally WHERE crossing = ? GROUP BY fate, proven", number
    ):
        if count:
            account.setdefault(fate, {"planned": 0, "proven": 0})["proven" if proven else "planned"] += count
    return account


def counted(number: int) -> int:
    return one("SELECT coalesce(sum(count), 0) FROM tally WHERE crossing = ?", number)
