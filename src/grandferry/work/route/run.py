"""Routing as a job: new addresses for items and files, a decision for every old address, and the redirect map."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from grandferry.core.address import normal
from grandferry.core.because import Why, because, sentence
from grandferry.core.media.said import by_address, whole
from grandferry.core.plan import Plan
from grandferry.core.records.page import is_public
from grandferry.core.route.decide import Old, decide, hidden_by_rules, redirects_for
from grandferry.core.route.fate import Decision
from grandferry.core.route.flaws import flaws
from grandferry.core.route.places import CapturedFile, Item, Place, PlacedFile, new_addresses, place_files
from grandferry.core.route.redirects import Redirect, RedirectMap, map_of
from grandferry.core.survey.scope import scope_of
from grandferry.store import carried, crossings, lift, records, route, stamps
from grandferry.store import said as said_of_files
from grandferry.store.survey import likeness
from grandferry.work.jobs.context import Context
from grandferry.work.route.menus import menus_above

DECIDED = "decided"  # the stamp of routing: what it rests on is compared row by row
MAP = "map"  # the stamp of the map's lines: when they last changed


@dataclass(frozen=True, slots=True)
class Routed:
    """What routing comes to, before anything of it is written: places of items, files (with their sources), decisions
    of every address in the account, the lines of the map, and what is wrong with it."""

    places: list[Place]
    files: list[PlacedFile]
    sources: list[tuple[str, int]]
    decisions: dict[str, Decision]
    lines: tuple[Redirect, ...]
    items: list[Item]
    captured: list[CapturedFile]


def routed(crossing: int, plan: Plan) -> Routed:
    """Decide everything that can be decided from what is there now."""
    scope = scope_of(plan.side("old"))
    own = plan.cut(crossings.load_pairs(crossing))
    pairs = map_of(pair.redirect for pair in own)
    rules = plan.route.lines
    said = {(line.redirect.match, line.redirect.old): line.reason for line in (*plan.route.rules, *own) if line.reason}
    items = lift.items(crossing)
    held = {i.key: pairs.exact[i.key].new for i in items if i.key in pairs.exact}
    taken = set(held.values())  # a pair that leads to another item's place is no claim to it
    addressed = records.old_keys(crossing)
    old_keys = {page: key for page, (key, _) in addressed.items()}
    places = new_addresses(
        plan, [i for i in items if i.key not in held], set(taken), old_keys, menus_above(crossing, plan)
    )
    by_id = {i.id: i for i in items}
    for item in items:  # a pair sets an item's own address by hand, and locks it
        if item.key in held:
            path = held[item.key]
            note = because(Why.BY_PAIR if path else Why.RETIRED)
            places.append(Place(str(item.fields.get("title") or ""), path, note, item.id))
    captured = carried.captured(crossing)
    at = {by_id[place.item].key: place.path for place in places if place.path}
    mine = by_address(said_of_files.every(crossing), plan.side("old").origin)
    files, sources = place_files(plan, captured, {place.path for place in places} | taken, at, mine)
    placed = {file.body: file.new_path for file in files if file.new_path}
    whys = {file.body: file.reason for file in files if file.new_path}
    hosts = scope.hosts
    file_keys = {key: placed[body] for _, _, key, host, body, *_ in captured if host in hosts and body in placed}
    item_keys = {by_id[place.item].key: place.path for place in places if place.path}
    for page, (key, state) in addressed.items():  # what nobody could read leads nowhere
        if is_public(state) and page in item_keys:
            item_keys.setdefault(key, item_keys[page])
    twins = likeness.twins(crossing)
    olds = [Old(key, _on_site(target, hosts), twins.get(key, "")) for key, target in route.old_addresses(crossing)]
    # redirecting addresses that are not in the account still carry on what leads through them
    known = {old.key for old in olds}
    for url, target in route.all_redirects(crossing).items():
        address = normal(url)
        if address is not None and address.host in hosts and address.key not in known:
            olds.append(Old(address.key, _on_site(target, hosts)))
    left_out = {key: name for key, name in route.families(crossing).items() if name in plan.leave_out}
    made = decide(
        olds,
        pairs=pairs,
        rules=map_of(rules),
        asides=plan.route.aside,
        items=item_keys,
        files=file_keys,
        left_out=left_out,
        said=said,
        asked=plan.route.asked,
        following={key: said for _, _, key, host, body, *_ in captured if host in hosts and (said := whys.get(body))},
        sections=Counter(item.key.partition("#")[0] for item in items if "#" in item.key),
    )
    counted = {k: d for k, d in made.items() if k in known}
    return Routed(places, files, sources, counted, redirects_for(counted, rules), items, captured)


def digest(lines: Iterable[Redirect]) -> str:
    """One hash over the lines of a map."""
    found = hashlib.blake2b(digest_size=10)
    for line in lines:
        found.update(repr((line.old, line.new, line.status, line.match)).encode("utf-8", "surrogatepass"))
    return found.hexdigest()


def _changed(crossing: int, now: Routed) -> tuple[dict[str, Decision], list[Place]]:
    """The decisions and places that are not as they are kept."""
    had = route.decisions(crossing)
    decisions = {key: decision for key, decision in now.decisions.items() if had.get(key) != decision}
    kept = {item.id: (item.title, item.new_path, item.note) for item in now.items}
    return decisions, [place for place in now.places if kept[place.item] != place[:3]]


def _files_changed(crossing: int, now: Routed) -> list[str]:
    """The bodies of files of which something would be another."""
    had = carried.settled(crossing)
    made = {f.body: (f.name, f.mime, f.new_path, f.alt, f.reason) for f in now.files}
    return sorted(body for body in made.keys() | had.keys() if made.get(body) != had.get(body))


def behind_keys(crossing: int, plan: Plan) -> list[str]:
    """The old keys whose decision, or whose item's or file's place, would be another now."""
    now = routed(crossing, plan)
    decisions, places = _changed(crossing, now)
    keys = {item.id: item.key for item in now.items}
    first = {file.body: file.key for file in reversed(now.captured)}
    files = {first[body] for body in _files_changed(crossing, now) if body in first}
    return sorted({*decisions, *(keys[place.item] for place in places), *files})


def _of_no_file(plan: Plan, crossing: int, now: Routed) -> list[str]:
    """What the plan says something of, or names as a film's picture, and is no captured file."""
    origin, had = plan.side("old").origin, {file.url for file in now.captured}
    named = [name for one in said_of_files.every(crossing) for name in (one.file, one.poster) if name]
    return sorted({name for name in named if whole(name, origin) not in had})


