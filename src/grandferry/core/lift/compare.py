"""What two plans make of the same page: values that differ, and words that one of them carries and the other does
not."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from ..kinds import KindPlan, Step, steps_of
from ..page import Node, Page
from ..refit.page import numbered
from .value import Value

SAID = 200  # characters of the words that only one of them carries


@dataclass(frozen=True, slots=True)
class Carried:
    """What a plan makes of a page: its kind ("" where no item is made), the values by field, and the texts (their
    numbers) that come over with them."""

    kind: str = ""
    values: Mapping[str, Any] = field(default_factory=dict)
    texts: frozenset[int] = frozenset()


class Difference(NamedTuple):
    """A field whose value differs; ``field`` "" stands for the words of the page: how many only the first carries, how
    many only the second, and the first of these."""

    field: str
    before: Any
    after: Any
    only_before: int = 0
    only_after: int = 0


def carried(page: Page, kind: KindPlan | None, values: Sequence[Value], steps: Sequence[Step]) -> Carried:
    """What a kind with its values carries of a page, less what clean-up steps take out of bodies."""
    if kind is None or not kind.makes_items:
        return Carried()
    bodies = [n for v in values if v.type == "blocks" and v.value for n in v.value["nodes"]]
    others = [n for v in values if v.type != "blocks" and not v.beside for n in v.nodes if n >= 0]
    said = {v.field: (v.hash if v.type == "blocks" else v.value) for v in values}
    return Carried(kind.name, said, texts_of(page, bodies, others, steps_of(steps, kind.name)))


def texts_of(page: Page, bodies: Iterable[int], others: Iterable[int], steps: Sequence[Step]) -> frozenset[int]:
    """The texts of a page that stand in its bodies, less what steps take out, or where other fields are read."""
    region = numbered(page, bodies)
    out: set[int] = set()
    for step in steps if region else ():
        for node in page.select(step.remove) if step.remove else ():
            if any(top.n < node.n <= top.last for top in region):
                out.update(range(node.n, node.last + 1))
    kept = {n.n for top in region for n in page.inside(top) if _says(n) and n.n not in out}
    for number in others:
        kept.update(n.n for n in page.inside(page.nodes[number]) if _says(n))
    return frozenset(kept)


def _says(node: Node) -> bool:
    return not node.tag and node.visible and bool(node.text.strip())


def differences(page: Page, before: Carried, after: Carried) -> list[Difference]:
    """In what two plans differ over a page. A field that one of them has not got differs where the other fills it."""
    found = [
        Difference(name, before.values.get(name), after.values.get(name))
        for name in dict.fromkeys([*before.values, *after.values])
        if before.values.get(name) != after.values.get(name)
    ]
    one, other = before.texts - after.texts, after.texts - before.texts
    if one or other or before.kind != after.kind:
        found.append(Difference("", _said(page, one), _said(page, other), _words(page, one), _words(page, other)))
    return found


def _words(page: Page, texts: Iterable[int]) -> int:
    return sum(len(page.nodes[n].text.split()) for n in texts)


def _said(page: Page, texts: Iterable[int]) -> str:
    return " ".join(" ".join(page.nodes[n].text for n in sorted(texts)).split())[:SAID]
