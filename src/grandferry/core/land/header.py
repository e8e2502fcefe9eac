"""Headers of Markdown files: YAML between fences (every text quoted, so that none is taken for something else), or
lines of ``Key: value``, which say no more than texts in one line."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import yaml

from ..errors import FerryError


class HeaderError(FerryError):
    """A header that cannot be read."""


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


def read_yaml(text: str) -> tuple[dict[str, Any], str]:
    """(the keys of a header between ``---``, what stands below it). Raises HeaderError."""
    first, _, rest = text.partition("\n")
    said, fence, body = f"\n{rest}".partition("\n---\n")
    if first.rstrip() != "---" or not fence:
        raise HeaderError("There is no header between two lines of ---.")
    try:
        keys = yaml.safe_load(said)
    except yaml.YAMLError as problem:
        raise HeaderError(f"Its header is no YAML: {' '.join(str(problem).split())}.") from None
    if not isinstance(keys, dict):
        raise HeaderError("Its header has no keys.")
    return {str(key): value for key, value in keys.items()}, body


def read_lines(text: str) -> tuple[dict[str, Any], str]:
    """(the keys of a header of lines, what stands below the first empty one). Raises HeaderError."""
    header, _, body = text.partition("\n\n")
    keys: dict[str, Any] = {}
    for number, line in enumerate(header.splitlines(), 1):
        key, colon, value = line.partition(":")
        if not colon:
            raise HeaderError(f"Line {number} of its header is no “Key: value”.")
        keys[key.strip()] = value.strip()
    return keys, body


def list_of(line: str) -> list[str]:
    """The parts of a list as a header of lines has it."""
    return [part for one in line.split(";" if ";" in line else ",") if (part := one.strip())]
