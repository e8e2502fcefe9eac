"""The corners that twenty years have left on the whole old site: prints, twins, forms, a members' list, a calendar
without end, a part built by scripts, short links, papers, sitemaps in parts."""

from __future__ import annotations

import gzip
from html import escape
from typing import Any

from . import markup, pictures
from . import wider_material as more
from .material import ENGINES, MONTHS, PAGES
from .oldsite import Builder
from .site import Answer, slug


class Corners(Builder):
    """What no kind holds."""

    def corners(self) -> None:
        """What no kind holds: prints, twins, forms, a members' list, a calendar without end, a part built by
        scripts."""
        pages = self.site.truth["pages"]
        prints = []
        for number, engine in enumerate(ENGINES, 1):
            key = f"/print.aspx?id={number}"
            self.html(
                key,
                engine[0],
                f"<h1>{escape(engine[0])}</h1><p>{self.writer.sentence()}</p>",
                head=f'<link rel="canonical" href="http://{self.old}/engines.aspx?id={number}">',
                body_class="print",
            )
            self.fate(key, "merged", pages[f"/engines.aspx?id={number}"]["new"])
            prints.append(f'<a href="{key}">{number}</a>')
        for folder, name, title in PAGES[:10]:  # the same page under another case, as the old machine allowed
            key, twin = f"/{folder}/{name}.htm", f"/{folder.upper()}/{name.capitalize()}.htm"
            self.site.answers[(self.old, twin)] = self.site.answers[(self.old, key)]
            self.fate(twin, "merged", pages[key]["new"])
            prints.append(f'<a href="{twin}">{escape(title)}</a>')
        self.html("/visit/index.htm", "Visit", "<h1>Visit us</h1><p>Come and see.</p>", body_class="list-page")
        self.site.answers[(self.old, "/visit/")] = self.site.answers[(self.old, "/visit/index.htm")]
        self.html(
            "/visit/caf%C3%A9.htm", "Café", f"<h1>Café</h1><p>{self.writer.paragraph()}</p>", body_class="list-page"
        )
        for key in ("/visit/", "/visit/index.htm", "/visit/caf%C3%A9.htm"):
            self.fate(key, "stays" if key == "/visit/" else "merged", "/visit/")
        self.html("/links.htm", "Old ways in", f"<h1>Old ways in</h1><p>{' '.join(prints)}</p>", body_class="odd")
        self.fate("/links.htm", "retired")
        members = []
        for number, name in enumerate(more.MEMBERS, 1):
            key = f"/members/profile.php?id={number}"
            self.html(key, name, f"<h1>{name}</h1><p>Member since {1990 + number}.</p>", body_class="odd")
            self.fate(key, "set aside")
            members.append(f'<a href="{key}">{name}</a>')
        self.html("/members/", "Members", f"<h1>Members</h1><p>{' '.join(members)}</p>", body_class="odd")
        self.fate("/members/", "retired")
        self._forms()
        self._by_scripts()
        self._calendar()
        self.html(
            "/welcome.htm",
            "Welcome",
            "<p>One moment.</p>",
            head='<meta http-equiv="refresh" content="0; url=/">',
            body_class="odd",
        )
        self.fate("/welcome.htm", "merged", "/")
        self.html("/wares/teapot.htm", "Sorry", "<h1>Sorry</h1><p>What you look for is not here.</p>", body_class="odd")
        self.fate("/wares/teapot.htm", "retired")  # says so, and answers 200
        self.site.locked["/committee/"] = ("committee", "lantern")
        self.html("/committee/", "Committee", "<h1>Committee</h1><p>Minutes of the committee.</p>", body_class="odd")
        self.fate("/committee/", "set aside")
        self._redirects()
        self._documents()

    def _forms(self) -> None:
        """Four kinds of form: a search, a letter, a sign-up, an order."""
        inner = {
            "/search.htm": ("Search", '<form action="/search.htm"><input name="q"><button>Find</button></form>'),
            "/about/write.htm": (
                "Write a letter",
                '<form method="post" action="/cgi/mail"><input name="from"><textarea name="text"></textarea></form>',
            ),
            "/about/newsletter.htm": (
                "Newsletter",
                '<form method="post" action="http://letters.localhost/join"><input type="email" name="e"></form>'
                '<script>var apiKey = "k7Qz41xWm09TnB5cYv83";</script>',
            ),
            "/shop/basket.aspx": (
                "Basket",
                '<form method="post" action="/shop/pay.aspx"><input name="card"><button>Pay</button></form>',
            ),
        }
        for key, (title, form) in inner.items():
            self.html(key, title, f"<h1>{title}</h1>{form}", body_class="odd")
            self.fate(key, "set aside" if "basket" in key else "retired")

    def _by_scripts(self) -> None:
        script = (
            "var d = document.getElementById('board'); var t = ['10.15 Tarn Head', '11.30 Saltmarrow Quay', '12.05 "
            "Osmer Halt'];d.innerHTML = '<h1>Departures</h1>' + t.map(function (x) { return '<p>The ' + x + ' train "
            "leaves from platform one, calling at every halt on the way.</p>' }).join('');"
        )
        loads = "".join(f'<script src="/live/board.js?part={n}"></script>' for n in range(6))
        page = f'<!DOCTYPE html><title>Departures</title><body class="odd"><div id="board"></div>{loads}</body>'
        self.put(self.old, "/live/departures.htm", Answer(200, "text/html; charset=utf-8", page.encode()))
        self.fate("/live/departures.htm", "retired")
        for n in range(6):
            self.put(self.old, f"/live/board.js?part={n}", Answer(200, "application/javascript", script.encode()))
            self.fate(f"/live/board.js?part={n}", "set aside")

    def _calendar(self) -> None:
        """A calendar whose months never end."""

        def month(number: int) -> bytes:
            year, at = 2026 + number // 12, number % 12
            links = " ".join(
                f'<a href="/calendar.aspx?m={2026 + n // 12}-{n % 12 + 1:02}">{word}</a>'
                for n, word in ((number - 1, "Earlier"), (number + 1, "Later"))
            )
            days = "".join(f"<td>{day}</td>" + ("</tr><tr>" if day % 7 == 0 else "") for day in range(1, 29))
            return (
                f"<!DOCTYPE html><title>{MONTHS[at]} {year}</title><h1>{MONTHS[at]} {year}</h1>"
                f"<table><tr>{days}</tr></table><p>{links}</p><p>Trains run on days without a mark.</p>"
            ).encode()

        def answer(host: str, key: str) -> Answer | None:
            path, _, value = key.partition("?m=")
            year, dash, at = value.partition("-")
            if host != self.old or path != "/calendar.aspx" or not (dash and year.isdigit() and at.isdigit()):
                return None
            return Answer(200, "text/html; charset=utf-8", month((int(year) - 2026) * 12 + int(at) - 1))

        self.put(self.old, "/calendar.aspx", Answer(200, "text/html; charset=utf-8", month(4)))
        self.fate("/calendar.aspx", "merged", "/events/")
        self.site.makers.append(answer)

    def _redirects(self) -> None:
        """Short links printed on leaflets: most lead straight to their page, some in three steps."""
        keys = sorted(k for k, p in self.site.truth["pages"].items() if p["kind"] == "event")
        shorts = []
        for number, key in enumerate(keys[:24], 1):
            short = f"/e{number}"
            self.put(self.old, short, Answer((301, 302)[number % 2], "text/html", b"<p>Moved.</p>", key))
            self.fate(short, "merged", self.site.truth["pages"][key]["new"])
            shorts.append(f'<a href="{short}">{number}</a>')
        goal = self.site.truth["pages"][keys[30]]["new"]
        for step, to in (("/l1", "/l2"), ("/l2", "/l3"), ("/l3", keys[30])):
            self.put(self.old, step, Answer(301, "text/html", b"<p>Moved.</p>", to))
            self.fate(step, "merged", goal)
        shorts.append('<a href="/l1">leaflet</a>')
        self.html("/leaflets.htm", "Leaflets", f"<h1>Leaflets</h1><p>{' '.join(shorts)}</p>", body_class="odd")
        self.fate("/leaflets.htm", "retired")

    def _documents(self) -> None:
        links = []
        for number in range(1, 21):
            key, title = f"/docs/Minutes%20{number:02}.pdf", f"Minutes {number:02}"
            self.put(self.old, key, Answer(200, "application/pdf", pictures.leaflet(title)))
            self.fate(key, "moved", f"/media/minutes-{number:02}.pdf")
            links.append(f'<li><a href="{key}">{title}</a></li>')
        for name, type_, content in (
            ("whistle.mp3", "audio/mpeg", pictures.silence(2)),
            ("gala.mp4", "video/mp4", b"\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom" + bytes(2000)),
            ("panorama.png", "image/png", pictures.panorama()),
        ):
            self.put(self.old, f"/docs/{name}", Answer(200, type_, content))
            self.fate(f"/docs/{name}", "moved", f"/media/{name}")
            links.append(f'<li><a href="/docs/{name}">{name}</a></li>')
        same = pictures.engine_picture(5)  # one picture under three names, and a fourth on the other host
        for name in ("engine5.png", "engine5-copy.png", "engine5-final.png"):
            self.put(self.old, f"/docs/{name}", Answer(200, "image/png", same))
            self.fate(f"/docs/{name}", "moved" if name == "engine5.png" else "merged", "/media/engine-5.png")
            links.append(f'<li><img src="/docs/{name}"></li>')
        links.append('<li><img src="/docs/lost.png" alt="lost"></li>')
        links.append('<li style="background-image: url(/docs/panorama.png)">The valley from end to end</li>')
        self.site.truth["dead_links"].append("/docs/lost.png")
        video = '<iframe src="http://video.localhost/watch/7" title="The gala as a film"></iframe>'
        self.html("/docs/", "Papers", f"<h1>Papers</h1><ul>{''.join(links)}</ul>{video}", body_class="odd")
        self.fate("/docs/", "retired")
        # known only from the feed
        key, title = "/about/feed-only.htm", "For subscribers to our feed"
        body: list[Any] = [("paragraph", self.writer.paragraph())]
        self.html(
            key, title, f'<div class="main"><h1>{title}</h1>{markup.render(body, "clean")}</div>', body_class="page"
        )
        self.true(key, "page", "page", {"title": title}, body, self.place(f"/railway/{slug(title)}"))

    def sitemaps(self) -> None:
        """An index with parts, one of them packed; a page that stands in no other list."""
        keys = [k for k, p in self.site.truth["pages"].items() if p["kind"] in ("news", "newyddion")]
        news = "".join(f"<url><loc>http://{self.old}{escape(k)}</loc></url>" for k in keys)
        head = '<?xml version="1.0" encoding="UTF-8"?>'
        space = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"'
        part = f"{head}<urlset {space}>{news}</urlset>".encode()
        self.put(self.old, "/sitemap-news.xml.gz", Answer(200, "application/gzip", gzip.compress(part, mtime=0)))
        self.site.answers[(self.old, "/sitemap-pages.xml")] = self.site.answers[(self.old, "/sitemap.xml")]
        index = "".join(
            f"<sitemap><loc>http://{self.old}/{name}</loc></sitemap>"
            for name in ("sitemap-news.xml.gz", "sitemap-pages.xml")
        )
        self.put(
            self.old,
            "/sitemap.xml",
            Answer(200, "application/xml", f"{head}<sitemapindex {space}>{index}</sitemapindex>".encode()),
        )
        for key in ("/sitemap-news.xml.gz", "/sitemap-pages.xml"):
            self.fate(key, "set aside")
        feed = self.site.answers[(self.old, "/news.rss")]
        item = (
            f"<item><title>For subscribers</title><link>http://{self.old}/about/feed-only.htm</link></item></channel>"
        )
        feed.body = feed.body.replace(b"</channel>", item.encode())
        robots = self.site.answers[(self.old, "/robots.txt")]
        robots.body = b"User-agent: Slowbot\nCrawl-delay: 10\n\n" + robots.body
