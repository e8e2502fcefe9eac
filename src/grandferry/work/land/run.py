"""Landing as a job: files first, then items with their links rewritten, then redirects. Safe to repeat."""

from __future__ import annotations

import asyncio
import hashlib
import json
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from grandferry.core.errors import FerryError
from grandferry.core.land.going import Going
from grandferry.core.mapping import mapped
from grandferry.core.media.remake import Becomes, CannotRemake, remade
from grandferry.core.plan import LandSettings, Plan
from grandferry.core.route.redirects import Redirect
from grandferry.core.route.spell import spelled_out
from grandferry.net.resolver import Resolver
from grandferry.ports.targets.base import Ended, Target, TargetError, identity
from grandferry.ports.targets.known import TARGETS, Opening
from grandferry.store import bodies, carried, land, lift, records, route, stamps
from grandferry.work.jobs.context import Context
from grandferry.work.land.along import Along
from grandferry.work.land.content import Contents
from grandferry.work.land.documents import documents, of_writing
from grandferry.work.land.places import folder_of
from grandferry.work.media.standing import remakes
from grandferry.work.rounds.stamping import land_stamp
from grandferry.work.route.run import redirect_map

REFUSED_CAP = 50
LINKS = 500  # links to pages that do not go over that are named
TOLD = 50  # rows written at once
PROBES = 3  # things of a sort that the target is asked for before it is believed that it holds the rest


@dataclass(slots=True)
class Parcel:
    """One thing to deliver: ``build`` makes its attributes; ``hash`` says what they would be without making them."""

    thing: str  # file, item or redirect
    key: str
    type: str  # what the target calls it
    hash: str
    build: Callable[[], dict[str, Any]]
    file: int = 0
    title: str = ""
    place: str = ""


def _hash(value: Any) -> str:
    return hashlib.sha256(json.dumps(value, sort_keys=True, ensure_ascii=False).encode()).hexdigest()[:32]


@dataclass(slots=True)
class Held:
    """Whether a target still holds what was landed there: asked of the first PROBES things of each sort that would be
    left as they are, and of every one as soon as one of them is gone, as where a test system was made anew."""

    context: Context
    target: Target
    asked: Counter[str] = field(default_factory=Counter)
    doubtful: bool = False
    told: bool = False

    async def holds(self, parcel: Parcel, id_: str) -> bool:
        if not self.doubtful and self.asked[parcel.thing] >= PROBES:
            return True
        self.asked[parcel.thing] += 1
        try:
            there = await self.target.get(parcel.type, id_) is not None
        except TargetError as problem:
            if not self.told:
                self.context.log(f"Whether the target still holds what was landed cannot be told: {problem}", "warning")
            self.told = True
            return True
        if not there and not self.doubtful:
            self.doubtful = True
            self.context.log(
                "The target does not hold all any more that was landed there, so it is asked for every thing; what is "
                "gone is made anew.",
                "warning",
            )
        return there


@dataclass(slots=True)
class Load:
    """Everything that goes over, made one thing after the other and never all held."""

    crossing: int
    plan: Plan
    settings: LandSettings
    target: Target
    content: Contents
    along: Along
    misfits: Counter[str] = field(default_factory=Counter)  # values that stay away, noted on the way

    def count(self) -> int:
        """How many things there are, without making them."""
        files = sum(bool(file.new_path) for file in carried.files(self.crossing))
        return files + len(self.content) + len(self._lines())

    def __iter__(self) -> Iterator[Parcel]:
        yield from self.files()
        yield from self.items()
        yield from self.redirects()

    def files(self) -> Iterator[Parcel]:
        anew, quality = remakes(self.crossing, self.plan), self.plan.media.remake.quality
        for file in carried.files(self.crossing):
            if not file.new_path:
                continue
            into = anew.get(file.body)
            plain = self.target.file(file.new_path, file.name, file.mime, file.alt)
            # the body's hash is its key, so a changed name or place is a change of the same file
            yield Parcel(
                "file",
                file.body,
                self.settings.file_type,
                _hash([plain, file.body, *([*into, quality] if into is not None else [])]),
                partial(_with_content, self.target, plain, file.body, into, quality),
                file.id,
                file.name,
                file.new_path,
            )

    def items(self) -> Iterator[Parcel]:
        types, mappings = self.plan.item_types, self.plan.mappings
        for item, kind, fields in self.content:
            fields, misfits = mapped(mappings.get(kind.name, []), fields)
            self.misfits.update(f"{kind.name}.{name}: {why}" for name, why in misfits.items())
            going = Going(item.key, item.new_path, item.title, kind, fields)
            self.along.note(going)
            attributes = self.target.item(going)
            yield Parcel(
                "item",
                item.key,
                types[kind.name] or kind.name,
                _hash(attributes),
                partial(dict, attributes),
                title=item.title,
                place=item.new_path,
            )

    def _lines(self) -> list[Redirect]:
        beyond = {"exact", "prefix", "pattern"} - self.target.takes.redirects
        if "exact" in beyond:  # a target without a table of redirects
            return []
        return spelled_out(redirect_map(self.crossing), route.decisions(self.crossing), beyond)

    def redirects(self) -> Iterator[Parcel]:
        """The redirect map's lines; what the target's table cannot say is spelled out."""
        for line in self._lines():
            attributes = self.target.redirect(line.old, line.new, line.status, line.match)
            yield Parcel(
                "redirect",
                f"{line.match} {line.old}",
                self.settings.redirect_type,
                _hash(attributes),
                partial(dict, attributes),
                title=str(line.status),
                place=line.new,
            )


