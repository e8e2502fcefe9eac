"""What a survey knows of a site while it walks: the addresses met, those still to ask, those kept out."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable

from grandferry.core.address import Address, Scope, loose_shape, split_href
from grandferry.core.errors import FerryError
from grandferry.core.filetypes import looks_like_file
from grandferry.core.keptout import KeptOut
from grandferry.core.plan import EndlessSpace
from grandferry.core.side import Side
from grandferry.store.survey import met, runs
from grandferry.store.survey.given import Visits
from grandferry.store.survey.met import Held, NewAddress, Waiting
from grandferry.work.survey import endless

# an address, whether a file is wanted of it, its links from the start, and how it was found
Met = tuple[str, bool, int, str]


class Frontier:
    """The addresses of one survey (``run``). What it enters is written within the caller's transaction."""

    def __init__(self, side: Side, scope: Scope, run: int, decided: Iterable[EndlessSpace] = ()):
        self.side = side
        self.scope = scope
        self.run = run
        self.ids, waiting, self.pages = met.known(side, run)
        self.shut = met.shut_out(side)
        spaces = {loose_shape(split_href(u).key) for u, held in self.shut.items() if held.reason == KeptOut.ENDLESS}
        real = frozenset(space.shape for space in decided if space.take)
        self.endless = endless.Endless(spaces | {space.shape for space in decided if not space.take}, real)
        self.linked: set[int] = set()  # addresses known to be found by a link
        self.confined = False  # to one address: what else waits, and what is met, is left for another time
        self.queue: deque[Waiting] = deque()  # pages, as far as one can tell before asking
        self.files: deque[Waiting] = deque()
        self._next = met.next_address_id()
        self._next_out = met.next_shut_out_id()
        for line in waiting:
            self._wait(line)

    def __len__(self) -> int:
        return len(self.queue) + len(self.files)

    def confine(self, address: int) -> None:
        """Ask one address alone, whether it was asked before or not. Raises FerryError when there is none like that."""
        found = met.to_ask(self.side, address)
        if found is None:
            raise FerryError(f"There is no address {address} of the {self.side.name} site in this crossing.")
        self.queue.clear()
        self.files.clear()
        self._wait(found)
        self.confined = True

    def _wait(self, waiting: Waiting) -> None:
        if self.confined:
            return
        (self.files if waiting.wants_file else self.queue).append(waiting)

    def next(self, pages: bool) -> Waiting | None:
        """The address that has waited longest, a file when no more ``pages`` are wanted; None when there is none."""
        if not pages or not self.queue:
            return self.files.popleft() if self.files else None
        if self.files and self.files[0].id < self.queue[0].id:
            return self.files.popleft()
        return self.queue.popleft()

    def take(self, url: str) -> Waiting | None:
        """An address out of the queue, None when it does not wait."""
        for line in (self.queue, self.files):
            found = next((w for w in line if w.url == url), None)
            if found is not None:
                line.remove(found)
                return found
        return None

    def add(self, addresses: list[Met]) -> None:
        """Enter addresses that are in scope and not yet known, and how each was found (within a transaction)."""
        new: list[NewAddress] = []
        found: set[tuple[int, str]] = set()
        kept_out: dict[str, Held] = {}
        let_in: list[tuple[int, int]] = []
        for url, wants_file, depth, how in addresses:
            known = self.ids.get(url)
            if known is None:
                address = split_href(url)
                if address is None:
                    continue
                reason = self._reason(address, wants_file, depth)
                held = self.shut.get(url)
                if reason:
                    if held is None or held.reason != reason:
                        number = held.id if held is not None else self._next_out
                        self._next_out += held is None
                        self.shut[url] = kept_out[url] = Held(number, url, address.host, reason, wants_file, depth)
                    continue
                known = self._next
                self._next += 1
                if held is not None:
                    del self.shut[url]
                    if kept_out.pop(url, None) is None:
                        let_in.append((held.id, known))
                self.ids[url] = known
                new.append(NewAddress(known, url, address.host, address.key, wants_file, depth, self.run))
                self._wait(Waiting(known, url, address.host, address.key, wants_file, depth))
            elif how == "link" and known in self.linked:
                continue
            if how == "link":
                self.linked.add(known)
            found.add((known, how))
        met.add_addresses(self.side, new)
        met.add_found(self.side.crossing, found)
        met.store_shut_out(self.side, list(kept_out.values()))
        met.let_in(self.side.crossing, let_in)

    def keep_out(self, waiting: Waiting, reason: KeptOut) -> None:
        """Note an address that was let in as kept out after all (within a transaction)."""
        met.shut(waiting.id, reason)
        held = self.shut.get(waiting.url)
        number = held.id if held is not None else self._next_out
        self._next_out += held is None
        row = Held(number, waiting.url, waiting.host, reason, waiting.wants_file, waiting.depth)
        self.shut[waiting.url] = row
        met.store_shut_out(self.side, [row])

    def _reason(self, address: Address, wants_file: bool, depth: int) -> KeptOut:
        reason = self.scope.shut_out(address, is_file=wants_file, depth=depth)
        return reason or (KeptOut.ENDLESS if self.endless.holds(address.key) else KeptOut.LET_IN)

    def heed_scope(self) -> None:
        """Take in what an earlier run kept out and the scope, as it is now, takes in; keep out what waits and the scope
        takes in no more (within a transaction)."""
        for line in (self.queue, self.files):
            for waiting in list(line):
                address = split_href(waiting.url)
                assert address is not None
                reason = self._reason(address, waiting.wants_file, waiting.depth)
                if reason:
                    line.remove(waiting)
                    if waiting.again:  # what was captured stays as it is, and is asked no more
                        runs.asked(self.run, waiting.id)
                    else:
                        self.keep_out(waiting, reason)
        for url, (number, _, _, reason, wants_file, depth) in list(self.shut.items()):
            address = split_href(url)
            if reason == KeptOut.ROBOTS or address is None or self._reason(address, wants_file, depth):
                continue
            known = self.ids.get(url)
            if known is None:
                self.add([(url, wants_file, depth, "link")])
            elif met.reopen(known):
                del self.shut[url]
                met.let_in(self.side.crossing, [(number, known)])
                self._wait(Waiting(known, url, address.host, address.key, wants_file, depth))

    def cap(self, shape: str) -> int:
        """Keep out what waits of a shape found to be endless; gives how many that are (within a transaction)."""
        number = 0
        for line in (self.queue, self.files):
            for waiting in [w for w in line if loose_shape(w.key) == shape]:
                line.remove(waiting)
                self.keep_out(waiting, KeptOut.ENDLESS)
                number += 1
        return number

    def enter_listed(self, type_: str, targets: Iterable[Visits], scheme: str) -> dict[int, int]:
        """Enter addresses that a list names; gives the visits of each. ``type_`` is how they were found: list, log or
        analytics (within a transaction)."""
        found: dict[str, int] = {}
        for host, target, count, _ in targets:
            address = self.scope.normal(target if target.startswith("http") else f"{scheme}://{host}{target}")
            if address is not None and (
                str(address) in self.ids or not self.scope.shut_out(address, is_file=looks_like_file(address.path))
            ):
                found[str(address)] = found.get(str(address), 0) + count
        self.add([(url, looks_like_file(url.partition("?")[0]), 0, type_) for url in found])
        return {self.ids[url]: count for url, count in found.items() if url in self.ids}
