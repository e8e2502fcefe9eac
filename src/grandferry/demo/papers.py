"""The paper chest and the stations of the whole old site: kinds in one folder that differ only in their structure, or
only in what one element says; pages that fit two kinds, and none; folding panels, slides, a menu with its dishes, and
sounds to listen to."""

from __future__ import annotations

from html import escape
from typing import Any

from . import markup, pictures
from . import wider_material as more
from .corners import Corners
from .material import PEOPLE, PLACES, Writer
from .site import Answer, slug

LETTERS, DIARIES, POSTERS, INVENTORIES = 18, 14, 16, 12
BOTH = (5, 11)  # letters that hold a poster as well
SIGNALS = (1, 4)  # stations
# what nobody ever put right: names that a typist wrote otherwise, a page with one paragraph three times, a year with
# its figures the wrong way round, a page that still waits for text and picture
TYPED = {6: str.upper, 8: lambda by: f"{by[:-2]}{by[-1]}", 10: str.lower}
AGAIN, TURNED, WAITS = 4, 7, 9
LEFT = {
    ("diary", AGAIN): [("body", "again")],
    ("poster", TURNED): [("printed", "far")],
    ("poster", WAITS): [("picture", "stand-in"), ("body", "filler")],
}


class Papers(Corners):
    """Kinds that only their structure tells apart, and stations with all that a page can fold away."""

    def _own(self, number: int) -> Writer:
        """A writer for a page alone, so that all others are as without it."""
        return Writer(self.seed * 7919 + 700_000 + number)

    def papers(self) -> None:
        links = []
        unlike = self.site.truth["unlike"] = []  # key, field, why it wants a look
        made = [("letter", n) for n in range(LETTERS)] + [("diary", n) for n in range(DIARIES)]
        made += [("poster", n) for n in range(POSTERS)] + [("inventory", n) for n in range(INVENTORIES)]
        for number, (kind, nth) in enumerate(sorted(made, key=lambda one: (one[1], one[0])), 1):
            w, key = self._own(number), f"/papers/p-{number}.htm"
            title, content, fields, body = getattr(self, f"_{kind}")(w, number, nth)
            self.html(key, title, content, body_class="paper")
            # letters and diaries are of one template: only what one line of them says is different
            template = "paper" if kind in ("letter", "diary") else kind
            self.true(key, kind, template, {"title": title, **fields}, body, self.place(f"/papers/{slug(title)}"))
            links.append(f'<li><a href="{key}">{escape(title)}</a></li>')
            unlike += [[key, field, why] for field, why in LEFT.get((kind, nth), ())]
        for number, name in enumerate(more.FOUND, 1):  # written by hand, without the site's template
            key = f"/papers/found/{slug(name)}.html"
            text = self._own(900 + number).paragraph()
            html = f"<html><head><title>{escape(name)}</title></head><body><p>{escape(text)}<p><a href=/>Home</a>"
            self.put(self.old, key, Answer(200, "text/html; charset=utf-8", html.encode()))
            self.fate(key, "merged", "/papers/")
            links.append(f'<li><a href="{key}">{escape(name)}</a></li>')
        self.html("/papers/", "Papers", f"<h1>Papers</h1><ul>{''.join(links)}</ul>", body_class="list-page")
        self.fate("/papers/", "stays", "/papers/")

    def _written(self, sort: str, w: Writer, number: int, nth: int) -> tuple[str, str, dict[str, Any], list[Any]]:
        by, year = PEOPLE[number % len(PEOPLE)], 1901 + nth * 3
        title = f"{sort} of {by}, {year}" + (f" ({nth + 1})" if nth else "")
        body: list[Any] = [("paragraph", w.paragraph()), ("paragraph", w.sentence())]
        if sort == "Letter" and nth in TYPED:
            typed = TYPED[nth](by)
            self.site.truth.setdefault("typed", {})[typed] = by
            by = typed
        if sort == "Diary" and nth == AGAIN:
            body = [body[0]] * 3 + [body[1]]
        extra = ""
        if sort == "Letter" and nth in BOTH:
            extra = '<table class="sheet"><tr><td>Printed</td><td>on the back of a poster</td></tr></table>'
        content = (
            f'<h1>{escape(title)}</h1><p class="sort">{sort}</p><p class="hand">{escape(by)}</p>'
            f'<div class="text">{markup.render(body, "clean")}</div>{extra}'
        )
        return title, content, {"hand": by}, body

    def _letter(self, w: Writer, number: int, nth: int) -> tuple[str, str, dict[str, Any], list[Any]]:
        return self._written("Letter", w, number, nth)

    def _diary(self, w: Writer, number: int, nth: int) -> tuple[str, str, dict[str, Any], list[Any]]:
        return self._written("Diary", w, number, nth)

    def _poster(self, w: Writer, number: int, nth: int) -> tuple[str, str, dict[str, Any], list[Any]]:
        title = f"Poster: {PLACES[nth % len(PLACES)]} {1920 + nth}"
        name = f"poster-{nth}" if nth != WAITS else "placeholder"
        src, size = self.picture(f"/pictures/{name}.png", 700 + nth), f"{40 + nth} by {60 + nth} cm"
        printed = 1920 + nth if nth != TURNED else 9127
        body: list[Any] = [("paragraph", w.sentence())] + [("paragraph", "Insert your text here.")] * (nth == WAITS)
        content = (
            f'<h1>{escape(title)}</h1><img src="{src}" alt="{escape(title)}"><table class="sheet"><tr><td>Size</td>'
            f"<td>{size}</td></tr><tr><td>Printed</td><td>{printed}</td></tr></table>"
            f'<div class="text">{markup.render(body, "clean")}</div>'
        )
        return title, content, {"size": size, "printed": printed}, body

    def _inventory(self, w: Writer, number: int, nth: int) -> tuple[str, str, dict[str, Any], list[Any]]:
        title = f"Inventory of {PLACES[nth % len(PLACES)]}, sheet {nth + 1}"
        rows = [["Thing", "Number", "State"]]
        rows += [[more.THINGS[(nth + n) % len(more.THINGS)], str(1 + n * nth % 9), "fair"] for n in range(5)]
        body: list[Any] = [("paragraph", w.sentence()), ("table", rows), ("paragraph", w.sentence())]
        content = f'<h1>{escape(title)}</h1><div class="text">{markup.render(body, "clean")}</div>'
        return title, content, {}, body

    def stations(self) -> None:
        links = []
        for number, place in enumerate(more.STATIONS):
            w, key = self._own(800 + number), f"/stations/{slug(place)}.htm"
            body: list[Any] = [("paragraph", w.paragraph()) for _ in range(4)]
            opened = 1861 + 2 * number
            if number in SIGNALS:
                body[1] = ("unknown", body[1][1])
            content = (
                f'<h1>{escape(place)}</h1><p class="opened">Opened in {opened}</p>'
                f'<div class="story">{markup.render(body, "clean")}</div>'
                f"{self._panels(w)}{self._slides(w, number)}{self._menu(w, number)}{self._sounds(w, number)}"
            )
            self.html(key, place, content, body_class="station")
            fields = {"title": place, "opened": opened}
            self.true(key, "station", "station", fields, body, self.place(f"/stations/{slug(place)}"))
            links.append(f'<li><a href="{key}">{escape(place)}</a></li>')
        self.html("/stations/", "Stations", f"<h1>Stations</h1><ul>{''.join(links)}</ul>", body_class="list-page")
        self.fate("/stations/", "stays", "/stations/")

    def _panels(self, w: Writer) -> str:
        panels = "".join(
            f'<div class="panel"><h3><a href="#fold-{n}" aria-expanded="false">{name}</a></h3>'
            f'<div class="fold" id="fold-{n}"><p>{escape(w.sentence())}</p><p>Ask {PEOPLE[n]}.</p></div></div>'
            for n, name in enumerate(more.PANELS)
        )
        return f'<div class="panels">{panels}</div>'

    def _slides(self, w: Writer, number: int) -> str:
        slides = []
        for n in range(3):
            src = self.picture(f"/pictures/station-{number}-{n}.png", 800 + number * 10 + n)
            slides.append(
                f'<li class="slide"><img src="{src}" alt="View {n + 1}"><p class="says">{escape(w.sentence())}</p>'
                f'<a href="/news/">More news</a> <time datetime="20{12 + n}-0{1 + number}-11">{12 + n}</time></li>'
            )
        return f'<ul class="slides">{"".join(slides)}</ul>'

    def _menu(self, w: Writer, number: int) -> str:
        courses = []
        for n, (course, dishes) in enumerate(more.DISHES):
            rows = "".join(
                f"<li><b>{dish} with {w.random.choice(more.WITH)}</b> "
                f'<i class="price">&pound;{2 + (number + n + k) % 7}.{w.random.randrange(10, 99)}</i></li>'
                for k, dish in enumerate(w.random.sample(dishes, 3))
            )
            courses.append(f'<div class="course"><h4>{course}</h4><ul>{rows}</ul></div>')
        return f'<div class="menu-of-the-day">{"".join(courses)}</div>'

    def _sounds(self, w: Writer, number: int) -> str:
        names = [f"{name}, {1950 + w.random.randrange(60)}" for name in w.random.sample(more.SOUNDS, 3)]
        rows = "".join(
            f'<div class="sound"><audio controls src="/sounds/station-{number}-{n}.mp3"></audio>'
            f"<span>{name}</span></div>"
            for n, name in enumerate(names)
        )
        for n, _ in enumerate(names):
            name = f"station-{number}-{n}.mp3"
            body = pictures.silence(1).replace(bytes(1), bytes([1 + number * 10 + n]), 1)  # each a file of its own
            self.put(self.old, f"/sounds/{name}", Answer(200, "audio/mpeg", body))
            self.fate(f"/sounds/{name}", "moved", f"/media/{name}")
        return f'<div class="sounds">{rows}</div>'
