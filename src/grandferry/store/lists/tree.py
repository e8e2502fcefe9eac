"""The folders of a site with their counts, from its addresses sorted by host and path."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

MOST = 2000  # folders of one path


class Branch(NamedTuple):
    """A folder (or a host) with how many addresses it has, how many are in the account, and how many of those are
    unaccounted."""

    name: str
    addresses: int
    counted: int
    unaccounted: int


class Tree:
    """``keys``: every address as ``host\\x00path`` (UTF-8), sorted, each with a line end behind it; ``marks``: the
    places of all slashes and question marks in it; ``counted`` and ``unaccounted``: which of the addresses are, in the
    same order."""

    def __init__(
        self,
        keys: NDArray[np.uint8],
        begins: NDArray[np.int64],
        marks: NDArray[np.int64],
        counted: NDArray[np.bool_],
        unaccounted: NDArray[np.bool_],
    ):
        self._text = keys
        self._begins = begins  # one more than there are addresses
        self._marks = marks
        self._counted = np.concatenate(([0], np.cumsum(counted)))
        self._unaccounted = np.concatenate(([0], np.cumsum(unaccounted)))

    def _key(self, number: int) -> bytes:
        return self._text[self._begins[number] : self._begins[number + 1] - 1].tobytes()

    def _first_from(self, key: bytes, low: int = 0) -> int:
        """The first address that is not before ``key``."""
        high = len(self._begins) - 1
        while low < high:
            middle = (low + high) // 2
            if self._key(middle) < key:
                low = middle + 1
            else:
                high = middle
        return low

    def _row(self, name: str, low: int, high: int) -> Branch:
        return Branch(
            name,
            high - low,
            int(self._counted[high] - self._counted[low]),
            int(self._unaccounted[high] - self._unaccounted[low]),
        )

    def hosts(self) -> list[Branch]:
        """All hosts, the one with the most addresses first."""
        found, at, end = [], 0, len(self._begins) - 1
        while at < end:
            host = self._key(at).partition(b"\0")[0]
            after = self._first_from(host + b"\1", at)
            found.append(self._row(host.decode("utf-8", "replace"), at, after))
            at = after
        return sorted(found, key=lambda row: (-row.addresses, row.name))

    def below(self, host: str, path: str) -> list[Branch]:
        """The folders right below ``path`` (given with its last slash); what lies in the path itself has no name."""
        prefix = f"{host}\0{path}".encode()
        low = self._first_from(prefix)
        high = self._first_from(prefix[:-1] + bytes([prefix[-1] + 1]), low)
        starts = self._begins[low:high] + len(prefix)
        ends = self._begins[low + 1 : high + 1] - 1
        nearest = np.searchsorted(self._marks, starts)
        where = np.append(self._marks, np.iinfo(np.int64).max)[nearest]
        inside = np.flatnonzero(where < ends) + low  # addresses with another folder, or a query, below the path
        found: list[Branch] = []
        direct = self._row("", low, high)
        at = 0
        while at < len(inside) and len(found) < MOST:
            first = int(inside[at])
            name = self._key(first)[len(prefix) : int(where[first - low] - self._begins[first]) + 1]
            folder = prefix + name
            after = self._first_from(folder[:-1] + bytes([folder[-1] + 1]), first)
            row = self._row(name.decode("utf-8", "replace"), first, after)
            found.append(row)
            direct = Branch("", *(all_ - part for all_, part in zip(direct[1:], row[1:], strict=True)))
            at = int(np.searchsorted(inside, after))
        return ([direct] if direct.addresses else []) + found
