"""The start address, asked at once: does it answer, where does it lead, what does it say of itself."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass

from grandferry.core.address import Address, checked_start, normal
from grandferry.core.encoding import decode
from grandferry.core.errors import AddressError, FerryError
from grandferry.core.filetypes import PAGE_TYPES
from grandferry.core.survey.glance import glance
from grandferry.core.survey.refusals import refusal

from .fetch import Fetcher

HOPS = 10
AT_ONCE = 8


@dataclass(frozen=True, slots=True)
class Start:
    """A checked start: as given, as repaired, where it ended after ``hops`` redirects, and the page's title."""

    given: str
    address: Address
    repaired: str
    hops: tuple[str, ...]
    status: int
    title: str
    generator: str
    encoding: str
    login: str = ""  # why a person has to sign in before there is content, "" when nobody has to


class NoStart(AddressError):
    """An address that is no start; ``kind`` says why in a word or two: unreadable, unreachable, wants a login, not
    there, goes in a circle."""

    def __init__(self, kind: str, text: str, hint: str = ""):
        super().__init__(text, hint)
        self.kind = kind


@dataclass(frozen=True, slots=True)
class Verdict:
    """What became of one of many addresses: ``kind`` good, repaired, redirected, a repeat, or as in NoStart; ``says``
    it in a sentence. ``address`` is the one to begin with, "" when there is none."""

    given: str
    kind: str
    says: str
    address: str = ""
    title: str = ""

    @property
    def good(self) -> bool:
        return self.kind in GOOD


GOOD = ("good", "repaired", "redirected")


async def verdicts(texts: list[str], agent: str, timeout: float = 15.0) -> list[Verdict]:
    """Ask many addresses, a few at once, and give each its verdict, in their order. Empty lines are passed over."""
    slots = asyncio.Semaphore(AT_ONCE)

    async def one(text: str) -> Verdict:
        try:
            checked_start(text)
        except AddressError as problem:
            return Verdict(text.strip(), "unreadable", str(problem))
        async with slots:
            try:
                found = await check_start(text, agent, timeout)
            except NoStart as problem:
                return Verdict(text.strip(), problem.kind, str(problem))
        address = str(found.address)
        if found.login:
            return Verdict(text.strip(), "wants a login", f"{address}: {found.login}.", address, found.title)
        if found.hops:
            return Verdict(text.strip(), "redirected", f"leads to {address}", address, found.title)
        if found.repaired:
            return Verdict(text.strip(), "repaired", found.repaired, address, found.title)
        return Verdict(text.strip(), "good", f"answers {found.status}", address, found.title)

    made = list(await asyncio.gather(*(one(text) for text in texts if text.strip())))
    first: dict[str, str] = {}
    for n, verdict in enumerate(made):
        if verdict.good and first.setdefault(verdict.address, verdict.given) != verdict.given:
            same = first[verdict.address]
            made[n] = Verdict(verdict.given, "a repeat", f"the same as “{same}”", verdict.address, verdict.title)
        elif verdict.good and any(v.good and v.address == verdict.address for v in made[:n]):
            made[n] = Verdict(verdict.given, "a repeat", "the same line", verdict.address, verdict.title)
    return made


async def check_start(text: str, agent: str, timeout: float = 30.0) -> Start:
    """Ask the start address. Raises AddressError with a sentence when no page can be had from it."""
    address, repaired = checked_start(text)
    hops: list[str] = []
    at = address
    async with Fetcher(agent=agent, hosts=frozenset([address.host]), timeout=timeout) as fetcher:
        while True:
            got = await fetcher.get(str(at), whole=timeout * 2)
            if got.error:
                raise NoStart(
                    "unreachable", f"{at} gives no answer. {got.error}", "Check the address and that the site is up."
                )
            location = got.header("location")
            if got.status not in (301, 302, 303, 307, 308) or not location:
                break
            following = normal(location, str(at))
            if following is None:
                raise NoStart("goes in a circle", f"{at} redirects to “{location}”, which cannot be fetched.")
            hops.append(str(following))
            if following == at or len(hops) > HOPS or str(following) in hops[:-1]:
                raise NoStart("goes in a circle", f"{address} redirects in a circle ({' → '.join(hops[:4])} …).")
            at = following
    if got.status == 401:
        raise NoStart("wants a login", f"{at} asks for a name and a password (401).", "Give access before starting.")
    if got.status >= 400:
        raise NoStart("not there", f"{at} answers {got.status}.", "Check the address; a start must answer 200.")
    title = generator = encoding = login = ""
    if got.mime in PAGE_TYPES | {""}:
        decoded = decode(got.body, got.header("content-type"))
        encoding = decoded.encoding
        try:
            seen = glance(decoded.text)
            facts = seen.facts
            title, generator = facts.title, facts.generator
            login = refusal(at.key, facts.title, facts.headings, seen.seen, facts.words, seen.asks_password)
        except FerryError:
            pass
    return Start(text, at, repaired, tuple(hops), got.status, title, generator, encoding, login)
