"""Fitness: what will go over by itself, what in part, what by hand, and what never, with the pages each stands on."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from grandferry.core.side import Side
from grandferry.core.survey.facts import Facts
from grandferry.store.survey.captures import pages_said

SHOWN = 200  # pages listed of a matter; all are counted
Row = dict[str, Any]


@dataclass(frozen=True, slots=True)
class Matter:
    """``verdict``: by itself, in part, by hand or never. ``holds`` tells a page of it by its facts, ``counts`` how
    many."""

    name: str
    verdict: str
    says: str
    counts: Callable[[Row], int]
    one_by_one: bool = False  # a person decides about each of them


MATTERS = (
    Matter(
        "text and headings",
        "by itself",
        "Lifted and refitted as blocks; every word is accounted for.",
        lambda f: f["words"] > 0,
    ),
    Matter("pictures", "by itself", "Carried as files; alt texts and captions go with them.", lambda f: f["pictures"]),
    Matter(
        "pictures without alt text",
        "in part",
        "Carried, but somebody has to write their alt texts.",
        lambda f: f["pictures_without_alt"],
    ),
    Matter(
        "structured data (JSON-LD)",
        "in part",
        "Read as a source of fields; the new system writes its own.",
        lambda f: len(f.get("structured", [])),
    ),
    Matter(
        "embeds (maps, films, frames)",
        "in part",
        "The frame and its address go over as an embed block; whether the provider plays on the new host has to be "
        "tried.",
        lambda f: f["embeds"],
    ),
    Matter(
        "content built by scripts",
        "in part",
        "Captured through a real browser; without that the page is empty.",
        lambda f: (
            f["rendered"] or Facts(words=f["words"], scripts=f["scripts"], bare=f.get("bare", False)).built_by_scripts
        ),
    ),
    Matter(
        "comments of visitors",
        "by hand",
        "Kept with the captured page; whether they go over, and where to, has to be decided.",
        lambda f: f.get("comments", 0),
    ),
    Matter(
        "forms",
        "by hand",
        "A placeholder with the list of its fields goes over; where it posts has to be wired up on the new side.",
        lambda f: f["forms"],
    ),
    Matter(
        "keys in the page's code",
        "by hand",
        "Masked in all that goes over, but where a visitor reads them; change them, and give the new side its own. One "
        "that may be seen, as that of a map, can be let over as it is.",
        lambda f: len(f.get("secrets", [])),
        one_by_one=True,
    ),
    Matter(
        "pages that only lead on (meta refresh)",
        "by itself",
        "Become permanent redirects.",
        lambda f: bool(f["refresh"]),
    ),
)
NEVER = (
    "The look of the old site: theme, colours, fonts and layout belong to the new one.",
    "Programs behind the pages: search, shop baskets, calendars that compute, log-ins.",
    "Scripts of the old pages: what they did has to be there on the new side, or is dropped.",
)


@dataclass(slots=True)
class Finding:
    """A matter as it stands on this site: ``pages`` hold it ``times`` times; ``examples`` are (address, key)."""

    name: str
    verdict: str
    says: str
    one_by_one: bool
    pages: int = 0
    times: int = 0
    examples: list[tuple[int, str]] = field(default_factory=list)


def fitness(side: Side) -> list[Finding]:
    """All matters found on the captured pages, those that need most work first."""
    found = [Finding(m.name, m.verdict, m.says, m.one_by_one) for m in MATTERS]
    for address, key, text, rendered in pages_said(side):
        facts = {**json.loads(text), "rendered": rendered}
        for matter, finding in zip(MATTERS, found, strict=True):
            times = int(matter.counts(facts))
            if times:
                finding.pages += 1
                finding.times += times
                if len(finding.examples) < SHOWN and matter.verdict != "by itself":
                    finding.examples.append((address, key))
    order = ("by hand", "in part", "by itself")
    return sorted((f for f in found if f.pages), key=lambda f: order.index(f.verdict))
