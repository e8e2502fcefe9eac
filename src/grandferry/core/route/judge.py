"""Judging what a host answered for one old address against what was decided for it."""

from __future__ import annotations

import re
from dataclasses import dataclass
from urllib.parse import unquote

from ..address import fold_percent, normal
from .fate import Decision
from .verdicts import Verdict

TEMPORARY = frozenset([302, 303, 307])


@dataclass(frozen=True, slots=True)
class Hop:
    """One answer on the way: its status and Location ("" without one), made absolute."""

    status: int
    location: str


@dataclass(frozen=True, slots=True)
class Trail:
    """All answers from the first request to the end; ``ended`` is "", "loop", "failed", or "elsewhere"
    when a hop leads to another host that gave no usable answer, leads on, or was not asked.

    ``title`` and ``heading`` of the last page, and its ``words`` for recognising error pages.
    """

    hops: tuple[Hop, ...]
    ended: str = ""
    title: str = ""
    heading: str = ""
    fingerprint: str = ""

    @property
    def status(self) -> int:
        return self.hops[-1].status if self.hops else 0


def place(target: str) -> str:
    """A target in a form in which two spellings of it compare equal: path and query without host, or the
    whole address when it lies elsewhere."""
    plain = target.partition("#")[0]
    return fold_percent(plain)


def place_on(url: str, base: str) -> str:
    """``url`` seen from the checked host: its key when it lies there, else the whole address."""
    address, home = normal(url), normal(base)
    if address is None:
        return url
    if home is not None and address.host == home.host:
        return address.key
    return str(address)


def _words(text: str) -> list[str]:
    return re.findall(r"\w+", unquote(text).casefold())


def right_page(trail: Trail, title: str) -> bool:
    """Whether the page that answered speaks of the expected title (or nothing is expected of it)."""
    wanted = _words(title)
    if not wanted:
        return True
    for shown in (trail.heading, trail.title):
        have = _words(shown)
        if wanted == have[: len(wanted)] or len(set(wanted) & set(have)) >= 0.8 * len(set(wanted)):
            return True
    return False


def judge(decision: Decision, trail: Trail, base: str, *, title: str = "", error_page: str = "") -> Verdict:
    """The verdict on one address. ``base`` is the host that was asked; ``title`` that of the expected page;
    ``error_page`` the fingerprint of what the host answers to a made-up address ("" when it says 404)."""
    if trail.ended == "loop":
        return "loop"
    if trail.ended == "failed" or not trail.hops or trail.status >= 500:
        return "failed"
    first, last = trail.hops[0], trail.hops[-1]
    soft = bool(error_page) and last.status == 200 and trail.fingerprint == error_page
    if decision.fate == "retired":
        return "gone" if first.status == 410 else "missing" if first.status == 404 else "not gone"
    if trail.ended == "elsewhere":
        at = next(n for n, hop in enumerate(trail.hops) if "://" in place_on(hop.location, base))
        planned = decision.fate in ("moved", "merged") and place_on(trail.hops[at].location, base) == place(
            decision.target
        )
        if not planned:
            return "wrong place"
        if at or len(trail.hops) > 1:  # it took more than one hop to leave, or leads on from there
            return "chain"
        return "temporary" if first.status in TEMPORARY else "elsewhere"
    if decision.fate in ("moved", "merged"):
        if len(trail.hops) == 1:
            if first.status in (404, 410):
                return "missing"
            return "soft error" if soft else "wrong place"
        reached = place_on(trail.hops[-2].location, base)
        if reached != place(decision.target):
            if last.status in (404, 410):
                return "missing" if len(trail.hops) == 1 else "wrong place"
            return "soft error" if soft else "wrong place"
        if last.status in (404, 410):
            return "target missing"
        if soft:
            return "soft error"
        if len(trail.hops) > 2:
            return "chain"
        if first.status in TEMPORARY:
            return "temporary"
        if last.status != 200:
            return "failed"
        return "as planned" if right_page(trail, title) else "wrong page"
    # stays, and undecided addresses, which are asked as well so that a person sees what they answer
    if len(trail.hops) > 1:
        return "wrong place"
    if first.status in (404, 410):
        return "missing"
    if soft:
        return "soft error"
    if first.status != 200:
        return "failed"
    return "same" if right_page(trail, title) else "wrong page"
