"""The loss account of one page: where every word a visitor sees has gone.

Words are counted per text node (white-space separated runs). A node's words are kept when all of its
characters, white space aside, stand in the blocks under that node's number; so the account rests on
the blocks themselves and not on what the reader says it did.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from typing import Any

from ..page import Node, Page
from .blocks import CodeBlock, Island, Link, Picture, RawInline, Text, walk

MISSING_CAP = 200


@dataclass(frozen=True, slots=True)
class Missing:
    """A run of words that is not in the blocks. ``where``: element path; ``nodes``: the texts it stood in, in order;
    ``why``: a step or ""."""

    text: str
    where: str
    why: str
    nodes: tuple[int, ...]

    @property
    def node(self) -> int:
        return self.nodes[-1]


@dataclass(slots=True)
class Account:
    """Words by where they went, and [have, kept] of other things a person would count."""

    words: int = 0
    in_blocks: int = 0
    in_islands: int = 0
    in_fields: int = 0
    removed: dict[str, int] = field(default_factory=dict)  # by the name of the step
    furniture: int = 0
    unaccounted: int = 0
    links: list[int] = field(default_factory=lambda: [0, 0])
    pictures: list[int] = field(default_factory=lambda: [0, 0])
    headings: list[int] = field(default_factory=lambda: [0, 0])
    code_lines: list[int] = field(default_factory=lambda: [0, 0])
    islands: dict[str, int] = field(default_factory=dict)  # by element name
    missing: list[Missing] = field(default_factory=list)

    @property
    def kept(self) -> int:
        """Words that stand in blocks, islands or other fields."""
        return self.in_blocks + self.in_islands + self.in_fields

    def as_json(self) -> dict[str, Any]:
        """The published form (``refit --losses``), with the finer figures beside it."""
        return {
            "words": [self.words, self.kept],
            "links": self.links,
            "pictures": self.pictures,
            "headings": self.headings,
            "code_lines": self.code_lines,
            "in_blocks": self.in_blocks,
            "in_islands": self.in_islands,
            "in_fields": self.in_fields,
            "removed": self.removed,
            "furniture": self.furniture,
            "unaccounted": self.unaccounted,
            "islands": self.islands,
            "missing": [
                {"text": m.text, "where": m.where, "why": m.why, "node": m.node, "nodes": list(m.nodes)}
                for m in self.missing
            ],
        }


def path_of(node: Node) -> str:
    """The element path of a node, as ``body > div > p``."""
    parts = []
    up: Node | None = node if node.tag else node.parent
    while up is not None and up.tag != "html":
        parts.append(up.tag)
        up = up.parent
    return " > ".join(reversed(parts))


def _lost_words(have: str, kept: str) -> str:
    """The words of ``have`` that ``kept`` has not, in order."""
    mine, theirs = have.split(), kept.split()
    if not theirs or len(mine) > 5000:
        return " ".join(mine)
    matcher = SequenceMatcher(None, mine, theirs, autojunk=False)
    lost = [w for op, a, b, _, _ in matcher.get_opcodes() if op in ("delete", "replace") for w in mine[a:b]]
    return " ".join(lost)


def account(
    page: Page,
    region: list[Node],
    blocks: tuple[Any, ...],
    *,
    removed: dict[int, str] | None = None,
    in_fields: frozenset[int] = frozenset(),
    furniture: frozenset[int] = frozenset(),
    whole_page: bool = False,
) -> Account:
    """Account for the words in ``region`` (or of the whole page, where words outside the region must
    stand in a field or be proven furniture).

    ``removed``: number of each removed element -> the step's name. ``in_fields`` / ``furniture``: numbers
    of text nodes that other fields hold, or that the crossing has proven to be shared.
    """
    result = Account()
    kept: dict[int, str] = defaultdict(str)
    raw: dict[int, str] = defaultdict(str)
    links: set[int] = set()
    pictures: set[int] = set()
    island_spans: list[tuple[int, int]] = []
    headings = code_lines = 0
    for thing in walk(blocks):
        kind = type(thing)
        if kind is Text:
            kept[thing.node] += thing.text
        elif kind is Link:
            links.add(thing.node)
        elif kind is Picture:
            pictures.add(thing.node)
        elif kind is Island or kind is RawInline:
            result.islands[thing.tag] = result.islands.get(thing.tag, 0) + 1
            if thing.node >= 0:
                island_spans.append((thing.node, page.nodes[thing.node].last))
            for text in thing.words:
                raw[text.node] += text.text
        elif kind is CodeBlock:
            code_lines += thing.text.count("\n") + 1
        elif kind.__name__ == "Heading":
            headings += 1
    for node_number in raw:
        kept.pop(node_number, None)

    spans = sorted((n, page.nodes[n].last, name) for n, name in (removed or {}).items())
    regions = [(n.n, n.last) for n in region]
    candidates = page.nodes if whole_page else [m for n in region for m in page.inside(n)]
    result.headings[1], result.code_lines[1] = headings, code_lines
    at = 0
    step, step_end = "", -1
    islands = iter(sorted(island_spans))
    island_end = -1
    upcoming = next(islands, None)
    for node in candidates:
        n = node.n
        if n > step_end:
            step = ""
        while at < len(spans) and spans[at][0] <= n:
            if spans[at][1] >= n:
                step, step_end = spans[at][2], max(step_end, spans[at][1])
            at += 1
        while upcoming is not None and upcoming[0] <= n:
            island_end = max(island_end, upcoming[1])
            upcoming = next(islands, None)
        tag = node.tag
        if tag:
            if not node.visible or step or (whole_page and not _in(regions, n)):
                continue
            if tag == "a" and _shows(page, node) and not node.get("href").strip().lower().startswith("javascript:"):
                result.links[0] += 1
                result.links[1] += n in links or n <= island_end
            elif tag == "img" and (node.get("src") or node.get("data-src") or node.get("srcset")):
                result.pictures[0] += 1
                result.pictures[1] += n in pictures or n <= island_end
            elif tag in ("h1", "h2", "h3", "h4", "h5", "h6"):
                result.headings[0] += 1
            elif tag == "pre" and not (n <= island_end):
                text = "".join("\n" if t.tag == "br" else t.text for t in page.inside(node))
                if text.strip():
                    result.code_lines[0] += text.removesuffix("\n").count("\n") + 1
            continue
        if not node.visible:
            continue
        words = node.text.split()
        if not words:
            continue
        count = len(words)
        result.words += count
        if n in raw:
            result.in_islands += count
        elif step:
            result.removed[step] = result.removed.get(step, 0) + count
            _note(result, " ".join(words), node, step)
        elif n in kept and kept[n].split() == words or n in kept and "".join(kept[n].split()) == "".join(words):
            result.in_blocks += count
        elif n in in_fields:
            result.in_fields += count
        elif n in furniture:
            result.furniture += count
        else:
            lost = _lost_words(node.text, kept.get(n, ""))
            gone = len(lost.split())
            result.in_blocks += count - gone
            result.unaccounted += gone
            _note(result, lost, node, "")
    return result


def _shows(page: Page, node: Node) -> bool:
    """Whether a link has an address and anything to click on."""
    if not node.get("href").strip():
        return False
    return any(n.tag in ("img", "svg", "object") or (not n.tag and n.text.strip()) for n in page.inside(node))


def _in(regions: list[tuple[int, int]], n: int) -> bool:
    return any(first <= n <= last for first, last in regions)


def _note(result: Account, text: str, node: Node, why: str) -> None:
    if result.missing and result.missing[-1].why == why and result.missing[-1].where == path_of(node):
        last = result.missing[-1]
        if len(last.text) < 2000:
            result.missing[-1] = Missing(f"{last.text} {text}", last.where, why, (*last.nodes, node.n))
        return
    if len(result.missing) < MISSING_CAP:
        result.missing.append(Missing(text, path_of(node), why, (node.n,)))


__all__ = ["Account", "Missing", "account", "path_of"]
