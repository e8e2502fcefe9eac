"""Landing as a job: files first, then items with their links rewritten, then redirects. Safe to repeat."""

from __future__ import annotations

import asyncio
import hashlib
import json
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from typing import Any
from urllib.parse import urlsplit

from grandferry.core.errors import FerryError
from grandferry.core.mapping import Blocks, mapped
from grandferry.core.plan import LandSettings, Plan
from grandferry.core.refit.write import WRITERS
from grandferry.core.route.redirects import Redirect
from grandferry.core.route.spell import spelled_out
from grandferry.net.resolver import Resolver
from grandferry.ports.targets.base import Target, TargetError, identity
from grandferry.ports.targets.known import TARGETS
from grandferry.store import bodies, carried, land, route, stamps
from grandferry.work.jobs.context import Context
from grandferry.work.land.content import Contents
from grandferry.work.rounds.stamping import land_stamp
from grandferry.work.route.run import redirect_map

REFUSED_CAP = 50
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
        for file in carried.files(self.crossing):
            if not file.new_path:
                continue
            plain = self.target.file(file.new_path, file.name, file.mime, file.alt)
            # the body's hash is its key, so a changed name or place is a change of the same file
            yield Parcel(
                "file",
                file.body,
                self.settings.file_type,
                _hash([plain, file.body]),
                partial(_with_content, self.target, plain, file.body),
                file.id,
                file.name,
                file.new_path,
            )

    def items(self) -> Iterator[Parcel]:
        types, mappings = self.plan.item_types, self.plan.mappings
        form = next(form for form in self.target.takes.bodies if form in WRITERS)
        for item, kind, fields in self.content:
            fields, misfits = mapped(mappings.get(kind.name, []), fields)
            self.misfits.update(f"{kind.name}.{name}: {why}" for name, why in misfits.items())
            for name, value in fields.items():
                if isinstance(value, Blocks):
                    fields[name] = (form, WRITERS[form][1](value.blocks))
            attributes = self.target.item(item.title, item.new_path, fields)
            yield Parcel(
                "item",
                item.key,
                types[kind.name],
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


def _with_content(target: Target, attributes: dict[str, Any], body: str) -> dict[str, Any]:
    return target.with_content(attributes, bodies.get(body))


def run(context: Context) -> dict[str, Any]:
    """Deliver, or with ``dry`` say what would be done. The result counts created, changed, same and refused."""
    return asyncio.run(_run(context))


async def _run(context: Context) -> dict[str, Any]:
    plan, crossing = context.plan, context.crossing
    settings = plan.land
    if settings is None:
        raise FerryError("The plan names no target to land at.", "Add “land” to the plan.")
    dry = bool(context.params.get("dry"))
    content = Contents(crossing, plan)
    trial = str(context.params.get("trial") or "")
    with context.writing():
        landing = land.open_landing(crossing, settings.base, dry)
    known = land.ledger(crossing, settings.base)
    counts: dict[str, Counter[str]] = {type_: Counter() for type_ in ("file", "item", "redirect")}
    refused: list[dict[str, str]] = []
    told: list[tuple[str, ...]] = []
    host = urlsplit(settings.base).hostname or ""
    number = 0
    async with TARGETS[settings.target](settings.base, Resolver({host})) as target:
        await target.exists()
        load = Load(crossing, plan, settings, target, content)
        held = Held(context, target)
        total = load.count()
        for parcel in load:
            if trial and parcel.thing != "file" and parcel.key != trial:
                continue
            number += 1
            id_ = identity(plan.name, parcel.thing, parcel.key)
            sent = known.get((parcel.thing, parcel.key))
            reason = ""
            if sent is not None and sent[1] == parcel.hash and not await held.holds(parcel, id_):
                sent = None
            if sent is not None and sent[1] == parcel.hash:
                done = "same"
            elif dry:
                done = "changed" if sent else "created"
            else:
                try:
                    done = await target.put(parcel.type, id_, parcel.build(), known=sent is not None)
                    with context.writing():
                        land.enter(crossing, settings.base, [(parcel.thing, parcel.key, id_, parcel.hash)])
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
        "files": carried.fates(crossing),
    }
    with context.writing():
        land.tell(landing, told)
        land.close_landing(landing, result)
        if not (dry or refused or trial):
            stamps.put(crossing, "land", land_stamp(crossing, plan))
    context.progress(force=True, done=number, all=number)
    return result
