"""A body that a person altered as a whole, held block by block against what it was: what stayed, changed, came and
went."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from difflib import SequenceMatcher

from .blocks import Block, Heading
from .body import block_hash


@dataclass(slots=True)
class Became:
    """What a unit became: its blocks now (None: it stayed as it is), and blocks that came to stand behind it."""

    now: list[Block] | None = None
    behind: list[Block] = field(default_factory=list)


def mark_of(block: Block) -> str:
    """What two blocks that say the same have in common; the name of a heading, which not every form keeps, aside."""
    return block_hash(replace(block, id="") if isinstance(block, Heading) else block)


def aligned(units: Sequence[Sequence[Block]], theirs: Sequence[Block]) -> tuple[list[Block], list[Became]]:
    """(blocks that came to stand before the first unit, what each unit became). ``units``: the blocks that each thing
    in question is read as; ``theirs``: the blocks of the altered body."""
    owners = [at for at, unit in enumerate(units) for _ in unit]
    ours = [mark_of(block) for unit in units for block in unit]
    became = [Became() for _ in units]
    first: list[Block] = []
    pieces: dict[int, list[Block]] = {}  # by the place in ours
    changed: set[int] = set()
    for what, i1, i2, j1, j2 in _steps(ours, [mark_of(block) for block in theirs], units, theirs):
        if what == "equal":
            pieces |= {i1 + k: [theirs[j1 + k]] for k in range(i2 - i1)}
            continue
        for k in range(i1, i2):
            at = j1 + (k - i1)
            pieces[k] = [theirs[at]] if at < j2 else []
            changed.add(owners[k])
        more = list(theirs[j1 + (i2 - i1) : j2])
        if not more:
            continue
        if not i2:
            first += more
        elif i2 < len(owners) and owners[i2] == owners[i2 - 1]:  # in the midst of a unit
            pieces[i2 - 1] = [*pieces[i2 - 1], *more]
            changed.add(owners[i2 - 1])
        else:
            became[owners[i2 - 1]].behind += more
    for at in changed:
        became[at].now = [block for k, owner in enumerate(owners) if owner == at for block in pieces[k]]
    return first, became


def _steps(
    ours: Sequence[str], marks: Sequence[str], units: Sequence[Sequence[Block]], theirs: Sequence[Block]
) -> Iterator[tuple[str, int, int, int, int]]:
    """What makes theirs of ours, as ``difflib`` has it. Where several blocks became several others, those of one kind
    are held against each other first."""
    kinds = [type(block) for unit in units for block in unit]
    for what, i1, i2, j1, j2 in SequenceMatcher(None, ours, marks, autojunk=False).get_opcodes():
        if what != "replace" or (i2 - i1, j2 - j1) == (1, 1):
            yield what, i1, i2, j1, j2
            continue
        like = SequenceMatcher(None, kinds[i1:i2], [type(block) for block in theirs[j1:j2]], autojunk=False)
        for inner, a1, a2, b1, b2 in like.get_opcodes():
            yield "replace" if inner == "equal" else inner, i1 + a1, i1 + a2, j1 + b1, j1 + b2
