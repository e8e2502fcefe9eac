"""Raw markup made fit to be handed over: nothing in it runs, and every tag is one that Markdown readers take for HTML.

Parsed and written anew by one serialiser, so that no disguise of an address, no odd nesting and no comment gets
through. Tag and attribute names are those of CommonMark 0.31 section 6.6; what an element outside them holds is kept.
"""

from __future__ import annotations

import re
from functools import lru_cache

from ..page import Node, parse
from ..references import SETS, runs_script, srcset
from .serialise import VOID, escape_attribute, escape_text

# elements that act, hide, or change the page around them: they go with all they hold
_GONE = frozenset(
    (
        "script style template noscript noembed noframes base meta link title head frameset portal fencedframe applet "
        "foreignobject set animate animatemotion animatetransform animatecolor discard handler listener param"
    ).split()
)
_TAG = re.compile(r"[A-Za-z][A-Za-z0-9-]*\Z")
_NAME = re.compile(r"[A-Za-z_:][A-Za-z0-9_.:-]*\Z")
_DROPPED = frozenset(
    "srcdoc autofocus ping http-equiv nonce integrity is slot formtarget manifest archive codebase".split()
)
_ACTING_STYLE = re.compile(r"expression\s*\(|javascript:|vbscript:|-moz-binding|behaviou?r\s*:", re.I)
_ESCAPES = re.compile(r"\\[0-9a-f]{1,6}\s?|/\*.*?\*/|[\x00-\x1f]", re.I | re.S)
_NO_ADDRESS = frozenset("alt title class id name value placeholder label summary content for aria-label".split())
_PLAIN = {"xmp": "pre", "plaintext": "pre", "listing": "pre"}


@lru_cache(1024)
def clean(html: str) -> str:
    """The markup without anything that runs."""
    out: list[str] = []
    for node in parse(f"<body>{html}").body.children:
        _write(node, out)
    return "".join(out)


def _write(node: Node, out: list[str]) -> None:
    if not node.tag:
        out.append(escape_text(node.text))
        return
    tag = _PLAIN.get(node.tag, node.tag)
    if tag.lower() in _GONE:
        return
    known = bool(_TAG.match(tag))
    if known:
        out.append(f"<{tag}{attributes(node)}>")
        if tag in VOID:
            return
        if tag in ("pre", "textarea") and node.children and node.children[0].text.startswith("\n"):
            out.append("\n")  # the parser drops the first line break after these
    if tag != "iframe":  # what stands in a frame is for readers that know none, and is text to all others
        for child in node.children:
            _write(child, out)
    if known:
        out.append(f"</{tag}>")


def attributes(node: Node) -> str:
    """An element's attributes as they may stand in what is handed over."""
    parts = []
    for name, value in node.attrs.items():
        low = name.lower()
        if not _NAME.match(name) or low.startswith("on") or low in _DROPPED:
            continue
        if value is None:
            parts.append(f" {name}")
            continue
        if low == "style" and _ACTING_STYLE.search(_ESCAPES.sub("", value)):
            continue
        if low not in _NO_ADDRESS and not low.startswith("aria-") and (runs_script(value) or _any_runs(low, value)):
            continue
        parts.append(f' {name}="{escape_attribute(value).replace(chr(10), "&#10;").replace(chr(13), "&#13;")}"')
    return "".join(parts)


def _any_runs(name: str, value: str) -> bool:
    """Whether one address of a set of pictures runs a script."""
    return name in SETS and any(runs_script(url) for url, _ in srcset(value))
