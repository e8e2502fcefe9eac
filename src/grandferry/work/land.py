"""Landing as a job: files first, then items with their links rewritten, then redirects. Safe to repeat."""

from __future__ import annotations

import asyncio
import base64
import hashlib
import json
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from grandferry.core.address import Scope, fragment_of
from grandferry.core.errors import FerryError
from grandferry.core.plan import Edit, LandSettings, Plan
from grandferry.core.refit.blocks import readdress
from grandferry.core.refit.body import Body
from grandferry.core.refit.page import Region
from grandferry.core.refit.write import to_html
from grandferry.core.route.fate import Decision
from grandferry.core.route.spell import spelled_out
from grandferry.net.resolver import Resolver
from grandferry.ports.targets.jsonapi import JsonApi, TargetError, identity
from grandferry.store import bodies, edits, land, lift, refit, route, stamps

from .content import finished, stored_body
from .context import Context, scope_of
from .route import redirect_map
from .stamping import land_stamp

REFUSED_CAP = 50
TOLD = 50  # rows written at once


@dataclass(slots=True)
class Parcel:
    """One thing to deliver: ``build`` makes its attributes; ``hash`` says what they would be without making them."""

    sort: str
    key: str
    type: str
    hash: str
    build: Callable[[], dict[str, Any]]
    file: int = 0
    title: str = ""
    place: str = ""


def _hash(value: Any) -> str:
    return hashlib.sha256(json.dumps(value, sort_keys=True, ensure_ascii=False).encode()).hexdigest()[:32]


def file_parcels(crossing: int, settings: LandSettings) -> list[Parcel]:
    parcels = []
    for file in route.files(crossing):
        if not file["new_path"]:
            continue
        plain = {"path": file["new_path"], "name": file["name"], "mime": file["mime"], "alt": file["alt"]}

        def build(plain: dict[str, Any] = plain, body: str = file["body"]) -> dict[str, Any]:
            return {**plain, "data": base64.b64encode(bodies.get(body)).decode()}

        # the body's hash is its key, so a changed name or place is a change of the same file
        parcels.append(
            Parcel(
                "file",
                file["body"],
                settings.file_type,
                _hash([plain, file["body"]]),
                build,
                file["id"],
                file["name"],
                file["new_path"],
            )
        )
    return parcels


class Rewriter:
    """Links and sources of bodies to their new places. ``missed`` counts links to pages that did not move."""

    def __init__(self, scope: Scope, decisions: dict[str, Decision], files: dict[str, str]):
        self._scope = scope
        self._decisions = decisions
        self._files = files
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
            return href
        decision = self._decisions.get(address.key)
        if decision is not None and decision.fate in ("stays", "moved", "merged"):
            return decision.target + tail
        self.missed[address.key] += 1
        return href

    def source(self, src: str) -> str:
        address = self._scope.normal(src)
        return self._files.get(str(address), src) if address is not None else src


def _url(plan: Plan, key: str) -> str:
    """An old key as an address of the old host."""
    return plan.old.start.partition("://")[0] + "://" + plan.old.start.partition("://")[2].partition("/")[0] + key


def item_parcels(
    crossing: int, plan: Plan, settings: LandSettings, rewriter: Rewriter, conflicts: list[str]
) -> list[Parcel]:
    """The items of a crossing; what no longer fits under a person's edits is added to ``conflicts``."""
    kinds = {kind.name: kind for kind in plan.kinds}
    stored = refit.blocks_of(crossing)
    by_body: dict[tuple[str, str], list[Edit]] = {}
    for edit in edits.edits(crossing):
        by_body.setdefault((edit.old, edit.field), []).append(edit)
    parcels = []
    for item in lift.items(crossing):
        kind = kinds.get(item["kind"])
        if kind is None or not item["new_path"]:
            continue
        attributes: dict[str, Any] = {"title": item["title"], "path": item["new_path"], "published": True}
        for field in kind.fields:
            value = item["fields"].get(field.name)
            if field.type == "blocks":
                mine = by_body.get((item["key"], field.name), [])
                name = stored.get(item["id"], {}).get(field.name)
                body = stored_body(name) if name is not None else Body(Region((), ""), ())
                content, odd = finished(body, mine, _url(plan, item["key"]))
                if name is None and not content:
                    attributes[field.name] = None
                else:
                    written = to_html(readdress(content, rewriter.link, rewriter.source))
                    attributes[field.name] = {"format": "html", "value": written}
                for _ in odd:
                    conflicts.append(
                        f"{item['key']} ({field.name}): what was set by hand lies over something that changed"
                    )
            elif field.type == "picture" and isinstance(value, dict):
                attributes[field.name] = {**value, "src": rewriter.source(value["src"])}
            else:
                attributes[field.name] = value
        type_ = settings.types.get(kind.name, kind.name)
        parcels.append(
            Parcel(
                "item",
                item["key"],
                type_,
                _hash(attributes),
                lambda a=attributes: a,  # type: ignore[misc]
                title=item["title"],
                place=item["new_path"],
            )
        )
    return parcels


