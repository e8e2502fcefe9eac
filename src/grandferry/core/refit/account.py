"""The loss account of one page: where every word a visitor sees has gone, and every link, picture, file, frame and
anchor.

Words are counted per text node (white-space separated runs). A node's words are kept when all of its
characters, white space aside, stand in the blocks under that node's number; so the account rests on
the blocks themselves and not on what the reader says it did. Things are counted from core.references over the region,
before any rule of the reader runs, and are kept when a block says the node they stand in.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from enum import StrEnum
from typing import Any

from ..filetypes import is_download
from ..page import Node, Page
from ..references import (
    ATTRIBUTES,
    MEDIA,
    PICTURES,
    background_source,
    media_source,
    picture_source,
    runs_script,
)
from .anchors import Aimed, aimed_at, places_of
from .blocks import (
    Anchor,
    Button,
    Code,
    CodeBlock,
    Disclosure,
    Embed,
    Form,
    Heading,
    Island,
    Link,
    Note,
    NoteRef,
    Picture,
    RawInline,
    Shot,
    Tab,
    Text,
    walk,
)

MISSING_CAP = 200


class Thing(StrEnum):
    """What is counted beside words. A link to a document is a link and a file."""

    LINKS = "links"
    PICTURES = "pictures"
    FILES = "files"
    FRAMES = "frames"
    ANCHORS = "anchors"
    BACKGROUNDS = "backgrounds"


class LostWhy(StrEnum):
    """Why a thing is not in the blocks."""

    UNEXPLAINED = ""
    STEP = "step"  # a clean-up step took it
    EMPTY = "empty"  # a link with nothing to click on
    SCRIPT = "script"  # an address that runs a script leads nowhere
    BACKDROP = "backdrop"  # a picture that lies under something else
    NESTED = "nested"  # a link around another one: a browser goes where that leads
    SCRIPTED = "scripted"  # an address that only a script uses, on an element that shows something else

    @property
    def is_open(self) -> bool:
        """Whether it is still for a person to look at: a visitor may miss it, and nobody has decided that it goes."""
        return self in (LostWhy.UNEXPLAINED, LostWhy.SCRIPTED)


@dataclass(frozen=True, slots=True)
class Lost:
    """A thing that is not in the blocks: its address (or name) as written, where it stood, and why."""

    what: Thing
    raw: str
    where: str
    node: int
    why: LostWhy
    step: str = ""
    links: int = 0  # that lead to it, of an anchor


@dataclass(slots=True)
class Count:
    """How many there are in the region before any rule runs, how many are in the blocks, how many a step took."""

    have: int = 0
    kept: int = 0
    removed: int = 0

    @property
    def lost(self) -> int:
        return self.have - self.kept - self.removed


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
class LossAccount:
    """Words by where they went, and [have, kept] of other things a person would count."""

    words: int = 0
    in_blocks: int = 0
    in_islands: int = 0
    in_fields: int = 0
    removed: dict[str, int] = field(default_factory=dict)  # by the name of the step
    furniture: int = 0
    unaccounted: int = 0
    things: dict[Thing, Count] = field(default_factory=lambda: {thing: Count() for thing in Thing})
    lost: list[Lost] = field(default_factory=list)  # the first MISSING_CAP of them
    unlisted: int = 0  # how many more there are
    aimed: int = 0  # links that lead to the anchors of the region
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
            **{thing.value: [count.have - count.removed, count.kept] for thing, count in self.things.items()},
            "things": {
                thing.value: {"have": c.have, "kept": c.kept, "removed": c.removed, "lost": c.lost}
                for thing, c in self.things.items()
            },
            "lost": [
                {"what": x.what, "address": x.raw, "where": x.where, "node": x.node, "why": x.why, "step": x.step}
                | ({"links": x.links} if x.links else {})
                for x in self.lost
            ],
            "unlisted": self.unlisted,
            "aimed": self.aimed,
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

    @classmethod
    def from_json(cls, data: dict[str, Any]) -> LossAccount:
        """An account as ``as_json`` gave it; what an older version did not write is empty."""
        made = cls(words=data.get("words", [0, 0])[0])
        for name in ("in_blocks", "in_islands", "in_fields", "furniture", "unaccounted", "unlisted", "aimed"):
            setattr(made, name, data.get(name, 0))
        made.removed, made.islands = data.get("removed", {}), data.get("islands", {})
        made.headings, made.code_lines = data.get("headings", [0, 0]), data.get("code_lines", [0, 0])
        made.things |= {
            Thing(name): Count(row["have"], row["kept"], row["removed"]) for name, row in data.get("things", {}).items()
        }
        made.lost = [
            Lost(Thing(x["what"]), x["address"], x["where"], x["node"], LostWhy(x["why"]), x["step"], x.get("links", 0))
            for x in data.get("lost", [])
        ]
        made.missing = [
            Missing(m["text"], m["where"], m["why"], tuple(m.get("nodes") or [m["node"]]))
            for m in data.get("missing", [])
        ]
        return made


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


def loss_account(
    page: Page,
    region: list[Node],
    blocks: tuple[Any, ...],
    *,
    removed: dict[int, str] | None = None,
    in_fields: frozenset[int] = frozenset(),
    furniture: frozenset[int] = frozenset(),
    whole_page: bool = False,
    aimed: Aimed | None = None,
    places: Mapping[int, str] | None = None,
) -> LossAccount:
    """Account for the words in ``region`` (or of the whole page, where words outside the region must
    stand in a field or be proven furniture).

    ``removed``: number of each removed element -> the step's name. ``in_fields`` / ``furniture``: numbers
    of text nodes that other fields hold, or that the crossing has proven to be shared. ``aimed``: the
    places that links lead to, those of the page itself where none are given; ``places``: where these are on it, when
    that is known.
    """
    result = LossAccount()
    kept: dict[int, str] = defaultdict(str)
    raw: dict[int, str] = defaultdict(str)
    targets = aimed_at(page, lambda raw: raw) if aimed is None else aimed
    stand = places_of(page, targets) if places is None else places
    things = _Things(page, result, targets, stand)
    island_spans: list[tuple[int, int]] = []
    headings = code_lines = 0
    lined: set[int] = set()
    numbers: set[int] = set()  # texts that are numbers of lines
    for thing in walk(blocks):
        kind = type(thing)
        if kind is Text:
            kept[thing.node] += thing.text
        elif kind in NAMING:
            things.saw(thing)
            headings += kind is Heading
        elif kind is Island or kind is RawInline or kind is Form:
            if kind is not Form:
                result.islands[thing.tag] = result.islands.get(thing.tag, 0) + 1
            if thing.node >= 0:
                island_spans.append((thing.node, page.nodes[thing.node].last))
            for text in thing.words if kind is not Form else ():
                raw[text.node] += text.text
        elif kind is Code:
            block = _block_of_code(page, thing.parts[0].node)
            if block is not None and block.n not in lined:
                lined.add(block.n)
                code_lines += _lines_of(page, block)
        elif kind is CodeBlock:
            numbers.update(text.node for text in thing.numbers)
            code_lines += thing.text.removesuffix("\n").count("\n") + 1
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
            if whole_page and not _in(regions, n):
                continue
            attrs = node.attrs
            names = tag in MEDIA or (attrs and (n in stand or not ATTRIBUTES.isdisjoint(attrs)))
            if names and _is_shown(node):
                things.count(node, step, n <= island_end)
            if not node.visible or step:
                continue
            if tag in ("h1", "h2", "h3", "h4", "h5", "h6"):
                result.headings[0] += 1
            elif tag == "pre" and not (n <= island_end) and numbers.isdisjoint(m.n for m in page.inside(node)):
                result.code_lines[0] += _lines_of(page, node)
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
        elif (said := kept.get(n)) is not None and (said.split() == words or "".join(said.split()) == "".join(words)):
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


NAMING = frozenset([Link, Picture, Embed, Anchor, Heading, NoteRef, Note, Shot, Button, Tab, Disclosure])


class _Things:
    """Counts the things of a region against those that blocks name."""

    def __init__(self, page: Page, result: LossAccount, targets: Aimed, places: Mapping[int, str]):
        self._page = page
        self._result = result
        self._links: set[int] = set()
        self._pictures: set[int] = set()
        self._embeds: set[int] = set()
        self._anchors: set[str] = set()
        self._targets, self._stand = targets, places
        self._places: set[str] | None = None  # where the links that are kept lead to
        self._within = -1  # the end of the media element met last; what stands in it is the same thing in other forms

    def saw(self, thing: Any) -> None:
        """Note a block or inline of ``_NAMING``."""
        kind = type(thing)
        if kind is Link:
            self._links.add(thing.node)
        elif kind is Picture:
            self._pictures.add(thing.node)
        elif kind is Embed:
            self._embeds.add(thing.node)
            self._embeds.update(track.node for track in thing.tracks)
            if thing.poster:
                self._pictures.add(thing.node)
        elif kind is Anchor:
            self._anchors.add(thing.name)
        elif kind is NoteRef:
            self._links.add(thing.node)
            self._anchors.add(thing.anchor)
        elif kind is Note:
            self._anchors.add(thing.name)
        elif kind is Shot or kind is Button:
            self._links.add(thing.node)
        elif kind is Tab or kind is Disclosure:
            self._links.add(thing.switch)
        elif thing.id:
            self._anchors.add(thing.id)

    def count(self, node: Node, step: str, in_island: bool) -> None:
        """Count what one element of the region names. ``step``: that takes it out; ``in_island``: it is kept as it
        is."""
        tag, n = node.tag, node.n
        if (name := self._stand.get(n)) is not None:
            links = self._targets[name]
            self._result.aimed += links
            self._one(Thing.ANCHORS, name, node, step, in_island or name in self._anchors, links=links)
        if ATTRIBUTES.isdisjoint(node.attrs) and tag not in MEDIA:
            return
        if tag in ("a", "area") and "href" in node.attrs:
            self._link(node, step, in_island)
            if len(node.attrs) == 1:
                return
        picture = picture_source(tag, node.attrs) if tag != "source" else ""
        if picture:
            why = LostWhy.UNEXPLAINED if tag in PICTURES or tag in MEDIA else LostWhy.SCRIPTED
            self._one(Thing.PICTURES, picture, node, step, in_island or n in self._pictures, why)
        elif background := background_source(tag, node.attrs):
            self._one(Thing.BACKGROUNDS, background, node, step, in_island or n in self._pictures, LostWhy.BACKDROP)
        if tag == "track" or (tag in MEDIA and tag != "source" and n > self._within):
            self._media(node, step, in_island)
        elif tag in ("iframe", "frame") and (source := media_source(tag, node.attrs)):
            why = LostWhy.SCRIPT if runs_script(source) else LostWhy.UNEXPLAINED
            self._one(Thing.FRAMES, source, node, step, in_island or n in self._embeds, why)

    def _link(self, node: Node, step: str, in_island: bool) -> None:
        href = node.get("href").strip()
        if not href:
            return
        if runs_script(href):
            self._lost(Thing.LINKS, href, node, LostWhy.SCRIPT, step)
            return
        kept = in_island or node.n in self._links
        if node.tag == "a" and not kept and not self._clickable(node, href):
            self._lost(Thing.LINKS, href, node, LostWhy.EMPTY, step)
        else:
            around = not kept and any(n.tag == "a" and n.get("href") for n in self._page.inside(node)[1:])
            why = LostWhy.NESTED if around else LostWhy.UNEXPLAINED
            self._one(Thing.LINKS, href, node, step, kept, why)
            if is_download(href):
                self._one(Thing.FILES, href, node, step, kept)

    def _clickable(self, node: Node, href: str) -> bool:
        """Whether a link has anything to click on. One that styles alone may fill (an icon) has; but beside a link of
        words to the same place it is what a parser makes of links within links."""
        if _shows(self._page, node):
            return True
        if not any(n.classes for n in self._page.inside(node)[1:] if n.tag):
            return False
        if self._places is None:
            self._places = {self._page.nodes[n].get("href").strip() for n in self._links if n >= 0}
        return href not in self._places

    def _media(self, node: Node, step: str, in_island: bool) -> None:
        inner = (n for n in self._page.inside(node) if n.tag in MEDIA)
        source = next((s for n in inner if (s := media_source(n.tag, n.attrs))), "")
        if source:
            if node.tag != "track":
                self._within = node.last
            self._one(Thing.FILES, source, node, step, in_island or node.n in self._embeds)

    def _one(
        self,
        what: Thing,
        raw: str,
        node: Node,
        step: str,
        kept: bool,
        why: LostWhy = LostWhy.UNEXPLAINED,
        links: int = 0,
    ) -> None:
        count = self._result.things[what]
        count.have += 1
        if step:
            count.removed += 1
        elif kept:
            count.kept += 1
            return
        self._lost(what, raw, node, why, step, links)

    def _lost(self, what: Thing, raw: str, node: Node, why: LostWhy, step: str, links: int = 0) -> None:
        if len(self._result.lost) >= MISSING_CAP:
            self._result.unlisted += 1
            return
        why = LostWhy.STEP if step else why
        self._result.lost.append(Lost(what, raw[:500], path_of(node), node.n, why, step, links))


def _is_shown(node: Node) -> bool:
    """Whether an element stands where a visitor sees it; what belongs to a film stands where the film does."""
    up = node.parent
    if up is not None and up.tag in MEDIA:
        up = up.parent
    return up is None or up.visible


def _shows(page: Page, node: Node) -> bool:
    """Whether a link has anything to click on that is there: words, a picture, what it is called."""
    if node.get("aria-label").strip() or node.get("title").strip():
        return True
    return any(
        (not n.tag and n.text.strip()) or (n.tag and (n.tag in PICTURES or n.tag in ("svg", "object")))
        for n in page.inside(node)[1:]
    ) or bool(background_source(node.tag, node.attrs))


def _lines_of(page: Page, block: Node) -> int:
    """The lines of a block of code, 0 where it says nothing."""
    text = "".join("\n" if t.tag == "br" else t.text for t in page.inside(block))
    return text.removesuffix("\n").count("\n") + 1 if text.strip() else 0


def _block_of_code(page: Page, number: int) -> Node | None:
    """The block of code that a text stands in which is read as lines (in a term, a heading)."""
    up = page.nodes[number].parent if 0 <= number < len(page.nodes) else None
    for _ in range(5):
        if up is None or up.tag == "pre":
            break
        up = up.parent
    return up if up is not None and up.tag == "pre" else None


def _in(regions: list[tuple[int, int]], n: int) -> bool:
    return any(first <= n <= last for first, last in regions)


def _note(result: LossAccount, text: str, node: Node, why: str) -> None:
    if result.missing and result.missing[-1].why == why and result.missing[-1].where == path_of(node):
        last = result.missing[-1]
        if len(last.text) < 2000:
            result.missing[-1] = Missing(f"{last.text} {text}", last.where, why, (*last.nodes, node.n))
        return
    if len(result.missing) < MISSING_CAP:
        result.missing.append(Missing(text, path_of(node), why, (node.n,)))


__all__ = ["LossAccount", "Missing", "loss_account", "path_of"]
