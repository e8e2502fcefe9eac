"""Opening crossings: one for each site among many addresses."""

from __future__ import annotations

import asyncio

from grandferry.core.address import Address, normal
from grandferry.core.errors import AddressError
from grandferry.core.plan import DEFAULT_AGENT, Plan
from grandferry.net.start import Verdict, verdicts
from grandferry.store import crossings, given
from grandferry.store.db import transaction
from grandferry.store.schema import Crossing


def ask_many(texts: list[str]) -> list[Verdict]:
    """Ask many addresses and give each its verdict, in their order."""
    return asyncio.run(verdicts(texts, DEFAULT_AGENT))


def many_crossings(addresses: list[tuple[str, str]], by: str) -> list[Crossing]:
    """Rows (address, title). The first address of a site becomes its crossing's start, all of them its first list. Nothing
    is made when one of them cannot be read. Raises AddressError."""
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
                number = given.add(crossing.id, "addresses given at the opening", "list", by, report)
                given.add_visits(number, [(a.host, a.key, 0) for a, _ in found])
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
