"""Addresses in style sheets, replaced, and how pictures are laid. By RE2: a sheet is anybody's, the time linear."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import tinycss2

from .patterns import compile_pattern, whole

_URL = r"""(?i)url\(\s*(?:"([^"]*)"|'([^']*)'|([^)"'\s]*))\s*\)"""
_IMPORT = r"""(?i)@import\s+(?:"([^"]*)"|'([^']*)')"""
_COMMENT = r"(?s)/\*.*?\*/"


def _given(match: Any) -> str:
    return next((group for group in match.groups() if group is not None), "").strip()


def _quoted(text: str) -> str:
    return text.replace("\\", "%5C").replace('"', "%22").replace("\n", "")


def laid(declarations: str) -> str:
    """How style declarations lay a picture behind their element, in their own words: “cover, at center top, no-repeat”;
    "" where they say nothing of it (CSS Backgrounds 3: size, position, repeat; the shorthand as well)."""
    said = {"size": "", "position": "", "repeat": ""}
    for part in tinycss2.parse_declaration_list(declarations[:4000], skip_comments=True, skip_whitespace=True):
        if part.type != "declaration":
            continue
        name = part.lower_name.removeprefix("background-")
        if name in said:
            said[name] = tinycss2.serialize(part.value).strip()
        elif name == "background":
            said |= _shorthand([token for token in part.value if token.type != "whitespace"])
    at = f"at {said['position']}" if said["position"] else ""
    return ", ".join(word for word in (said["size"], at, said["repeat"]) if word)[:200]


_SIDES = frozenset("left right top bottom center".split())
_REPEATS = frozenset("repeat repeat-x repeat-y no-repeat space round".split())


def _shorthand(tokens: list[Any]) -> dict[str, str]:
    """Size, position and repeat in a ``background``: the size stands behind a slash."""
    found: dict[str, list[str]] = {"size": [], "position": [], "repeat": []}
    sized = False
    for token in tokens:
        word = token.serialize()
        if token.type == "literal" and token.value == "/":
            sized = True
            continue
        length = token.type in ("dimension", "percentage") or (token.type == "number" and token.value == 0)
        if sized and (length or word in ("cover", "contain", "auto")) and len(found["size"]) < 2:
            found["size"].append(word)
            continue
        sized = False
        if length or word in _SIDES:
            found["position"].append(word)
        elif word in _REPEATS:
            found["repeat"].append(word)
    return {name: " ".join(words) for name, words in found.items()}


def without_comments(css: str) -> str:
    return str(compile_pattern(_COMMENT).sub(" ", whole(css)))


def with_addresses(css: str, find: Callable[[str], str]) -> str:
    """A style sheet in which every address is what ``find`` makes of it (it is given "" for an empty one)."""
    css = compile_pattern(_URL).sub(lambda m: f'url("{_quoted(find(_given(m)))}")', whole(css))
    return str(compile_pattern(_IMPORT).sub(lambda m: f'@import "{_quoted(find(_given(m)))}"', css))
