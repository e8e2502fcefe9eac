"""The reader itself: flow content to blocks. Rules for single constructs stand in files of their own.

Inline content between block elements becomes paragraphs. Where a formatting element holds blocks
(``<font><p>…</p></font>``, ``<a><div>…</div></a>``), its mark is laid around the content of every
paragraph inside, so that nothing is lost and nothing nests wrongly.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from ...filetypes import is_download
from ...page import INLINE, Node, Page
from ..anchors import Aimed, aimed_at, placed, places_of
from ..blocks import Anchor, Block, Break, Code, FileLink, Inline, Island, Link, Paragraph, RawInline, Styled, Text
from ..serialise import serialise
from .accordion import opened_by
from .base import Calls, Rule, TableInDoubt, Wrap
from .boxes import BOXES, no_name
from .bullets import gathered
from .button import as_button
from .footnotes import calls_of
from .inline import INLINE_RULES, InlineRule, tidy
from .names import SWITCHING
from .passage import CODE, SPOKEN, as_passage, page_spoken, passage_of
from .tabs import TAB_ROW

SKIPPED = frozenset(
    (
        "script style template noscript noframes head title meta link base param source track col colgroup "
        "datalist basefont bgsound"
    ).split()
)
# elements that read as part of a line unless a block stands inside them
INLINE_LIKE = INLINE | frozenset(
    (
        "img picture br input button select textarea label output progress meter svg math ruby map area image "
        "blink marquee acronym bdo keygen slot legend option optgroup spacer"
    ).split()
)


_SWITCHES = frozenset(["button", "a"])


class PageReader:
    """Reads one page. ``link`` makes an href or src absolute or leaves it; ``removed`` are the nodes
    (with all inside them) that a clean-up step takes out; ``aimed``: the places that links lead to, those within the
    page where none are given."""

    def __init__(
        self,
        chain: Sequence[Rule],
        page: Page,
        *,
        link: Callable[[str], str] = lambda raw: raw,
        removed: frozenset[int] = frozenset(),
        aimed: Aimed | None = None,
        treated: Mapping[int, str] | None = None,
    ):
        self.page = page
        self.link = link
        self.removed = removed
        self._rules: dict[str, list[Rule]] = _by_tag(chain)
        self.switches: list[int] = []
        self.tab_rows: list[int] = []
        self._holds_block = self._mark_blocks()
        self.switches.reverse()
        self.tab_rows.reverse()
        self.targets = aimed_at(page, link) if aimed is None else aimed
        self.places = places_of(page, self.targets)
        self.office = bool(page.select("p[style*=mso-list]"))
        self.spoken = page_spoken(page)
        self.wraps: list[Wrap] = []
        self.in_code = 0
        self.treated = treated or {}
        self.doubts: list[TableInDoubt] = []
        self.footnotes = calls_of(page, link) if self.places else Calls()
        self.claimed: set[int] = set()  # nodes already read by a rule that looked ahead

    def _mark_blocks(self) -> bytearray:
        """For every node whether an element that makes a block lies inside it."""
        nodes = self.page.nodes
        marks = bytearray(len(nodes))
        for node in reversed(nodes):
            tag = node.tag
            if not tag or node.parent is None:
                continue
            attrs = node.attrs
            if attrs:
                if not SWITCHING.isdisjoint(attrs):
                    self.switches.append(node.n)
                named = attrs.get("class")
                if "role" in attrs or "data-tabs" in attrs or (named and "tab" in named.lower()):
                    self._note_tabs(node)
            if marks[node.n] or (tag not in INLINE_LIKE and tag not in SKIPPED and "-" not in tag and ":" not in tag):
                marks[node.parent.n] = 1
        return marks

    def _note_tabs(self, node: Node) -> None:
        """Note an element that may be a row of tabs."""
        said = "data-tabs" in node.attrs or node.get("role") in ("tablist", "tab")
        if said or TAB_ROW.search(node.get("class")):
            self.tab_rows.append(node.n)

    def holds(self, numbers: list[int], node: Node) -> bool:
        """Whether one of these nodes is this one, or stands in it."""
        at = bisect_left(numbers, node.n)
        return at < len(numbers) and numbers[at] <= node.last

    def is_inline(self, node: Node) -> bool:
        """Whether the node reads as part of a line."""
        tag = node.tag
        if not tag:
            return True
        if self._holds_block[node.n] and tag not in ("svg", "math", "ruby", "select"):
            return False
        # custom elements are inline until something in them is not
        return tag in INLINE_LIKE or "-" in tag or ":" in tag

    # --- blocks -----------------------------------------------------------------------------------

    def flow(self, children: Sequence[Node]) -> list[Block]:
        """The blocks of a run of sibling nodes."""
        blocks: list[Block] = []
        line: list[Inline] = []
        first = -1  # of what is more than space in the line
        for child in children:
            tag = child.tag
            if not tag and first < 0 and not child.text.strip(" \t\n\r\f"):
                continue
            n = child.n
            if n in self.removed or n in self.claimed or tag in SKIPPED:
                continue
            if self.is_inline(child) and not (
                tag in _SWITCHES and self.switches and self.holds(self.switches, child) and opened_by(child) is not None
            ):
                if first < 0:
                    first = n
                self.inline(child, line)
                continue
            if line:
                blocks.extend(self.paragraphs(line, first))
                line = []
            first = -1
            blocks.extend(self.block(child))
        if line:
            blocks.extend(self.paragraphs(line, first))
        if self.targets:
            blocks = _with_anchors(blocks)
        home = children[0].parent if children else None
        return gathered(blocks, self.page, self.office and (home is None or home.tag != "p"))

    def block(self, node: Node) -> Sequence[Block]:
        """The blocks of one element that is not part of a line."""
        anchor = self.anchor(node)
        spoken = self.spoken
        said = passage_of(node, spoken) if node.tag not in CODE and not SPOKEN.isdisjoint(node.attrs) else None
        if said is not None:
            self.spoken = said
        found = self._read(node)
        self.spoken = spoken
        if said is not None and found:
            found = [as_passage(found, said, spoken, node.n)]
        return placed(anchor, found, node.n) if anchor is not None else found

    def _read(self, node: Node) -> Sequence[Block]:
        if self.treated and self.treated.get(node.n) == "unwrap":
            return self.flow(node.children)
        for rule in self._rules.get(node.tag, self._rules["*"]):
            found = rule.read(node, self)
            if found is not None:
                return found
        return self.flow(node.children)

    def inside(self, node: Node) -> list[Block]:
        """The blocks within a part that has a place of its own (an item, a cell, a meaning), its anchor first."""
        anchor = self.anchor(node)
        blocks = self.flow(node.children)
        return placed(anchor, blocks, node.n) if anchor is not None else blocks

    def paragraphs(self, line: list[Inline], node: int) -> list[Block]:
        """Paragraphs of a finished line: empty ones dropped, two line breaks in a row divide."""
        blocks: list[Block] = []
        for run in _divide(_opened(line)) if _may_break(line) else (line,):
            content = tidy(run)
            if not content or all(isinstance(piece, Text) and not piece.text.strip() for piece in content):
                continue  # nothing, or the hard blanks old editors leave between paragraphs
            first = content[0]
            if len(content) == 1 and isinstance(first, RawInline) and "-" in first.tag:
                blocks.append(Island(first.html, first.words, first.tag, first.node))
                continue
            content = self.laid(content)
            first = content[0]
            made = Paragraph(content, node)
            if len(content) == 1 and isinstance(first, Link) and is_download(first.href) and first.content:
                blocks.append(FileLink(first, node))
            else:
                blocks.append(as_button(made, self) or made)
        return blocks

    # --- inline -----------------------------------------------------------------------------------

    def inline(self, node: Node, out: list[Inline]) -> None:
        """Append the inline content of one node to ``out``."""
        tag = node.tag
        if not tag:
            text = Text(node.text, node.n)
            out.append(Code((text,)) if self.in_code else text)
            return
        if node.n in self.removed or node.n in self.claimed or tag in SKIPPED:
            return
        anchor = self.anchor(node)
        if anchor is not None:
            out.append(anchor)
        rule: InlineRule | None = INLINE_RULES.get(tag)
        if self.treated and self.treated.get(node.n) == "unwrap":
            rule = None
        if rule is not None:
            rule(node, self, out)
        elif tag in INLINE_LIKE or node.n in self.treated or tag in self._rules or tag in BOXES or no_name(tag):
            self.inline_children(node, out)
        else:
            out.append(self.raw_inline(node))

    def inline_children(self, node: Node, out: list[Inline]) -> None:
        for child in node.children:
            if self.is_inline(child) or child.tag in SKIPPED:
                self.inline(child, out)
            else:  # a block where only a line can stand: its content, kept apart by a line break
                if out and not isinstance(out[-1], Break):
                    out.append(Break())
                self.inline(child, out)
                out.append(Break())

    def line(self, node: Node) -> tuple[Inline, ...]:
        """All content of an element as one line (for headings, captions, terms)."""
        out: list[Inline] = []
        self.inline_children(node, out)
        while out and isinstance(out[-1], Break):
            out.pop()
        return tidy(out)

    def named_line(self, node: Node) -> tuple[Inline, ...]:
        """The same, its own anchor first."""
        anchor = self.anchor(node)
        return (anchor, *self.line(node)) if anchor is not None else self.line(node)

    def laid(self, content: tuple[Inline, ...]) -> tuple[Inline, ...]:
        """A line with what the elements around it lay around every line in them; places alone are no line."""
        if not all(isinstance(piece, Anchor) for piece in content):
            for wrap in reversed(self.wraps):
                content = wrap.lay(content)
        return content

    def raw_inline(self, node: Node) -> Inline:
        return RawInline(serialise(node, self.link), self.words(node), node.tag, node.n)

    def words(self, node: Node) -> tuple[Text, ...]:
        """The texts a visitor sees in ``node``, for the account of islands."""
        return tuple(Text(n.text, n.n) for n in self.page.inside(node) if not n.tag and n.visible and n.text.strip())

    def anchor(self, node: Node) -> Anchor | None:
        """The node's id or name, when a link of the crossing leads to it and no element before it has that name."""
        name = self.places.get(node.n)
        return None if name is None else Anchor(name, node.n)


