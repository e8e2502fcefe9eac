"""Routing as a job: new addresses for items and files, a decision for every old address, and the redirect map."""

from __future__ import annotations

import posixpath
from typing import Any
from urllib.parse import quote, unquote

from grandferry.core.address import normal
from grandferry.core.errors import PatternError
from grandferry.core.filetypes import is_machinery
from grandferry.core.patterns import compile_pattern
from grandferry.core.plan import Plan
from grandferry.core.route.decide import Old, decide, hidden_by_rules, redirects_for
from grandferry.core.route.fate import Decision
from grandferry.core.route.redirects import Redirect, RedirectMap, flaws, map_of, neutral
from grandferry.core.route.slug import distinct, fill, slug
from grandferry.ports.planfolder import redirect_of
from grandferry.store import crossings, lift, route

from .context import Context, scope_of


def plan_map(plan: Plan, pairs: list[Any]) -> tuple[RedirectMap, list[Redirect]]:
    """The plan's pairs as a map, and its rules as lines."""
    rules = [neutral(r.old, r.new, r.status, r.match) for r in plan.route.rules]
    return map_of(redirect_of(p) for p in pairs), rules


def new_addresses(plan: Plan, items: list[dict[str, Any]], taken: set[str]) -> list[tuple[str, str, str, int]]:
    """(title, new path, note, item id) for every item, in order of their old keys, each path used once."""
    kinds = {kind.name: kind for kind in plan.kinds}
    made = []
    for item in items:
        kind = kinds.get(item["kind"])
        if kind is None:
            continue
        fields = item["fields"]
        title = str(fields.get("title") or fields.get(kind.slug_from) or "")
        path, note = "", ""
        if kind.address:
            readable = slug(str(fields.get("slug") or fields.get(kind.slug_from) or "")) or slug(_tail(item["key"]))
            try:
                wanted = fill(kind.address, {**fields, "slug": readable})
                path = distinct(wanted, taken)
                if path != wanted:
                    note = f"{wanted} is another item's place"
                taken.add(path)
            except PatternError as problem:
                note = str(problem)
        made.append((title, path, note, item["id"]))
    return made


def _tail(key: str) -> str:
    path = unquote(key.partition("?")[0]).rstrip("/")
    return path.rpartition("/")[2].partition(".")[0] + " " + key.partition("?")[2]


def place_files(
    plan: Plan, captured: list[tuple[Any, ...]], taken: set[str]
) -> tuple[list[Any], list[tuple[str, int]]]:
    """Files by content with their new paths, and which addresses are their sources. Styles, scripts and feeds
    belong to the old site's looks and machinery and are set aside."""
    pattern = plan.route.files
    asides = _asides(plan, captured)
    by_body: dict[str, tuple[Any, ...]] = {}
    sources = []
    for address, _, key, _, body, mime, size, alt in captured:
        sources.append((body, address))
        if body in by_body:
            continue
        name = _file_name(key)
        if body in asides:
            by_body[body] = (body, name, mime, size, "", alt, "set aside", asides[body])
        elif is_machinery(mime):
            by_body[body] = (body, name, mime, size, "", alt, "set aside", "style, script or feed of the old site")
        elif pattern is None:
            by_body[body] = (body, name, mime, size, "", alt, "unaccounted", "")
        else:
            path = distinct(pattern.replace("{name}", quote(name, safe="-._~")), taken)
            taken.add(path)
            by_body[body] = (body, name, mime, size, path, alt, "unaccounted", "")
    return list(by_body.values()), sources


def _asides(plan: Plan, captured: list[tuple[Any, ...]]) -> dict[str, str]:
    """Files (by body) of which every address on the old host is set aside by the plan -> why."""
    hosts = scope_of(plan).hosts
    reasons: dict[str, str] = {}
    kept = set()
    for _, _, key, host, body, *_ in captured:
        reason = next((a.reason for a in plan.route.aside if compile_pattern(a.address).fullmatch(key)), "")
        if host in hosts and reason:
            reasons[body] = reason
        else:
            kept.add(body)
    return {body: reason for body, reason in reasons.items() if body not in kept}


def _file_name(key: str) -> str:
    """A safe, readable file name from an old key: lower case, no blanks, its ending kept."""
    tail = posixpath.basename(unquote(key.partition("?")[0])) or "file"
    stem, dot, ending = tail.rpartition(".")
    if not dot:
        stem, ending = tail, ""
    return (slug(stem) or "file") + (f".{ending.lower()}" if ending else "")


def run(context: Context) -> dict[str, Any]:
    """Decide everything that can be decided. The result has the account and what is wrong with the map."""
    plan, crossing = context.plan, context.crossing
    scope = scope_of(plan)
    pairs, rules = plan_map(plan, crossings.load_pairs(crossing))
    items = lift.items(crossing)
    held = {i["key"]: pairs.exact[i["key"]].new for i in items if i["key"] in pairs.exact}
    taken = set(held.values())  # a pair that leads to another item's place is no claim to it
    paths = new_addresses(plan, [i for i in items if i["key"] not in held], set(taken))
    by_id = {i["id"]: i for i in items}
    for item in items:  # a pair sets an item's own address by hand, and locks it
        if item["key"] in held:
            paths.append((str(item["fields"].get("title") or ""), held[item["key"]], "set by a pair", item["id"]))
    captured = route.captured_files(crossing)
    files, sources = place_files(plan, captured, {p for _, p, _, _ in paths} | taken)
    places = {row[0]: row[4] for row in files if row[4]}
    hosts = scope.hosts
    file_keys = {key: places[body] for _, _, key, host, body, *_ in captured if host in hosts and body in places}
    item_keys = {by_id[id_]["key"]: path for _, path, _, id_ in paths if path}
    olds = [Old(key, _on_site(target, hosts)) for _, key, target, _, _ in route.old_addresses(crossing)]
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
    )
    lines = redirects_for({k: d for k, d in made.items() if k in known}, rules)
    table = map_of(lines)
    found = flaws(table)
    hidden = hidden_by_rules(made, table)
    with context.writing():
        lift.set_paths(paths)
        route.store_files(crossing, files, sources)
        route.store_decisions(crossing, {k: d for k, d in made.items() if k in known})
    for flaw in found:
        context.log(f"{flaw.kind}: {flaw.text}", "warning")
    for key in hidden:
        context.log(f"{key} stays, but a rule would catch it.", "warning")
    context.progress(force=True, done=len(known), all=len(known))
    return {
        "addresses": len(known),
        "account": crossings.account_of(crossing),
        "lines": len(lines),
        "flaws": [f"{flaw.kind}: {flaw.text}" for flaw in found],
        "hidden": hidden,
        "without_address": [by_id[id_]["key"] for _, path, _, id_ in paths if not path],
    }


def _on_site(target: str, hosts: frozenset[str]) -> str:
    if not target:
        return ""
    address = normal(target)
    return address.key if address is not None and address.host in hosts else target


def redirect_map(crossing: int) -> RedirectMap:
    """The crossing's redirect map from its stored decisions and rules."""
    plan = crossings.load_plan(crossing)
    _, rules = plan_map(plan, [])
    made: dict[str, Decision] = route.decisions(crossing)
    return map_of(redirects_for(made, rules))
