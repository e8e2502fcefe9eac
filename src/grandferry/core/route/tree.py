"""The new shore as a tree of addresses, and moving a part of it to another place."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from ..errors import PlanError


class Branch(NamedTuple):
    """A place of the tree (without a slash at its end; "" is the root): the address that stands there ("" for none),
    and how many stand below it."""

    path: str
    here: str
    below: int


HOME = "/"


def _bare(path: str) -> str:
    return path.partition("?")[0].rstrip("/")


def branches(paths: Sequence[str], under: str) -> list[Branch]:
    """What lies one step below a place; the home page, which has the root's own address, beside its folders. ``paths``:
    all addresses, sorted; those with a query stand where they would without it."""
    head = f"{_bare(under)}/"
    found: dict[str, tuple[str, int]] = {}
    at = bisect_left(paths, head)
    while at < len(paths) and paths[at].startswith(head):
        path = paths[at]
        at += 1
        bare = _bare(path)
        step = bare[len(head) :].partition("/")[0]
        if not step:
            continue
        name = head + step
        here, below = found.get(name, ("", 0))
        found[name] = (here or path, below) if bare == name and not here else (here, below + 1)
    home = [Branch(HOME, HOME, 0)] if head == HOME and HOME in paths[:1] else []
    return home + [Branch(name, here, below) for name, (here, below) in sorted(found.items())]


class Move(NamedTuple):
    """A place of the tree, and the one that it is moved to with all that lies below it."""

    was: str
    to: str

    def of(self, path: str) -> str:
        """The new address of what lies there, or below, also as the pattern of many of them; "" for all else."""
        bare, sign, rest = path.partition("?")
        if bare != self.was and not bare.startswith(f"{self.was}/"):
            return ""
        return self.to + bare[len(self.was) :] + sign + rest


def move_of(was: str, to: str) -> Move:
    """A move as a person says it. Raises PlanError for what is no place, or lies in itself."""
    was, to = _bare(was), to.strip()
    if not was.startswith("/"):
        raise PlanError(
            "The home page stays where it is, and the whole of the new shore with it.",
            hint="Choose another address, or a folder.",
        )
    if not to.startswith("/") or to.startswith("//") or re.search(r"[\s?#]", to) or not _bare(to):
        raise PlanError(
            f"“{to}” is no place to move it to.",
            hint="Write a path such as /visit/trains, without a host, query or blank.",
        )
    if _bare(to) == was:
        raise PlanError("It is there already.", hint="Write another address than the one it has.")
    if _bare(to).startswith(f"{was}/"):
        raise PlanError(f"{was} cannot be moved below itself.", hint="Choose a place that does not lie in it.")
    return Move(was, _bare(to))


def taken(move: Move, moved: Mapping[str, str], paths: Sequence[str]) -> list[str]:
    """Of the new addresses (``moved``: was -> becomes) those that something else has which stays where it is."""
    stay = {path for path in paths if not move.of(path)}
    return sorted(becomes for becomes in moved.values() if becomes in stay)
