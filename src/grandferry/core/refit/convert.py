"""One page through the whole converter: HTML text -> numbered nodes -> blocks, with its loss account."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from ..kinds import Step
from ..page import Node, Page, parse
from ..survey.secrets import Masks
from .account import LossAccount, loss_account
from .anchors import Aimed, aimed_at, anchor_name, led_to
from .blocks import Block, from_json, to_json
from .body import Body, body_of
from .leftovers import short_code_nodes
from .page import masks_on, outermost
from .read import make_reader
from .read.base import TableInDoubt
from .region import find_region
from .taken import Taken, taken
from .tidy import TIDY


@dataclass(frozen=True, slots=True)
class Refitted:
    """A body and the account of its words and things; ``masked``: how many keys are masked in it; ``taken``: by
    the name of each clean-up step that found something on the page, what it took; ``doubts``: tables of which it is not
    clear whether they hold data; ``treated``: by the name of each step that says what an element is, of how many."""

    body: Body
    account: LossAccount
    masked: int = 0
    taken: dict[str, Taken] = field(default_factory=dict)
    doubts: tuple[TableInDoubt, ...] = ()
    treated: dict[str, int] = field(default_factory=dict)

    @property
    def blocks(self) -> tuple[Block, ...]:
        return self.body.content


def touches(page: Page, steps: Sequence[Step]) -> bool:
    """Whether any of these steps finds something on a page, or is about every body."""
    return any(step.tidy or page.select(step.finds) for step in steps)


def removed_nodes(page: Page, steps: Sequence[Step]) -> dict[int, str]:
    """Number of each element (of short codes: text) that a step takes out -> the step's name (the first that finds
    it)."""
    removed: dict[int, str] = {}
    for step in steps:
        for node in page.select(step.remove) if step.remove else ():
            removed.setdefault(node.n, step.name)
        for number in short_code_nodes(page) if step.tidy == "no_short_codes" else ():
            removed.setdefault(number, step.name)
    return removed


def treated_nodes(page: Page, steps: Sequence[Step]) -> tuple[dict[int, str], dict[str, int]]:
    """Number of each element that a step says something of -> what that is (of the first step that finds it); and by
    the name of each such step, how many it finds."""
    treated: dict[int, str] = {}
    places: dict[str, int] = {}
    for step in steps:
        if step.select:
            found = page.select(step.select)
            places[step.name] = len(found)
            for node in found:
                treated.setdefault(node.n, step.treats)
    return treated, {name: number for name, number in places.items() if number}


def refit_nodes(
    page: Page,
    region: Sequence[Node],
    *,
    steps: Sequence[Step] = (),
    link: Callable[[str], str] = lambda raw: raw,
    in_fields: frozenset[int] = frozenset(),
    furniture: frozenset[int] = frozenset(),
    whole_page: bool = False,
    masks: Masks | None = None,
    aimed: Aimed | None = None,
) -> Refitted:
    """The blocks of ``region`` (elements of ``page``, whose content is read); ``masks``: of keys in the page's code;
    ``aimed``: fragments that other pages' links to it have, with how many of them."""
    targets = aimed_at(page, link, aimed)
    removed = removed_nodes(page, steps) if steps else {}
    treated, places = treated_nodes(page, steps) if steps else ({}, {})
    reader = make_reader(page, link=link, removed=frozenset(removed), aimed=targets, treated=treated)
    blocks: list[Block] = []
    run: list[Node] = []  # nodes beside each other, which may be one line
    for node in region:
        box = node.tag in ("body", "html", "div", "main", "article", "section", "td", "center", "font")
        if run and (box or node.parent is not run[-1].parent):
            blocks.extend(reader.flow(run))
            run = []
        if box:
            if node.n in reader.places and not led_to(page, node, link, targets):
                del reader.places[node.n]
            blocks.extend(reader.inside(node))
        else:
            run.append(node)
    blocks.extend(reader.flow(run))
    done = from_json(masks.value(to_json(tuple(blocks)))) if masks else tuple(blocks)
    for step in steps:
        if step.tidy is not None and step.tidy in TIDY:
            done, number = TIDY[step.tidy](done)
            places |= {step.name: number} if number else {}
    return Refitted(
        body_of(page, region, done),
        loss_account(
            page,
            list(region),
            done,
            removed=removed,
            in_fields=in_fields,
            furniture=furniture,
            whole_page=whole_page,
            aimed=targets,
            places=reader.places,
        ),
        len(masks.met) if masks else 0,
        taken(page, removed, link) if removed else {},
        tuple(reader.doubts),
        places,
    )


def refit_html(
    html: str,
    *,
    region: str = "",
    steps: Sequence[Step] = (),
    link: Callable[[str], str] = lambda raw: raw,
    mask: bool = True,
    aimed: Aimed | None = None,
    places: bool = False,
) -> Refitted:
    """The blocks of a page's text. ``region``: "" the whole body, ``auto`` the proposed main part, or a CSS selector;
    ``mask``: keys in its code, unless a visitor reads them; ``places``: every place that has a name is kept, also where
    no link of the text leads to it.

    A selector that finds nothing gives no blocks, and all words are unaccounted. Raises PatternError,
    UnreadablePage.
    """
    page = parse(html)
    if not region:
        nodes = [page.body]
    elif region == "auto":
        nodes = [find_region(page)]
    else:
        nodes = outermost(page.select(region))
    masks = masks_on(page, html) if mask else None
    if places:
        aimed = {name: 1 for node in page.nodes if node.attrs and (name := anchor_name(node))}
    return refit_nodes(
        page, nodes or [], steps=steps, link=link, whole_page=bool(region) and not nodes, masks=masks, aimed=aimed
    )
