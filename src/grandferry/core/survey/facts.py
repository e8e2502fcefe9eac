"""What can be read off one captured page, before anybody has decided anything about it."""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from operator import attrgetter
from typing import Any

FEW_WORDS = 20
MANY_SCRIPTS = 6


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
    comments: int = 0  # of visitors, each by its element
    menus: int = 0  # navigation blocks
    embeds: int = 0
    scripts: int = 0
    refresh: str = ""
    words_hash: str = ""  # of the words a visitor sees
    near: str = ""  # a fingerprint of them: few bits differ where few words do ("" below 20 words)
    alternates: int = 0
    insecure: int = 0  # files it asks for without encryption, though it came with it
    structured: list[str] = field(default_factory=list)  # the types named by JSON-LD
    secrets: list[str] = field(default_factory=list)  # keys that stand in the page's code, masked
    bare: bool = False  # a script, and beside menus, head and foot hardly a word and nothing else

    @property
    def built_by_scripts(self) -> bool:
        """Whether the page seems to show its content only when its scripts run: hardly a word, and many script files,
        or nothing of its own but a script."""
        return self.bare or (self.words < FEW_WORDS and self.scripts >= MANY_SCRIPTS)

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
        if self.built_by_scripts:
            found.append("content may be built in the browser")
        if self.refresh:
            found.append("meta refresh")
        if self.insecure:
            found.append(f"{self.insecure} files asked for without encryption")
        if self.secrets:
            found.append(f"{len(self.secrets)} keys in the page's code")
        return found

    def as_json(self) -> dict[str, Any]:
        return dict(zip(_NAMES, _values(self), strict=True))

    def __reduce__(self) -> tuple[Any, ...]:
        return Facts, _values(self)  # handed to another process by its values alone, which is quicker


_NAMES = tuple(f.name for f in fields(Facts))
_values = attrgetter(*_NAMES)
