"""What refitting asks of a page besides its blocks: regions and their words, links made absolute, shared texts."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..address import Scope, fragment_of, normal
from ..page import Node, Page
from ..survey.secrets import Masks

Hashes = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Region:
    """Where a body stands on its page: numbers of its outermost nodes, and a hash of the words in them."""

    nodes: tuple[int, ...]
    words: str


def outermost(nodes: Sequence[Node]) -> list[Node]:
    """Without those that lie in another one of them."""
    kept: list[Node] = []
    for node in nodes:
        if not kept or node.n > kept[-1].last:
            kept.append(node)
    return kept


def numbered(page: Page, numbers: Iterable[int]) -> list[Node]:
    """The outermost nodes of these numbers, those that the page has not got left out."""
    return outermost([page.nodes[n] for n in sorted(numbers) if 0 <= n < len(page.nodes)])


def words_hash(page: Page, nodes: Iterable[Node]) -> str:
    """A hash of the words that stand in some nodes, white space aside."""
    texts = [inner.text for node in nodes for inner in page.inside(node) if not inner.tag and inner.visible]
    words = " ".join(" ".join(texts).split())
    return hashlib.blake2b(words.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()


def region_of(page: Page, nodes: Sequence[Node]) -> Region:
    return Region(tuple(node.n for node in nodes), words_hash(page, nodes))


def text_hash(text: str) -> int:
    """A 63-bit hash of a text's words, for recognising the same text on many pages."""
    digest = hashlib.blake2b(" ".join(text.split()).encode("utf-8", "surrogatepass"), digest_size=8).digest()
    return int.from_bytes(digest, "big") >> 1


def texts_outside(page: Page, regions: Sequence[Node]) -> list[Node]:
    """The texts a visitor sees that stand in none of the regions."""
    spans = [(node.n, node.last) for node in regions]
    return [
        node
        for node in page.nodes
        if not node.tag and node.visible and node.text.strip() and not any(a <= node.n <= b for a, b in spans)
    ]


def outside_hashes(page: Page, regions: Sequence[Node]) -> Hashes:
    """The hashes of the texts outside the regions, each once, in order of size."""
    return np.unique(np.array([text_hash(node.text) for node in texts_outside(page, regions)], dtype=np.int64))


def shared_hashes(pages: Sequence[Hashes], least: int) -> Hashes:
    """The hashes that stand on at least so many pages."""
    if not pages:
        return np.zeros(0, dtype=np.int64)
    found, counts = np.unique(np.concatenate(pages), return_counts=True)
    return found[counts >= least]


def texts_in(page: Page, numbers: Iterable[int]) -> frozenset[int]:
    """The numbers of the texts within some nodes."""
    found: set[int] = set()
    for n in numbers:
        if 0 <= n < len(page.nodes):
            found.update(inner.n for inner in page.inside(page.nodes[n]) if not inner.tag)
    return frozenset(found)


def masks_on(page: Page, source: str, kept: Collection[str] = (), scope: Scope | None = None) -> Masks:
    """What is masked in all that is carried off a page of this source. ``kept``: marks of keys that are let over."""

    def shown() -> str:
        return " ".join(node.text for node in page.nodes if not node.tag and node.visible)

    def ours(url: str) -> bool:
        address = scope.normal(url) if scope is not None else None
        return address is not None and scope is not None and scope.is_ours(address.host)

    return Masks(source, shown, kept, ours)


def absolute(raw: str, base: str, scope: Scope, own: str = "") -> str:
    """A reference as an absolute address in normal form with its fragment; what is no http address stays as it is.
    ``own``: the page's address where ``base`` is another one. One to a place on the page itself is its fragment."""
    return _joined(raw, lambda: scope.normal(raw, base), base, own or base)


def linker(base: str) -> Callable[[str], str]:
    """The same without a scope; without a base, references stay as they are."""
    if not base:
        return lambda raw: raw
    return lambda raw: _joined(raw, lambda: normal(raw, base), base, base)


def _joined(raw: str, join: Callable[[], object | None], base: str, own: str) -> str:
    if raw.startswith("#") and base == own:
        return raw
    address = join()
    if address is None:
        return raw
    fragment = fragment_of(raw)
    if fragment and str(address) == own:
        return f"#{fragment}"
    return f"{address}#{fragment}" if fragment else str(address)