def run(context: Context) -> dict[str, Any]:
    """Decide everything that can be decided, and write what differs. The result has the account and what is wrong with
    the map."""
    crossing = context.crossing
    now = routed(crossing, context.plan)
    decisions, places = _changed(crossing, now)
    table = map_of(now.lines)
    found = flaws(table)
    hidden = hidden_by_rules(now.decisions, table)
    with context.writing():
        lift.set_paths(places)
        carried.store(crossing, now.files, now.sources)
        route.store_decisions(crossing, decisions)
        stamps.put(crossing, "route", DECIDED)
        if stamps.get(crossing, MAP) != (made := digest(now.lines)):
            stamps.put(crossing, MAP, made)
    for flaw in found:
        context.log(f"{flaw.kind}: {flaw.text}", "warning")
    for key in hidden:
        context.log(f"{key} stays, but a rule would catch it.", "warning")
    for name in _of_no_file(context.plan, crossing, now):
        context.log(f"{name}: something is said of it, and no survey has had such a file.", "warning")
    without = lift.without_address(crossing)
    for row in without:
        context.log(
            f"{row.items} of the kind {row.kind} get no new address: {sentence(row.reason)} (such as {row.example}).",
            "warning",
        )
    addresses = len(now.decisions)
    left = addresses - len(decisions)
    context.progress(force=True, done=len(decisions), all=addresses, left=left)
    keys = {item.id: item.key for item in now.items}
    return {
        "addresses": addresses,
        "done": len(decisions),
        "left": left,
        "account": crossings.account_of(crossing),
        "lines": len(now.lines),
        "flaws": [f"{flaw.kind}: {flaw.text}" for flaw in found],
        "hidden": hidden,
        "of_no_file": _of_no_file(context.plan, crossing, now),
        "without_address": [keys[place.item] for place in now.places if not place.path],
    }


def _on_site(target: str, hosts: frozenset[str]) -> str:
    if not target:
        return ""
    address = normal(target)
    return address.key if address is not None and address.host in hosts else target


def redirect_map(crossing: int) -> RedirectMap:
    """The crossing's redirect map from its stored decisions and rules."""
    rules = crossings.load_plan(crossing).route.lines
    return map_of(redirects_for(route.decisions(crossing), rules))
