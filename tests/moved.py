"""Sites that moved, with the truth: which old address became which new one, and by which rules."""

from __future__ import annotations

import random
import re
from dataclasses import dataclass, field
from html import escape, unescape
from itertools import pairwise

from grandferry.core.encoding import decode
from grandferry.core.route.says import hashes, page_says
from grandferry.core.route.suggest.content import MOST, NOTHING, Content, Read, contents_of, picture_name
from grandferry.core.route.suggest.words import Known
from grandferry.core.survey.glance import glance
from grandferry.demo.site import SEED, slug
from grandferry.demo.wider import build

SUFFIX = " – Quillmere Valley Railway"
_TITLE = re.compile(r"<title>([^<]*)</title>", re.I)


@dataclass(slots=True)
class Moved:
    """``truth``: old -> new, "" for what has no counterpart; ``rules``: by how many rules the pairs of each can be
    said; ``by_rule``: the old addresses that rules can say."""

    old: list[Known]
    new: list[Known]
    truth: dict[str, str]
    rules: int = 0
    by_rule: set[str] = field(default_factory=set)


_SHELL = """<!doctype html><html lang="{lang}"><head><title>{title} | The line</title></head><body><header><a href="/">The
line</a> <a href="/news">What happened</a> <a href="/visit">Come and see</a></header><main><h1>{title}</h1>{body}</main>
<footer>The new house of the line, and its rules</footer></body></html>"""


def contents(pages: list[tuple[str, str]]) -> dict[str, Content]:
    """What the pages of a site say, by their addresses, read as a survey reads them; ``pages``: (address, source)."""
    seen = {key: glance(source) for key, source in pages}
    return contents_of(
        {
            key: Read(page_says(one), one.facts.language, [link.raw for link in one.links if link.how == "img"])
            for key, one in seen.items()
        }
    )


# what became of the demo's addresses, as far as a pattern can say it (the paths of its rules, as its makers know them)
DEMO_RULES = (
    (r"/news/(\d{4})/\d\d/(.+?)(?:-\d+)?\.htm", r"/news/\1/\2"),
    (r"/events/(\d{4}/.+)\.htm", r"/events/\1"),
    (r"/cy/newyddion/(.+)\.htm", r"/cy/news/\1"),
    (r"/cy/([^/]+)\.htm", r"/cy/\1"),
    (r"/crew/(.+)\.htm", r"/railway/crew/\1"),
    (r"/gallery/(.+)\.htm", r"/gallery/\1"),
    (r"/stations/(.+)\.htm", r"/stations/\1"),
    (r"/sounds/(.+)\.mp3", r"/media/\1.mp3"),
    (r"/(news|events|shop)/\?.+", r"/\1/"),
    (r"/papers/found/.+", "/papers/"),
)


def _by_rules(truth: dict[str, str]) -> set[str]:
    return {
        old
        for old, new in truth.items()
        for pattern, target in DEMO_RULES
        if new != old and (match := re.fullmatch(pattern, old)) and match.expand(target) == new
    }


