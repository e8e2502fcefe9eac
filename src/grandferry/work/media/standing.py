"""Which files have a role, which of them do not suit it, and what pictures are made into."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from pydantic import ValidationError

from grandferry.core.errors import FerryError, NotThere
from grandferry.core.media.remake import ENDINGS, Becomes
from grandferry.core.media.said import FileSaid, by_address, of_bodies, written_as
from grandferry.core.plan import Plan
from grandferry.core.route.places import remaking, said_of_bodies
from grandferry.store import carried, changes, crossings, media, said


class Stands(NamedTuple):
    """A file's role ("" for none), why it does not suit it ("" where it does), and what is said of it."""

    role: str
    fault: str
    said: FileSaid | None


def standing(crossing: int, plan: Plan) -> dict[str, Stands]:
    """Files of which something is said, or that have a role, by their bodies."""
    mine = by_address(said.every(crossing), plan.side("old").origin)
    of_field = {field: role.name for role in plan.media.roles for field in role.fields}
    found: dict[str, tuple[str, FileSaid | None]] = {}
    for body, field in media.of_fields(crossing, list(of_field)):
        found.setdefault(body, (of_field[field], None))
    for body, one in of_bodies(media.every_address(crossing) if mine else {}, mine).items():
        found[body] = (one.role or found.get(body, ("", None))[0], one)
    sizes = media.sizes(list(found))
    made = {}
    for body, (role, said_) in found.items():
        fault = plan.media.fault(role, *sizes.get(body, (0, 0))) if role else None
        made[body] = Stands(role, str(fault or ""), said_)
    return made


def as_kept(stands: Mapping[str, Stands]) -> dict[str, media.Stand]:
    """The same as lists of files have it."""
    return {body: (one.role, one.fault, one.said is not None) for body, one in stands.items()}


def unsuited(crossing: int, plan: Plan) -> int:
    """How many pictures do not suit their role."""
    return sum(bool(one.fault) for one in standing(crossing, plan).values())


def remakes(crossing: int, plan: Plan) -> dict[str, Becomes]:
    """What pictures are made into as they go over, by their bodies, in the type under which they have their place."""
    captured = carried.captured(crossing)
    mine = said_of_bodies(captured, by_address(said.every(crossing), plan.side("old").origin))
    placed = {file.body: file.mime for file in carried.files(crossing)}
    found: dict[str, Becomes] = {}
    for file in captured:
        mime = placed.get(file.body, file.mime)
        into = remaking(plan, file, mine.get(file.body, FileSaid(file="/")))
        widest = into.widest if into is not None else 0
        if mime in ENDINGS and (widest or mime != file.mime):
            found.setdefault(file.body, Becomes(mime, widest))
    return found


def say_of(crossing: int, files: list[int], given: Mapping[str, Any], by: str, text: str) -> int:
    """Say something of files, each by the number of one of its addresses, over what is said of them already; gives the
    new revision. Raises NotThere, and FerryError for what cannot be said."""
    plan = crossings.load_plan(crossing)
    origin, stands = plan.side("old").origin, standing(crossing, plan)
    if given.get("role") and given["role"] not in {role.name for role in plan.media.roles}:
        raise FerryError(f"There is no role “{given['role']}”.", "Make it under Roles & sizes first.")
    if len(files) > 1 and given.keys() & {"name", "focus"}:
        raise FerryError("A name, or a place that crops keep, is said of one file at a time.")
    wanted = []
    for address in files:
        body = media.body_of(crossing, address)
        if body is None:
            raise NotThere(f"There is no file of the address {address} in this crossing.")
        had = stands[body].said if body in stands else None
        first = written_as(media.sources(crossing, address)[0].url, origin)
        before = (had or FileSaid(file=first)).model_dump()
        try:
            wanted.append(FileSaid.model_validate(before | dict(given)))
        except ValidationError as problem:
            raise FerryError(f"{problem.errors()[0]['msg'].removeprefix('Value error, ')}.") from None
    some = wanted[0].file if len(wanted) == 1 else f"{len(wanted):,} files"
    return changes.change_files(crossing, wanted, [], by, text or f"said of {some}: {', '.join(given) or 'nothing'}")
