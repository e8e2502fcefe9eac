"""Shared parts: what a clean-up step takes of all pages, read once; on which pages it is missing, where it differs."""

from __future__ import annotations

from dataclasses import dataclass

from grandferry.core.base import base_of
from grandferry.core.errors import NotThere
from grandferry.core.kinds import Step
from grandferry.core.page import Page
from grandferry.core.refit.blocks import Block, from_json, to_json
from grandferry.core.refit.page import absolute
from grandferry.core.refit.taken import apart, part_of, read_part, words_of
from grandferry.core.survey.scope import scope_of
from grandferry.store import refit
from grandferry.store.crossings import load_plan
from grandferry.store.refit import Without
from grandferry.work.pages import page_and_masks, page_of
from grandferry.work.refit.preview import captured

VERSIONS = 20  # that are told
PAGES = 200  # without the part that are told
MOST_HAVE = 0.5  # of the pages of a kind: those that have not are missing it


@dataclass(frozen=True, slots=True)
class OneVersion:
    """A version: on how many pages, one of them, and the first words that only it has, and that only the most frequent
    one has."""

    pages: int
    address: int
    key: str
    more: str
    less: str


@dataclass(frozen=True, slots=True)
class SharedPart:
    """What a step takes of all pages. ``blocks``: the most frequent version, as it is on the page ``address`` (0 where
    there is none). ``kinds``: (kind, pages that have it, of pages with a body); ``missing``: pages of kinds most of
    which have it, the first of ``missing_all``."""

    step: Step
    pages: int
    words: int
    blocks: tuple[Block, ...]
    address: int
    versions: list[OneVersion]
    versions_all: int
    kinds: list[tuple[str, int, int]]
    missing: list[Without]
    missing_all: int


def step_at(crossing: int, place: int) -> Step:
    """The step at a place of the plan. Raises NotThere."""
    steps = load_plan(crossing).refit.steps
    if not 0 <= place < len(steps):
        raise NotThere(f"The plan has no step {place + 1}.")
    return steps[place]


def shared_part(crossing: int, place: int) -> SharedPart:
    """The part that the step at a place of the plan takes. Raises NotThere."""
    return _part(crossing, step_at(crossing, place), refit.taken(crossing))


def _part(crossing: int, step: Step, taken: dict[str, refit.Shared]) -> SharedPart:
    found = refit.versions(crossing, step.name, VERSIONS)
    said = taken.get(step.name, refit.Shared(0, 0, 0))
    kinds = refit.taken_by_kind(crossing, step.name)
    owning = [kind for kind, on, of in kinds if on >= MOST_HAVE * of]
    blocks: tuple[Block, ...] = ()
    versions: list[OneVersion] = []
    if found:
        page, blocks = _read(crossing, found[0].address, step)
        usual = words_of(page, step)
        for one in found:
            more, less = ("", "") if one is found[0] else apart(words_of(_page(crossing, one.address), step), usual)
            versions.append(OneVersion(one.pages, one.address, one.key, more, less))
    return SharedPart(
        step,
        said.pages,
        said.words,
        blocks,
        found[0].address if found else 0,
        versions,
        said.versions,
        kinds,
        refit.without_step(crossing, step.name, owning, PAGES) if owning else [],
        sum(of - on for kind, on, of in kinds if kind in owning),
    )


def _page(crossing: int, address: int) -> Page:
    capture = captured(crossing, address)
    return page_of(capture.body, capture.type)


def _read(crossing: int, address: int, step: Step) -> tuple[Page, tuple[Block, ...]]:
    plan, capture = load_plan(crossing), captured(crossing, address)
    scope = scope_of(plan.side("old"))
    page, masks = page_and_masks(capture.body, capture.type, plan.carried_marks, scope)
    base = base_of(page, capture.url, scope)
    blocks = read_part(page, step, lambda raw: absolute(raw, base, scope, capture.url))
    return page, from_json(masks.value(to_json(blocks)))


def on_page(crossing: int, place: int, address: int) -> list[int]:
    """The nodes of a captured page that the step at a place of the plan finds. Raises NotThere, UnreadablePage."""
    return [node.n for node in part_of(_page(crossing, address), step_at(crossing, place))]


def every_part(crossing: int) -> list[SharedPart]:
    """The parts of all steps, in their order."""
    taken = refit.taken(crossing)
    return [_part(crossing, step, taken) for step in load_plan(crossing).refit.steps]
