"""Who entered the owner's leave to copy a site, and when."""

from __future__ import annotations

import getpass

from grandferry.core.errors import FerryError
from grandferry.core.plan import Permission, Plan
from grandferry.store.db import now


def user() -> str:
    """Whoever works at the command line, "" when the system has no name for them."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        return ""


def check(plan: Plan | None, how: str) -> None:
    """Raises FerryError while nobody's leave to copy the site is named (once, for both sides). ``how``: where to name
    it."""
    if plan is None or plan.old.permission is None:
        raise FerryError("Nobody's leave to copy this site is named.", how)


def entered(wanted: Plan, had: Permission | None, by: str) -> Plan:
    """A plan whose leave to copy, where it is another than ``had``, says who entered it, and when."""
    leave = wanted.old.permission
    if leave is not None and (had is None or (leave.by, leave.date) != (had.by, had.date)):
        wanted.old.permission = leave.model_copy(update={"entered_by": by, "entered_at": now()})
    elif leave is not None and had is not None:
        wanted.old.permission = had
    return wanted
