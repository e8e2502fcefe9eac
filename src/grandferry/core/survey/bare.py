"""Whether a page holds anything of its own beside its menus, its head and its foot."""

from __future__ import annotations

import re

from selectolax.lexbor import LexborNode

from ..references import Attributes

FEW = 8  # words; fewer are a label, not content
MOST_WORDS = 600  # a page with more has words of its own

_NAMES = frozenset(
    "nav navigation navbar menu footer foot header banner masthead topbar sidebar breadcrumb breadcrumbs".split()
)
_AROUND = "nav,header,footer,aside,[role=navigation],[role=banner],[role=contentinfo]," + ",".join(
    f"[{attribute}*={part} i]" for attribute in ("id", "class") for part in sorted(_NAMES - {"navigation", "navbar"})
)
_TAGS = frozenset(["nav", "header", "footer", "aside"])
_ROLES = frozenset(["navigation", "banner", "contentinfo"])
_HOLDS = "img,picture,svg,form,input,embed,table"


def _around(tag: str, attrs: Attributes) -> bool:
    if tag in _TAGS or attrs.get("role") in _ROLES:
        return True
    named = f"{attrs.get('id') or ''} {attrs.get('class') or ''}".lower()
    return not _NAMES.isdisjoint(re.split(r"[^a-z]+", named))


def is_bare(body: LexborNode) -> bool:
    """Whether there is hardly a word, and nothing else to see, outside of what stands around the content of pages.
    Takes that out of ``body``."""
    for node in body.css(_AROUND):
        if node.mem_id == body.mem_id or not _around(node.tag or "", node.attributes):
            continue
        if node.tag in ("nav", "footer") or node.css_first("h1,main,article") is None:
            node.decompose()
    return len(body.text(separator=" ").split()) < FEW and body.css_first(_HOLDS) is None and len(body.css("a")) < 2
