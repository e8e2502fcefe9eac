"""Opening crossings: from one address, or one for each site among many."""

from __future__ import annotations

import asyncio

from grandferry.core.address import Address, checked_start, normal
from grandferry.core.errors import AddressError
from grandferry.core.plan import DEFAULT_AGENT, Plan
from grandferry.core.side import Side
from grandferry.net.start import NoStart, Start, Verdict, check_start, verdicts
from grandferry.store import crossings
from grandferry.store.db import transaction
from grandferry.store.schema import Crossing
from grandferry.store.survey import given
from grandferry.store.survey.given import Visits


def ask_many(texts: list[str]) -> list[Verdict]:
    """Ask many addresses and give each its verdict, in their order."""
    return asyncio.run(verdicts(texts, DEFAULT_AGENT))


def ask_one(text: str) -> tuple[Start, str, str]:
    """Ask one address: what it says of itself, and where it is no start as it is, the kind of fault and a sentence, so
    that a crossing can be made all the same: of a site that is switched off, or that lets nobody in yet. Raises
    AddressError for what is no address."""
    address, repaired = checked_start(text)
    try:
        found = asyncio.run(check_start(text, DEFAULT_AGENT))
    except NoStart as problem:
        return Start(text, address, repaired, (), 0, "", "", ""), problem.kind, str(problem)
    if found.login:
        return found, "wants a login", f"{found.address}: {found.login}."
    return found, "", ""


def many_crossings(addresses: list[tuple[str, str]], by: str) -> list[Crossing]:
    """Rows (address, title). The first address of a site becomes its crossing's start, all of them its first list.
    Nothing is made when one of them cannot be read. Raises AddressError."""
    sites: dict[str, list[tuple[Address, str]]] = {}
    for text, title in addresses:
        address = normal(text)
        if address is None:
            raise AddressError(f"“{text}” is not an address that can be read.")
        sites.setdefault(address.host.removeprefix("www."), []).append((address, title))
    made = []
    with transaction():
        taken = {found.name for found in crossings.crossings()}
        for host, found in sites.items():
            start, title = found[0]
            name = _free((title or host)[:180], host, taken)
            taken.add(name)
            plan = Plan.model_validate({"format": 1, "name": name, "old": {"start": str(start)}})
            crossing = crossings.make_crossing(name)
            crossings.save_plan(crossing.id, plan, [])
            if len(found) > 1:
                report = {"lines": len(found), "distinct": len({str(a) for a, _ in found})}
                number = given.add(Side(crossing.id), "addresses given at the opening", "list", by, report)
                given.add_visits(number, [Visits(a.host, a.key, 0) for a, _ in found])
            made.append(crossing)
    return made


def _free(name: str, host: str, taken: set[str]) -> str:
    for wanted in (name, f"{name} ({host})"):
        if wanted not in taken:
            return wanted
    number = 2
    while f"{name} ({host}, {number})" in taken:
        number += 1
    return f"{name} ({host}, {number})"


def checked_start_of(text: str) -> Start:
    """Ask a start address at once. Raises AddressError."""
    return asyncio.run(check_start(text, DEFAULT_AGENT))
