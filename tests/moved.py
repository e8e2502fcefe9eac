"""Sites that moved, with the truth: which old address became which new one, and by which rules."""

from __future__ import annotations

import random
import re
from dataclasses import dataclass, field

from grandferry.core.route.suggest.words import Known
from grandferry.demo.site import SEED
from grandferry.demo.wider import build

SUFFIX = " – Quillmere Valley Railway"
_TITLE = re.compile(rb"<title>([^<]*)</title>", re.I)


@dataclass(slots=True)
class Moved:
    """``truth``: old -> new, "" for what has no counterpart; ``rules``: by how many rules the pairs of each can be
    said; ``by_rule``: the old addresses that rules can say."""

    old: list[Known]
    new: list[Known]
    truth: dict[str, str]
    rules: int = 0
    by_rule: set[str] = field(default_factory=set)


def demo(size: int = 600, seed: int = SEED, titles: bool = True, suffix: str = "") -> Moved:
    """The demo's old site against the addresses its items get. Redirects and what is set aside are left out, as they
    have no content of their own."""
    site = build(80, 81, size, seed)
    fates, pages = site.truth["fates"], site.truth["pages"]
    made, truth, names = [], {}, dict[str, str]()
    for (host, key), answer in site.answers.items():
        fate = fates.get(key)
        if (
            not host.startswith("old.")
            or fate is None
            or fate[0] == "set aside"
            or answer.status != 200
            or key in truth
        ):
            continue
        found = _TITLE.search(answer.body) if answer.type.startswith("text/html") else None
        title = found[1].decode().replace("&amp;", "&").replace("&#x27;", "'") if found else ""
        made.append(Known(key, title + suffix if titles and title else ""))
        truth[key] = fate[1]
        if key in pages and fate[1]:
            names[fate[1]] = pages[key]["fields"]["title"]
    new = sorted({place for place in truth.values() if place})
    later = ["/privacy", "/cookies", "/contact", "/tickets/book", "/railway/jobs", "/shop/gift-cards"]
    news = [Known(place, names.get(place, "") if titles else "") for place in new]
    return Moved(made, news + [Known(place, "") for place in later], truth)


_NOUNS = (
    "boiler signal lamp carriage wagon sleeper whistle coupling platform tunnel viaduct timetable ticket guard fireman "
    "driver shed yard bridge station goods parcel siding turntable tender chimney brake gauge lever token crossing cutting "
    "embankment culvert ballast rail fishplate points buffer lantern semaphore telegraph porter inspector depot works foundry"
).split()
_DOING = (
    "repairing painting visiting finding building testing saving buying lifting opening closing moving cleaning counting "
    "drawing measuring lighting heating loading towing casting turning polishing greasing firing shunting"
).split()
_LIKE = (
    "old new red green long short cold early late broken quiet heavy little lost last first famous wooden narrow rusty "
    "borrowed winter summer spring autumn eastern western northern southern royal private wet dry modern ancient"
).split()


def made_up(size: int, seed: int, titles: bool = True) -> Moved:
    """About ``size`` pages of a site whose folders moved in different ways."""
    lot = random.Random(seed)
    moved = Moved([], [], {}, rules=6)
    taken: set[str] = set()

    def name() -> list[str]:
        while True:
            words = [lot.choice(_DOING), "the", lot.choice(_LIKE), lot.choice(_NOUNS), lot.choice(_NOUNS)]
            if size > 3000:
                words.append(lot.choice(_LIKE))
            if " ".join(words) not in taken:
                taken.add(" ".join(words))
                return words

    def add(old: str, new: str, words: list[str], by_rule: bool) -> None:
        title = " ".join(words).capitalize() if titles else ""
        moved.old.append(Known(old, title))
        moved.truth[old] = new
        if new:
            moved.new.append(Known(new, title))
        if by_rule:
            moved.by_rule.add(old)

    for number in range(size):
        words, way = name(), lot.random()
        slug, year, month, day = "-".join(words), lot.randint(2009, 2024), lot.randint(1, 12), lot.randint(1, 28)
        if way < 0.25:
            add(f"/blog/{year}/{month:02}/{slug}.html", f"/articles/{slug}", words, True)
        elif way < 0.45:
            add(f"/engines/{slug}.htm", f"/locomotives/{slug}/", words, True)
        elif way < 0.6:
            add(f"/news/{day:02}-{month:02}-{year}-{slug}", f"/news/{year}/{month:02}/{slug}", words, True)
        elif way < 0.7:
            add(f"/en/visit/{slug}/index.php", f"/visit/{slug}", words, True)
        elif way < 0.78:
            add(f"/archive/letters/{slug}.html", f"/papers/letters/{slug}", words, True)
        elif way < 0.84:
            add(f"/shop/item.aspx?sku=qv{number}", f"/shop/items/qv{number}", words, True)
        elif way < 0.9:
            add(f"/item.php?id={number}", f"/catalogue/{slug}", words, False)
        elif way < 0.95:  # said otherwise over there
            shorter = [word for word in words if word != "the"]
            add(f"/help/{'_'.join(words)}.html", f"/questions/{'-'.join(reversed(shorter))}", words, False)
        else:
            add(f"/{lot.choice(['old', 'engines', 'blog/2011/03'])}/{slug}.htm", "", words, False)
    for _ in range(size // 20):
        words = name()
        moved.new.append(Known(f"/{lot.choice(['articles', 'visit', 'papers'])}/{'-'.join(words)}", " ".join(words)))
    lot.shuffle(moved.new)
    return moved
