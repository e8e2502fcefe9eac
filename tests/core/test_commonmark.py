"""The examples of the CommonMark specification: the HTML of each through our Markdown and a CommonMark reader back to the
same tree."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path
from typing import Any

from grandferry.core.page import Node, parse
from grandferry.core.refit.convert import refit_html
from grandferry.core.refit.write import to_markdown
from grandferry.core.refit.written import read_back, rendered

ROOT = Path(__file__).parents[2]
SPEC = ROOT / "web" / "node_modules" / "commonmark-spec" / "spec.txt"
LISTED = ROOT / "docs" / "commonmark.md"
_EXAMPLE = re.compile(r"^`{32} example\n(.*?)^\.\n(.*?)^`{32}$", re.M | re.S)
_BLOCKS = frozenset("body p h1 h2 h3 h4 h5 h6 ul ol li blockquote pre hr table thead tbody tr td th div br".split())


@cache
def examples() -> list[str]:
    """The HTML of every example, in order."""
    text = SPEC.read_text("utf-8").partition("<!-- END TESTS -->")[0]
    return [html.replace("→", "\t") for _, html in _EXAMPLE.findall(text)]


def tree(node: Node) -> Any:
    """A page's elements with their attributes and texts, white space that no browser shows left out."""
    if not node.tag:
        return node.text
    inside: list[Any] = []
    for child in node.children:
        made = tree(child)
        if isinstance(made, str) and inside and isinstance(inside[-1], str):
            inside[-1] += made
        else:
            inside.append(made)
    if node.tag not in ("pre", "code"):
        inside = [re.sub(r"\s+", " ", one) if isinstance(one, str) else one for one in inside]
        edge = [None, *inside, None]
        if node.tag in _BLOCKS:
            inside = [
                one
                if not isinstance(one, str)
                else one.removeprefix(" " if _ends(edge[at]) else "\0").removesuffix(
                    " " if _ends(edge[at + 2]) else "\0"
                )
                for at, one in enumerate(inside)
            ]
        inside = [one for one in inside if one != ""]
    return node.tag, sorted((name, value or "") for name, value in node.attrs.items()), inside


def _ends(beside: Any) -> bool:
    return beside is None or (not isinstance(beside, str) and beside[0] in _BLOCKS)


def body(html: str) -> Any:
    return tree(parse(f"<body>{html}").body)


def listed() -> dict[int, str]:
    """The examples of which the docs say that they do not come back, with the reason."""
    rows = re.findall(r"^\| ([\d, ]+) \| ([^|]+) \|$", LISTED.read_text("utf-8"), re.M)
    return {int(number): reason for numbers, reason in rows for number in numbers.split(",")}


def test_every_example_comes_back_but_those_that_the_docs_list() -> None:
    assert len(examples()) == 652
    differ = {
        number
        for number, html in enumerate(examples(), 1)
        if body(rendered(to_markdown(refit_html(html, mask=False).blocks))) != body(html)
    }
    assert differ == set(listed())


def test_every_example_keeps_its_words_links_and_code() -> None:
    for number, html in enumerate(examples(), 1):
        blocks = refit_html(html, mask=False).blocks
        assert read_back(blocks, to_markdown(blocks)) == [], number
