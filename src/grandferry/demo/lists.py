"""The lists an owner hands over with the old site: what visitors looked at, an old sitemap, a sheet of what matters."""

from __future__ import annotations

import csv
import io
import random
from html import escape
from pathlib import Path
from typing import Any

from openpyxl import Workbook

from .material import PEOPLE, TOPICS, Writer
from .site import OLD, SEED, Site, slug

TABLE, SHEET, SITEMAP, EXPORT = "visits.csv", "important-pages.xlsx", "sitemap-2019.xml", "old-blog.xml"
FORGOTTEN = ("/about/trustees-1998.htm", "/gala2012.htm", "/shop/jigsaw-2008.htm")  # named in lists, long gone


def write_lists(folder: Path, site: Site) -> None:
    """Write the lists below ``folder``; the same site gives the same lists."""
    folder.mkdir(parents=True, exist_ok=True)
    r = random.Random(SEED)
    old = next(host for host, _ in site.answers if host.startswith(OLD))
    pages = sorted(site.truth["pages"])
    out = io.StringIO()
    table = csv.writer(out, delimiter=";", lineterminator="\r\n")
    table.writerow(["Rank", "Page address", "Views", "Share"])
    ranked = r.sample(pages, min(len(pages), 200)) + [FORGOTTEN[1]]
    for rank, key in enumerate(ranked, 1):
        views = 9000 // rank + r.randrange(9)
        table.writerow([rank, f"{old}{key}", f"{views:,}".replace(",", "."), f"{views / 500:.1f} %".replace(".", ",")])
    (folder / TABLE).write_text(out.getvalue(), "utf-8-sig")
    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "What must not be lost"
    sheet.append(["What", "Where", "Said by"])
    for key in [*r.sample(pages, 20), FORGOTTEN[0]]:
        sheet.append([key.rpartition("/")[2] or "Start", f"http://{old}{key}", r.choice(["Dilys", "Tom", "Petra"])])
    book.save(folder / SHEET)
    urls = "".join(f"<url><loc>http://{old}{escape(key)}</loc></url>\n" for key in [*pages[:60], FORGOTTEN[2]])
    (folder / SITEMAP).write_text(
        f'<?xml version="1.0"?>\n<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">\n{urls}</urlset>\n',
        "utf-8",
    )
    (folder / EXPORT).write_text(_blog_export(f"http://{old}", site), "utf-8")


_EXPORT = """<?xml version="1.0" encoding="UTF-8"?>
<rss version="2.0" xmlns:b="http://export.quillmere.localhost/1.2/" xmlns:dc="http://purl.org/dc/elements/1.1/"
 xmlns:content="http://purl.org/rss/1.0/modules/content/"
 xmlns:excerpt="http://export.quillmere.localhost/1.2/excerpt/"><channel><title>Tales from the footplate</title>
%s</channel></rss>
"""


def _blog_export(host: str, site: Site) -> str:
    """The export file of an older b: stories that the old site still shows, drafts and private notes that it never
    did, a story that is gone, files, and a sort of entry that only this blog has."""
    w = Writer(SEED + 7)  # of its own, so that all else is as without it
    shown = [key for key, page in sorted(site.truth["pages"].items()) if page["kind"] == "news"][:24]
    authors = "".join(
        f"<b:author><b:author_login>{slug(name)}</b:author_login>"
        f"<b:author_display_name>{escape(name)}</b:author_display_name></b:author>"
        for name in PEOPLE
    )
    entries = [
        _entry(w, n, "post", "publish", host + key, site.truth["pages"][key]["fields"])
        for n, key in enumerate(shown, 1)
    ]
    entries.append(_entry(w, 60, "post", "publish", f"{host}/blog/2009/lost-kettle.htm"))
    entries += [_entry(w, n, "post", "draft", f"{host}/blog/?p={n}") for n in range(71, 76)]
    entries += [_entry(w, n, "post", "private", f"{host}/blog/?p={n}") for n in range(81, 83)]
    entries += [_entry(w, n, "shed_log", "publish", "") for n in range(91, 98)]
    entries += [_entry(w, n, "attachment", "inherit", f"{host}/pictures/news-{3 * n}.png") for n in range(4)]
    return _EXPORT % (authors + "\n".join(entries))


def _entry(w: Writer, n: int, kind: str, state: str, address: str, said: dict[str, Any] | None = None) -> str:
    fields = said or {}
    title, author = fields.get("title") or w.title(), fields.get("author") or PEOPLE[n % len(PEOPLE)]
    day = fields.get("published") or f"20{9 + n % 9:02}-{1 + n % 12:02}-{1 + n % 27:02}"
    topics = fields.get("topics") or [TOPICS[n % len(TOPICS)]]
    tags = "".join(f'<category domain="post_tag"><![CDATA[{topic}]]></category>' for topic in topics)
    text = (
        f"{w.paragraph()}\n\nThe <em>kettle</em> was on. {w.sentence()}\n\n<ul><li>{w.sentence()}</li><li>Tea</li></ul>"
    )
    comments = "".join(
        f"<b:comment><b:comment_author>{escape(w.fill('{person}'))}</b:comment_author><b:comment_date_gmt>{day} "
        f"0{7 + c}:30:00</b:comment_date_gmt><b:comment_approved>{1 - c % 2}</b:comment_approved>"
        f"<b:comment_content><![CDATA[{w.sentence()}]]></b:comment_content></b:comment>"
        for c in range(n % 3 if kind == "post" else 0)
    )
    gmt = "0000-00-00 00:00:00" if state == "draft" else f"{day} 08:00:00"
    attached = f"<b:attachment_url>{address}</b:attachment_url>" if kind == "attachment" else ""
    engine = f"<b:postmeta><b:meta_key>engine</b:meta_key><b:meta_value>{1 + n % 9}</b:meta_value></b:postmeta>"
    return (
        f"<item><title>{escape(title)}</title><link>{escape(address)}</link><dc:creator>{slug(author)}</dc:creator>{tags}"
        f"<content:encoded><![CDATA[{text if kind != 'attachment' else ''}]]></content:encoded>"
        f"<b:post_id>{n}</b:post_id><b:post_date>{day} 09:00:00</b:post_date><b:post_date_gmt>{gmt}"
        f"</b:post_date_gmt><b:status>{state}</b:status><b:post_type>{kind}</b:post_type>{attached}"
        f"{engine if kind == 'shed_log' else ''}{comments}</item>"
    )
