"""A round as a job: ask the host for every old address, follow every hop, judge; fates follow."""

from __future__ import annotations

import asyncio
import json
from collections.abc import Iterable, Sequence
from itertools import takewhile
from typing import Any

from grandferry.core.address import normal
from grandferry.core.because import sentence
from grandferry.core.errors import FerryError
from grandferry.core.route.fate import Decision
from grandferry.core.route.judge import Known, Trail, judge
from grandferry.core.route.redirects import Redirect
from grandferry.net.check import Elsewhere, error_page, follow
from grandferry.net.fetch import Fetcher
from grandferry.store import crossings, rounds, route, stamps
from grandferry.store.rounds import Judged, ToCheck
from grandferry.work.jobs.context import Context, access_of
from grandferry.work.rounds.stamping import check_stamp
from grandferry.work.route.contents import old_says
from grandferry.work.route.evidence import good

AT_ONCE = 8
BATCH = 50
SILENT = 8  # addresses in a row that have no answer at all: the host is taken to be gone
TOLD = 50  # open addresses in the result
OTHERS_DELAY = 0.5  # seconds between two questions to a host that is not ours, at the least


def base_of(context: Context) -> str:
    """Where checks go: what the job names, else the plan's interim host. Raises FerryError when there is none."""
    base = context.params.get("against") or context.plan.interim
    if not base:
        raise FerryError("There is no host to check against.", "Name the interim host in the plan.")
    return str(base).rstrip("/")


def run(context: Context) -> dict[str, Any]:
    """Check all counted addresses. The result has the counts by verdict and the account after it."""
    return asyncio.run(_run(context))


async def _run(context: Context) -> dict[str, Any]:
    base = base_of(context)
    counts = base == (context.plan.interim or base).rstrip("/")  # what another host answers proves nothing here
    with context.writing():
        round_ = rounds.open_round(context.crossing, base)
    done_before = rounds.judged_in(round_)
    if context.params.get("failed") and not done_before:
        done_before = _proven_before(context, round_, base)
    rows = [row for row in rounds.to_check(context.crossing) if row.address not in done_before]
    total = len(rows)
    home = normal(base)
    if home is None:
        raise FerryError(f"“{base}” is not an address that can be checked against.")
    async with Fetcher(
        agent=context.plan.manners.agent,
        hosts=frozenset([home.host, *_other_hosts(row.decision.target for row in rows)]),
        at_once=AT_ONCE,
        hold=False,
        secrets=access_of(context.crossing),
    ) as fetcher:
        elsewhere = Elsewhere(fetcher, max(OTHERS_DELAY, context.plan.manners.delay))
        probe = await fetcher.get(base + "/")
        if probe.error and not probe.status:
            raise FerryError(f"The host {base} gives no answer. {probe.error}", "Is it up?")
        if probe.status in (401, 407):
            raise FerryError(
                f"The host {base} wants a name and a password, so every old address would seem to be missing.",
                "Give them under Scope & manners of the new site (access).",
            )
        error = await error_page(fetcher, base)
        if error is not None:
            context.log(f"{base} answers a made-up address with 200; that page is known from now on.", "warning")
        context.progress(force=True, done=0, all=total)
        old, common = old_says(context.crossing, context.heed)
        for start in range(0, total, BATCH):
            batch = rows[start : start + BATCH]
            found = await asyncio.gather(
                *(_one(fetcher, base, row, Known(common, old.get(row.address), error), elsewhere) for row in batch)
            )
            answered = _until_silence(found)
            with context.writing():
                rounds.store_verdicts(round_, answered, counts)
            if silent := len(found) - len(answered):
                raise FerryError(
                    f"The host {base} gives no answer any more: {silent} addresses in a row had none.",
                    f"The {start + len(answered):,} judged before are kept; the next check goes on with the rest.",
                )
            context.progress(done=min(start + BATCH, total), all=total)
    with context.writing():
        by_verdict = rounds.close_round(context.crossing, round_)
        if counts:
            stamps.put(context.crossing, "check", check_stamp(context.crossing, base))
    context.progress(force=True, done=total, all=total)
    return {
        "round": round_,
        "base": base,
        "asked": total,
        "counts": by_verdict,
        "account": crossings.account_of(context.crossing),
        "open": [{**row._asdict(), "why": sentence(row.why)} for row in route.open_addresses(context.crossing, TOLD)],
    }


