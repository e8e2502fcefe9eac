"""Answers of a survey taken in: what became of each address, what it leads to, what differs from an earlier survey."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

from grandferry.core.address import loose_shape
from grandferry.core.filetypes import looks_like_file
from grandferry.core.keptout import KeptOut
from grandferry.core.survey.fingerprint import apart
from grandferry.core.survey.refusals import EMPTY, SIGN_IN, is_sign_in
from grandferry.net.fetch import Fetched
from grandferry.net.manners import REFUSALS
from grandferry.ports.sources.sitemap import read_feed
from grandferry.store import bodies, jobs
from grandferry.store.db import as_json, now
from grandferry.store.survey import met, runs, taken
from grandferry.store.survey.met import Waiting
from grandferry.store.survey.taken import NewReference
from grandferry.work.jobs.context import Context
from grandferry.work.survey import endless
from grandferry.work.survey.frontier import Frontier, Met
from grandferry.work.survey.reading import Reading, Ref
from grandferry.work.survey.spool import without_keys

ERROR_PAGE = "error page that answers 200"
SHOW_LINKS_EVERY = 5.0  # seconds
ERROR_BITS = 2  # in which it may differ from the one that a made-up address gets


@dataclass(frozen=True, slots=True)
class Answered:
    """An address, its answer, what was read from it, what an earlier survey had there, and where the answer is
    spooled."""

    waiting: Waiting
    got: Fetched
    reading: Reading | None
    before: runs.Before | None
    spooled: int = 0

    @property
    def still(self) -> bool:
        """Whether the content captured earlier stays the latest: it is as it was, or nothing better came."""
        if self.before is None or not self.waiting.again:
            return False
        refused = self.reading is not None and bool(self.reading.refusal)
        return refused or self.got.status == 304 or not self.got.status or self.got.status >= 400


@dataclass(slots=True)
class _Batch:
    """What a batch of answers adds up to, written in one transaction."""

    at: str
    outcomes: list[taken.Outcome] = field(default_factory=list)
    met: list[Met] = field(default_factory=list)
    refused: list[Waiting] = field(default_factory=list)
    refs: list[tuple[int, list[Ref]]] = field(default_factory=list)
    anew: list[tuple[Waiting, Reading, runs.Before]] = field(default_factory=list)
    seen: list[runs.Changed] = field(default_factory=list)


class Taker:
    """Writes answers down and enters what they lead to."""

    def __init__(self, context: Context, frontier: Frontier, host: str):
        self.context = context
        self.frontier = frontier
        self.scope = frontier.scope
        self.host = host
        self.failed = 0
        self.error_page = ("", "")  # fingerprint and text hash of the error page that answers 200, when there is one
        self._next_capture = taken.next_capture_id()
        self._in_links: dict[int, int] = {}  # links to addresses that are not yet counted on them
        self._links_shown = time.monotonic()

    def take(self, answers: list[Answered]) -> None:
        """Take a batch of answers in: bodies first, then everything else in one transaction."""
        for one in answers:
            if one.reading is not None and self.is_error_page(one):
                one.reading.refusal = ERROR_PAGE
        self._keep_bodies(answers)
        frontier = self.frontier
        with self.context.writing():
            batch = _Batch(now())
            for one in answers:
                self._note(one, batch)
            frontier.add(batch.met)
            for waiting, reading, before in batch.anew:
                what = self._differences(reading, before)
                batch.seen.append(runs.Changed(waiting.id, "changed", what))
            other = [id_ for id_, change, _ in batch.seen if change in ("gone", "added")]
            taken.drop_references([*(waiting.id for waiting, _, _ in batch.anew), *other])
            runs.record_changes(frontier.side, frontier.run, [row for row in batch.seen if row.change])
            for waiting in batch.refused:
                frontier.keep_out(waiting, KeptOut.ROBOTS)
            self._next_capture = taken.record_many(
                frontier.side, frontier.run, self.host, batch.outcomes, self._next_capture
            )
            self._refer(batch.refs)

    def _refer(self, refs: list[tuple[int, list[Ref]]]) -> None:
        """Write the references of pages down: inner ones, those to what is kept out, and how they were spelt."""
        crossing, ids, shut = self.context.crossing, self.frontier.ids, self.frontier.shut
        inner: list[NewReference] = []
        outer: list[NewReference] = []
        spelt: list[tuple[int, str]] = []
        counted = self._in_links
        for source, some in refs:
            for url, _, how, raw, words, spelling in some:
                target = ids.get(url)
                if target is not None:
                    inner.append((crossing, source, target, how, raw, words))
                    if target != source:
                        counted[target] = counted.get(target, 0) + 1
                    if spelling:
                        spelt.append((target, spelling))
                elif url in shut:
                    outer.append((crossing, source, shut[url].id, how, raw, words))
        met.add_spellings(crossing, spelt)
        taken.add_references(inner)
        if time.monotonic() - self._links_shown > SHOW_LINKS_EVERY:
            taken.add_in_links(counted)
            counted.clear()
            self._links_shown = time.monotonic()
        taken.add_out_references(outer)

    def _keep_bodies(self, answers: list[Answered]) -> None:
        bodies.put_many(
            [
                (one.reading.digest, one.got.size, one.reading.packed, one.reading.data)
                for one in answers
                if one.reading is not None and one.got.path is None and not one.reading.refusal
            ]
            + [one.reading.rendered for one in answers if one.reading is not None and one.reading.rendered is not None]
        )
        for one in answers:
            if one.got.path is not None:
                bodies.keep_file(one.got.path, one.got.digest, one.got.size)

    def _note(self, one: Answered, batch: _Batch) -> None:
        waiting, got, reading, before = one.waiting, one.got, one.reading, one.before
        if one.still and before is not None:
            outcome, change = self._still(one, before)
            batch.outcomes.append(outcome)
            batch.seen.append(runs.Changed(waiting.id, change, ["answer"] if change else []))
            return
        outcome = self._record(waiting, got, reading, batch)
        batch.outcomes.append(outcome)
        if before is not None and before.status >= 400 and 0 < outcome.status < 400 and not got.error:
            batch.seen.append(runs.Changed(waiting.id, "added", []))  # a dead link that leads somewhere now
        elif before is not None and reading is not None:
            batch.anew.append((waiting, reading, before))
        elif before is not None:
            same = (outcome.status, outcome.target) == (before.status, before.target)
            batch.seen.append(runs.Changed(waiting.id, "" if same else "changed", [] if same else ["answer"]))
        else:
            good = self.frontier.run > 1 and not got.error and 0 < got.status < 400
            batch.seen.append(runs.Changed(waiting.id, "added" if good else "", []))

    def is_error_page(self, one: Answered) -> bool:
        """Whether an answer of 200 is what a made-up address gets."""
        near, words = self.error_page
        facts = one.reading.facts if one.reading is not None else None
        if facts is None or one.got.status != 200 or one.waiting.key == "/" or not words:
            return False
        return facts.words_hash == words or bool(near and facts.near and apart(facts.near, near) <= ERROR_BITS)

    def _still(self, one: Answered, before: runs.Before) -> tuple[taken.Outcome, str]:
        """What becomes of an address whose captured content stays the latest, and the change that is told of it."""
        id_, got = one.waiting.id, one.got
        if got.status == 304:
            back = "back" if before.answered != before.status else ""
            return taken.Outcome(id_, status=before.status, keep=True), back
        if got.status in (404, 410):
            if before.answered in (404, 410):
                return taken.Outcome(id_, status=got.status, keep=True), ""
            reason = f"gone: answers {got.status}"
            return taken.Outcome(id_, status=got.status, reason=reason, keep=True), "gone"
        refused = one.reading.refusal if one.reading is not None else ""
        if got.status and got.status == before.answered and (got.status >= 400 or not before.body):
            said = f"answers {got.status}" if got.status in REFUSALS else refused  # as before
            return taken.Outcome(id_, status=got.status, reason=said, keep=True), ""
        self.failed += 1
        reason = f"not answered in the last survey: {got.error or refused or f'answers {got.status}'}"
        return taken.Outcome(id_, reason=reason, keep=True), "no answer"

    def _differences(self, reading: Reading, before: runs.Before) -> list[str]:
        """What is different in a page or file that was read anew."""
        found = []
        if reading.facts is not None:
            if before.words_hash and reading.facts.words_hash != before.words_hash:
                found.append("text")
            if reading.facts.title != before.title:
                found.append("title")
            ids = self.frontier.ids
            targets = {ids[url]: wants_file for url, wants_file, *_ in reading.refs if url in ids}
            moved = before.targets ^ targets.keys()
            if any(not targets.get(id_, False) for id_ in moved):
                found.append("links")
            if any(targets.get(id_, False) for id_ in moved):
                found.append("files")
        return found or ["markup" if reading.type == "page" else "content"]

    def _record(self, waiting: Waiting, got: Fetched, reading: Reading | None, batch: _Batch) -> taken.Outcome:
        """What became of one fetch; the addresses it leads to and its references go to the batch."""
        location = got.header("location") if 300 <= got.status < 400 else ""
        result = taken.Outcome(waiting.id)
        # an error page in the place of a picture or a document is no page of the site
        in_its_place = got.status >= 400 and (waiting.wants_file or looks_like_file(waiting.key))
        if got.kind == "robots":
            result.state, result.reason = "shut out", got.error
            batch.refused.append(waiting)
        elif got.error:
            result.state, result.reason, result.status = "failed", got.error, got.status
            self.failed += 1
        else:
            result.state, result.status, result.mime, result.bytes = "done", got.status, got.mime, got.size
            if location:
                result.type = "redirect"
                target = self.scope.normal(location, waiting.url)
                result.target = str(target) if target else location
                if target is not None:
                    batch.met.append((str(target), waiting.wants_file, waiting.depth, "redirect"))
                    if is_sign_in(target.key) and not is_sign_in(waiting.key):
                        result.type, result.reason = "refused", SIGN_IN
            elif got.status in REFUSALS:
                result.type, result.reason = "refused", f"answers {got.status}"
            elif reading is not None and reading.refusal:
                result.type, result.reason = "refused", reading.refusal
            elif got.status == 200 and not got.size and got.mime.startswith("text/html"):
                result.type, result.reason = "refused", EMPTY
            elif in_its_place:
                result.type = "file"
            else:
                result.type = reading.type if reading else "page" if got.mime.startswith("text/html") else "file"
        if got.status:
            kept = reading is not None and not reading.refusal
            result.capture = taken.NewCapture(
                batch.at,
                got.status,
                as_json(without_keys(got.headers)),
                reading.digest if kept and reading is not None else "",
                got.size,
                got.seconds,
                reading.encoding if reading else "",
                reading.doubtful if reading else "",
                reading.rendered[0] if reading is not None and reading.rendered is not None else "",
            )
        if reading is not None and not reading.refusal:
            if reading.fault:
                result.reason = reading.fault
            if reading.facts is not None and not in_its_place:
                result.title, result.words = reading.facts.title, reading.facts.words
                result.facts = reading.said
            # links of an error page say nothing about the site
            if got.status == 200:
                if reading.facts is not None:
                    self._watch(waiting, reading)
                depth = waiting.depth
                batch.met += [(ref[0], ref[1], depth if ref[1] else depth + 1, "link") for ref in reading.refs]
                batch.refs.append((waiting.id, reading.refs))
                if reading.type == "file" and got.path is None and "xml" in got.mime:
                    entries = [a for a in (self.scope.normal(u, waiting.url) for u in read_feed(got.body)) if a]
                    batch.met.extend((str(a), looks_like_file(a.path), waiting.depth + 1, "feed") for a in entries)
        return result

    def _watch(self, waiting: Waiting, reading: Reading) -> None:
        """Whether a page is one of those that a script makes without end."""
        frontier = self.frontier
        new = [ref for ref in reading.refs if ref[0] not in frontier.ids and ref[0] not in frontier.shut]
        if not new:
            return
        site = waiting.url.removesuffix(waiting.key) + "/"
        leads_to = [ref[0][len(site) - 1 :] if not ref[1] and ref[0].startswith(site) else "" for ref in new]
        body, encoding = (reading.rendered[0], "utf-8") if reading.rendered else (reading.digest, reading.encoding)
        if not frontier.endless.saw(waiting.key, body, encoding, leads_to):
            return
        shape = loose_shape(waiting.key)
        number = frontier.cap(shape)
        jobs.add_event(
            self.context.crossing,
            self.context.number,
            "warning",
            f"Addresses like {shape} seem to be without end: {endless.DRY} pages in a row held no text of their own "
            f"and led to nothing else. They are left out ({number:,} known) until you decide.",
        )


def conditions(before: runs.Before | None) -> dict[str, str] | None:
    """Request headers by which a server may say that nothing changed (RFC 9110 section 13.1)."""
    if before is None or not before.body:  # of what was no content, all is read again
        return None
    made = {"If-None-Match": before.etag, "If-Modified-Since": before.modified}
    return {name: value for name, value in made.items() if value} or None
