"""The old site of the Quillmere Valley Railway in its small size: about 120 addresses on two hosts."""

from __future__ import annotations

import re
from html import escape
from importlib import resources
from typing import Any

from . import markup, pictures
from .material import CAPTIONS, ENGINES, FILM, MONTHS, NEWER, PAGES, PEOPLE, QUESTIONS, TOPICS
from .site import SEED, Answer, Parts, Site, slug

POSTS = 38
PER_LIST = 10
CODE = (
    'def set_points(box, lever):\n\tif box["locked"] & 1 < lever:\n\t\treturn None  # <locked>\n\treturn lever * 2  \n'
)


class Builder(Parts):
    """Builds the small site; ``posts``: how many news posts it has."""

    log_lines = 4000
    more_links = ""

    def __init__(self, old: str, files: str, new: str, posts: int = POSTS, seed: int = SEED):
        super().__init__(old, files, new, seed)
        self.posts = posts

    # --- kinds --------------------------------------------------------------------------------------

    def news(self) -> list[tuple[str, str]]:
        """The posts, newest last; gives (key, title) for the lists."""
        w, r = self.writer, self.random
        made = []
        used: dict[str, int] = {}
        for number in range(self.posts):
            year, month = 2017 + number * 8 // max(self.posts, 1), 1 + number * 5 % 12
            day = 1 + number * 7 % 28
            title = w.title()
            used[title] = used.get(title, 0) + 1
            style = markup.STYLES[number % len(markup.STYLES)]
            tail = slug(title)[:40].strip("-") + (f"-{used[title]}" if used[title] > 1 else "")
            key = f"/news/{year}/{month:02d}/{tail}.htm"
            if (self.old, key) in self.site.answers:
                key = key.replace(".htm", "-b.htm")
            body = self._story(number, style)
            tags = r.sample(TOPICS, 1 + number % 3)
            author = PEOPLE[number % len(PEOPLE)]
            posted = f"{day} {MONTHS[month - 1]} {year}"
            content = (
                f'<h1>{escape(title)}</h1>\n<p class="posted">Posted on {posted} by <span '
                f'class="by">{author}</span></p>\n'
                f'<div class="story">{markup.render(body, style)}\n<div class="share">Tell a friend: '
                '<a href="http://elsewhere.localhost/post">post it</a></div></div>\n'
                '<p class="tags">Filed under: ' + ", ".join(f'<a href="/news/?tag={t}">{t}</a>' for t in tags) + "</p>"
            ) + self.comments(number)
            declared = style != "latin"
            self.html(
                key,
                title,
                content,
                charset="utf-8" if declared else "windows-1252",
                declared=declared,
                body_class="post",
            )
            new = self.place(f"/news/{year}/{slug(title)}")
            made.append((key, title, posted, author, tags, body, style, year, new))
        # two items of the same place get theirs in the order of their old keys
        clashes: dict[str, list[Any]] = {}
        for row in sorted(made):
            clashes.setdefault(f"/news/{row[7]}/{slug(row[1])}", []).append(row)
        for path, rows in clashes.items():
            for count, row in enumerate(rows, 1):
                key, title, posted, author, tags, body, style, year, _ = row
                new = path if count == 1 else f"{path}-{count}"
                d, m, y = posted.split()
                iso = f"{y}-{MONTHS.index(m) + 1:02d}-{int(d):02d}"
                fields = {"title": title, "published": iso, "author": author, "topics": tags}
                self.true(key, "news", "post", fields, body, new, style=style)
        return [(row[0], row[1]) for row in made]

    def comments(self, number: int) -> str:
        """What readers wrote below a post."""
        return ""

    def _story(self, number: int, style: str) -> list[Any]:
        w = self.writer
        body: list[Any] = [("paragraph", w.paragraph())]
        if style == "latin":
            body.append(
                ("paragraph", "The café at Osmer Halt – “the best tea on the line” – charges £2 for a naïve bun.")
            )
        if number % 3 == 0:
            src = self.picture(f"/pictures/news-{number}.png", 100 + number)
            body.append(("figure", src, f"View {number} of the line", f"The line near Tarn Head, view {number}."))
        if number % 4 == 1:
            body.append(("list", False, [w.sentence(), (w.sentence(), ["Gloves", "A *good* torch"]), w.sentence()]))
        if number % 5 == 2:
            body.append(("quote", w.sentence()))
        if number % 6 == 3:
            body.append(
                (
                    "table",
                    [
                        ["Train", "Leaves", "Arrives"],
                        ["First", ("10.15", 1, 2), "10.52"],
                        ["Second", "11.30"],
                        [("No trains on Mondays", 3, 1)],
                    ],
                )
            )
        body.append(("heading", 2, "What happens next"))
        body.append(
            (
                "paragraph",
                f"{w.sentence()} See **our** [timetable](/visit/timetable.htm) or the "
                f"[page of the engine](/engines.aspx?id={1 + number % len(ENGINES)}&PHPSESSID=a{number:03d}#specs).",
            )
        )
        if number % 7 == 4:
            body += [("rule",), ("list", True, [w.sentence(), w.sentence()])]
        return body

    def news_lists(self, posts: list[tuple[str, str]]) -> None:
        pages = [posts[i : i + PER_LIST] for i in range(0, len(posts), PER_LIST)]
        for number, rows in enumerate(pages, 1):
            key = "/news/" if number == 1 else f"/news/?page={number}"
            links = "".join(f'<li><a href="{k}">{escape(t)}</a></li>' for k, t in rows)
            more = f'<p><a href="/news/?page={number + 1}">Older news</a></p>' if number < len(pages) else ""
            self.html(key, "News", f'<h1>News</h1><ul class="list">{links}</ul>{more}', body_class="list-page")
            self.fate(key, "stays" if number == 1 else "merged", "/news/")
        for tag in TOPICS:
            self.html(
                f"/news/?tag={tag}",
                f"News: {tag}",
                f"<h1>News: {tag}</h1><p>All about {tag.lower()}.</p>",
                body_class="list-page",
            )
            if any(tag in p["fields"].get("topics", []) for p in self.site.truth["pages"].values()):
                self.fate(f"/news/?tag={tag}", "merged", "/news/")

    def engines(self) -> None:
        w = self.writer
        for number, (name, plate, builder, built, wheels, weight, state) in enumerate(ENGINES, 1):
            key = f"/engines.aspx?id={number}"
            lead = self.picture(f"/pictures/engine {number}.png".replace(" ", "%20"), number)
            body: list[Any] = [("paragraph", w.paragraph()), ("heading", 3, "In service"), ("paragraph", w.paragraph())]
            if number % 4 == 0:
                body.append(
                    (
                        "definitions",
                        [("Regulator", "Lets steam *into* the cylinders."), ("Sandbox", "Helps on wet rails.")],
                    )
                )
            style = markup.STYLES[(number * 3) % 6]
            rows = [
                ("Number", plate),
                ("Builder", builder),
                ("Built", str(built)),
                ("Wheels", wheels),
                ("Weight", f"{weight} tons"),
                ("State", state),
            ]
            table = "".join(f"<tr><td><b>{a}:</b></td><td>{escape(b)}</td></tr>" for a, b in rows)
            content = (
                f'<table width="100%" border="0"><tr><td valign="top"><h1>{escape(name)}</h1>'
                f'<img class="lead" src="{lead}" alt="{escape(name)}"><div '
                f'id="history">{markup.render(body, style)}</div></td>'
                f'<td valign="top"><table class="data">{table}</table></td></tr></table>'
            )
            self.html(key, name, content, body_class="engine")
            fields = {
                "title": name,
                "number": plate,
                "builder": builder,
                "built": built,
                "wheels": wheels,
                "weight": int(weight),
                "state": state,
            }
            self.true(key, "engine", "engine", fields, body, self.place(f"/engines/{slug(name)}"), style=style)
        cards = "".join(
            f'<div class="card"><a href="/engines.aspx?id={n}"><b>{escape(e[0])}</b></a> <i>{e[4]}</i></div>'
            for n, e in enumerate(ENGINES, 1)
        )
        self.html("/engines.aspx", "Engines", f"<h1>Our engines</h1>{cards}", body_class="list-page")
        self.fate("/engines.aspx", "moved", "/engines/")

    def questions(self) -> None:
        links = []
        for topic, pairs in QUESTIONS.items():
            key = "/help/" + "".join(word.capitalize() for word in re.findall(r"[A-Za-z]+", topic)) + ".htm"
            body: list[Any] = [("paragraph", f"What people ask us about {topic.lower()}.")]
            body += [("disclosure", q, a) for q, a in pairs]
            self.html(
                key,
                topic,
                f'<h1>{escape(topic)}</h1><div class="faq">{markup.render(body, "clean")}</div>',
                body_class="help",
            )
            self.true(key, "question", "help", {"title": topic}, body, self.place(f"/questions/{slug(topic)}"))
            links.append(f'<li><a href="{key}">{escape(topic)}</a></li>')
        self.html("/help/", "Questions", f"<h1>Questions</h1><ul>{''.join(links)}</ul>", body_class="list-page")
        self.fate("/help/", "moved", "/questions/")

    def pages(self) -> None:
        w = self.writer
        for number, (folder, name, title) in enumerate(PAGES):
            key = f"/{folder}/{name}.htm"
            body: list[Any] = [("paragraph", w.paragraph()), ("paragraph", w.paragraph())]
            if name == "timetable":
                body.append(
                    (
                        "table",
                        [
                            ["Station", "Red days", "Blue days"],
                            ["Quillmere Town", "10.15", ("no trains", 1, 2)],
                            ["Tarn Head", "10.52"],
                        ],
                    )
                )
                body.append(("file", "/docs/Summer%20Timetable.pdf", "Summer timetable (PDF)"))
            if name == "glossary":
                body.append(
                    (
                        "definitions",
                        [("Ash pan", "Catches what the fire drops."), ("Token", "Leave to be on a *single* line.")],
                    )
                )
            if name == "models":
                body += [("heading", 2, "The program"), ("code", "python", CODE.rstrip("\n"))]
            if name == "museum":
                body.append(("embed", f"http://{self.files}/map.html", "Map of the museum"))
            if name == "walks":
                body.append(("list", False, [("Up", [("Fennick Bridge", ["The stile"])]), "Down"]))
            body += NEWER.get(name, [])
            if name == "board":
                shots = [(self.picture(f"/pictures/board-{n}.png", 60 + n), f"Member {n}") for n in range(1, 4)]
                body.append(("gallery", [(small, alt, small) for small, alt in shots]))
            if name == "tea-room":
                body.append(("shown", self.picture("/pictures/tea-room.png", 81), "The tea room"))
                large, less = self.picture("/pictures/cakes.png", 82), self.picture("/pictures/cakes-320.png", 83)
                body.append(("sized", less, large, "Cakes", "Cakes, *while they last*."))
            if name == "museum":
                first = self.picture("/pictures/first-train.png", 84)
                film, said = f"http://{self.files}/docs/first-train.mp4", f"http://{self.files}/docs/first-train.vtt"
                self.put(self.files, "/docs/first-train.mp4", Answer(200, "video/mp4", FILM))
                self.put(self.files, "/docs/first-train.vtt", Answer(200, "text/vtt", CAPTIONS))
                body.append(("film", film, first, said))
            if name == "history":
                body.append(
                    (
                        "figure",
                        self.picture("/pictures/opening-day.png", 77),
                        "Opening day",
                        "Opening day, as *painted*.",
                    )
                )
            style = markup.STYLES[number % 6]
            inner = f"<h1>{escape(title)}</h1>{markup.render(body, style)}"
            if number % 3 == 0:  # a whole page laid out in a table, as it was done
                inner = f'<table border=0 width="100%"><tr><td class="main">{inner}</td></tr></table>'
            else:
                inner = f'<div class="main">{inner}</div>'
            self.html(key, title, inner, body_class="page")
            section = {"about": "railway", "visit": "visit", "Volunteer": "volunteer"}[folder]
            self.true(key, "page", "page", {"title": title}, body, self.place(f"/{section}/{slug(title)}"), style=style)

    def home(self) -> None:
        body: list[Any] = [
            ("paragraph", "Nine miles of line, twelve engines, and **one** bicycle."),
            ("paragraph", "Trains run every weekend from [Quillmere Town](/visit/timetable.htm)."),
        ]
        content = f'<h1>Welcome aboard</h1><div class="main">{markup.render(body, "clean")}</div>'
        feed = '<link rel="alternate" type="application/rss+xml" href="/news.rss">'
        extra = (
            '<p class="quick"><a href="/steam">Steam today</a> <a href="/go/gala">Gala</a> <a href="/ring/a">Web '
            "ring</a> "
            '<a href="/guestbook.htm">Guest book</a> <a href="/private/rota.htm">Rota</a> <a '
            'href="/index.htm">Home</a> '
            '<a href="/visit/Poster.png">Poster</a> <a href="mailto:signal@quillmere.localhost">Mail</a> '
            f"{self.more_links}</p>"
        )
        for key in ("/", "/index.htm"):
            self.html(key, "Welcome aboard", content + extra, head=feed, body_class="home")
        self.true("/", "home", "home", {"title": "Welcome aboard"}, body, "/")
        self.fate("/index.htm", "merged", "/")
        self.site.truth["dead_links"].append("/guestbook.htm")

    def odds_and_ends(self, posts: list[tuple[str, str]]) -> None:
        def redirect(key: str, to: str, status: int) -> None:
            self.put(self.old, key, Answer(status, "text/html", b"<p>Moved.</p>", to))

        gala = posts[len(posts) // 2][0]
        pages = self.site.truth["pages"]
        redirect("/steam", "/go/steam", 301)
        redirect("/go/steam", f"http://{self.old}/engines.aspx?id=3", 302)
        redirect("/go/gala", gala, 302)
        redirect("/ring/a", "/ring/b", 302)
        redirect("/ring/b", "/ring/a", 302)
        for key, target in (
            ("/steam", pages["/engines.aspx?id=3"]["new"]),
            ("/go/steam", pages["/engines.aspx?id=3"]["new"]),
            ("/go/gala", pages[gala]["new"]),
        ):
            self.fate(key, "merged", target)
        self.fate("/ring/a", "retired")
        self.fate("/ring/b", "retired")
        # asked for by visitors, gone long since
        for key in ("/brochure-2009.htm", "/shop/mugs.htm"):
            self.fate(key, "retired")
        # known only from the sitemap, and only from the log
        for key, title in (("/about/trustees-2011.htm", "Trustees of 2011"), ("/visit/platform-2.htm", "Platform two")):
            body: list[Any] = [("paragraph", self.writer.paragraph())]
            self.html(
                key, title, f'<div class="main"><h1>{title}</h1>{markup.render(body, "clean")}</div>', body_class="page"
            )
            section = "railway" if "about" in key else "visit"
            self.true(key, "page", "page", {"title": title}, body, self.place(f"/{section}/{slug(title)}"))
        self.put(
            self.old,
            "/docs/Summer%20Timetable.pdf",
            Answer(200, "application/pdf", pictures.leaflet("Summer timetable")),
        )
        self.fate("/docs/Summer%20Timetable.pdf", "moved", "/media/summer-timetable.pdf")
        self.put(self.old, "/visit/Poster.png", Answer(200, "image/png", pictures.engine_picture(900)))
        self.fate("/visit/Poster.png", "moved", "/media/poster.png")
        self.put(
            self.old,
            "/img/blank.gif",
            Answer(
                200,
                "image/gif",
                bytes.fromhex("47494638396101000100800000ffffff00000021f90401000000002c00000000010001000002024401003b"),
            ),
        )
        css = resources.files("grandferry.demo").joinpath("style.css").read_bytes()
        self.put(self.old, "/style.css", Answer(200, "text/css", css))
        self.put(self.old, "/img/paper.png", Answer(200, "image/png", pictures.paper()))
        script = (
            "function flip(id) { var e = document.getElementById(id); e.style.display = e.style.display ? '' : 'none' }"
        )
        self.put(self.old, "/flip.js", Answer(200, "application/javascript", script.encode()))
        for key in ("/style.css", "/flip.js", "/img/blank.gif", "/img/paper.png", "/sitemap.xml", "/news.rss"):
            self.fate(key, "set aside")
        items = "".join(
            f"<item><title>{escape(t)}</title><link>http://{self.old}{k}</link></item>" for k, t in posts[-5:]
        )
        rss = f'<?xml version="1.0"?><rss version="2.0"><channel><title>News</title>{items}</channel></rss>'
        self.put(self.old, "/news.rss", Answer(200, "application/rss+xml", rss.encode()))
        named = ["/", "/about/trustees-2011.htm", *(k for k, _ in posts[:6])]
        urls = "".join(f"<url><loc>http://{self.old}{escape(k)}</loc></url>" for k in named)
        self.put(
            self.old,
            "/sitemap.xml",
            Answer(
                200,
                "application/xml",
                (
                    '<?xml version="1.0" encoding="UTF-8"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">'
                    f"{urls}</urlset>"
                ).encode(),
            ),
        )
        robots = f"User-agent: *\nDisallow: /private/\n\nSitemap: http://{self.old}/sitemap.xml\n"
        self.put(self.old, "/robots.txt", Answer(200, "text/plain", robots.encode()))
        self.html("/private/rota.htm", "Rota", "<h1>Rota</h1>")
        self.put(self.files, "/badge.svg", Answer(200, "image/svg+xml", pictures.badge()))
        self.put(self.files, "/map.html", Answer(200, "text/html", b"<!DOCTYPE html><title>Map</title><p>A map.</p>"))

    def access_log(self) -> None:
        """Combined Log Format: people on the site's addresses, and robots who count for nothing."""
        keys = [
            k
            for (host, k), a in self.site.answers.items()
            if host == self.old and k not in ("/robots.txt", "/private/rota.htm", "/ring/a", "/ring/b")
        ]
        keys += ["/brochure-2009.htm"] * 3 + ["/shop/mugs.htm"] * 2 + ["/visit/platform-2.htm"] * 4
        agents = [
            "Mozilla/5.0 (X11; Linux) Lantern/4.1",
            "Mozilla/5.0 (Tablet) Harbour/12",
            "Quarrybot/2.0 (+http://quarry.localhost/bot)",
        ]
        for number in range(self.log_lines):
            r = self.random
            key = r.choice(keys)
            agent = agents[2] if r.random() < 0.2 else agents[number % 2]
            answer = self.site.answers.get((self.old, key))
            status = answer.status if answer else 404
            size = len(answer.body) if answer else 180
            self.site.log.append(
                f"10.{r.randrange(256)}.{r.randrange(256)}.{r.randrange(1, 255)} - - "
                f"[{1 + number % 28:02d}/Mar/2026:{number % 24:02d}:{number % 60:02d}:11 +0000] "
                f'"GET {key} HTTP/1.1" {status} {size} "-" "{agent}"'
            )

    def parts(self, posts: list[tuple[str, str]]) -> None:
        """What a larger site has beside."""

    def build(self) -> Site:
        posts = self.news()
        self.engines()
        self.questions()
        self.pages()
        self.home()
        self.news_lists(posts)
        self.odds_and_ends(posts)
        self.parts(posts)
        self.access_log()
        counts: dict[str, int] = {}
        for fate, _ in self.site.truth["fates"].values():
            counts[fate] = counts.get(fate, 0) + 1
        self.site.truth["fate_counts"] = counts
        return self.site
