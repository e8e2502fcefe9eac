"""What a survey knows of a site while it walks: the addresses met, those still to ask, those kept out."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass
from typing import Any

from grandferry.core.address import Address, Scope, normal
from grandferry.core.survey.links import looks_like_file
from grandferry.store import survey

# an address, whether a file is wanted of it, its links from the start, and how it was found
Met = tuple[Address, bool, int, str]


@dataclass(slots=True)
class Waiting:
    """An address to fetch. ``depth`` counts links from the start."""

    id: int
    url: str
    host: str
    key: str
    wants_file: bool
    depth: int
    again: bool = False  # an earlier survey has asked it


class Frontier:
    """The addresses of one survey (``run``). What it enters is written within the caller's transaction."""

    def __init__(self, crossing: int, scope: Scope, run: int):
        self.crossing = crossing
        self.scope = scope
        self.run = run
        self.ids, waiting, self.pages = survey.known(crossing, run)
        self.shut = survey.shut_out(crossing)  # url -> reason, wants_file, depth
        self.linked: set[int] = set()  # addresses known to be found by a link
        self.queue: deque[Waiting] = deque()
        self._next = survey.next_address_id()
        for id_, url, wants_file, depth, again in waiting:
            address = normal(url)
            assert address is not None
            self.queue.append(Waiting(id_, url, address.host, address.key, bool(wants_file), depth, bool(again)))

    def take(self, url: str) -> Waiting | None:
        """An address out of the queue, None when it does not wait."""
        found = next((w for w in self.queue if w.url == url), None)
        if found is not None:
            self.queue.remove(found)
        return found

    def add(self, addresses: list[Met]) -> None:
        """Enter addresses that are in scope and not yet known, and how each was found (within a transaction)."""
        new: list[tuple[Any, ...]] = []
        found: set[tuple[int, int, str]] = set()
        kept_out: dict[str, tuple[str, str, str, bool, int]] = {}
        let_in: list[str] = []
        for address, wants_file, depth, how in addresses:
            url = str(address)
            known = self.ids.get(url)
            if known is None:
                reason = self.scope.shut_out(address, is_file=wants_file, depth=depth)
                if reason:
                    if self.shut.get(url, ("",))[0] != reason:
                        self.shut[url] = (reason, wants_file, depth)
                        kept_out[url] = (url, address.host, reason, wants_file, depth)
                    continue
                if self.shut.pop(url, None) is not None:
                    let_in.append(url)
                    kept_out.pop(url, None)
                known = self._next
                self._next += 1
                self.ids[url] = known
                new.append((known, self.crossing, url, address.host, address.key, wants_file, depth, self.run))
                self.queue.append(Waiting(known, url, address.host, address.key, wants_file, depth))
            elif how == "link" and known in self.linked:
                continue
            if how == "link":
                self.linked.add(known)
            found.add((self.crossing, known, how))
        survey.add_addresses(new)
        survey.add_found(list(found))
        survey.store_shut_out(self.crossing, list(kept_out.values()), let_in)

    def let_in(self) -> None:
        """Addresses kept out by an earlier run which the scope, as it is now, takes in."""
        for url, (_, wants_file, depth) in list(self.shut.items()):
            address = normal(url)
            if url not in self.ids and address and not self.scope.shut_out(address, is_file=wants_file, depth=depth):
                self.add([(address, wants_file, depth, "link")])

    def visited(self, visits: list[tuple[str, str, int]], scheme: str) -> None:
        """Addresses from access logs: their visits, and those no link has led to yet."""
        found: dict[str, tuple[Address, int]] = {}
        for host, target, count in visits:
            url = target if target.startswith("http") else f"{scheme}://{host}{target}"
            address = self.scope.normal(url)
            if address is None:
                continue
            is_file = looks_like_file(address.path)
            if self.scope.shut_out(address, is_file=is_file):
                continue
            known = found.get(str(address))
            found[str(address)] = (address, count + (known[1] if known else 0))
        self.add([(a, looks_like_file(a.path), 0, "log") for a, _ in found.values()])
        survey.set_visits(self.crossing, {self.ids[url]: count for url, (_, count) in found.items() if url in self.ids})
