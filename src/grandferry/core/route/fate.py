"""Fates: one pure function of decision and verdict, and nothing else, says what becomes of an address.

The table (verdict -> fate) is ``TABLE``; ``docs/fates.md`` shows it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from ..because import Why, because
from .verdicts import Verdict

Fate = Literal["stays", "moved", "merged", "retired", "set aside", "unaccounted"]
FATES: tuple[Fate, ...] = ("stays", "moved", "merged", "retired", "set aside", "unaccounted")

TEMPORARY = frozenset([302, 303, 307])

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
    decided (pair, question, rule, item, file, twin, old redirect, aside, family). ``reason``: why, as ``because``
    keeps it. ``status``: what a redirect to it answers.
    """

    fate: Fate | None
    target: str = ""
    origin: str = ""
    reason: str = ""
    status: int = 301

    @property
    def for_now(self) -> bool:
        """Whether it is to be a redirect that is not for good."""
        return self.status in TEMPORARY

    @property
    def signature(self) -> str:
        """What a verdict must have judged to count for this decision."""
        return f"{self.fate or ''}|{self.target}" + (f"|{self.status}" if self.for_now else "")


def is_about(judged: str, fate: str, target: str) -> bool:
    """Whether a signature is that of a redirect to ``target`` (or of another decision for it), of whatever status."""
    one = Decision(fate, target)  # type: ignore[arg-type]
    return any(replace(one, status=status).signature == judged for status in (301, *TEMPORARY))


@dataclass(frozen=True, slots=True)
class Outcome:
    """A fate, whether it is proven (else merely planned), and why (as ``because`` keeps it) it is unaccounted when it
    is."""

    fate: Fate
    proven: bool
    why: str = ""


# verdicts on an address that itself answers 200 with a page of its own, where no redirect was planned
ANSWERS: tuple[Verdict, ...] = ("same", "doubtful", "wrong page")
# verdicts on the content of the right place: a person may accept it
OF_CONTENT: tuple[Verdict, ...] = ("doubtful", "wrong page")


def proves(fate: Fate, verdict: Verdict, accepted: str = "") -> bool:
    """Whether a verdict proves a fate; ``accepted``: why a person found the landing page right, "" when nobody did."""
    return verdict == TABLE.get(fate) or (bool(accepted) and verdict in OF_CONTENT and fate != "retired")


def fate_of(
    decision: Decision, verdict: Verdict | None, judged: str, *, weighty: bool, seen: str = "", accepted: str = ""
) -> Outcome:
    """The fate of one address.

    ``verdict`` and ``judged`` (the signature of the decision it judged) come from the latest round, None and
    "" when there was none. ``weighty``: the address has visits or inner links, so that leaving it out needs a
    named reason. ``seen``: what the content of its landing page was found to be; ``accepted`` as for ``proves``.
    """
    if decision.fate is None or decision.fate == "unaccounted":
        return Outcome("unaccounted", False, decision.reason or because(Why.UNDECIDED))
    if decision.fate in ("set aside", "retired") and weighty and not decision.reason.strip():
        return Outcome("unaccounted", False, because(Why.UNNAMED, decision.fate))
    if verdict is None or judged != decision.signature:
        return Outcome(decision.fate, False)
    if proves(decision.fate, verdict, accepted):
        return Outcome(decision.fate, True)
    told = seen.split("\t") if seen else []
    if verdict == "doubtful":
        return Outcome(decision.fate, False, because(Why.DOUBTFUL, *told))
    return Outcome("unaccounted", False, because(Why.REFUTED, decision.fate, verdict, *told))
