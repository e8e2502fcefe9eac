"""What a page's words come to: how many they are, a hash of them, and a short fingerprint of which texts that share
most of their words in order share most bits.

The fingerprint is Charikar's (STOC 2002, "Similarity estimation techniques from rounding algorithms") over the 16 bytes
that begin with a word, some three words: each votes on 64 bits, the majority decides. All of it is done in NumPy, no
word is touched in Python.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from itertools import combinations
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

FEWEST = 20  # words; shorter texts are compared as they are
MOST = 400_000  # bytes of a text that are looked at for its fingerprint
MOST_PAIRS = 500_000  # of near fingerprints kept before their groups are joined
MOST_COMPARED = 2_000_000_000  # pairs; where more share three parts, each is compared with those next to it alone
AT_A_TIME = 50_000  # pairs compared together
MOST_LOOKED_AT = 10_000  # fingerprints from which the use of each bit is told
ENOUGH = 512  # votes; of a longer text every second, fourth, ... word by its own bytes, so that the same ones vote
_BITS = 64
_MIX = tuple(np.uint64(odd) for odd in (0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9))
_HALF = np.uint64(32)
_BLANK = 32  # all control characters count as blanks as well
# white space beyond ASCII, as Python knows it, by the first byte of its UTF-8
_WIDE_BLANKS = {
    b"\xc2": "\x85\xa0",
    b"\xe1": "\u1680",
    b"\xe2": "\u2000\u2001\u2002\u2003\u2004\u2005\u2006\u2007\u2008\u2009\u200a\u2028\u2029\u202f\u205f",
    b"\xe3": "\u3000",
}


class Words(NamedTuple):
    """``number`` of a text's words; ``digest``: a hash of them, the same whatever stands between them; ``near``: their
    fingerprint as 16 hex digits, "" for fewer than FEWEST."""

    number: int
    digest: str
    near: str


def words_of(text: str) -> Words:
    """What the words of a text come to."""
    source = text.encode("utf-8", "surrogatepass")
    if not text.isascii():
        for begins, blanks in _WIDE_BLANKS.items():
            if begins in source:
                for blank in blanks:
                    if blank in text:
                        source = source.replace(blank.encode(), b" ")
    letters = np.frombuffer(source, dtype=np.uint8)
    if not len(letters):
        return Words(0, hashlib.blake2b(b"", digest_size=12).hexdigest(), "")
    black = letters > _BLANK
    kept = black.copy()  # every word's letters, and the first blank behind it
    kept[1:] |= black[:-1]
    words = letters[kept]
    if len(words) and words[-1] <= _BLANK:
        words = words[:-1]
    np.copyto(words, _BLANK, where=words < _BLANK)
    digest = hashlib.blake2b(words.data, digest_size=12).hexdigest()
    starts = (words == _BLANK).nonzero()[0]
    number = len(starts) + 1 if len(words) else 0
    return Words(number, digest, _print(words[:MOST], starts[starts < MOST - 1] + 1) if number >= FEWEST else "")


def _print(words: NDArray[np.uint8], starts: NDArray[np.intp]) -> str:
    """The fingerprint of a text whose words are parted by single blanks; ``starts``: where its words begin."""
    padded = np.zeros(len(words) + 16, dtype=np.uint8)
    padded[: len(words)] = words
    eights = np.ndarray(len(words) + 9, dtype="<u8", buffer=padded, strides=(1,))  # the eight bytes from each place on
    mixed = eights.take(starts)
    mixed *= _MIX[0]
    halved = (len(starts) // ENOUGH).bit_length() - 1
    if halved > 0:
        chosen = (mixed >> np.uint64(_BITS - halved) == 0).nonzero()[0]
        if len(chosen) >= FEWEST:  # a text that says the same again and again may have none
            starts, mixed = starts[chosen], mixed[chosen]
    mixed ^= mixed >> _HALF
    mixed ^= eights.take(starts + 8)
    mixed *= _MIX[1]
    mixed ^= mixed >> _HALF  # the lower bits of a product hang on the lower bits of its factors alone
    mixed *= _MIX[2]
    mixed ^= mixed >> _HALF
    votes = _votes(mixed)
    return np.packbits(votes * 2 > len(mixed)).tobytes().hex()


def _votes(words: NDArray[np.uint64]) -> NDArray[np.uint32]:
    """How many of the words (64 bits each, one at least) set each bit, in the order of ``unpackbits``."""
    # a byte for every bit, added by eights, as many at once as a byte can count
    eights = np.unpackbits(words.view(np.uint8)).view(np.uint64).reshape(-1, _BITS // 8)
    sums = np.add.reduceat(eights, np.arange(0, len(words), 255), axis=0)
    votes: NDArray[np.uint32] = np.add.reduce(sums.view(np.uint8).reshape(-1, _BITS), axis=0, dtype=np.uint32)
    return votes


def apart(one: str, other: str) -> int:
    """The number of bits in which two fingerprints differ."""
    return (int(one, 16) ^ int(other, 16)).bit_count()


def near_groups(prints: NDArray[np.uint64], most: int) -> list[list[int]]:
    """Groups of positions whose fingerprints differ in at most ``most`` bits (below 8), each larger than one.

    The 64 bits are dealt to ``most`` + 3 parts: two prints that differ in at most ``most`` bits agree in three parts at
    least, so only those that share three are compared. Groups join what is near through others. Where so many share
    three parts that it would take minutes (MOST_COMPARED), each is compared with those next to it alone.
    """
    values, group_of = np.unique(prints, return_inverse=True)
    label = np.arange(len(values))
    pairs: list[tuple[NDArray[np.intp], NDArray[np.intp]]] = []
    waiting = 0
    threes = list(combinations(_parts(values, most + 3), 3))
    reach = max(1, MOST_COMPARED // (len(values) * len(threes) + 1))
    for three in threes:
        mask = np.bitwise_or.reduce(three)
        shared = values & mask
        order = np.lexsort((values & ~mask, shared))
        sorted_ = values[order]
        for one, other in _sharing(shared[order], reach):
            near = np.bitwise_count(sorted_[one] ^ sorted_[other]) <= most
            if near.any():
                pairs.append((order[one[near]], order[other[near]]))
                waiting += len(pairs[-1][0])
            if waiting > MOST_PAIRS:
                label, waiting = _joined(label, pairs), 0
    label = _joined(label, pairs)
    groups: dict[int, list[int]] = {}
    for k, value in enumerate(label[group_of].tolist()):
        groups.setdefault(value, []).append(k)
    return [group for group in groups.values() if len(group) > 1]


def _parts(prints: NDArray[np.uint64], number: int) -> list[np.uint64]:
    """The bits of fingerprints dealt to so many parts, each as a mask. Bits that tell a site's pages apart, and those
    that are nearly the same in all of them (its texts share many words), are spread over all parts alike."""
    some = prints[:: len(prints) // MOST_LOOKED_AT + 1]
    ones = _votes(some.astype(">u8").view(np.uint64)) / max(1, len(some))
    bits = [np.uint64(1 << (_BITS - 1 - bit)) for bit in np.argsort(np.abs(ones - 0.5)).tolist()]
    return [np.bitwise_or.reduce(bits[part::number]) for part in range(number)]


def _sharing(values: NDArray[np.uint64], reach: int) -> Iterator[tuple[NDArray[np.intp], NDArray[np.intp]]]:
    """Pairs of places at which sorted values are the same, each place with at most ``reach`` of those behind it; a
    bounded number of pairs at a time."""
    ends = np.append(np.flatnonzero(values[1:] != values[:-1]) + 1, len(values))
    # how many places behind each hold the same value
    behind = np.repeat(ends, np.diff(ends, prepend=0)) - np.arange(len(values)) - 1
    np.minimum(behind, reach, out=behind)
    places = np.flatnonzero(behind)
    totals = np.cumsum(behind[places])
    first = done = 0
    while first < len(places):
        last = max(first + 1, int(np.searchsorted(totals, done + AT_A_TIME, side="right")))
        some = behind[places[first:last]]
        before = np.repeat(totals[first:last] - some, some)
        one = np.repeat(places[first:last], some)
        yield one, one + np.arange(done, totals[last - 1]) - before + 1
        first, done = last, int(totals[last - 1])


def _joined(label: NDArray[np.intp], pairs: list[tuple[NDArray[np.intp], NDArray[np.intp]]]) -> NDArray[np.intp]:
    """Labels after joining the groups of each pair, which are then done with: all of a group carry the smallest label
    in it."""
    if not pairs:
        return label
    one, other = (np.concatenate(side) for side in zip(*pairs, strict=True))
    pairs.clear()
    while True:
        smaller = np.minimum(label[one], label[other])
        if np.array_equal(label[one], smaller) and np.array_equal(label[other], smaller):
            return label
        root = np.arange(len(label))
        np.minimum.at(root, label[one], smaller)
        np.minimum.at(root, label[other], smaller)
        while not np.array_equal(root, shorter := root[root]):
            root = shorter
        label = root[label]
