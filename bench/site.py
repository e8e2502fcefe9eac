"""A made-up site of N pages for measuring: a tree of folders, about 14 kB a page, every page with two pictures."""

from __future__ import annotations

from pathlib import Path

from grandferry.demo import markup, pictures
from grandferry.demo.material import Writer

CHILDREN = 12


def make(folder: Path, pages: int) -> None:
    """Write ``pages`` pages below ``folder``; page k links to its parent, its children and eight others."""
    folder.mkdir(parents=True, exist_ok=True)
    writer = Writer(7)
    (folder / "pic").mkdir(exist_ok=True)
    for number in range(20):
        (folder / "pic" / f"{number}.png").write_bytes(pictures.engine_picture(number, 120, 80))
    (folder / "style.css").write_text("body { background: url(/pic/0.png) }", "utf-8")

    def path(number: int) -> str:
        return "/" if number == 0 else f"/f{number % 40}/page-{number}.html"

    for number in range(pages):
        body: list[tuple[object, ...]] = [("heading", 2, writer.sentence())]
        for part in range(28):
            body.append(("paragraph", writer.paragraph()))
            if part % 5 == 0:
                body.append(("list", False, [writer.sentence(), (writer.sentence(), ["one", "two"])]))
        body.append(("table", [["a", "b", "c"]] + [["1", "2", "3"]] * 6))
        links = [(number - 1) // CHILDREN] if number else []
        links += [k for k in range(number * CHILDREN + 1, number * CHILDREN + CHILDREN + 1) if k < pages]
        links += [(number * 31 + k * 97) % pages for k in range(8)]
        nav = "".join(f'<li><a href="{path(k)}">Page {k}</a></li>' for k in links)
        html = (
            f'<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><title>Page {number}</title><link '
            'rel="stylesheet" href="/style.css">'
            f'</head><body><div id="nav"><ul>{nav}</ul></div><div id="content"><h1>Page {number}</h1>'
            f'<img src="/pic/{number % 20}.png" alt="Engine '
            f'{number % 20}">{markup.render(body, markup.STYLES[number % 6])}</div></body></html>'
        )
        target = folder / (path(number).lstrip("/") or "index.html")
        target.parent.mkdir(exist_ok=True)
        target.write_text(html, "utf-8")
