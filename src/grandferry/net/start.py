"""The start address, asked at once: does it answer, where does it lead, what does it say of itself."""

from __future__ import annotations

from dataclasses import dataclass

from grandferry.core.address import Address, checked_start, normal
from grandferry.core.encoding import decode
from grandferry.core.errors import AddressError, FerryError
from grandferry.core.survey.glance import glance

from .fetch import Fetcher

HOPS = 10


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


async def check_start(text: str, agent: str, timeout: float = 30.0) -> Start:
    """Ask the start address. Raises AddressError with a sentence when no page can be had from it."""
    address, repaired = checked_start(text)
    hops: list[str] = []
    at = address
    async with Fetcher(agent=agent, named=frozenset([address.host]), timeout=timeout) as fetcher:
        while True:
            got = await fetcher.get(str(at), whole=timeout * 2)
            if got.error:
                raise AddressError(f"{at} gives no answer. {got.error}", "Check the address and that the site is up.")
            location = got.header("location")
            if got.status not in (301, 302, 303, 307, 308) or not location:
                break
            following = normal(location, str(at))
            if following is None:
                raise AddressError(f"{at} redirects to “{location}”, which cannot be fetched.")
            hops.append(str(following))
            if following == at or len(hops) > HOPS or str(following) in hops[:-1]:
                raise AddressError(f"{address} redirects in a circle ({' → '.join(hops[:4])} …).")
            at = following
    if got.status == 401:
        raise AddressError(f"{at} asks for a name and a password (401).", "Give access before starting.")
    if got.status >= 400:
        raise AddressError(f"{at} answers {got.status}.", "Check the address; a start must answer 200.")
    title = generator = encoding = ""
    if got.mime in ("text/html", "application/xhtml+xml", ""):
        decoded = decode(got.body, got.header("content-type"))
        encoding = decoded.encoding
        try:
            facts = glance(decoded.text).facts
            title, generator = facts.title, facts.generator
        except FerryError:
            pass
    return Start(text, at, repaired, tuple(hops), got.status, title, generator, encoding)
