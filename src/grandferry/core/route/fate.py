"""Fates: one pure function of decision and verdict, and nothing else, says what becomes of an address.

The table (verdict -> fate) is ``TABLE``; ``docs/fates.md`` shows it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Fate = Literal["stays", "moved", "merged", "retired", "set aside", "unaccounted"]
FATES: tuple[Fate, ...] = ("stays", "moved", "merged", "retired", "set aside", "unaccounted")

Verdict = Literal[
    "same",
    "as planned",
    "gone",
    "left out",
    "wrong place",
    "wrong page",
    "temporary",
    "chain",
    "loop",
    "soft error",
    "missing",
    "target missing",
    "elsewhere",
    "not gone",
    "failed",
]
VERDICTS: dict[Verdict, str] = {
    "same": "the same path answers 200 with the right page",
    "as planned": "one permanent redirect to the planned place, which answers 200 with the right page",
    "gone": "answers 410, as planned",
    "left out": "set aside with a named reason; nothing is asked of the host",
    "wrong place": "redirected, but not to the planned place, or answers itself where a redirect was planned",
    "wrong page": "answers 200 at the right place, but with another page's content",
    "temporary": "redirected to the planned place with a temporary status (302, 303, 307)",
    "chain": "reaches the planned place by more than one hop",
    "loop": "the redirects go in a circle, or never end",
    "soft error": "answers 200 with the host's own error page",
    "missing": "answers 404: it would break",
    "target missing": "redirected as planned, but the new place answers 404 or 410",
    "elsewhere": "redirected as planned to another host, which gave no usable answer or was not asked",
    "not gone": "should be gone (410) and still answers otherwise",
    "failed": "no usable answer: no connection, time-out, or a server error",
}

# decision -> the one verdict that proves it
TABLE: dict[Fate, Verdict] = {
    "stays": "same",
    "moved": "as planned",
    "merged": "as planned",
    "retired": "gone",
    "set aside": "left out",
}


@dataclass(frozen=True, slots=True)
class Decision:
    """What is to become of an address. ``fate`` is None while nobody has decided.

    ``target``: new path (or full address elsewhere), "" for retired and set aside. ``origin``: what
    decided (pair, rule, item, file, old redirect, aside). ``reason``: why, in words.
    """

    fate: Fate | None
    target: str = ""
    origin: str = ""
    reason: str = ""

    @property
    def signature(self) -> str:
        """What a verdict must have judged to count for this decision."""
        return f"{self.fate or ''}|{self.target}"


@dataclass(frozen=True, slots=True)
class Outcome:
    """A fate, whether it is proven (else merely planned), and why it is unaccounted when it is."""

    fate: Fate
    proven: bool
    why: str = ""


def fate_of(decision: Decision, verdict: Verdict | None, judged: str, *, weighty: bool) -> Outcome:
    """The fate of one address.

    ``verdict`` and ``judged`` (the signature of the decision it judged) come from the latest round, None and
    "" when there was none. ``weighty``: the address has visits or inner links, so that leaving it out needs a
    named reason.
    """
    if decision.fate is None or decision.fate == "unaccounted":
        return Outcome("unaccounted", False, decision.reason or "nobody has decided; it would break")
    if decision.fate in ("set aside", "retired") and weighty and not decision.reason.strip():
        return Outcome("unaccounted", False, f"{decision.fate} without a reason, though it is visited or linked")
    if verdict is None or judged != decision.signature:
        return Outcome(decision.fate, False)
    if verdict == TABLE[decision.fate]:
        return Outcome(decision.fate, True)
    return Outcome("unaccounted", False, f"decided as {decision.fate}, but the check says: {VERDICTS[verdict]}")
