"""Whether a crossing's rules are sound, each fault with its sentence."""

from __future__ import annotations

from typing import NamedTuple

from grandferry.core.route.redirects import Redirect
from grandferry.core.route.sound import Fault, Unsound, unsound
from grandferry.store import carried, crossings, route
from grandferry.work.route.run import redirect_map


class Said(NamedTuple):
    """A fault and what is said of it."""

    fault: Unsound
    text: str


def soundness(crossing: int) -> list[Said]:
    """The faults of the rules of a crossing, in their order, then those of the whole."""
    rules = crossings.load_plan(crossing).route.lines
    decisions = route.decisions(crossing)
    places = {place.path for place in route.new_shore(crossing)}
    if places:
        places |= {file[2] for file in carried.settled(crossing).values()}
        places |= {decision.target for decision in decisions.values() if decision.fate == "stays"}
    found = unsound(rules, redirect_map(crossing), decisions, places, route.proven(crossing))
    return [Said(one, _text(one, rules)) for one in found]


def _text(one: Unsound, rules: list[Redirect]) -> str:
    number = one.other + 1
    rival = f"rule {number} answers" if one.other >= 0 else "single lines answer"
    several = f"{one.count:,} address{'es' * (one.count != 1)}"
    return {
        Fault.TWICE: f"It says the same as rule {number}.",
        Fault.CONFLICT: f"Rule {number} is of the same addresses and says otherwise; that one counts.",
        Fault.NEVER: f"It is never reached: it fits {several}, and {rival} first.",
        Fault.NOTHING: "It fits no known old address.",
        Fault.LOOP: f"It leads {several} in a circle.",
        Fault.CHAIN: f"Where it leads {several}, another line redirects again, to {one.to}.",
        Fault.HIDES: f"It answers for {several} that should stay as they are.",
        Fault.NO_TARGET: f"It leads {several} to what is nothing known of the new site.",
        Fault.HOME: f"{several} end on the home page, which tells a visitor as little as an error page.",
    }[one.fault]
