"""The reader: a declared chain of rules, one construct a file.

Each rule names the elements it reads (``TAGS``) and gives blocks for one of them, or None to let the
next rule in the chain try. Adding a construct is adding a file and a line here.
"""

from __future__ import annotations

from . import (
    accordion,
    background,
    callout,
    code,
    columns,
    container,
    definitions,
    disclosure,
    divider,
    embed,
    figure,
    footnotes,
    form,
    gallery,
    heading,
    island,
    listing,
    paragraph,
    quote,
    table,
    tabs,
)
from .base import Rule
from .reader import PageReader

CHAIN: tuple[Rule, ...] = (
    accordion,
    tabs,
    gallery,
    callout,
    columns,
    background,
    footnotes,
    form,
    heading,
    paragraph,
    listing,
    table,
    code,
    quote,
    figure,
    divider,
    definitions,
    disclosure,
    embed,
    island,
    container,
)

__all__ = ["CHAIN", "PageReader", "make_reader"]


def make_reader(*args, **kwargs) -> PageReader:  # type: ignore[no-untyped-def]
    """A reader over the declared chain; arguments as for ``PageReader``."""
    return PageReader(CHAIN, *args, **kwargs)
