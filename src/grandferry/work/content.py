"""Bodies as they go over: the blocks that were refitted, with what a person changed in them."""

from __future__ import annotations

import json
from collections.abc import Sequence

from grandferry.core.plan import Edit
from grandferry.core.refit.blocks import Block
from grandferry.core.refit.body import Body, Change, body_from_json, changed
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.page import linker
from grandferry.store import bodies


def stored_body(name: str) -> Body:
    """A refitted body by the hash it is kept under."""
    return body_from_json(json.loads(bodies.get(name)))


def as_change(edit: Edit, base: str) -> Change:
    """An edit of a body as a change of its blocks; what was written in HTML is read as a page's is. ``base``: the old
    page's address, to which its links are joined. Raises UnreadablePage."""
    written = edit.value if isinstance(edit.value, str) else ""
    blocks = refit_html(written, link=linker(base)).blocks if written else ()
    return Change(edit.block, edit.act, blocks, edit.over)


def finished(body: Body, edits: Sequence[Edit], base: str) -> tuple[tuple[Block, ...], list[Change]]:
    """(the blocks that go over, the changes that no longer fit what lies under them)."""
    return changed(body, [as_change(edit, base) for edit in edits])
