"""The lists an owner hands over with the old site: what visitors looked at, an old sitemap, a sheet of what matters."""

from __future__ import annotations

import csv
import io
import random
from html import escape
from pathlib import Path

from openpyxl import Workbook

from .site import OLD, SEED, Site

TABLE, SHEET, SITEMAP = "visits.csv", "important-pages.xlsx", "sitemap-2019.xml"
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
