"""Files of other hosts that belong to the site: an account of their own, since the new host cannot answer for them."""

from __future__ import annotations

from enum import StrEnum


class SisterFate(StrEnum):
    """What becomes of a file of another host. Whichever it is, its own address breaks when that host goes."""

    CARRIED = "carried"  # it is in the new system, and what goes over leads there
    PLANNED = "to be carried"  # it has a new place, and was not landed yet
    ASIDE = "set aside"
    BREAKS = "breaks"  # nothing carries it
    NOT_HAD = "not had"  # it gave no answer, or none with a file


def sister_sentence(fate: SisterFate, host: str, new_path: str, reason: str) -> str:
    """A fate in words."""
    breaks = f"breaks when {host} goes"
    why = f" ({reason})" if reason else ""
    return {
        SisterFate.CARRIED: f"{breaks}; what goes over leads to {new_path}",
        SisterFate.PLANNED: f"{breaks}; goes to {new_path} with the next landing",
        SisterFate.ASIDE: f"{breaks}; left out on purpose{why}",
        SisterFate.BREAKS: f"{breaks}; nothing carries it",
        SisterFate.NOT_HAD: f"it could not be had{why}: nothing can carry it",
    }[fate]
