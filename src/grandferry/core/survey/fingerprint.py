"""A short fingerprint of a text: texts that share most of their words in order share most of its bits.

Charikar's method (STOC 2002, "Similarity estimation techniques from rounding algorithms") over runs of three words:
each run votes on 64 bits, the majority decides. Comparing many is done in NumPy.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FEWEST = 20  # words; shorter texts are compared as they are
RUN = 3
MOST = 400_000  # bytes of a text that are looked at
_BITS = 64
_BASE = 0x100000001B3  # odd, so that it has an inverse modulo 2**64
_MIX = (np.uint64(0x9E3779B97F4A7C15), np.uint64(0xC2B2AE3D27D4EB4F), np.uint64(0x165667B19E3779F9))

_COLUMNS = (np.arange(8) * 256).astype(np.int64)
_BITS_OF = np.unpackbits(np.arange(256, dtype=np.uint8)[:, None], axis=1).astype(np.float64)


class _Powers:
    """Powers of the base and of its inverse modulo 2**64, as many as the longest text so far needs."""

    up: NDArray[np.uint64] = np.ones(1, dtype=np.uint64)
    down: NDArray[np.uint64] = np.ones(1, dtype=np.uint64)

    @classmethod
    def of(cls, length: int) -> tuple[NDArray[np.uint64], NDArray[np.uint64]]:
        if len(cls.up) < length:
            size = max(length, 16_384)
            cls.up = np.full(size, _BASE, dtype=np.uint64)
            cls.down = np.full(size, pow(_BASE, -1, 1 << 64), dtype=np.uint64)
            cls.up[0] = cls.down[0] = 1
            np.cumprod(cls.up, out=cls.up)
            np.cumprod(cls.down, out=cls.down)
        return cls.up, cls.down


def fingerprint(text: bytes) -> str:
    """The fingerprint of a text whose words are parted by single blanks, as 16 hex digits; "" for fewer than FEWEST words.

    Every word gets a polynomial hash, by differences of running sums, so that no word is touched in Python.
    """
    text = text[:MOST]
    letters = np.frombuffer(text, dtype=np.uint8)
    blanks = np.flatnonzero(letters == 32)
    if len(blanks) + 1 < FEWEST:
        return ""
    up, down = _Powers.of(len(letters))
    sums = np.zeros(len(letters) + 1, dtype=np.uint64)
    np.cumsum(letters.astype(np.uint64) * up[: len(letters)], out=sums[1:])
    starts = np.concatenate(([0], blanks + 1))
    ends = np.concatenate((blanks, [len(letters)]))
    single = (sums[ends] - sums[starts]) * down[np.minimum(starts, len(letters) - 1)]
    runs = len(single) - RUN + 1
    mixed = np.zeros(runs, dtype=np.uint64)
    for place, factor in enumerate(_MIX):
        mixed = (mixed ^ (single[place : place + runs] + np.uint64(place + 1))) * factor
        mixed ^= mixed >> np.uint64(29)
    # how often each value stands in each of the eight bytes, and from that how often each bit is set
    places = mixed.view(np.uint8).reshape(runs, 8) + _COLUMNS
    counts = np.bincount(places.ravel(), minlength=8 * 256).reshape(8, 256)
    votes = (counts @ _BITS_OF).ravel()
    return np.packbits(votes * 2 > runs).tobytes().hex()


def apart(one: str, other: str) -> int:
    """The number of bits in which two fingerprints differ."""
    return (int(one, 16) ^ int(other, 16)).bit_count()


def near_groups(prints: NDArray[np.uint64], most: int) -> list[list[int]]:
    """Groups of positions whose fingerprints differ in at most ``most`` bits (below 8), each larger than one.

    The 64 bits are cut into ``most`` + 1 parts: two prints that differ in at most ``most`` bits agree in one part at
    least, so only those that share a part are compared. Groups join what is near through others.
    """
    parts = most + 1
    parent = np.arange(len(prints))

    def root(k: int) -> int:
        while parent[k] != k:
            parent[k] = parent[parent[k]]
            k = int(parent[k])
        return k

    same: dict[int, int] = {}
    for k, value in enumerate(prints.tolist()):
        parent[k] = same.setdefault(value, k)
    single = np.flatnonzero(parent == np.arange(len(prints)))
    edges = [_BITS * n // parts for n in range(parts + 1)]
    for low, high in zip(edges, edges[1:], strict=False):
        part = (prints[single] >> np.uint64(low)) & np.uint64((1 << (high - low)) - 1)
        order = np.argsort(part, kind="stable")
        bounds = np.flatnonzero(np.diff(part[order])) + 1
        for bucket in np.split(single[order], bounds):
            if len(bucket) < 2:
                continue
            values = prints[bucket]
            for n in range(len(bucket) - 1):
                apart = np.bitwise_count(values[n + 1 :] ^ values[n])
                for m in np.flatnonzero(apart <= most):
                    a, b = root(int(bucket[n])), root(int(bucket[n + 1 + int(m)]))
                    if a != b:
                        parent[max(a, b)] = min(a, b)
    groups: dict[int, list[int]] = {}
    for k in range(len(prints)):
        groups.setdefault(root(k), []).append(k)
    return [group for group in groups.values() if len(group) > 1]
