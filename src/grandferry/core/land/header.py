"""Headers of Markdown files: YAML between fences (every text quoted, so that none is taken for something else), or
lines of ``Key: value``, which say no more than texts in one line."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import yaml


class _Quoted(yaml.SafeDumper):
    """Texts in double quotes, keys without; nothing is referred to by an alias."""

    def ignore_aliases(self, data: Any) -> bool:
        return True


class _Plain(str):
    """A key."""


def _quote(dumper: yaml.SafeDumper, value: str) -> yaml.Node:
    return dumper.represent_scalar("tag:yaml.org,2002:str", value, style='"')


_Quoted.add_representer(str, _quote)
_Quoted.add_representer(_Plain, lambda dumper, value: dumper.represent_scalar("tag:yaml.org,2002:str", str(value)))


def _keyed(value: Any) -> Any:
    if isinstance(value, dict):
        return {_Plain(key): _keyed(one) for key, one in value.items()}
    if isinstance(value, list | tuple):
        return [_keyed(one) for one in value]
    if isinstance(value, str):
        return value.encode("utf-8", "replace").decode()  # half a pair of surrogates is no text there
    return value


def yaml_header(pairs: Iterable[tuple[str, Any]]) -> str:
    """Keys and values between ``---`` (YAML 1.2, read the same as 1.1)."""
    said = yaml.dump(_keyed(dict(pairs)), Dumper=_Quoted, allow_unicode=True, sort_keys=False, width=10**9)
    return f"---\n{said}---\n"


def line_header(pairs: Iterable[tuple[str, Any]]) -> str:
    """A line for each key that has a value. Lists stand with commas between, with semicolons where a value has a comma
    itself; what has parts is written as JSON."""
    lines = [f"{key}: {text}" for key, value in pairs if (text := _line(value))]
    return "\n".join(lines) + "\n"


def _line(value: Any) -> str:
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, list) and all(isinstance(one, str) for one in value):
        some = [one for one in map(_one_line, value) if one]
        mark = ";" if any("," in one for one in some) else ","
        return f"{mark} ".join(some) + (";" if mark == ";" and len(some) == 1 else "")
    if isinstance(value, dict | list):
        return _one_line(json.dumps(value, ensure_ascii=False)) if value else ""
    return "" if value is None else _one_line(str(value))


def _one_line(text: str) -> str:
    return " ".join(text.encode("utf-8", "replace").decode().split())
