"""A host that gives one page for whatever is asked, in a later survey: what an earlier one captured is not replaced by
it.

Such a page is known only by its being given for several addresses. So an answer that would replace another content is
held until some more answers of its host have come; when one of those has the same bytes, all that have them are held
until it is found out, by asking twice more, whether that is the site's own answer.
"""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

from grandferry.core.address import Address
from grandferry.core.side import Side
from grandferry.net.manners import AT_THE_END, Polite
from grandferry.store.survey import runs
from grandferry.store.survey.met import Waiting
from grandferry.work.survey.takein import Answered

LEAST = 64  # answers for which one is held, and
TIMES = 4  # … times as many as are asked at once: walled ones overtake those that were asked before them
LARGEST = 1_000_000  # bytes of an answer that is held


@dataclass(slots=True)
class _Host:
    count: int = 0  # answers
    line: deque[tuple[int, Answered]] = field(default_factory=deque)  # each with the count at which it came
    same: dict[str, list[Answered]] = field(default_factory=dict)  # by hash: given for several addresses
    asked: set[str] = field(default_factory=set)  # hashes of which it is just being found out
    not_own: set[str] = field(default_factory=set)  # … known to be none: what comes late waits as well
    own: set[str] = field(default_factory=set)  # hashes known to be the site's own answers


class OnePage:
    """What is held in one later survey of a side. ``left``: addresses that wait for another run."""

    def __init__(self, side: Side, start: Address, polite: Polite, at_once: int):
        self.left: list[Waiting] = []
        self._side = side
        self._start = start
        self._polite = polite
        self._window = max(LEAST, TIMES * at_once)
        self._hosts: dict[str, _Host] = {}

    def minds(self, one: Answered) -> bool:
        """Whether it is known here, or just being found out, if an answer is the site's own."""
        host = self._hosts.get(one.waiting.host)
        return host is not None and (_digest(one) in host.own or _digest(one) in host.asked)

    async def heed(self, one: Answered) -> list[Answered]:
        """Hold an answer, or not; gives those that are to be taken in now."""
        host = self._hosts.setdefault(one.waiting.host, _Host())
        host.count += 1
        free = []
        digest = _digest(one)
        if not _replaces(one) or digest in host.own:
            free.append(one)
        elif digest in host.not_own:
            self.left.append(one.waiting)
        elif digest in host.same:
            host.same[digest].append(_sharing(one, host.same[digest][0]))
            if len(host.same[digest]) == AT_THE_END:
                free += await self._found_out(one.waiting.host, host, digest)
        else:
            first = next((n for n, (_, held) in enumerate(host.line) if _digest(held) == digest), None)
            if first is None:
                host.line.append((host.count, one))
            else:
                held = host.line[first][1]
                del host.line[first]
                host.same[digest] = [held, _sharing(one, held)]
        while host.line and host.count - host.line[0][0] > self._window:
            free.append(host.line.popleft()[1])
        return free

    async def settle(self) -> list[Answered]:
        """At the end of the walk: find out about all that is held; gives what is to be taken in."""
        free = []
        for name, host in self._hosts.items():
            free += [held for _, held in host.line]
            host.line.clear()
            for digest in list(host.same):
                free += await self._found_out(name, host, digest)
        return free

    async def _found_out(self, name: str, host: _Host, digest: str) -> list[Answered]:
        host.asked.add(digest)
        still, own = await self._is_own(name, digest, host.same[digest])
        host.asked.remove(digest)
        group = host.same.pop(digest)  # with what has come meanwhile
        if own:
            host.own.add(digest)
            return group
        host.not_own.add(digest)
        self.left += [one.waiting for one in group]
        if still:
            self._polite.walled(name, digest, len(group))
        return []

    async def _is_own(self, name: str, digest: str, group: list[Answered]) -> tuple[bool, bool]:
        """Whether the host still gives the page where it gave it, and whether it gives another one elsewhere."""
        if len({(had.status, had.target, had.body) for one in group if (had := one.before) is not None}) == 1:
            return True, True  # they were one page before, and are another one now
        first = group[0].waiting
        again = await self._polite.get(first.url, name)
        if again.digest != digest:
            return False, False
        if any(one.waiting.url == str(self._start) for one in group):
            return True, False
        elsewhere = str(self._start) if name == self._start.host else runs.another(self._side, name, digest)
        if not elsewhere:
            return True, False
        got = await self._polite.get(elsewhere, name)
        return True, 0 < got.status < 400 and got.digest != digest


def _digest(one: Answered) -> str:
    return one.reading.digest if one.reading is not None else ""


def _replaces(one: Answered) -> bool:
    """Whether a page with content would come in the place of another answer (a redirect and a dead end are answers as
    well), captured earlier."""
    before, reading = one.before, one.reading
    if before is None or reading is None:
        return False
    page = reading.type == "page" and not reading.refusal and reading.rendered is None
    return page and one.got.status == 200 and len(one.got.body) <= LARGEST


def _sharing(one: Answered, other: Answered) -> Answered:
    """The same bytes are held once."""
    assert one.reading is not None and other.reading is not None
    one.got.body, one.reading.data = other.got.body, other.reading.data
    return one