def _with_content(
    target: Target, attributes: dict[str, Any], body: str, into: Becomes | None, quality: int
) -> dict[str, Any]:
    content = bodies.get(body)
    if into is not None:
        try:
            content = remade(content, into, quality)
        except CannotRemake as problem:
            raise TargetError(str(problem)) from None
    return target.with_content(attributes, content)


async def _take_back(context: Context, target: Target, where: str, landing: int) -> dict[str, Any]:
    """Take away what was landed at a target, the last of it first; what cannot be is told, and stays in the ledger."""
    crossing = context.crossing
    assert context.plan is not None
    settings, types = context.plan.land, context.plan.item_types
    kinds = {item.key: item.kind for item in lift.items(crossing)}
    known = sorted(land.ledger(crossing, where).items(), reverse=True)
    removed, refused = 0, []
    for number, ((thing, key), (id_, _)) in enumerate(known, 1):
        type_ = {"file": settings.file_type, "redirect": settings.redirect_type}.get(thing, "") if settings else ""
        try:
            removed += await target.remove(type_ or types.get(kinds.get(key, ""), ""), id_)
            with context.writing():
                land.forget(crossing, where, thing, key)
        except TargetError as problem:
            refused.append({"thing": thing, "key": key, "reason": str(problem)})
            context.log(f"{thing} {key}: {problem}", "warning")
        context.progress(done=number, all=len(known), refused=len(refused))
    ended = await target.finish((), ())
    result = {"taken_back": removed, "refused": refused[:REFUSED_CAP], "removed": ended.removed, "dry": False}
    result |= {"kept": [list(one) for one in ended.kept], "created": 0, "changed": 0, "same": 0}
    with context.writing():
        land.close_landing(landing, result)
        stamps.put(crossing, "land", "")
    return result


def _documents(context: Context, load: Load) -> Iterator[tuple[str, bytes]]:
    """What goes along with a folder."""
    if load.target.takes.folder:
        missed, open_ = load.content.rewriter.missed_on, of_writing(load.target.differs())
        yield from documents(context.crossing, load.plan, load.settings, load.along, missed, open_)


def run(context: Context) -> dict[str, Any]:
    """Deliver, or with ``dry`` say what would be done. The result counts created, changed, same and refused."""
    return asyncio.run(_run(context))


