"""A body that a person altered in a file of a folder, held block by block against what would be written there now."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from grandferry.core.land.back import Way
from grandferry.core.plan import Edit, Plan
from grandferry.core.refit.aligned import Became, aligned, mark_of
from grandferry.core.refit.blocks import Block, Heading, constructs, readdress
from grandferry.core.refit.body import Body, Part, parts_of, shown_words, whole_of
from grandferry.core.refit.page import Region
from grandferry.core.refit.write import to_html
from grandferry.store import edits, refit
from grandferry.work.refit.content import as_change, stored_body

from .back_addresses import OldAddresses
from .content import Contents, old_url

Blocks = tuple[Block, ...]


@dataclass(slots=True)
class Altered:
    """A block (by its id, "" for all of a body) that was altered: what it was and is now, and what sets it so. What the
    file cannot say of it is named in ``lost``; then nothing is set."""

    block: str
    ours: Blocks
    theirs: Blocks
    lost: list[str] = field(default_factory=list)
    sets: list[Edit] = field(default_factory=list)
    drops: list[edits.Key] = field(default_factory=list)


class Bodies:
    """The bodies of a crossing as they were found, with what was set by hand."""

    def __init__(self, crossing: int, plan: Plan, contents: Contents, old: OldAddresses):
        self._crossing, self._plan, self._contents, self._old = crossing, plan, contents, old
        self._stored = refit.blocks_of(crossing)
        self._edits: dict[tuple[str, str], list[Edit]] = {}
        for edit in edits.edits(crossing):
            self._edits.setdefault((edit.old, edit.field), []).append(edit)

    def altered(self, item: int, key: str, name: str, ours: Any, theirs: Any, way: Way) -> list[Altered]:
        """What was altered of the body ``name`` of an item, by what stands in its file and what would."""
        stored, mine = self._stored.get(item, {}).get(name), self._edits.get((key, name), [])
        body = stored_body(stored) if stored is not None else Body(Region((), ""), ())
        by_hand = [as_change(edit, old_url(self._plan, key)) for edit in mine]
        whole = whole_of(by_hand)
        parts = [] if whole is not None else parts_of(body, by_hand)[0]
        units = tuple(block for part in parts for block in (*part.here, *part.after))
        met: dict[str, str] = {}  # addresses as they are written -> as they were
        written = [self._written((block,), key, met) for block in units]
        there = [way.and_back(block) for block in written]
        mine_now, theirs_now = way.read(ours or ""), way.read(theirs or "")
        if units and _marks(block for unit in there for block in unit) == _marks(mine_now):
            first, became = aligned(there, theirs_now)
            lost = [_not_said(block, read) for block, read in zip(written, there, strict=True)]
            return list(self._by_block(key, name, parts, lost, self._back(first, met), became, met))
        if _marks(mine_now) == _marks(theirs_now):
            return []
        had = whole.blocks if whole is not None else units
        made = Altered("", mine_now, theirs_now, sorted(Counter(constructs(had)) - Counter(constructs(mine_now))))
        if not made.lost:
            over = edits.lies_over(self._crossing, key, name)
            value = to_html(tuple(self._back(theirs_now, met)))
            made.sets.append(Edit(old=key, field=name, value=value, over=over, block=""))
        return [made]

    def _by_block(
        self,
        key: str,
        name: str,
        parts: Sequence[Part],
        lost: Sequence[list[str]],
        first: list[Block],
        became: Sequence[Became],
        met: dict[str, str],
    ) -> Iterator[Altered]:
        """``lost``: what the file does not say of each block of the parts; ``first``: what came before all of them."""
        at = 0
        for part in parts:
            made = Altered(part.placed.id, (*part.here, *part.after), ())
            here, after = first, list[Block]()
            changed = {"set": bool(first), "after": False}
            first = []
            for number, block in enumerate(made.ours):
                unit, unsaid = became[at], lost[at]
                at += 1
                act, into = ("set", here) if number < len(part.here) else ("after", after)
                if unit.now is None:
                    into.append(block)
                elif unit.now and unsaid:
                    made.lost += unsaid
                    into.append(block)
                else:
                    into += _with_name(block, self._back(unit.now, met))
                    changed[act] = True
                if unit.behind:
                    behind = act == "after" or number == len(part.here) - 1
                    (after if behind else here).extend(self._back(unit.behind, met))
                    changed["after" if behind else "set"] = True
            made.theirs = (*here, *after)
            if made.lost:
                yield made
            elif any(changed.values()):
                _set(made, key, name, part.placed.hash, {"set": here, "after": after}, changed)
                yield made

    def _written(self, blocks: Blocks, key: str, met: dict[str, str]) -> Blocks:
        """Blocks as they are written; their addresses are noted with what they become."""
        made: Blocks = self._contents.at_their_places(blocks, key)
        before, after = _addresses(blocks), _addresses(made)
        if len(before) == len(after):
            met |= zip(after, before, strict=True)
        return made

    def _back(self, blocks: Sequence[Block], met: dict[str, str]) -> list[Block]:
        """Blocks with the old addresses in them."""
        old = self._old
        made = readdress(
            tuple(blocks), lambda href: met.get(href) or old.link(href), lambda src: met.get(src) or old.source(src)
        )
        return list(made)


def _set(made: Altered, key: str, name: str, over: str, now: dict[str, list[Block]], changed: dict[str, bool]) -> None:
    """What sets a block, and what stands after it, as they are now."""
    for act, blocks in now.items():
        if not changed[act]:
            continue
        if blocks:
            value = to_html(tuple(blocks))
            made.sets.append(
                Edit.model_validate(
                    {"old": key, "field": name, "block": made.block, "act": act, "value": value, "over": over}
                )
            )
        else:
            made.drops.append((key, name, made.block, act))
            if act == "set":
                made.sets.append(Edit(old=key, field=name, block=made.block, act="drop", over=over))


def _marks(blocks: Any) -> list[str]:
    return [mark_of(block) for block in blocks]


def _addresses(blocks: Blocks) -> list[str]:
    """Every address in blocks, in their order."""
    found: list[str] = []

    def note(address: str) -> str:
        found.append(address)
        return address

    readdress(blocks, note, note)
    return found


def _not_said(block: Blocks, read: Blocks) -> list[str]:
    """What of a block its file does not say, by names of constructs."""
    if _marks(block) == _marks(read):
        return []
    return sorted(Counter(constructs(block)) - Counter(constructs(read))) or [type(one).__name__ for one in block]


def _with_name(had: Block, now: list[Block]) -> list[Block]:
    """Blocks that a heading became, with its name, which its file need not say."""
    if isinstance(had, Heading) and now and isinstance(now[0], Heading) and not now[0].id:
        return [replace(now[0], id=had.id), *now[1:]]
    return now


def words_of(blocks: Blocks) -> str:
    """The words of blocks in one line."""
    return " ".join(shown_words(block) for block in blocks)
