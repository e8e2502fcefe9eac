"""The survey as a job: walk the site from its start address, capture every answer once, resume where it ended."""

from __future__ import annotations

import asyncio
import json
import time
from collections import Counter, deque
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from grandferry.core.address import Address, Scope, normal
from grandferry.core.errors import AddressError, FerryError
from grandferry.core.survey.links import looks_like_file
from grandferry.core.survey.refusals import EMPTY, SIGN_IN, is_sign_in
from grandferry.net.fetch import Fetched, Fetcher
from grandferry.net.manners import REFUSALS, Polite
from grandferry.ports.sources.sitemap import read_feed, read_sitemap
from grandferry.store import bodies, secrets, survey
from grandferry.store.crossings import now

from .access import verdict
from .context import Context, Stopped, access_of, scope_of
from .pool import PAGE_SECONDS, PagePool
from .reading import Reading, Ref, read_answer

FLUSH_ROWS = 40
FLUSH_SECONDS = 0.04  # at the most this much of what was fetched is lost by a kill
SITEMAP_CAP = 1000
KEPT_BACK = "(not kept)"  # a cookie is a key to somebody's session


@dataclass(slots=True)
class _Waiting:
    """An address to fetch. ``depth`` counts links from the start."""

    id: int
    url: str
    host: str
    key: str
    wants_file: bool
    depth: int
    again: bool = False  # an earlier survey has asked it


# an address, its answer, what was read from it, and what an earlier survey had there
_Done = tuple[_Waiting, Fetched, Reading | None, survey.Before | None]


