"""What is the same in every server's files: the head, the remarks that hold the map's own lines, the values of tables,
and the proof that a file says what its remarks say."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

from grandferry.core.route.redirects import Redirect, RedirectMap, leads_elsewhere, map_of

from .bounds import SAID, Bound


class Head(NamedTuple):
    """What a map is of (the name of a crossing or of a file), and the day of its last change."""

    of: str = ""
    changed: str = ""


NO_HEAD = Head()
_REMARK = "# line "


class Beyond(NamedTuple):
    """A line that a server cannot answer as the map says, and why."""

    line: Redirect
    why: Bound


def without(redirects: RedirectMap, beyond: Sequence[Beyond]) -> RedirectMap:
    """The map without the lines that a server cannot answer."""
    out = {one.line for one in beyond}
    return map_of(line for line in redirects.redirects if line not in out) if out else redirects


def head_lines(head: Head, redirects: RedirectMap, bounds: Iterable[Bound]) -> list[str]:
    """The remarks at the top of a file (without a sign of remark)."""
    count = len(redirects.redirects)
    said = [f"Redirect map{f' of {plain(head.of)}' if head.of else ''}: {count:,} lines."]
    if head.changed:
        said.append(f"Last changed on {head.changed}.")
    said.append("It holds no host of the old or the new site, so that it is the same for a trial and for good.")
    elsewhere = leads_elsewhere(redirects.redirects)
    if elsewhere:
        said.append(f"Leads to other hosts on purpose: {', '.join(f'{host} ({n})' for host, n in elsewhere.items())}.")
    return [*said, *(SAID[bound] for bound in bounds)]


def plain(text: str) -> str:
    """A name on one line, with nothing that could end a remark."""
    return re.sub(r"[^\w .,:()+&'-]+", " ", text).strip()[:120]


def remarks(redirects: Iterable[Redirect]) -> list[str]:
    """The map's own lines as remarks, from which they are read back."""
    return [_REMARK + _remark(line) for line in redirects]


def _remark(line: Redirect) -> str:
    """A pattern may hold a line end, which must not end the remark."""
    old = re.sub(r"[%\s\x00-\x1f\x7f\x85\u2028\u2029]", lambda m: "".join(f"%{b:02X}" for b in m[0].encode()), line.old)
    return f"{line.match} {line.status} {old} {line.new or '-'}"


def remarked(text: str) -> list[Redirect]:
    """The lines that the remarks of a file hold."""
    found = []
    for line in text.split("\n"):
        if line.startswith(_REMARK):
            match, status, old, new = line[len(_REMARK) :].split(" ", 3)
            raw = re.sub(rb"%([0-9A-F]{2})", lambda m: bytes([int(m[1], 16)]), old.encode("utf-8", "surrogateescape"))
            old = raw.decode("utf-8", "surrogateescape")
            found.append(Redirect(old, "" if new == "-" else new, int(status), match))  # type: ignore[arg-type]
    return found


Stated = Mapping[str, Sequence[tuple[str, str]]]  # table -> its entries, key and value, in order


def proven(lines: Sequence[Redirect], wanted: Stated, found: Stated) -> RedirectMap:
    """The map of the remarks, where the directives of the file (``found``, read by the server's own rules) are those
    that have to stand for it (``wanted``); else nothing, so that the comparison fails."""
    same = {name: list(rows) for name, rows in wanted.items() if rows} == {
        name: list(rows) for name, rows in found.items() if rows
    }
    return map_of(lines) if same else map_of([])


def text(lines: Iterable[str]) -> bytes:
    """Lines as a file."""
    return "".join(f"{line}\n" for line in lines).encode("utf-8", "surrogateescape")


def value(line: Redirect, new: str) -> str:
    """A line's answer in one word: ``/new`` (301), ``308:/new``, ``410``."""
    if line.status == 410:
        return "410"
    return new if line.status == 301 else f"{line.status}:{new}"


def answer_of(said: str) -> tuple[int, str]:
    """Status and new address of such a word."""
    if said == "410":
        return 410, ""
    status, mark, new = said.partition(":")
    return (int(status), new) if mark and status.isdigit() else (301, said)


def target(new: str) -> str:
    """A new address with nothing in it that a server would read as a variable."""
    return new.replace("$", "%24")


def filled(said: str, group: str) -> str:
    """An answer with its captured parts as a server writes them: ``group`` with ``{}`` for the number."""
    return re.sub(r"\{(\d)\}", lambda m: group.replace("{}", m[1]), said)


def carried_to(line: Redirect, rest: str) -> str:
    """Where a folder's rest goes; ``rest`` is the server's word for it."""
    return target(line.new).rstrip("/") + ("/" if line.old.endswith("/") else "") + rest


STATUSES = (301, 302, 307, 308, 410)
