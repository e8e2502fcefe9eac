"""Two static generators that folders of Markdown are made for, set up as ``docs/folders.md`` says."""

from __future__ import annotations

import re
import subprocess
import sys
from collections import Counter
from pathlib import Path
from typing import NamedTuple
from urllib.parse import unquote

from lxml import html

from grandferry.core.land.names import served_file

ROOT = Path(__file__).parents[1]
_NJK = (
    '<!doctype html><html><head><meta charset="utf-8"><title>{{ title }}</title></head><body><p id="old">{{ old_address }}'
    '</p><time>{{ date_said }}</time><p id="tags">{% for tag in tags or [] %}<b>{{ tag }}</b>{% endfor %}</p><main>'
    "{{ content | safe }}</main></body></html>"
)
_JINJA = (
    '<!doctype html><html><head><meta charset="utf-8"><title>{{ it.title }}</title></head><body><p id="old">'
    '{{ it.old_address }}</p><time>{{ it.metadata.date and it.metadata.date.strftime("%Y-%m-%d") }}</time><p id="tags">'
    "{% for tag in it.tags or [] %}<b>{{ tag }}</b>{% endfor %}</p><main>{{ it.content }}</main></body></html>"
)
_BOXES = set("p li div td th br h1 h2 h3 h4 h5 h6 dt dd tr pre table ul ol dl blockquote figure figcaption".split())
_BOXES |= set("section summary details aside caption hr iframe form address".split())


def documented(language: str) -> str:
    """The settings that the documentation gives, in a language."""
    text = (ROOT / "docs" / "folders.md").read_text("utf-8")
    found = re.search(rf"```{language}\n(.*?)```", text, re.S)
    assert found is not None
    return found[1]


def build_eleventy(site: Path) -> Path:
    """Build the folder landed in ``site/landed``; gives the folder of what was built."""
    (site / "includes").mkdir()
    (site / "includes" / "item.njk").write_text(_NJK, "utf-8")
    more = '  config.addGlobalData("eleventyComputed", { date_said: (d) => d.page.date.toISOString().slice(0, 10) });\n'
    settings = documented("js").replace("  return {", more + "  return {")
    (site / "eleventy.config.mjs").write_text(settings, "utf-8")
    command = ["node", str(ROOT / "web" / "node_modules" / "@11ty" / "eleventy" / "cmd.cjs")]
    _ran([*command, "--config=eleventy.config.mjs", "--quiet"], site)
    return site / "built"


def build_pelican(site: Path) -> Path:
    """The same."""
    templates = site / "theme" / "templates"
    templates.mkdir(parents=True)
    for name in ("article", "page"):
        (templates / f"{name}.html").write_text(f"{{% set it = {name} %}}{_JINJA}", "utf-8")
    more = 'THEME = "theme"\nDIRECT_TEMPLATES = []\nAUTHOR_SAVE_AS = CATEGORY_SAVE_AS = TAG_SAVE_AS = ""\n'
    more += "FEED_ALL_ATOM = CATEGORY_FEED_ATOM = TRANSLATION_FEED_ATOM = AUTHOR_FEED_ATOM = AUTHOR_FEED_RSS = None\n"
    (site / "pelicanconf.py").write_text(documented("python") + more, "utf-8")
    command = [sys.executable, "-m", "pelican", "landed/content", "-s", "pelicanconf.py", "-o", "built"]
    _ran([*command, "--fatal", "errors", "-q"], site)
    return site / "built"


def _ran(command: list[str], site: Path) -> None:
    done = subprocess.run(command, cwd=site, capture_output=True, text=True, timeout=280)
    assert done.returncode == 0, (done.stdout + done.stderr)[-3000:]


GENERATORS = {"eleventy": build_eleventy, "pelican": build_pelican}


class Shown(NamedTuple):
    """What markup shows: its words in order; links, pictures and names of places by how often; its code."""

    words: list[str]
    links: Counter[str]
    pictures: Counter[str]
    names: set[str]
    code: list[str]


def shown(markup: str) -> Shown:
    tree = html.fromstring(f"<div>{markup}</div>")
    links = Counter(unquote(a.get("href") or "") for a in tree.iter("a") if a.get("href"))
    pictures = Counter(unquote(i.get("src") or "") for i in tree.iter("img"))
    names = {str(e.get("id") or e.get("name")) for e in tree.iter() if isinstance(e.tag, str) and e.get("id")}
    code = [re.sub(r"\s+", " ", pre.text_content()).strip() for pre in tree.iter("pre")]
    for element in list(tree.iter()):
        if not isinstance(element.tag, str):
            element.text = ""
        elif element.tag in _BOXES:
            element.text, element.tail = f" {element.text or ''}", f" {element.tail or ''}"
    return Shown(tree.text_content().split(), links, pictures, names, code)


class Built(NamedTuple):
    """A page as a generator built it."""

    title: str
    old: str
    date: str
    tags: list[str]
    main: Shown


def built_page(out: Path, address: str) -> Built | None:
    """The page that a server would give for an address, None when there is none."""
    file = out / served_file(address, "folder").lstrip("/")
    if not file.is_file():
        return None
    text = file.read_text("utf-8")
    tree = html.fromstring(text.encode())
    tags = [b.text_content() for b in tree.xpath("//p[@id='tags']/b")]
    main = re.search(r"<main>(.*)</main></body>", text, re.S)
    assert main is not None
    old = tree.xpath("string(//p[@id='old'])")
    return Built(tree.xpath("string(//title)"), old, tree.xpath("string(//time)"), tags, shown(main[1]))