def _with_anchors(blocks: list[Block]) -> list[Block]:
    """The blocks, with anchors that stand by themselves at the beginning of what comes after them."""
    for at in range(len(blocks) - 2, -1, -1):
        block = blocks[at]
        if isinstance(block, Paragraph) and all(isinstance(piece, Anchor) for piece in block.content):
            after = blocks[at + 1 : at + 2]
            for anchor in reversed(block.content):
                assert isinstance(anchor, Anchor)
                after = placed(anchor, after, anchor.node)
            if len(after) == 1:
                blocks[at : at + 2] = after
    return blocks


def _by_tag(chain: Sequence[Rule]) -> dict[str, list[Rule]]:
    tags = {tag for rule in chain for tag in rule.TAGS}
    return {tag: [rule for rule in chain if tag in rule.TAGS or "*" in rule.TAGS] for tag in tags | {"*"}}


def _may_break(line: Sequence[Inline]) -> bool:
    """Whether a line may hold the end of a paragraph."""
    for piece in line:
        kind = type(piece)
        if kind is Break or ((kind is Styled or kind is Link) and _may_break(piece.content)):  # type: ignore[union-attr]
            return True
    return False


def _divide(line: list[Inline]) -> list[list[Inline]]:
    """The line cut where two or more breaks stand with nothing but space between."""
    runs: list[list[Inline]] = [[]]
    breaks = 0
    for piece in line:
        if isinstance(piece, Break):
            breaks += 1
            if breaks == 2:
                while runs[-1] and (isinstance(last := runs[-1][-1], Break) or _is_blank(last)):
                    runs[-1].pop()
                runs.append([])
            elif breaks == 1:
                runs[-1].append(piece)
            continue
        if not _is_blank(piece):
            breaks = 0
        runs[-1].append(piece)
    return runs


def _is_blank(piece: Inline) -> bool:
    return isinstance(piece, Text) and not piece.text.strip()


def _opened(line: list[Inline]) -> list[Inline]:
    """The line with marks and links that hold the end of a paragraph laid around each part of what they hold."""
    out: list[Inline] = []
    for piece in line:
        parts = _parted(piece) if isinstance(piece, Styled | Link) else None
        out.extend(parts or [piece])
    return out


def _parted(piece: Styled | Link) -> list[Inline] | None:
    if not any(isinstance(inner, Break | Styled | Link) for inner in piece.content):
        return None
    runs = _divide(_opened(list(piece.content)))
    if len(runs) == 1:
        return None
    out: list[Inline] = []
    for run in runs:
        if out:
            out += [Break(), Break()]
        out.append(replace(piece, content=tuple(run)))
    return out
