"""Items as they go over: the values that count, bodies with what a person changed in them and their links rewritten."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from functools import partial
from typing import Any, NamedTuple

from grandferry.core.address import Address, Scope, fragment_of
from grandferry.core.kinds import ADDRESSES, InnerPart, KindPlan, PartPlan
from grandferry.core.mapping import Blocks
from grandferry.core.plan import Edit, Plan
from grandferry.core.refit.blocks import readdress
from grandferry.core.refit.body import Body
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.page import Region
from grandferry.core.refit.write import to_html
from grandferry.core.route.fate import Decision
from grandferry.core.route.places import Item
from grandferry.core.survey.scope import scope_of
from grandferry.core.survey.secrets import in_address
from grandferry.store import carried, edits, lift, refit, route
from grandferry.work.media.told import Told
from grandferry.work.refit.content import finished, stored_body


class Rewriter:
    """Links and sources of bodies to their new places. ``missed`` counts links to pages that did not move, and what is
    shown of files that stay behind; ``missed_on`` with the page that they stand on."""

    def __init__(
        self,
        scope: Scope,
        decisions: dict[str, Decision],
        files: dict[str, str],
        kept: frozenset[str],
        sections: Mapping[str, str] | None = None,
    ):
        self._scope = scope
        self._decisions = decisions
        self._files = files
        self._kept = kept  # marks of keys that go over
        self._sections = sections or {}  # of pages, that are items: key with #mark -> new path
        self.missed: Counter[str] = Counter()
        self.missed_on: Counter[tuple[str, str]] = Counter()

    def within(self, key: str) -> Callable[[str], str]:
        """What rewrites the links of an item: of one within its page, to a section that is an item of its own."""
        page, _, mark = key.partition("#")

        def link(href: str) -> str:
            if not href.startswith("#"):
                return self.link(href, page)
            place = self._sections.get(f"{page}{href}")
            return place if place and href[1:] != mark else href

        return link

    def link(self, href: str, page: str = "") -> str:
        address = None if href.startswith("#") else self._scope.normal(href)
        if address is None:
            return href
        fragment = fragment_of(href)
        tail = f"#{fragment}" if fragment else ""
        place = self._files.get(str(address))
        if place is not None:
            return place
        if address.host not in self._scope.hosts:
            return self._as_it_was(href, address)
        if fragment and (section := self._sections.get(f"{address.key}#{fragment}")):
            return section
        decision = self._decisions.get(address.key)
        if decision is not None and decision.fate in ("stays", "moved", "merged"):
            return decision.target + tail
        self.missed[address.key] += 1
        self.missed_on[page, address.key] += 1
        return self._as_it_was(href, address)

    def posted(self, action: str) -> str:
        """Where a form goes: to what has a new place or is on another host; "" for a program of the old site, which is
        left behind until somebody wires the form up."""
        address = self._scope.normal(action)
        if address is None or address.host not in self._scope.hosts:
            return action if address is None else self._as_it_was(action, address)
        decision = self._decisions.get(address.key)
        return decision.target if decision is not None and decision.fate in ("stays", "moved", "merged") else ""

    def source(self, src: str, page: str = "") -> str:
        address = self._scope.normal(src)
        if address is None:
            return src
        place = self._files.get(str(address))
        if place is None and self._scope.is_ours(address.host):  # it will be gone with the old site
            self.missed[address.key] += 1
            self.missed_on[page, address.key] += 1
        return place or self._as_it_was(src, address)

    def _as_it_was(self, written: str, address: Address) -> str:
        """An old address that stays: of the old site keys in it are masked now, of others they were before."""
        return in_address(written, self._kept) if self._scope.is_ours(address.host) else written


def old_url(plan: Plan, key: str) -> str:
    """An old key as an address of the old host."""
    return plan.old.start.partition("://")[0] + "://" + plan.old.start.partition("://")[2].partition("/")[0] + key


class Content(NamedTuple):
    """An item and what goes over of it: its kind's fields with their values, bodies as ``Blocks``."""

    item: Item
    kind: KindPlan
    fields: dict[str, Any]