def redirect_parcels(crossing: int, settings: LandSettings) -> list[Parcel]:
    """The redirect map's lines. The target's table knows no patterns, so those are written as single lines over
    all known old addresses."""
    lines = spelled_out(redirect_map(crossing), route.decisions(crossing))
    parcels = []
    for line in lines:
        attributes = {"old": line.old, "new": line.new, "status": line.status, "match": line.match}
        parcels.append(
            Parcel(
                "redirect",
                f"{line.match} {line.old}",
                settings.redirect_type,
                _hash(attributes),
                lambda a=attributes: a,  # type: ignore[misc]
                title=str(line.status),
                place=line.new,
            )
        )
    return parcels


def run(context: Context) -> dict[str, Any]:
    """Deliver, or with ``dry`` say what would be done. The result counts created, changed, same and refused."""
    return asyncio.run(_run(context))


async def _run(context: Context) -> dict[str, Any]:
    plan, crossing = context.plan, context.crossing
    settings = plan.land
    if settings is None:
        raise FerryError("The plan names no target to land at.", "Add “land” to the plan.")
    dry = bool(context.params.get("dry"))
    rewriter = Rewriter(scope_of(plan), route.decisions(crossing), route.file_places(crossing))
    conflicts: list[str] = []
    parcels = [
        *file_parcels(crossing, settings),
        *item_parcels(crossing, plan, settings, rewriter, conflicts),
        *redirect_parcels(crossing, settings),
    ]
    if context.params.get("trial"):
        parcels = [p for p in parcels if p.sort == "file" or p.key == context.params["trial"]]
    for conflict in conflicts:
        context.log(f"{conflict}.", "warning")
    with context.writing():
        landing = land.open_landing(crossing, settings.base, dry)
    known = land.ledger(crossing, settings.base)
    counts: dict[str, Counter[str]] = {sort: Counter() for sort in ("file", "item", "redirect")}
    refused: list[dict[str, str]] = []
    told: list[tuple[str, ...]] = []
    host = urlsplit(settings.base).hostname or ""
    async with JsonApi(settings.base, Resolver({host})) as target:
        await target.exists()
        for number, parcel in enumerate(parcels, 1):
            id_ = identity(plan.name, parcel.sort, parcel.key)
            sent = known.get((parcel.sort, parcel.key))
            reason = ""
            if sent is not None and sent[1] == parcel.hash:
                done = "same"
            elif dry:
                done = "changed" if sent else "created"
            else:
                try:
                    done = await target.put(parcel.type, id_, parcel.build(), known=sent is not None)
                    with context.writing():
                        land.enter(crossing, settings.base, [(parcel.sort, parcel.key, id_, parcel.hash)])
                except TargetError as problem:
                    done, reason = "refused", str(problem)
                    if len(refused) < REFUSED_CAP:
                        refused.append({"sort": parcel.sort, "key": parcel.key, "reason": reason})
                    context.log(f"{parcel.sort} {parcel.key}: {reason}", "warning")
            told.append((parcel.sort, parcel.key, parcel.title, parcel.place, done, reason))
            if len(told) >= TOLD:
                with context.writing():
                    land.tell(landing, told)
                told.clear()
            counts[parcel.sort][done] += 1
            if parcel.sort == "file" and done in ("created", "changed", "same") and not dry:
                with context.writing():
                    land.mark_carried([(parcel.file,)])
            context.progress(done=number, all=len(parcels), refused=len(refused))
    result: dict[str, Any] = {sort: dict(found) for sort, found in counts.items()}
    result |= {
        "dry": dry,
        "refused": refused,
        "created": sum(c["created"] for c in counts.values()),
        "changed": sum(c["changed"] for c in counts.values()),
        "same": sum(c["same"] for c in counts.values()),
        "conflicts": len(conflicts),
        "links_not_moved": dict(rewriter.missed.most_common(50)),
        "files": route.file_fates(crossing),
    }
    with context.writing():
        land.tell(landing, told)
        land.close_landing(landing, result)
        if not (dry or refused or context.params.get("trial")):
            stamps.put(crossing, "land", land_stamp(crossing, plan))
    context.progress(force=True, done=len(parcels), all=len(parcels))
    return result
