"""robots.txt as RFC 9309 says: groups, longest match, ``*`` and ``$``, plus the common crawl delay."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from ..address import fold_percent

SIZE_CAP = 500 * 1024  # RFC 9309 section 2.5: at least 500 KiB must be parsed
_LINE = re.compile(r"^\s*([A-Za-z-]+)\s*:\s*(.*?)\s*$")


@dataclass(slots=True)
class Group:
    agents: list[str] = field(default_factory=list)
    rules: list[tuple[bool, str]] = field(default_factory=list)  # (allowed, path pattern)
    delay: float | None = None


@dataclass(slots=True)
class Robots:
    """A parsed robots.txt; ``sitemaps`` are the addresses it names."""

    groups: list[Group] = field(default_factory=list)
    sitemaps: list[str] = field(default_factory=list)

    def _for(self, agent: str) -> list[Group]:
        product = re.split(r"[/\s]", agent.lower(), maxsplit=1)[0]
        named = [g for g in self.groups if any(name == product for name in g.agents)]
        return named or [g for g in self.groups if "*" in g.agents]

    def allows(self, agent: str, key: str) -> bool:
        """Whether ``agent`` may fetch ``key`` (path with query). /robots.txt itself is always allowed."""
        if key == "/robots.txt":
            return True
        key = fold_percent(key)
        best = (-1, True)
        for group in self._for(agent):
            for allowed, pattern in group.rules:
                if pattern and _matches(pattern, key):
                    # the longest pattern wins; of two as long, the one that allows (section 2.2.2)
                    best = max(best, (len(pattern), allowed))
        return best[1]

    def delay(self, agent: str) -> float:
        """Seconds the site asks to be left between requests (0 when it asks for none)."""
        return max((g.delay for g in self._for(agent) if g.delay is not None), default=0.0)


def _matches(pattern: str, key: str) -> bool:
    if "*" not in pattern and not pattern.endswith("$"):
        return key.startswith(pattern)
    anchored = pattern.endswith("$")
    pieces = (pattern[:-1] if anchored else pattern).split("*")
    if not key.startswith(pieces[0]):
        return False
    at = len(pieces[0])
    for number, piece in enumerate(pieces[1:], 2):
        if anchored and number == len(pieces):
            return key.endswith(piece) and len(key) - len(piece) >= at
        at = key.find(piece, at)
        if at < 0:
            return False
        at += len(piece)
    return not anchored or at == len(key)


def parse_robots(text: str) -> Robots:
    """Read robots.txt; what cannot be read in it is passed over, as the RFC asks."""
    robots = Robots()
    group: Group | None = None
    naming = False
    for line in text.lstrip("\ufeff").splitlines():
        match = _LINE.match(line.split("#", 1)[0])
        if not match:
            continue
        name, value = match[1].lower(), match[2]
        if name == "user-agent":
            if group is None or not naming:
                group = Group()
                robots.groups.append(group)
            group.agents.append(re.split(r"[/\s]", value.lower(), maxsplit=1)[0])
            naming = True
        elif name == "sitemap":
            robots.sitemaps.append(value)
        elif group is not None:
            naming = False
            if name in ("allow", "disallow"):
                group.rules.append((name == "allow", fold_percent(value)))
            elif name == "crawl-delay":
                try:
                    group.delay = max(0.0, min(float(value), 300.0))
                except ValueError:
                    pass
    return robots
