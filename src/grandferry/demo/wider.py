"""The whole old site: about 600 addresses. Beside what the small one holds: a shop, events, a crew, galleries, a second
language, and the corners that twenty years have left (``corners.py``). In the large sizes an archive of dispatches is
added."""

from __future__ import annotations

from html import escape
from typing import Any

from . import markup
from . import wider_material as more
from .material import MONTHS, PLACES, Writer
from .oldsite import Builder
from .papers import Papers
from .site import FILES, NAME, NEW, OLD, SEED, Answer, Site, slug

SMALL, WHOLE = 120, 600
ITEMS_A_LIST = 12
BOX = 40  # dispatches in one box of the archive
LOG_LINES = 50_000


class WholeSite(Papers):
    """The old site in its default size and above. ``size``: about how many addresses it has in all."""

    log_lines = LOG_LINES

    def __init__(self, old: str, files: str, new: str, size: int, seed: int = SEED):
        super().__init__(old, files, new, posts=200, seed=seed)
        self.size = size
        if size > WHOLE:
            self.more_links += ' <a href="/archive/">Archive</a>'

    # --- kinds --------------------------------------------------------------------------------------

    def comments(self, number: int) -> str:
        """Every seventh post has some, of readers who are in no other list."""
        if number % 7:
            return ""
        w = Writer(number + 500_000)  # one of its own, so that all else is as without comments
        rows = "".join(
            '<li class="comment" '
            f'id="comment-{number * 10 + n}"><b>{more.READERS[(number + n) % len(more.READERS)]}</b>: '
            f"{w.sentence()}</li>"
            for n in range(1 + number % 3)
        )
        return f'\n<div class="said"><h3>What readers say</h3><ol>{rows}</ol></div>'

    def shop(self) -> None:
        w, r = self.writer, self.random
        rows = []
        for number, (goods, pattern) in enumerate(((g, p) for g in more.GOODS for p in more.PATTERNS), 1):
            title, key = f"{goods}, {pattern}", f"/shop/item.aspx?id={number}"
            price, stock = f"{3 + number * 7 % 40}.{r.choice(('00', '50', '95'))}", more.STOCK[number % 3]
            body: list[Any] = [("paragraph", w.paragraph())]
            if number % 3 == 0:
                body.append(("list", False, ["Made in the valley", w.sentence()]))
            sizes = "".join(f"<option>{s}</option>" for s in more.SIZES)
            self.html(
                key,
                title,
                f'<h1>{escape(title)}</h1><div class="item"><p class="price">&pound;{price}</p><p '
                f'class="stock">{stock}</p>'
                f'<form action="/shop/basket.aspx" method="post"><select name="size">{sizes}</select>'
                '<input type="hidden" name="item" value="1"><button>Put into the basket</button></form>'
                f'<div class="about">{markup.render(body, markup.STYLES[number % 6])}</div></div>',
                body_class="item",
            )
            fields = {"title": title, "price": float(price), "stock": stock}
            self.true(
                key, "item", "item", fields, body, self.place(f"/shop/{slug(title)}"), style=markup.STYLES[number % 6]
            )
            rows.append((key, title, price))
        for number in range(901, 913):  # no longer sold, and not to be carried over
            key, title = f"/shop/item.aspx?id={number}", f"Last year's calendar {number - 900}"
            self.html(
                key, title, f'<h1>{title}</h1><p class="gone">No longer sold. {w.sentence()}</p>', body_class="gone"
            )
            self.fate(key, "retired")
            rows.append((key, title, "0"))
        orders = {
            "": rows,
            "price": sorted(rows, key=lambda row: float(row[2])),
            "name": sorted(rows, key=lambda row: row[1]),
        }
        for order, all_rows in orders.items():
            pages = range(1, -(-len(all_rows) // ITEMS_A_LIST) + 1)
            for page in pages:
                values = [f"sort={order}"] * bool(order) + [f"page={page}"] * (page > 1)
                key = "/shop/" + ("?" + "&".join(values) if values else "")
                cards = "".join(
                    f'<div class="card"><a href="{k}">{escape(t)}</a> <i>&pound;{p}</i></div>'
                    for k, t, p in all_rows[(page - 1) * ITEMS_A_LIST : page * ITEMS_A_LIST]
                )
                links = " ".join(
                    f'<a href="/shop/?{"&amp;".join([f"sort={order}"] * bool(order) + [f"page={n}"])}">{n}</a>'
                    for n in pages
                    if n > 1
                )
                sorts = '<a href="/shop/?sort=price">by price</a> <a href="/shop/?sort=name">by name</a>'
                self.html(key, "Shop", f"<h1>Shop</h1><p>{sorts}</p>{cards}<p>{links}</p>", body_class="list-page")
                self.fate(key, "stays" if key == "/shop/" else "merged", "/shop/")

    def events(self) -> None:
        w = self.writer
        rows = []
        for number in range(48):
            month, year = number % 12, 2025 + number // 24
            name = more.EVENTS[number % len(more.EVENTS)]
            title = f"{name}, {MONTHS[month]} {year}" + (" (again)" if number % 24 >= 12 else "")
            place, day = PLACES[number % len(PLACES)], 1 + number * 5 % 27
            body: list[Any] = [("paragraph", w.paragraph()), ("paragraph", w.sentence())]
            key = f"/events/{year}/{slug(title)}.htm"
            self.html(
                key,
                title,
                f'<h1>{escape(title)}</h1><dl class="when"><dt>Date</dt><dd>{day} {MONTHS[month]} {year}</dd>'
                f'<dt>Place</dt><dd>{place}</dd></dl><div class="story">{markup.render(body, "clean")}</div>',
                body_class="event",
            )
            fields = {"title": title, "date": f"{year}-{month + 1:02}-{day:02}", "place": place}
            self.true(key, "event", "event", fields, body, self.place(f"/events/{year}/{slug(title)}"))
            rows.append((month, key, title))
        months = "".join(f'<li><a href="/events/?m={n + 1}">{name}</a></li>' for n, name in enumerate(MONTHS))
        self.html("/events/", "Events", f"<h1>Events</h1><ul>{months}</ul>", body_class="list-page")
        self.fate("/events/", "stays", "/events/")
        for n, name in enumerate(MONTHS):
            links = "".join(f'<li><a href="{k}">{escape(t)}</a></li>' for m, k, t in rows if m == n)
            self.html(f"/events/?m={n + 1}", name, f"<h1>{name}</h1><ul>{links}</ul>", body_class="list-page")
            self.fate(f"/events/?m={n + 1}", "merged", "/events/")

    def crew_and_roles(self) -> None:
        w = self.writer
        links = []
        for number, (name, role) in enumerate(more.CREW):
            key = f"/crew/{slug(name)}.htm"
            body: list[Any] = [("paragraph", w.paragraph())]
            src = self.picture(f"/pictures/crew-{number}.png", 300 + number)
            self.html(
                key,
                name,
                f'<h1>{name}</h1><img class="portrait" src="{src}"><p class="role">{role}</p>'
                f'<div class="story">{markup.render(body, "font")}</div>',
                body_class="crew",
            )
            fields = {"title": name, "role": role}
            self.true(key, "crew", "crew", fields, body, self.place(f"/railway/crew/{slug(name)}"), style="font")
            links.append(f'<li><a href="{key}">{name}</a></li>')
        self.html("/crew/", "Crew", f"<h1>Crew</h1><ul>{''.join(links)}</ul>", body_class="list-page")
        self.fate("/crew/", "moved", "/railway/")
        links = []
        for name in more.ROLES:
            key = f"/Volunteer/role.aspx?name={name.replace(' ', '+')}"
            body = [("paragraph", w.paragraph()), ("list", True, [w.sentence(), w.sentence()])]
            inner = f'<h1>{name}</h1><div class="main">{markup.render(body, "unclosed")}</div>'
            self.html(key, name, inner, body_class="role")
            new = self.place(f"/volunteer/roles/{slug(name)}")
            self.true(key, "role", "role", {"title": name}, body, new, style="unclosed")
            links.append(f'<li><a href="{key}">{name}</a></li>')
        self.html("/Volunteer/", "Volunteer", f"<h1>Volunteer</h1><ul>{''.join(links)}</ul>", body_class="list-page")
        self.fate("/Volunteer/", "moved", "/volunteer/")

    def galleries(self) -> None:
        links = []
        for number, title in enumerate(more.GALLERIES):
            key = f"/gallery/{slug(title)}.htm"
            style = ("lazy", "clean")[number % 2]
            body: list[Any] = [("paragraph", self.writer.paragraph())]
            for view in range(4):
                src = self.picture(f"/pictures/gallery-{number}-{view}.png", 400 + number * 10 + view)
                body.append(("figure", src, f"{title}, view {view + 1}", self.writer.sentence()))
            self.html(
                key,
                title,
                f'<h1>{escape(title)}</h1><div class="story">{markup.render(body, style)}</div>'
                f'<img src="{src}" srcset="{src} 1x, {src.replace(".png", "-large.png")} 2x" usemap="#m{number}" '
                'alt="All views">'
                f'<map name="m{number}"><area href="/engines.aspx?id={1 + number}" alt="The engine"></map>',
                body_class="gallery",
            )
            self.picture(f"/pictures/gallery-{number}-3-large.png", 400 + number * 10 + 3)
            new = self.place(f"/gallery/{slug(title)}")
            self.true(key, "gallery", "gallery", {"title": title}, body, new, style=style)
            links.append(f'<li><a href="{key}">{escape(title)}</a></li>')
        self.html("/gallery/", "Pictures", f"<h1>Pictures</h1><ul>{''.join(links)}</ul>", body_class="list-page")
        self.fate("/gallery/", "stays", "/gallery/")

    def second_language(self) -> None:
        w = self.writer
        links = []

        def words(count: int) -> str:
            return " ".join(w.fill(w.random.choice(more.CY_SENTENCES)) for _ in range(count))

        for number in range(40):
            title = f"{w.fill(more.CY_TITLES[number % len(more.CY_TITLES)])} ({number + 1})"
            year, month, day = 2019 + number // 7, 1 + number * 5 % 12, 1 + number * 3 % 27
            key = f"/cy/newyddion/{year}/{slug(title)}.htm"
            body: list[Any] = [("paragraph", words(3)), ("paragraph", words(2))]
            content = (
                f'<h1>{escape(title)}</h1><p class="posted">{day:02}.{month:02}.{year}</p>'
                f'<div class="story">{markup.render(body, "clean")}</div>'
            )
            self.html(key, title, content, lang="cy", body_class="post")
            fields = {"title": title, "published": f"{year}-{month:02}-{day:02}"}
            self.true(key, "newyddion", "post", fields, body, self.place(f"/cy/news/{year}/{slug(title)}"))
            links.append(f'<li><a href="{key}">{escape(title)}</a></li>')
        for title in more.CY_PAGES:
            key = f"/cy/{slug(title)}.htm"
            body = [("paragraph", words(4)), ("heading", 2, "Mwy"), ("paragraph", words(2))]
            inner = f'<div class="main"><h1>{escape(title)}</h1>{markup.render(body, "inline")}</div>'
            self.html(key, title, inner, lang="cy", body_class="page")
            self.true(key, "tudalen", "page", {"title": title}, body, self.place(f"/cy/{slug(title)}"), style="inline")
            links.append(f'<li><a href="{key}">{escape(title)}</a></li>')
        self.html("/cy/", "Croeso", f"<h1>Croeso</h1><ul>{''.join(links)}</ul>", lang="cy", body_class="list-page")
        self.fate("/cy/", "stays", "/cy/")

    # --- the large sizes ----------------------------------------------------------------------------

    def archive(self, dispatches: int) -> None:
        """The large sizes: dispatches made when they are asked for, in boxes of BOX, each from its own seed."""
        if dispatches <= 0:
            return
        boxes = -(-dispatches // BOX)

        def page(title: str, content: str) -> Answer:
            text = (
                f'<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>{title} | {NAME}</title>'
                f'<link rel="stylesheet" href="/style.css"></head><body class="dispatch"><p><a href="/">Home</a> '
                f'<a href="/archive/">Archive</a></p><h1>{title}</h1>{content}</body></html>'
            )
            return Answer(200, "text/html; charset=utf-8", text.encode())

        def answer(host: str, key: str) -> Answer | None:
            parts = key.split("/")
            if host != self.old or len(parts) < 3 or parts[1] != "archive":
                return None
            if parts[2:] == [""]:
                return page("Archive", " ".join(f'<a href="/archive/{n}/">Box {n}</a>' for n in range(boxes)))
            if len(parts) != 4 or not parts[2].isdigit() or int(parts[2]) >= boxes:
                return None
            box = int(parts[2])
            numbers = range(box * BOX, min((box + 1) * BOX, dispatches))
            if parts[3] == "":
                return page(
                    f"Box {box}", " ".join(f'<a href="/archive/{box}/{n}.htm">Dispatch {n}</a>' for n in numbers)
                )
            name = parts[3].removesuffix(".htm")
            if not name.isdigit() or int(name) not in numbers:
                return None
            number = int(name)
            w = Writer(number + 1_000_000)
            body: list[Any] = [("paragraph", w.paragraph()) for _ in range(6)] + [
                ("list", False, [w.sentence(), w.sentence()])
            ]
            near = "".join(f'<li><a href="/archive/{n // BOX}/{n}.htm">Dispatch {n}</a></li>' for n in numbers[:12])
            title = f"Dispatch {number}: {w.title()}"
            return page(escape(title), f"{markup.render(body, markup.STYLES[number % 6])}<ul>{near}</ul>")

        self.site.makers.append(answer)
        self.site.made = [
            (self.old, "/archive/"),
            *((self.old, f"/archive/{n}/") for n in range(boxes)),
            *((self.old, f"/archive/{n // BOX}/{n}.htm") for n in range(dispatches)),
        ]
        for _, key in self.site.made:
            self.fate(key, "set aside")

    more_links = (
        '<a href="/shop/">Shop</a> <a href="/events/">Events</a> <a href="/crew/">Crew</a> <a '
        'href="/Volunteer/">Roles</a> '
        '<a href="/gallery/">Pictures</a> <a href="/papers/">Papers</a> '
        '<a href="/stations/">Stations</a> <a href="/cy/">Cymraeg</a> <a href="/links.htm">Old ways in</a> '
        '<a href="/members/">Members</a> <a href="/search.htm">Search</a> <a href="/about/write.htm">Letter</a> '
        '<a href="/about/newsletter.htm">Newsletter</a> <a href="/shop/basket.aspx">Basket</a> <a '
        'href="/docs/">Papers</a> '
        '<a href="/live/departures.htm">Departures</a> <a href="/calendar.aspx">Calendar</a> <a '
        'href="/welcome.htm">Welcome</a> '
        '<a href="/wares/teapot.htm">Teapot</a> <a href="/committee/">Committee</a> <a '
        'href="/leaflets.htm">Leaflets</a> '
        '<a href="/visit/">Visit</a> <a href="/visit/index.htm">Visit</a> <a href="/visit/caf%C3%A9.htm">Café</a>'
    )

    def parts(self, posts: list[tuple[str, str]]) -> None:
        self.site.whole = True
        self.shop()
        self.events()
        self.crew_and_roles()
        self.galleries()
        self.second_language()
        self.papers()
        self.stations()
        self.corners()
        self.sitemaps()
        self.archive(self.size - WHOLE)
        aliased = f"www.{self.old}"
        self.site.aliases[aliased] = self.old
        box = self.site.answers[(self.old, "/links.htm")]
        box.body = box.body.replace(b"</h1>", f'</h1><p><a href="http://{aliased}/news/">News</a></p>'.encode(), 1)


def build(old_port: int, new_port: int, size: int = SMALL, seed: int = SEED) -> Site:
    """The old site for these ports, of about ``size`` addresses: the small one below WHOLE. Another ``seed`` gives
    other words, dates and numbers."""
    hosts = (f"{OLD}:{old_port}", f"{FILES}:{old_port}", f"{NEW}:{new_port}")
    return Builder(*hosts, seed=seed).build() if size < WHOLE else WholeSite(*hosts, size, seed).build()


__all__ = ["SMALL", "WHOLE", "WholeSite", "build"]
