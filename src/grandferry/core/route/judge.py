"""Judging what a host answered for one old address against what was decided for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from ..address import fold_percent, normal
from .fate import TEMPORARY, Decision
from .says import Common, Likeness, Says, is_error_page, likeness
from .verdicts import Seen, Verdict


@dataclass(frozen=True, slots=True)
class Hop:
    """One answer on the way: its status and Location ("" without one), made absolute."""

    status: int
    location: str


@dataclass(frozen=True, slots=True)
class Trail:
    """All answers from the first request to the end; ``ended`` is "", "loop", "failed", or "elsewhere"
    when a hop leads to another host that gave no usable answer, leads on, or was not asked.

    ``says``: what the last answer says, None when it is no 200.
    """

    hops: tuple[Hop, ...]
    ended: str = ""
    says: Says | None = None

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


class Known(NamedTuple):
    """What answers are judged by: the words of the old site's pages, what its addresses said, the error page that the
    host answers with 200, None when it rightly says 404."""

    common: Common = Common(())
    old: Says | None = None
    error: Says | None = None


class Finding(NamedTuple):
    """A verdict, and of an answer at the right place what its content was found to be."""

    verdict: Verdict
    likeness: Likeness | None = None


def _is_front(url: str, base: str) -> bool:
    return place_on(url, base) in ("", "/")


def _content(key: str, decision: Decision, trail: Trail, base: str, known: Known, good: Verdict) -> Finding:
    """The verdict on an answer with 200 at the right place."""
    says = trail.says
    if says is None:
        return Finding("failed")
    if known.error is not None and is_error_page(says, known.error, key):
        return Finding("soft error")
    last = trail.hops[-2].location if len(trail.hops) > 1 else key
    front = _is_front(last, base) and not _is_front(key, base)
    found = likeness(known.old, says, known.common, front=front)
    if decision.fate is None and found.seen is Seen.NOTHING:
        return Finding("doubtful", found)  # nobody has said what it should be, and nothing tells
    sure = found.is_ == "right" and found.seen is not Seen.NOTHING
    if says.names_an_error and not sure and not (known.old and known.old.names_an_error):
        return Finding("soft error", found)
    if found.is_ == "right":
        return Finding(good, found)
    return Finding("doubtful" if found.is_ == "doubtful" else "wrong page", found)


def _for_how_long(first: Hop, decision: Decision) -> Verdict | None:
    """The verdict on a redirect that is for good and was not to be, or the reverse."""
    if (first.status in TEMPORARY) == decision.for_now:
        return None
    return "permanent" if decision.for_now else "temporary"


def judge(key: str, decision: Decision, trail: Trail, base: str, known: Known) -> Finding:
    """The verdict on the old address ``key``. ``base`` is the host that was asked."""
    if trail.ended == "loop":
        return Finding("loop")
    if trail.ended == "failed" or not trail.hops or trail.status >= 500:
        return Finding("failed")
    first, last = trail.hops[0], trail.hops[-1]
    if decision.fate == "retired":
        return Finding("gone" if first.status == 410 else "missing" if first.status == 404 else "not gone")
    if trail.ended == "elsewhere":
        at = next(n for n, hop in enumerate(trail.hops) if "://" in place_on(hop.location, base))
        planned = decision.fate in ("moved", "merged") and place_on(trail.hops[at].location, base) == place(
            decision.target
        )
        if not planned:
            return Finding("wrong place")
        if at or len(trail.hops) > 1:  # it took more than one hop to leave, or leads on from there
            return Finding("chain")
        return Finding(_for_how_long(first, decision) or "elsewhere")
    soft = trail.says is not None and known.error is not None and is_error_page(trail.says, known.error, key)
    if decision.fate in ("moved", "merged"):
        if len(trail.hops) == 1:
            if first.status in (404, 410):
                return Finding("missing")
            return Finding("soft error" if soft else "wrong place")
        reached = place_on(trail.hops[-2].location, base)
        if reached != place(decision.target):
            return Finding("soft error" if soft and last.status == 200 else "wrong place")
        if last.status in (404, 410):
            return Finding("target missing")
        if soft:
            return Finding("soft error")
        if len(trail.hops) > 2:
            return Finding("chain")
        if otherwise := _for_how_long(first, decision):
            return Finding(otherwise)
        if last.status != 200:
            return Finding("failed")
        return _content(key, decision, trail, base, known, "as planned")
    # stays, and undecided addresses, which are asked as well so that a person sees what they answer
    if len(trail.hops) > 1:
        return Finding("wrong place")
    if first.status in (404, 410):
        return Finding("missing")
    if first.status != 200:
        return Finding("failed")
    return _content(key, decision, trail, base, known, "same")
