"""What gives access to protected sites: names with passwords, headers, cookies.

They lie in a file of their own beside the databases, readable by its owner alone, so that no copy, export or log of
records ever holds them. On screen they are shown masked.
"""

from __future__ import annotations

import base64
import fcntl
import json
import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Literal

from .db import StoreError, workspace_folder

Kind = Literal["basic", "header", "cookie"]
FILE = "secrets.json"


@dataclass(frozen=True, slots=True)
class Secret:
    """``host`` with its port; ``name``: the user (basic), the header's or the cookie's name."""

    host: str
    kind: Kind
    name: str
    value: str

    @property
    def masked(self) -> str:
        """A sign that there is something, and how much of it."""
        return "•" * min(12, max(4, len(self.value)))


def _file() -> Path:
    return workspace_folder() / FILE


def _load() -> dict[str, list[Secret]]:
    try:
        held = json.loads(_file().read_text("utf-8"))
    except FileNotFoundError:
        return {}
    except (OSError, ValueError) as problem:
        raise StoreError(f"{FILE} cannot be read: {problem}.", "Give the access anew.") from None
    return {crossing: [Secret(**one) for one in given] for crossing, given in held.items()}


def _save(held: dict[str, list[Secret]]) -> None:
    text = json.dumps({crossing: [asdict(one) for one in given] for crossing, given in held.items() if given})
    fresh = _file().with_suffix(".new")
    fresh.unlink(missing_ok=True)
    descriptor = os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(descriptor, "w", encoding="utf-8") as handle:
        handle.write(text)
    os.replace(fresh, _file())


@contextmanager
def _alone() -> Iterator[None]:
    """Only one at a time reads the file and writes it anew, of all threads and processes."""
    descriptor = os.open(_file().with_suffix(".lock"), os.O_WRONLY | os.O_CREAT, 0o600)
    try:
        fcntl.flock(descriptor, fcntl.LOCK_EX)
        yield
    finally:
        os.close(descriptor)


def secrets(crossing: int) -> list[Secret]:
    """All that a crossing knows, by host."""
    return sorted(_load().get(str(crossing), []), key=lambda s: (s.host, s.kind, s.name))


def give(crossing: int, secret: Secret) -> None:
    """Keep one; it takes the place of one with the same host, kind and name (of basic, there is one a host)."""
    with _alone():
        _give(crossing, secret)


def _give(crossing: int, secret: Secret) -> None:
    held = _load()
    others = [s for s in held.get(str(crossing), []) if not _same(s, secret.host, secret.kind, secret.name)]
    held[str(crossing)] = [*others, secret]
    _save(held)


def forget(crossing: int, host: str, kind: str, name: str) -> bool:
    """Drop one; gives whether it was there."""
    with _alone():
        held = _load()
        kept = [s for s in held.get(str(crossing), []) if not _same(s, host, kind, name)]
        found = len(kept) < len(held.get(str(crossing), []))
        held[str(crossing)] = kept
        _save(held)
        return found


def _same(secret: Secret, host: str, kind: str, name: str) -> bool:
    return secret.host == host and secret.kind == kind and (kind == "basic" or secret.name.lower() == name.lower())


def access_headers(known: list[Secret], host: str) -> dict[str, str]:
    """The request headers that give access to a host ({} when there is nothing for it)."""
    made: dict[str, str] = {}
    cookies = []
    for secret in known:
        if secret.host != host:
            continue
        if secret.kind == "basic":
            pair = base64.b64encode(f"{secret.name}:{secret.value}".encode()).decode()
            made["Authorization"] = f"Basic {pair}"
        elif secret.kind == "header":
            made[secret.name] = secret.value
        else:
            cookies.append(f"{secret.name}={secret.value}")
    if cookies:
        made["Cookie"] = "; ".join(cookies)
    return made
