"""Bounds weighed before they are set, and what they keep out let in."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, field

from grandferry.core.address import loose_shape, split_href, under, www
from grandferry.core.errors import FerryError
from grandferry.core.keptout import KeptOut, LetIn, one_by_one, ways
from grandferry.core.patterns import compile_pattern, escape
from grandferry.core.plan import EndlessSpace, NewSite, Plan
from grandferry.core.side import Side
from grandferry.core.survey.scope import scope_of
from grandferry.store import changes, crossings, jobs
from grandferry.store.survey import captures, keptout

EXAMPLES = 5
ADMITTED = 5000  # single addresses that a plan can name


@dataclass(slots=True)
class Effect:
    """What other bounds would do to what is known: addresses shut out and let in by reason, with examples. ``captured``
    of those shut out have been fetched and keep their content."""

    shut_out: Counter[str] = field(default_factory=Counter)
    let_in: Counter[str] = field(default_factory=Counter)
    captured: int = 0
    shut_out_examples: list[str] = field(default_factory=list)
    let_in_examples: list[str] = field(default_factory=list)


def effect(side: Side, plan: Plan) -> Effect:
    """Weigh a plan's bounds against everything that is known of the side."""
    scope = scope_of(plan.side(side.name))
    found = letting_in(side, plan)
    for url, wants_file, depth, state in keptout.asked(side):
        address = split_href(url)
        if address is None:
            continue
        reason = scope.shut_out(address, is_file=wants_file, depth=depth)
        if reason:
            found.shut_out[reason] += 1
            found.captured += state == "done"
            if len(found.shut_out_examples) < EXAMPLES:
                found.shut_out_examples.append(url)
    return found


def letting_in(side: Side, plan: Plan) -> Effect:
    """What of the addresses kept out so far a plan's bounds would let in; nothing is told of all others, which are
    many."""
    here = plan.side(side.name)
    scope = scope_of(here)
    real = {space.shape for space in here.survey.endless if space.take}
    found = Effect()
    for url, reason, wants_file, depth in keptout.all_of(side):
        address = split_href(url)
        if address is None or (reason == KeptOut.ROBOTS and here.manners.robots == "obey"):
            continue
        if reason == KeptOut.ENDLESS and loose_shape(address.key) not in real:
            continue
        if not scope.shut_out(address, is_file=wants_file, depth=depth):
            found.let_in[reason] += 1
            if len(found.let_in_examples) < EXAMPLES:
                found.let_in_examples.append(url)
    return found


@dataclass(slots=True)
class Lines:
    """How many known addresses each line of the bounds speaks of: hosts, folders to stay below, patterns to take and to
    leave out, and how often each parameter that makes no difference was met."""

    hosts: dict[str, int] = field(default_factory=dict)
    below: dict[str, int] = field(default_factory=dict)
    include: dict[str, int] = field(default_factory=dict)
    exclude: dict[str, int] = field(default_factory=dict)
    drop: dict[str, int] = field(default_factory=dict)


def lines(side: Side, plan: Plan) -> Lines:
    """Count what each line of a plan's bounds matches of all that is known, fetched or kept out."""
    keys, hosts = [], Counter[str]()
    for url in keptout.known(side):
        address = split_href(url)
        if address is not None:
            hosts[address.host] += 1
            keys.append(address.key)
    here = plan.side(side.name)
    bounds, site = here.survey, here.site
    named = {*site.hosts, *site.file_hosts, *site.aliases}
    wanted = {name.lower(): 0 for name in bounds.drop_parameters}
    for spelling in keptout.spellings(side):
        address = split_href(spelling)
        if address is not None:  # another name of the host stands in spellings alone
            hosts[address.host if address.host in named else www(address.host)] += 1
        for part in spelling.partition("?")[2].split("&"):
            name = part.partition("=")[0].lower()
            if name in wanted:
                wanted[name] += 1

    def matched(patterns: list[str]) -> dict[str, int]:
        return {text: sum(compile_pattern(text).search(key) is not None for key in keys) for text in patterns}

    return Lines(
        hosts={name: hosts[name.lower()] for name in named},
        below={text: sum(under(key.partition("?")[0], text) for key in keys) for text in bounds.below},
        include=matched(bounds.include),
        exclude=matched(bounds.exclude),
        drop={name: wanted[name.lower()] for name in bounds.drop_parameters},
    )


def to_change(side: Side) -> Plan:
    """The plan, in which the side has bounds of its own to be changed."""
    plan = crossings.load_plan(side.crossing).model_copy(deep=True)
    if side.name == "new" and plan.new is None:
        plan.new = NewSite()
    return plan


def let_in(side: Side, host: str, reason: KeptOut, way: LetIn, ids: list[int], by: str) -> str:
    """Change the plan so that addresses kept out may be fetched; gives what was done in words. Raises FerryError when
    that way is not open for the reason."""
    plan = to_change(side)
    here = plan.side(side.name)
    site, bounds = here.site, here.survey
    found = keptout.urls(side, host, reason, ids)
    if not found:
        raise FerryError("Nothing is kept out there any more.", "Look at the list again.")
    if reason == KeptOut.ROBOTS:
        raise FerryError(
            "robots.txt keeps these addresses out.", "Say in manners that you act for the owner; then they are fetched."
        )
    if way not in ways(reason) and not (way is LetIn.THESE and one_by_one(reason)):
        raise FerryError(f"These addresses are kept out because of “{reason}”; they cannot be let in as {way}.")
    if way is LetIn.FILES:
        site.file_hosts.append(host)
        text = f"files of {host} let in"
    elif way is LetIn.PAGES:
        site.hosts.append(host)
        site.file_hosts = [name for name in site.file_hosts if name != host]
        text = f"pages of {host} let in"
    elif way is LetIn.ALIAS:
        site.aliases.append(host)
        text = f"{host} counted as another name of the site"
    elif way is LetIn.ENDLESS:
        shapes = sorted({loose_shape(address.key) for address in map(split_href, found) if address is not None})
        bounds.endless = [space for space in bounds.endless if space.shape not in shapes]
        bounds.endless += [EndlessSpace(shape=shape, take=True) for shape in shapes]
        text = f"fetch all addresses like {', '.join(shapes)}"
    else:
        if len(bounds.admit) + len(found) > ADMITTED:
            raise FerryError(
                f"These are {len(found):,} addresses; a plan names {ADMITTED:,} single ones at the most.",
                "Widen the bounds instead.",
            )
        bounds.admit += found
        text = f"{len(found):,} {'address' if len(found) == 1 else 'addresses'} let in one by one"
    changes.change_plan(side.crossing, plan, changes.revision(side.crossing), by, text)
    return text


def capture_through_browser(crossing: int, address: int, by: str) -> int:
    """Have one page captured through a browser, now and in every survey to come; gives the job. Raises FerryError."""
    found = captures.latest(crossing, address)
    if found is None:
        raise FerryError(f"Nothing is captured of address {address} in this crossing.", "Survey it first.")
    side = Side(crossing, found.side)
    plan = to_change(side)
    bounds = plan.side(side.name).survey
    exact = f"^{escape(found.key)}$"
    if exact not in bounds.browser:
        bounds.browser.append(exact)
        text = f"capture {found.key} through a browser"
        changes.change_plan(crossing, plan, changes.revision(crossing), by, text)
    return jobs.ask_job("survey", crossing, {"only": address, "side": side.name})