async def _run(context: Context) -> dict[str, Any]:
    plan, crossing = context.plan, context.crossing
    named = context.params.get("target")
    settings = LandSettings.model_validate(named) if named else plan.land
    plan = plan.model_copy(update={"land": settings})
    if settings is None:
        raise FerryError("The plan names no target to land at.", "Add “land” to the plan.")
    dry = bool(context.params.get("dry"))
    place = Path(context.params.get("out") or folder_of(plan))
    where = str(settings.base) if not settings.in_folder else str(place)
    trial = str(context.params.get("trial") or "")
    with context.writing():
        landing = land.open_landing(crossing, where, dry)
    known = land.ledger(crossing, where)
    counts: dict[str, Counter[str]] = {type_: Counter() for type_ in ("file", "item", "redirect")}
    refused: list[dict[str, str]] = []
    told: list[tuple[str, ...]] = []
    host = urlsplit(settings.base or "").hostname or ""
    number = 0
    ended: Ended | None = None
    over = bool(context.params.get("over"))
    opening = Opening(settings, place, over, plan.refit.choices, Resolver({host}))
    async with TARGETS[settings.target](opening) as target:
        await target.exists()
        if trial and target.takes.whole:
            raise FerryError(
                "There several items stand in one file, which is written whole, so none can be landed alone.",
                "See the item's line instead, or land all.",
            )
        if context.params.get("take_back"):
            return await _take_back(context, target, where, landing)
        content = Contents(crossing, plan, every=target.takes.folder)
        said = records.of_keys(crossing) if target.takes.folder else {}
        records_ = {key: data for key, (data, _) in said.items()}
        along = Along(records_, {one.form: one for one in plan.refit.forms}, "comments" in plan.leave_out)
        load = Load(crossing, plan, settings, target, content, along)
        held = Held(context, target, doubtful=target.takes.folder, told=target.takes.folder)
        total = load.count()
        ids: set[str] = set()
        for parcel in load:
            if trial and parcel.thing != "file" and parcel.key != trial:
                continue
            number += 1
            id_ = identity(plan.name, parcel.thing, parcel.key)
            ids.add(id_)
            sent = known.get((parcel.thing, parcel.key))
            reason = ""
            if sent is not None and sent[1] == parcel.hash and not await held.holds(parcel, id_):
                sent = None
            if sent is not None and sent[1] == parcel.hash and (dry or not target.takes.whole):
                done = "same"
            elif dry:
                done = "changed" if sent else "created"
            else:
                try:
                    done = await target.put(parcel.type, id_, parcel.build(), known=sent is not None)
                    with context.writing():
                        land.enter(crossing, where, [(parcel.thing, parcel.key, id_, parcel.hash)])
                except TargetError as problem:
                    done, reason = "refused", str(problem)
                    if len(refused) < REFUSED_CAP:
                        refused.append({"thing": parcel.thing, "key": parcel.key, "reason": reason})
                    context.log(f"{parcel.thing} {parcel.key}: {reason}", "warning")
            told.append((parcel.thing, parcel.key, parcel.title, parcel.place, done, reason))
            if len(told) >= TOLD:
                with context.writing():
                    land.tell(landing, told)
                told.clear()
            counts[parcel.thing][done] += 1
            if parcel.thing == "file" and done in ("created", "changed", "same") and not dry:
                with context.writing():
                    land.mark_carried([(parcel.file,)])
            context.progress(done=number, all=total, refused=len(refused))
        if not (dry or trial):
            ended = await target.finish(ids, _documents(context, load))
    for key, wanted, name in ended.renamed if ended is not None else ():
        context.log(f"{key} is called {name} there: {wanted} is taken, or no name for a file.", "warning")
    for name, why in ended.kept if ended is not None else ():
        context.log(f"{name}: {why}", "warning")
    for conflict in content.conflicts:
        context.log(f"{conflict}.", "warning")
    for misfit, number_of in load.misfits.most_common():
        context.log(f"{number_of:,} values stay away: {misfit}.", "warning")
    result: dict[str, Any] = {type_: dict(found) for type_, found in counts.items()}
    result |= {
        "dry": dry,
        "refused": refused,
        "created": sum(c["created"] for c in counts.values()),
        "changed": sum(c["changed"] for c in counts.values()),
        "same": sum(c["same"] for c in counts.values()),
        "conflicts": len(content.conflicts),
        "misfits": dict(load.misfits),
        "links_not_moved": dict(content.rewriter.missed.most_common(50)),
        "links_left": [[*link, times] for link, times in sorted(content.rewriter.missed_on.items())[:LINKS]],
        "links_left_all": content.rewriter.missed_on.total(),
        "forms": len(along.forms),
        "files": carried.fates(crossing),
    }
    if settings.in_folder:
        result["folder"] = str(place)
    if ended is not None and settings.in_folder:
        result |= {"documents": ended.written, "removed": ended.removed, "kept": [list(one) for one in ended.kept]}
    with context.writing():
        land.tell(landing, told)
        land.close_landing(landing, result)
        if not (dry or refused or trial or named):
            stamps.put(crossing, "land", land_stamp(crossing, plan))
    context.progress(force=True, done=number, all=number)
    return result