class Contents:
    """The content of all items that have a place, one after the other. ``conflicts`` are noted on the way; ``every``:
    those without a place as well; ``kind``: those of one alone; ``keys``: those of these items alone, where some are
    named."""

    def __init__(self, crossing: int, plan: Plan, every: bool = False, kind: str = "", keys: Collection[str] = ()):
        self._crossing, self._plan = crossing, plan
        self._kinds = {kind.name: kind for kind in plan.every_kind}
        known = [item for item in lift.items(crossing) if item.kind in self._kinds]
        self._items = [
            i for i in known if (i.new_path or every) and kind in ("", i.kind) and (not keys or i.key in keys)
        ]
        places = carried.places(crossing)
        sections = {item.key: item.new_path for item in known if "#" in item.key and item.new_path}
        decisions = route.decisions(crossing)
        side = plan.side("old")
        self.rewriter = Rewriter(scope_of(side), decisions, places, plan.carried_marks, sections)
        self._told = Told(crossing, scope_of(side), side.origin)
        self.conflicts: list[str] = []

    def __len__(self) -> int:
        return len(self._items)

    def __iter__(self) -> Iterator[Content]:
        stored = refit.blocks_of(self._crossing)
        by_body: dict[tuple[str, str], list[Edit]] = {}
        for edit in edits.edits(self._crossing):
            by_body.setdefault((edit.old, edit.field), []).append(edit)
        for item in self._items:
            kind = self._kinds[item.kind]
            fields: dict[str, Any] = {}
            for wanted in kind.fields:
                value = item.fields.get(wanted.name)
                if wanted.type == "blocks":
                    mine = by_body.get((item.key, wanted.name), [])
                    value = self._body(item.key, wanted.name, stored.get(item.id, {}).get(wanted.name), mine)
                elif wanted.type == "picture" and isinstance(value, dict):
                    value = self._told.value(value, partial(self.rewriter.source, page=item.key.partition("#")[0]))
                elif wanted.type in ADDRESSES and isinstance(value, str):
                    value = self.rewriter.link(value, item.key)
                elif wanted.type == "group" and isinstance(value, list):
                    value = [self._member(item.key, wanted.parts, member) for member in value]
                fields[wanted.name] = value
            yield Content(item, kind, fields)

    def _member(self, key: str, parts: Sequence[InnerPart], member: dict[str, Any]) -> dict[str, Any]:
        """A member of a group with its links and pictures at their new places."""
        made = dict(member)
        for part in parts:
            value = made.get(part.name)
            if part.type == "picture" and isinstance(value, dict):
                made[part.name] = self._told.value(value, partial(self.rewriter.source, page=key.partition("#")[0]))
            elif part.type == "link" and isinstance(value, str):
                made[part.name] = self.rewriter.link(value, key)
            elif part.type == "blocks" and isinstance(value, str):
                blocks = refit_html(value, mask=False, places=True).blocks
                made[part.name] = to_html(self.at_their_places(blocks, key)).strip()
            elif isinstance(part, PartPlan) and part.type == "group" and isinstance(value, list):
                made[part.name] = [self._member(key, part.parts, inner) for inner in value]
        return made

    def _body(self, key: str, name: str, stored: str | None, mine: list[Edit]) -> Blocks | None:
        """A body with what a person changed in it; None when there is none."""
        body = stored_body(stored) if stored is not None else Body(Region((), ""), ())
        content, odd = finished(body, mine, old_url(self._plan, key))
        self.conflicts += [f"{key} ({name}): what was set by hand lies over something that has changed"] * len(odd)
        if stored is None and not content:
            return None
        return Blocks(self.at_their_places(content, key))

    def at_their_places(self, blocks: Any, key: str) -> Any:
        """Blocks of an item with their links and pictures at their new places, and what a person says of those."""
        rewriter = self.rewriter
        source = partial(rewriter.source, page=key.partition("#")[0])
        return readdress(blocks, rewriter.within(key), source, self._told.block, rewriter.posted)
