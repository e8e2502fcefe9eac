"""Every body of the demo, in three seeds, comes out as the blocks that it was written from; nothing is lost."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import partial
from importlib import resources
from itertools import zip_longest
from typing import Any

import pytest
import yaml

from grandferry.core.base import base_of
from grandferry.core.kinds import steps_of
from grandferry.core.lift.fields import lift_page
from grandferry.core.plan import Plan
from grandferry.core.refit.convert import refit_nodes
from grandferry.core.refit.page import absolute
from grandferry.core.refit.written import html_read_back, markdown_differs
from grandferry.core.survey.scope import scope_of
from grandferry.demo.__main__ import joined
from grandferry.demo.site import OLD, SEED
from grandferry.demo.wider import build
from grandferry.work.pages import page_and_masks
from tests.outlines import outlined

HOST = f"{OLD}:8702"


def demo_plan() -> Plan:
    folder = resources.files("grandferry.demo").joinpath("plan")
    first, more = (yaml.safe_load(folder.joinpath(name).read_text("utf-8")) for name in ("plan.yaml", "whole.yaml"))
    return Plan.model_validate(joined(first, more))


def settled(truth: Any, link: Callable[[str], str]) -> Any:
    """A truth with its addresses, which it has as the pages spell them, as a survey settles them."""
    if isinstance(truth, list):
        return [settled(one, link) for one in truth]
    return link(truth) if isinstance(truth, str) and re.fullmatch(r"(?i)(?:https?://|[/#?]|\.\./)\S*", truth) else truth


@pytest.mark.parametrize("seed", [SEED, SEED + 1, SEED + 2])
def test_bodies_are_the_blocks_they_were_written_from(seed: int) -> None:
    plan, site = demo_plan(), build(8702, 8703, 600, seed)
    scope = scope_of(plan.side("old"))
    kinds = {kind.name: kind for kind in plan.every_kind} | {"page": next(k for k in plan.kinds if k.name == "about")}
    sorts: set[str] = set()
    wrong: list[tuple[str, Any, Any]] = []
    for key, said in site.truth["pages"].items():
        answer = site.answer(HOST, key)
        assert answer is not None, key
        page, masks = page_and_masks(answer.body, answer.type, frozenset(), scope)
        url, kind = f"http://{HOST}{key}", kinds[said["kind"]]
        base = base_of(page, url, scope)
        body = next(v for v in lift_page(page, kind, key, base, scope, masks) if v.type == "blocks")
        link = partial(absolute, base=base, scope=scope, own=url)
        done = refit_nodes(
            page,
            [page.nodes[n] for n in body.value["nodes"]],
            steps=steps_of(plan.refit.steps, kind.name),
            link=link,
            aimed=dict.fromkeys(re.findall(r'href="#([^"]+)"', answer.body.decode("latin-1")), 1),
            masks=masks,
        )
        found, truth = outlined(done.blocks), settled(said["blocks"], link)
        wrong += [(key, one, true) for one, true in zip_longest(found, truth) if one != true][:1]
        sorts |= {block[0] for block in found}
        assert done.account.unaccounted == 0 and [row for row in done.account.lost if row.why.is_open] == [], key
        assert markdown_differs(done.blocks) == [] and html_read_back(done.blocks) == [], key
    assert wrong == []
    assert {"Callout", "Tabs", "Columns", "Gallery", "Button", "Form", "Footnotes", "Passage", "Disclosure"} <= sorts
    assert {"Embed", "Figure", "Table", "Definitions", "CodeBlock", "Quote", "FileLink", "Island"} <= sorts