def _until_silence(found: Sequence[Judged]) -> list[Judged]:
    """What was found before a host went: many addresses at the end that had no answer at all are nothing that is known
    of them."""
    silent = [
        one.address
        for one in takewhile(lambda one: one.verdict in ("failed", "left out"), reversed(found))
        if one.verdict == "failed" and one.hops == "[]"
    ]
    return [one for one in found if one.address not in silent] if len(silent) >= SILENT else list(found)


def _proven_before(context: Context, round_: int, base: str) -> set[int]:
    """What the latest round on this host proved of decisions as they are now; it is taken over and not asked again.
    Raises FerryError when that is all."""
    before = rounds.latest_round(context.crossing, base)
    if not before:
        context.log(f"There is no round on {base} yet: every address is asked.", "warning")
        return set()
    now = {row.address: row.decision.signature for row in rounds.to_check(context.crossing)}
    accepted = context.plan.route.accepting()
    proven = {
        row.address
        for row in rounds.verdicts_of(before)
        if now.get(row.address) == row.judged and good(row.judged, row.verdict, accepted(row.key))
    }
    if len(proven) == len(now):
        with context.writing():
            rounds.drop(round_)
        raise FerryError(f"Nothing failed in the latest round on {base}: there is nothing to ask again.")
    with context.writing():
        rounds.take_over(round_, before, sorted(proven))
    return proven


def _other_hosts(targets: Iterable[str]) -> set[str]:
    """The hosts that decisions lead to beside the checked one: a person has named them."""
    places = (normal(target) for target in targets if "://" in target)
    return {place.host for place in places if place is not None}


async def _one(fetcher: Fetcher, base: str, row: ToCheck, known: Known, elsewhere: Elsewhere) -> Judged:
    address, key, decision = row
    if decision.fate == "set aside":
        return Judged(address, "left out", decision.signature, 0, "[]", "")
    trail = await follow(fetcher, base, key, elsewhere)
    verdict, like = judge(key, decision, trail, base, known)
    seen = "" if like is None else "\t".join((like.seen, str(like.percent), "1" if like.title else ""))
    return Judged(address, verdict, decision.signature, trail.status, hops_json(trail), final_of(trail, key), seen)


def hops_json(trail: Trail) -> str:
    return json.dumps([[hop.status, hop.location] for hop in trail.hops])


def final_of(trail: Trail, key: str) -> str:
    """The last address that was asked."""
    places = [hop.location for hop in trail.hops if hop.location]
    return places[-1] if places else key


async def check_lines(lines: list[Redirect], base: str, agent: str) -> list[dict[str, Any]]:
    """Check lines of a redirect map against a host, without a crossing. Patterns name no address to ask for."""
    home = normal(base)
    if home is None:
        raise FerryError(
            f"“{base}” is not an address that can be checked against.", "Give one such as http://host:port."
        )
    root = f"{home.scheme}://{home.host}"
    hosts = frozenset([home.host, *_other_hosts(line.new for line in lines)])
    async with Fetcher(agent=agent, hosts=hosts, at_once=AT_ONCE, hold=False) as fetcher:
        elsewhere = Elsewhere(fetcher, OTHERS_DELAY)
        probe = await fetcher.get(root + "/")
        if probe.error and not probe.status:
            raise FerryError(f"The host {root} gives no answer. {probe.error}", "Is it up?")
        known = Known(error=await error_page(fetcher, root))
        gate = asyncio.Semaphore(AT_ONCE)

        async def one(line: Redirect) -> dict[str, Any]:
            expected = "" if line.status == 410 else line.new
            if line.match == "pattern":
                return {
                    "old": line.old,
                    "expected": expected,
                    "status": 0,
                    "hops": [],
                    "final": "",
                    "verdict": "not asked",
                }
            async with gate:
                trail = await follow(fetcher, root, line.old, elsewhere)
            stays = line.old == line.new
            fate = "retired" if line.status == 410 else "stays" if stays else "moved"
            decision = Decision(fate, line.new, status=line.status)
            verdict = judge(line.old, decision, trail, root, known).verdict
            return {
                "old": line.old,
                "expected": expected,
                "status": trail.hops[0].status if trail.hops else 0,
                "hops": [[h.status, h.location] for h in trail.hops],
                "final": final_of(trail, line.old),
                "verdict": verdict,
            }

        return list(await asyncio.gather(*(one(line) for line in lines)))