class Survey:
    """One run. All database work happens in this process; reading pages happens in a child."""

    def __init__(self, context: Context):
        self.context = context
        self.plan = context.plan
        self.scope: Scope = scope_of(self.plan)
        self.crossing = context.crossing
        self.host = next(iter(self.scope.hosts))
        start = self.scope.normal(self.plan.old.start)
        assert start is not None
        self.start = start
        self.manners = self.plan.manners
        self.ids: dict[str, int] = {}
        self.queue: deque[_Waiting] = deque()
        self.pending: list[_Done] = []
        self.flushed = time.monotonic()
        self.shut: dict[str, tuple[str, bool, int]] = {}  # url -> reason, wants_file, depth
        self.next_id = 0
        self.next_capture = 0
        self.linked: set[int] = set()  # addresses known to be found by a link
        self.pages = 0
        self.pool = PagePool()
        self.counts = {"fetched": 0, "failed": 0}
        self.changes: Counter[str] = Counter()
        self.left: list[_Waiting] = []  # of hosts that are left alone; they wait for another run
        self.number = 0

    # --- begin --------------------------------------------------------------------------------------

    async def run(self) -> dict[str, Any]:
        started = time.monotonic()
        named = self.scope.hosts | self.scope.file_hosts | frozenset(self.scope.aliases)
        try:
            async with Fetcher(
                agent=self.manners.agent,
                named=named,
                at_once=self.manners.at_once,
                timeout=self.manners.timeout,
                page_cap=self.plan.survey.max_page_bytes,
                file_cap=self.plan.survey.max_file_bytes,
                spill=bodies.temporary(),
                secrets=access_of(self.crossing),
            ) as fetcher:
                self.fetcher = fetcher
                scheme = urlsplit(self.plan.old.start).scheme
                self.polite = Polite(fetcher, self.manners, scheme, self.context.log)
                self._load()
                self._begin()
                children = self.pool.warm()
                await self._knock()
                await self._sound()
                if self.manners.at_once < 4:  # else the first answers would wait for their reader, unwritten
                    await asyncio.gather(*(asyncio.wrap_future(child) for child in children))
                await self._walk()
        except Stopped:
            self._finish()  # what is done so far stays, and is counted
            raise
        finally:
            self.pool.close()
        self._finish()
        with self.context.writing():
            survey.close_run(self.crossing, self.number)
        summary = survey.summary(self.crossing)
        summary["seconds"] = round(time.monotonic() - started, 3)
        summary["not_visited"] = len(self.queue) + len(self.left)
        summary["run"] = self.number
        if self.number > 1:
            summary["changes"] = dict(self.changes)
        if self.queue:
            summary["stopped_at_cap"] = self.plan.survey.max_pages
            self.context.log(
                f"Stopped at the cap of {self.plan.survey.max_pages:,} pages; {len(self.queue):,} known addresses not visited.",
                "warning",
            )
        if self.left:
            summary["left_alone"] = dict(Counter(waiting.host for waiting in self.left))
        return summary

    def _finish(self) -> None:
        self._flush(force=True)
        start = str(self.scope.normal(self.plan.old.start))
        with self.context.writing():
            survey.count_accounts(self.crossing)
            survey.sound(self.crossing, "start", survey.start_facts(self.crossing, start))

    def _load(self) -> None:
        """What earlier runs of this survey know."""
        with self.context.writing():
            self.number = survey.open_run(self.crossing, bool(self.context.params.get("again")))
        self.ids, waiting, self.pages = survey.known(self.crossing, self.number)
        self.next_id = survey.next_address_id()
        self.next_capture = survey.next_capture_id()
        self.shut = survey.shut_out(self.crossing)
        for id_, url, wants_file, depth, again in waiting:
            address = normal(url)
            assert address is not None
            self.queue.append(_Waiting(id_, url, address.host, address.key, bool(wants_file), depth, bool(again)))

    def _begin(self) -> None:
        with self.context.writing():
            self._let_in()
            self._add([(self.start, False, 0, "start")])
            self._visited(survey.log_visits(self.crossing))

    def _let_in(self) -> None:
        """Addresses kept out by an earlier run which the scope, as it is now, takes in."""
        for url, (_, wants_file, depth) in list(self.shut.items()):
            address = normal(url)
            if url not in self.ids and address and not self.scope.shut_out(address, is_file=wants_file, depth=depth):
                self._add([(address, wants_file, depth, "link")])

    def _visited(self, visits: list[tuple[str, str, int]]) -> None:
        """Addresses from access logs: their visits, and those no link has led to yet."""
        found: dict[str, tuple[Address, int]] = {}
        scheme = urlsplit(self.plan.old.start).scheme
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
        self._add([(a, looks_like_file(a.path), 0, "log") for a, _ in found.values()])
        survey.set_visits(self.crossing, {self.ids[url]: count for url, (_, count) in found.items() if url in self.ids})

    def _add(self, addresses: list[tuple[Address, bool, int, str]]) -> None:
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
                known = self.next_id
                self.next_id += 1
                self.ids[url] = known
                new.append((known, self.crossing, url, address.host, address.key, wants_file, depth, self.number))
                self.queue.append(_Waiting(known, url, address.host, address.key, wants_file, depth))
            elif how == "link" and known in self.linked:
                continue
            if how == "link":
                self.linked.add(known)
            found.add((self.crossing, known, how))
        survey.add_addresses(new)
        survey.add_found(list(found))
        survey.store_shut_out(self.crossing, list(kept_out.values()), let_in)

    # --- soundings ----------------------------------------------------------------------------------

    async def _knock(self) -> None:
        """Ask the start address before anything else. Raises FerryError when the access given does not open it: then no
        page is fetched at all."""
        waiting = next((w for w in self.queue if w.key == self.start.key and w.host == self.start.host), None)
        if waiting is None or not await self.polite.may(waiting.host, waiting.key):
            return
        kinds = {s.kind for s in secrets.secrets(self.crossing) if s.host == waiting.host}
        if not kinds:
            return
        await self.polite.wait(waiting.host)
        before = survey.before(waiting.id) if waiting.again else None
        got = await self.fetcher.get(waiting.url)
        problem = verdict(got, waiting.host, set(kinds)) if got.status in (401, 403, 407) else ""
        if problem:
            raise FerryError(problem)
        self.queue.remove(waiting)
        await self._keep(waiting, got, before)

    async def _sound(self) -> None:
        """Robots, sitemaps and the answer to a made-up address; what is found goes to the soundings."""
        start = normal(self.plan.old.start)
        assert start is not None
        root = f"{start.scheme}://{start.host}"
        robots = await self.polite.robots(start.host)
        sitemaps: list[str] = []
        faults: list[str] = []
        if self.plan.survey.sitemaps:
            queue = deque(robots.sitemaps or [root + "/sitemap.xml"])
            seen: set[str] = set()
            while queue and len(seen) < SITEMAP_CAP:
                address = self.scope.normal(queue.popleft(), root)
                if (
                    address is None
                    or str(address) in seen
                    or address.host not in self.scope.hosts | self.scope.file_hosts
                ):
                    continue
                seen.add(str(address))
                await self.polite.wait(address.host)
                got = await self.fetcher.get(str(address))
                if got.status != 200 or got.error:
                    if robots.sitemaps:
                        faults.append(f"{address}: {got.error or f'answers {got.status}'}")
                    continue
                sitemap = read_sitemap(got.path.read_bytes() if got.path else got.body)
                if sitemap.fault:
                    faults.append(f"{address}: {sitemap.fault}")
                sitemaps.append(str(address))
                queue.extend(sitemap.sitemaps)
                pages = [a for a in (self.scope.normal(p) for p in sitemap.pages) if a is not None]
                with self.context.writing():
                    self._add([(a, looks_like_file(a.path), 0, "sitemap") for a in pages])
                    self._add([(address, True, 0, "robots" if str(address) in robots.sitemaps else "sitemap")])
                await self._already(str(address), got)
        await self.polite.wait(start.host)
        made_up = await self.fetcher.get(root + "/ferry-made-up-4c1e/nothing-here", whole=60)
        with self.context.writing():
            survey.sound(self.crossing, "sitemaps", sitemaps)
            survey.sound(self.crossing, "sitemap faults", faults)
            survey.sound(
                self.crossing, "robots", {"delay": robots.delay(self.manners.agent), "sitemaps": robots.sitemaps}
            )
            survey.sound(self.crossing, "made-up address", {"status": made_up.status, "error": made_up.error})

    async def _already(self, url: str, got: Fetched) -> None:
        """Take an answer had in the soundings as the address's capture, so that it is not asked for again."""
        waiting = next((w for w in self.queue if w.url == url), None)
        if waiting is not None:
            self.queue.remove(waiting)
            await self._keep(waiting, got, survey.before(waiting.id) if waiting.again else None)
        elif got.path is not None:
            got.path.unlink(missing_ok=True)

    # --- the walk -----------------------------------------------------------------------------------

    async def _walk(self) -> None:
        running: set[asyncio.Task[None]] = set()
        # a few are being read while others are fetched; a slow survey writes each answer down before the next request
        slots = self.manners.at_once + 4 if self.manners.at_once >= 4 else self.manners.at_once
        while True:
            while self.queue and len(running) < slots and self._may_go_on():
                running.add(asyncio.create_task(self._one(self.queue.popleft())))
            if not running:
                if self.pending:
                    self._flush(force=True)
                    continue
                break
            done, running = await asyncio.wait(running, timeout=FLUSH_SECONDS, return_when=asyncio.FIRST_COMPLETED)
            for task in done:
                task.result()
            self._flush(force=not running)
            self.context.progress(
                done=self.counts["fetched"],
                all=len(self.ids),
                waiting=len(self.queue) + len(running),
                failed=self.counts["failed"],
            )
        self.context.progress(force=True, done=self.counts["fetched"], all=len(self.ids), waiting=len(self.queue))

    def _may_go_on(self) -> bool:
        return self.pages < self.plan.survey.max_pages

    async def _one(self, waiting: _Waiting) -> None:
        if not await self.polite.may(waiting.host, waiting.key):
            alone = Fetched(waiting.url, kind="robots", error="Left alone by robots.txt.")
            self.pending.append((waiting, alone, None, None))
            return
        if self.polite.left_alone(waiting.host):
            self.left.append(waiting)
            return
        before = survey.before(waiting.id) if waiting.again else None
        await self._keep(waiting, await self.polite.get(waiting.url, waiting.host, conditions(before)), before)

    async def _keep(self, waiting: _Waiting, got: Fetched, before: survey.Before | None) -> None:
        """Read an answer, and take it in with the next batch."""
        self.counts["fetched"] += 1
        reading: Reading | None = None
        if before is not None and (got.status == 304 or (got.status == before.status and got.digest == before.body)):
            got.status = 304  # whatever the server calls it
            if got.path is not None:
                got.path.unlink(missing_ok=True)
                got.path = None
        elif got.status and not got.error and (got.body or got.path):
            if 300 <= got.status < 400 or got.status in REFUSALS:
                pass  # bodies of redirects and refusals are nobody's content
            elif got.path is not None:
                reading = Reading("file", got.digest)
            else:
                reading = await self._read(got)
        if got.status == 200 and (reading is None or reading.sort == "page"):
            self.pages += 1
        self.pending.append((waiting, got, reading, before))

    async def _read(self, got: Fetched) -> Reading:
        future = self.pool.submit(read_answer, got.url, got.header("content-type"), got.body, self.scope, got.digest)
        try:
            return await asyncio.wait_for(asyncio.wrap_future(future), PAGE_SECONDS)
        except TimeoutError:
            self.pool.renew()
            return self._unread(got, f"Reading the page took more than {PAGE_SECONDS:g} seconds.")
        except asyncio.CancelledError:
            # the pool was renewed because of another page: this one gets its turn again
            current = asyncio.current_task()
            if current is not None and current.cancelling():
                raise
            return await self._again(got)
        except Exception as problem:
            if type(problem).__name__ == "BrokenProcessPool":
                self.pool.renew()
                return await self._again(got)
            return self._unread(got, f"The page cannot be read: {problem}.")

    async def _again(self, got: Fetched) -> Reading:
        """Read one page in a child of its own, after a shared one died."""
        pool = PagePool(1)
        try:
            future = pool.submit(read_answer, got.url, got.header("content-type"), got.body, self.scope, got.digest)
            return await asyncio.wait_for(asyncio.wrap_future(future), PAGE_SECONDS)
        except (Exception, asyncio.CancelledError) as problem:
            return self._unread(got, f"Reading the page ended its process ({type(problem).__name__}).")
        finally:
            pool.close()

    def _unread(self, got: Fetched, fault: str) -> Reading:
        packed, data = bodies.pack(got.body, got.mime)
        return Reading("page", got.digest, packed, data, fault=fault)

    # --- writing ------------------------------------------------------------------------------------

    def _flush(self, force: bool = False) -> None:
        moment = time.monotonic()
        if not self.pending or not (force or len(self.pending) >= FLUSH_ROWS or moment - self.flushed > FLUSH_SECONDS):
            return
        batch, self.pending = self.pending, []
        self.flushed = moment
        keep = [
            (reading.digest, got.size, reading.packed, reading.data)
            for _, got, reading, _ in batch
            if reading is not None and got.path is None and not reading.refusal
        ]
        bodies.put_many(keep)
        for _, got, _, _ in batch:
            if got.path is not None:
                bodies.keep_file(got.path, got.digest, got.size)
        with self.context.writing():
            refs: list[tuple[int, Ref]] = []
            outcomes: list[survey.Outcome] = []
            new: list[tuple[Address, bool, int, str]] = []
            refused: list[tuple[str, str, str, bool, int]] = []
            anew: list[tuple[_Waiting, Reading, survey.Before]] = []
            seen: list[tuple[int, str, list[str]]] = []
            for waiting, got, reading, before in batch:
                if waiting.again and before is not None and (got.status == 304 or not got.status or got.status >= 400):
                    outcome, change = self._still(waiting, got, before)
                    outcomes.append(outcome)
                    seen.append((waiting.id, change, ["answer"] if change else []))
                    continue
                refs.extend(self._record(waiting, got, reading, outcomes, new, refused))
                if before is not None and reading is not None:
                    anew.append((waiting, reading, before))
                elif before is not None:
                    same = (outcomes[-1].status, outcomes[-1].target) == (before.status, before.target)
                    seen.append((waiting.id, "" if same else "changed", [] if same else ["answer"]))
                else:
                    good = self.number > 1 and not got.error and 0 < got.status < 400
                    seen.append((waiting.id, "added" if good else "", []))
            self._add(new)
            for waiting, reading, before in anew:
                what = self._differences(waiting, reading, before)
                seen.append((waiting.id, "changed" if what else "", what))
            gone = [id_ for id_, change, _ in seen if change == "gone"]
            survey.drop_references([*(waiting.id for waiting, _, _ in anew), *gone])
            self.changes.update(change for _, change, _ in seen if change)
            survey.record_seen(self.crossing, self.number, seen)
            survey.store_shut_out(self.crossing, refused, [])
            self.next_capture = survey.record_many(self.crossing, outcomes, self.next_capture)
            survey.count_some(self.host, [outcome.address for outcome in outcomes])
            survey.add_spellings(
                self.crossing, [(self.ids[r.url], r.spelling) for _, r in refs if r.spelling and r.url in self.ids]
            )
            known = [(source, self.ids.get(ref.url), ref) for source, ref in refs]
            survey.add_references(
                self.crossing,
                [(source, target, r.node, r.how, r.raw, r.words) for source, target, r in known if target is not None],
            )

    def _still(self, waiting: _Waiting, got: Fetched, before: survey.Before) -> tuple[survey.Outcome, str]:
        """What becomes of an address whose captured content stays the latest: it is as it was, it is gone, or it gave
        no answer this time."""
        if got.status == 304:
            back = "back" if before.answered != before.status else ""
            return survey.Outcome(waiting.id, status=before.status, keep=True), back
        if got.status in (404, 410) and before.answered not in (404, 410):
            return survey.Outcome(
                waiting.id, status=got.status, reason=f"gone: answers {got.status}", keep=True
            ), "gone"
        if got.status in (404, 410):
            return survey.Outcome(waiting.id, status=got.status, keep=True), ""
        self.counts["failed"] += 1
        reason = got.error or f"answers {got.status}"
        return survey.Outcome(waiting.id, reason=f"not answered in the last survey: {reason}", keep=True), "no answer"

    def _differences(self, waiting: _Waiting, reading: Reading, before: survey.Before) -> list[str]:
        """What is different in a page or file that was read anew."""
        found = []
        if reading.facts is not None:
            if reading.facts.text != before.text:
                found.append("text")
            if reading.facts.title != before.title:
                found.append("title")
            targets = {self.ids[ref.url]: ref.wants_file for ref in reading.refs if ref.url in self.ids}
            moved = before.targets ^ targets.keys()
            if any(not targets.get(id_, False) for id_ in moved):
                found.append("links")
            if any(targets.get(id_, False) for id_ in moved):
                found.append("files")
        return found or ["markup" if reading.sort == "page" else "content"]

    def _record(
        self,
        waiting: _Waiting,
        got: Fetched,
        reading: Reading | None,
        outcomes: list[survey.Outcome],
        new: list[tuple[Address, bool, int, str]],
        refused: list[tuple[str, str, str, bool, int]],
    ) -> list[tuple[int, Ref]]:
        """Add one answer's outcome and the addresses it leads to; gives its references."""
        location = got.header("location") if 300 <= got.status < 400 else ""
        result = survey.Outcome(waiting.id)
        if got.kind == "robots":
            result.state, result.reason = "shut out", got.error
            refused.append((waiting.url, waiting.host, "robots.txt", waiting.wants_file, waiting.depth))
        elif got.error:
            result.state, result.reason, result.status = "failed", got.error, got.status
            self.counts["failed"] += 1
        else:
            result.state, result.status, result.mime, result.bytes = "done", got.status, got.mime, got.size
            if location:
                result.sort = "redirect"
                target = self.scope.normal(location, waiting.url)
                result.target = str(target) if target else location
                if target is not None:
                    new.append((target, waiting.wants_file, waiting.depth, "redirect"))
                    if is_sign_in(target.key) and not is_sign_in(waiting.key):
                        result.sort, result.reason = "refused", SIGN_IN
            elif got.status in REFUSALS:
                result.sort, result.reason = "refused", f"answers {got.status}"
            elif reading is not None and reading.refusal:
                result.sort, result.reason = "refused", reading.refusal
            elif got.status == 200 and not got.size and got.mime.startswith("text/html"):
                result.sort, result.reason = "refused", EMPTY
            else:
                result.sort = reading.sort if reading else "page" if got.mime.startswith("text/html") else "file"
        if got.status:
            kept = reading is not None and not reading.refusal
            headers = {name: KEPT_BACK if name == "set-cookie" else value for name, value in got.headers.items()}
            result.capture = survey.Answer(
                now(),
                got.status,
                json.dumps(headers, ensure_ascii=False),
                got.digest if kept else "",
                got.size,
                got.seconds,
                reading.encoding if reading else "",
                reading.doubtful if reading else "",
            )
        refs: list[tuple[int, Ref]] = []
        if reading is not None and not reading.refusal:
            if reading.fault:
                result.reason = reading.fault
            if reading.facts is not None:
                result.title, result.words = reading.facts.title, reading.facts.words
                findings = reading.facts.findings()
                if reading.doubtful:
                    findings.append(f"encoding doubtful: {reading.doubtful}")
                result.facts = (json.dumps(reading.facts.as_json(), ensure_ascii=False), json.dumps(findings))
            # links of an error page say nothing about the site
            if got.status == 200:
                for ref in reading.refs:
                    step = 0 if ref.wants_file else 1
                    new.append((ref.address, ref.wants_file, waiting.depth + step, "link"))
                refs = [(waiting.id, ref) for ref in reading.refs]
                if reading.sort == "file" and got.path is None and "xml" in got.mime:
                    entries = [a for a in (self.scope.normal(u, waiting.url) for u in read_feed(got.body)) if a]
                    new.extend((a, looks_like_file(a.path), waiting.depth + 1, "feed") for a in entries)
        outcomes.append(result)
        return refs


def run(context: Context) -> dict[str, Any]:
    """The survey job. Raises FerryError when the start address gives no page."""
    summary = asyncio.run(Survey(context).run())
    start = survey.address_by_url(context.crossing, str(scope_of(context.plan).normal(context.plan.old.start)))
    if start is not None and start.state == "failed":
        raise AddressError(f"The start address {start.url} gives no answer. {start.reason}")
    return summary


def conditions(before: survey.Before | None) -> dict[str, str] | None:
    """Request headers by which a server may say that nothing changed (RFC 9110 section 13.1)."""
    if before is None:
        return None
    made = {"If-None-Match": before.etag, "If-Modified-Since": before.modified}
    return {name: value for name, value in made.items() if value} or None


__all__ = ["Survey", "run"]
