"""Tables: what no rule can say, since only a list knows which number became which name.

Old addresses of one shape of which most have likely become addresses in one folder: taken together, each with a line of
its own.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterable, Mapping
from typing import NamedTuple

from ...address import shape

LEAST = 3  # addresses in a table
SURE = 0.5  # how sure each of them has to be
MOST_OF = 0.5  # of the addresses of the shape that have to go into the folder


class Table(NamedTuple):
    """The ``old`` shape, and the folder (``new``, with a slash at its end) into which its addresses go; ``settles``:
    old addresses and where each goes; ``left``: those of the shape that are likely to go elsewhere, or nowhere."""

    old: str
    new: str
    settles: dict[str, str]
    left: list[str]


def folder(path: str) -> str:
    """The folder in which an address stands, with a slash at its end."""
    return path.partition("?")[0].rstrip("/").rpartition("/")[0] + "/"


def find_tables(
    likely: Mapping[str, tuple[str, float]], open_: Iterable[str], settled: Container[str] = frozenset()
) -> list[Table]:
    """The tables behind what open addresses have likely become (old -> new and how sure), the longest first.
    ``settled``: those that a rule says already."""
    shapes: dict[str, list[str]] = {}
    for key in sorted(open_):
        if key not in settled:
            shapes.setdefault(shape(key), []).append(key)
    found = []
    for shaped, keys in shapes.items():
        sure = {key: likely[key][0] for key in keys if key in likely and likely[key][1] >= SURE}
        into = Counter(folder(new) for new in sure.values()).most_common(1)
        if not into or into[0][1] < max(LEAST, MOST_OF * len(keys)):
            continue
        settles = {key: new for key, new in sure.items() if folder(new) == into[0][0]}
        found.append(Table(shaped, into[0][0], settles, [key for key in keys if key not in settles]))
    return sorted(found, key=lambda table: (-len(table.settles), table.old))
