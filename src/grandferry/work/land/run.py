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

from grandferry.core.address import Address, Scope, fragment_of
from grandferry.core.errors import FerryError
from grandferry.core.plan import Edit, LandSettings, Plan
from grandferry.core.refit.blocks import readdress
from grandferry.core.refit.body import Body
from grandferry.core.refit.page import Region
from grandferry.core.refit.write import WRITERS
from grandferry.core.route.fate import Decision
from grandferry.core.route.places import Item
from grandferry.core.route.redirects import Redirect
from grandferry.core.route.spell import spelled_out
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.secrets import in_address
from grandferry.net.resolver import Resolver
from grandferry.ports.targets.base import Target, TargetError, identity
from grandferry.ports.targets.known import TARGETS
from grandferry.store import bodies, edits, land, lift, refit, route, stamps
from grandferry.work.jobs.context import Context
from grandferry.work.refit.content import finished, stored_body
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


class Rewriter:
    """Links and sources of bodies to their new places. ``missed`` counts links to pages that did not move."""

    def __init__(self, scope: Scope, decisions: dict[str, Decision], files: dict[str, str], kept: frozenset[str]):
        self._scope = scope
        self._decisions = decisions
        self._files = files
        self._kept = kept  # marks of keys that go over
        self.missed: Counter[str] = Counter()

    def link(self, href: str) -> str:
        address = None if href.startswith("#") else self._scope.normal(href)
        if address is None:
            return href
        fragment = fragment_of(href)
        tail = f"#{fragment}" if fragment else ""
        place = self._files.get(str(address))
        if place is not None:
            return place
        if address.host not in self._scope.hosts:
            return self._as_it_was(href, address)
        decision = self._decisions.get(address.key)
        if decision is not None and decision.fate in ("stays", "moved", "merged"):
            return decision.target + tail
        self.missed[address.key] += 1
        return self._as_it_was(href, address)

    def source(self, src: str) -> str:
        address = self._scope.normal(src)
        if address is None:
            return src
        return self._files.get(str(address)) or self._as_it_was(src, address)

    def _as_it_was(self, written: str, address: Address) -> str:
        """An old address that stays: of the old site keys in it are masked now, of others they were before."""
        return in_address(written, self._kept) if self._scope.is_ours(address.host) else written


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


def _url(plan: Plan, key: str) -> str:
    """An old key as an address of the old host."""
    return plan.old.start.partition("://")[0] + "://" + plan.old.start.partition("://")[2].partition("/")[0] + key


@dataclass(slots=True)
class Load:
    """Everything that goes over, made one thing after the other and never all held. ``conflicts`` are noted on the
    way."""

    crossing: int
    plan: Plan
    settings: LandSettings
    target: Target
    rewriter: Rewriter
    conflicts: list[str] = field(default_factory=list)

    def count(self) -> int:
        """How many things there are, without making them."""
        files = sum(bool(file.new_path) for file in route.files(self.crossing))
        return files + len(self._items()) + len(self._lines())

    def __iter__(self) -> Iterator[Parcel]:
        yield from self.files()
        yield from self.items()
        yield from self.redirects()

    def files(self) -> Iterator[Parcel]:
        for file in route.files(self.crossing):
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

    def _items(self) -> list[Item]:
        kinds = {kind.name for kind in self.plan.every_kind}
        return [item for item in lift.items(self.crossing) if item.kind in kinds and item.new_path]

    def items(self) -> Iterator[Parcel]:
        kinds, types = {kind.name: kind for kind in self.plan.every_kind}, self.plan.item_types
        stored = refit.blocks_of(self.crossing)
        by_body: dict[tuple[str, str], list[Edit]] = {}
        for edit in edits.edits(self.crossing):
            by_body.setdefault((edit.old, edit.field), []).append(edit)
        for item in self._items():
            kind = kinds[item.kind]
            fields: dict[str, Any] = {}
            for wanted in kind.fields:
                value = item.fields.get(wanted.name)
                if wanted.type == "blocks":
                    mine = by_body.get((item.key, wanted.name), [])
                    value = self._body(item.key, wanted.name, stored.get(item.id, {}).get(wanted.name), mine)
                elif wanted.type == "picture" and isinstance(value, dict):
                    value = {**value, "src": self.rewriter.source(value["src"])}
                fields[wanted.name] = value
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

    def _body(self, key: str, name: str, stored: str | None, mine: list[Edit]) -> tuple[str, str] | None:
        """A body in the form the target takes, with what a person changed in it; None when there is none."""
        body = stored_body(stored) if stored is not None else Body(Region((), ""), ())
        content, odd = finished(body, mine, _url(self.plan, key))
        self.conflicts += [f"{key} ({name}): what was set by hand lies over something that has changed"] * len(odd)
        if stored is None and not content:
            return None
        form = next(form for form in self.target.takes.bodies if form in WRITERS)
        return form, WRITERS[form][1](readdress(content, self.rewriter.link, self.rewriter.source))

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
    places = route.file_places(crossing)
    rewriter = Rewriter(scope_of(plan.side("old")), route.decisions(crossing), places, plan.carried_marks)
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
        load = Load(crossing, plan, settings, target, rewriter)
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
    for conflict in load.conflicts:
        context.log(f"{conflict}.", "warning")
    result: dict[str, Any] = {type_: dict(found) for type_, found in counts.items()}
    result |= {
        "dry": dry,
        "refused": refused,
        "created": sum(c["created"] for c in counts.values()),
        "changed": sum(c["changed"] for c in counts.values()),
        "same": sum(c["same"] for c in counts.values()),
        "conflicts": len(load.conflicts),
        "links_not_moved": dict(rewriter.missed.most_common(50)),
        "files": route.file_fates(crossing),
    }
    with context.writing():
        land.tell(landing, told)
        land.close_landing(landing, result)
        if not (dry or refused or trial):
            stamps.put(crossing, "land", land_stamp(crossing, plan))
    context.progress(force=True, done=number, all=number)
    return result
