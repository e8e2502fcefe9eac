"""What can be read off one captured page, before anybody has decided anything about it."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass, field, fields
from typing import Any

from ..page import Page, text_of


@dataclass(slots=True)
class Facts:
    """Facts of one page. Counts are numbers of elements; ``words`` counts the words a visitor sees."""

    title: str = ""
    description: str = ""
    language: str = ""
    canonical: str = ""
    generator: str = ""
    robots: str = ""
    headings: list[str] = field(default_factory=list)  # the h1s
    words: int = 0
    links: int = 0
    pictures: int = 0
    pictures_without_alt: int = 0
    forms: int = 0
    embeds: int = 0
    scripts: int = 0
    refresh: str = ""
    text: str = ""  # a hash of the words a visitor sees

    def findings(self) -> list[str]:
        """What is odd about the page, as short sentences."""
        found = []
        if not self.title:
            found.append("no title")
        if len(self.headings) > 1:
            found.append(f"{len(self.headings)} first-level headings")
        if not self.headings:
            found.append("no first-level heading")
        if self.pictures_without_alt:
            found.append(f"{self.pictures_without_alt} pictures without alt text")
        if self.forms:
            found.append(f"{self.forms} forms")
        if self.embeds:
            found.append(f"{self.embeds} embeds")
        if self.words < 20 and self.scripts >= 6:
            found.append("content may be built in the browser")
        if self.refresh:
            found.append("meta refresh")
        return found

    def as_json(self) -> dict[str, Any]:
        return {name: getattr(self, name) for name in _NAMES}


_NAMES = tuple(f.name for f in fields(Facts))


def read_facts(page: Page) -> Facts:
    """One walk over the page's nodes."""
    facts = Facts()
    words = 0
    text = hashlib.blake2b(digest_size=12)
    for node in page.nodes:
        tag = node.tag
        if not tag:
            if node.visible:
                seen = node.text.split()
                if seen:
                    words += len(seen)
                    text.update(" ".join(seen).encode("utf-8", "surrogatepass") + b"\n")
            continue
        if tag == "title":
            if not facts.title and (node.parent is None or node.parent.tag != "svg"):
                facts.title = text_of(page, node, hidden=True)
        elif tag == "html":
            facts.language = node.get("lang") or node.get("xml:lang")
        elif tag == "meta":
            name = (node.get("name") or node.get("property")).lower()
            content = node.get("content").strip()
            if name == "description":
                facts.description = content
            elif name == "generator":
                facts.generator = content
            elif name == "robots":
                facts.robots = content
            elif node.get("http-equiv").lower() == "refresh" and ";" in content:
                facts.refresh = content
        elif tag == "link":
            if "canonical" in node.get("rel").lower().split():
                facts.canonical = node.get("href")
        elif tag == "h1":
            facts.headings.append(text_of(page, node))
        elif tag == "a":
            facts.links += 1
        elif tag == "img":
            facts.pictures += 1
            if "alt" not in node.attrs:
                facts.pictures_without_alt += 1
        elif tag == "form":
            facts.forms += 1
        elif tag in ("iframe", "embed", "object"):
            facts.embeds += 1
        elif tag == "script" and node.get("src"):
            facts.scripts += 1
    facts.words = words
    facts.text = text.hexdigest()
    return facts