def demo(
    size: int = 600, seed: int = SEED, titles: bool = True, suffix: str = "", content: bool = False, gone: str = ""
) -> Moved:
    """The demo's old site against the addresses its items get; in the large sizes its archive goes over as well, each
    dispatch to a place by its title. Redirects and what is set aside are left out, as they have no content of their
    own. ``content``: what the pages say is known on both sides; the new ones say what the truth holds of them, in
    another shell. ``gone``: places that begin so are not on the new shore."""
    site = build(80, 81, size, seed)
    fates, pages = site.truth["fates"], site.truth["pages"]
    olds, truth, news = [], dict[str, str](), dict[str, tuple[str, str]]()  # new place -> (title, source)
    for host, key in [*site.answers, *site.made]:
        fate, archived = fates.get(key), key.startswith("/archive/") and key.endswith(".htm")
        answer = site.answer(host, key)
        if not host.startswith("old.") or fate is None or answer is None or answer.status != 200 or key in truth:
            continue
        if fate[0] == "set aside" and not archived:
            continue
        source = decode(answer.body, answer.type).text if answer.type.startswith("text/html") else ""
        found = _TITLE.search(source)
        title = unescape(found[1]) if found else ""
        olds.append((key, title + suffix if titles and title else "", source))
        place = f"/dispatches/{slug(title)}" if archived else fate[1]
        truth[key] = place = "" if gone and place.startswith(gone) else place
        if key in pages and place:
            name, body = pages[key]["fields"]["title"], escape(" ".join(pages[key]["words"]))
        elif archived:
            name, body = title, source.partition("</h1>")[2].partition("</body>")[0]
        else:
            continue
        lang = "cy" if place.startswith("/cy/") else "en"
        news[place] = (name, _SHELL.format(title=escape(name), body=body, lang=lang))
    later = ["/privacy", "/cookies", "/contact", "/tickets/book", "/railway/jobs", "/shop/gift-cards"]
    places = [*sorted({place for place in truth.values() if place}), *later]
    says = contents([(key, source) for key, _, source in olds if source]) if content else {}
    said = contents([(place, source) for place, (_, source) in news.items()]) if content else {}
    old = [Known(key, title, says.get(key, NOTHING)) for key, title, _ in olds]
    new = [Known(at, news[at][0] if titles and at in news else "", said.get(at, NOTHING)) for at in places]
    return Moved(old, new, truth, len(DEMO_RULES), _by_rules(truth))


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


def told_anew(size: int, seed: int) -> Moved:
    """A site in two languages, whose addresses say nothing: galleries that were called otherwise and show the same
    pictures, pages that are called the same in both languages, and some whose words alone are as they were."""
    lot = random.Random(seed)
    moved = Moved([], [], {})

    def words(number: int) -> list[str]:
        return [lot.choice((*_NOUNS, *_DOING, *_LIKE)) for _ in range(number)]

    def page(language: str, heading: str, says: list[str], shows: list[str]) -> Content:
        pairs = hashes(f"{language} {one} {other}" for one, other in pairwise(says))
        return Content(heading, language, pairs[:MOST], hashes(map(picture_name, shows)))

    for number in range(size):
        way, title = lot.random(), " ".join(words(3))
        language = lot.choice(("en", "cy"))
        shows = [f"/pictures/{number}-{n}.jpg" for n in range(lot.randint(2, 6))]
        says = words(lot.randint(20, 80))
        old, new = f"/page.asp?no={number}", f"/{language}/{'-'.join(words(3))}-{number + 7}"
        if way < 0.25:  # the same pictures under another name, with other words
            again = [f"/media/{name.rpartition('/')[2].replace('.jpg', '-640x480.jpg')}" for name in shows]
            rows = [(old, new, title, " ".join(words(3)), page(language, title, says, shows))]
            then = [page(language, rows[0][3], words(40), again)]
        elif way < 0.5:  # two languages, one name; what they say is translated
            other = "cy" if language == "en" else "en"
            rows = [
                (old, new, title, title, page(language, title, says, [])),
                (f"{old}&l=2", f"/{other}/{new.rpartition('/')[2]}", title, title, page(other, title, says, [])),
            ]
            then = [page(language, title, words(40), []), page(other, title, words(40), [])]
        else:  # its words, cut and added to
            kept = says[: lot.randint(len(says) // 2, len(says))] + words(lot.randint(0, 20))
            rows = [(old, new, title, " ".join(words(3)), page(language, title, says, shows[:1]))]
            then = [page(language, rows[0][3], kept, [])]
        for (key, place, called, now_called, content), there in zip(rows, then, strict=True):
            moved.old.append(Known(key, called, content))
            moved.new.append(Known(place, now_called, there))
            moved.truth[key] = place
    for number in range(size // 10):
        title = " ".join(words(3))
        moved.old.append(Known(f"/gone.asp?no={number}", title, page("en", title, words(30), [])))
        moved.truth[f"/gone.asp?no={number}"] = ""
    lot.shuffle(moved.new)
    return moved


def without_content(moved: Moved) -> Moved:
    """The same, and nobody has read a page."""
    old, new = ([Known(one.address, one.title) for one in side] for side in (moved.old, moved.new))
    return Moved(old, new, moved.truth, moved.rules, moved.by_rule)
