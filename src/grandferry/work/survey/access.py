"""Access to a site: kept, and what asked for a key asked again; and tried: does it open the start address?"""

from __future__ import annotations

import asyncio

from grandferry.core.address import normal
from grandferry.core.side import SIDES, Side
from grandferry.net.fetch import Fetched, Fetcher
from grandferry.store import crossings, jobs, secrets
from grandferry.store.db import transaction
from grandferry.store.survey import runs
from grandferry.work.jobs.context import access_of
from grandferry.work.plan import leave

CLOSED = (401, 403, 407)  # what a page answers that a key may open


def give_access(crossing: int, secret: secrets.Secret) -> int:
    """Keep what gives access to a host. The addresses that asked for it wait for the survey to go on; gives their
    number."""
    secrets.give(crossing, secret)
    with transaction():
        found = sum(runs.knock_again(Side(crossing, name), secret.host, CLOSED) for name in SIDES)
        if found:
            text = f"Access to {secret.host} was given: what asked for it is asked again when the survey goes on."
            jobs.add_event(crossing, None, "log", f"{text} Addresses: {found:,}.")
    return found


def verdict(got: Fetched, host: str, kinds: set[str]) -> str:
    """Why an answer is no way in, as a sentence; "" when it is one. ``kinds`` are the kinds of access given for the
    host."""
    if got.error:
        return f"{host} gives no answer. {got.error}"
    if got.status == 401:
        if "basic" in kinds:
            return f"Basic authentication refused by {host} (401). Check the name and the password."
        return f"{host} asks for a name and a password (401). Give access before starting."
    if got.status == 407:
        return f"A proxy before {host} asks for a name and a password (407)."
    if got.status == 403:
        given = "in spite of the access given" if kinds else "and no access is given"
        return f"{host} refuses (403), {given}."
    return ""


def check_leave(crossing: int) -> None:
    """Raise FerryError while nobody's leave to copy the site is named; it is asked for once, for both sides."""
    leave.check(crossings.load_plan(crossing), "Say in scope and manners who gave it, and when; then start.")


def try_access(side: Side) -> tuple[bool, int, str]:
    """(whether the start address opens, its status, a sentence). Nothing is stored."""
    here = crossings.load_plan(side.crossing).side(side.name)
    start = normal(here.start)
    assert start is not None
    kinds: set[str] = {secret.kind for secret in secrets.secrets(side.crossing) if secret.host == start.host}

    async def ask() -> Fetched:
        named = frozenset([start.host, *here.site.aliases, *here.site.file_hosts])
        async with Fetcher(
            agent=here.manners.agent, hosts=named, timeout=here.manners.timeout, secrets=access_of(side.crossing)
        ) as fetcher:
            return await fetcher.get(str(start), whole=60)

    got = asyncio.run(ask())
    problem = verdict(got, start.host, kinds)
    return not problem, got.status, problem or f"{start.host} lets us in ({got.status})."
