"""What a system that content is delivered to looks like from here. One module a target, and a line in ``known.py``."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Iterable
from dataclasses import dataclass, field
from types import TracebackType
from typing import Any, Protocol

from grandferry.core.errors import FerryError
from grandferry.core.land.going import Going
from grandferry.core.refit.written import Differs


class TargetError(FerryError):
    """The target refused something, or cannot be reached."""


def identity(crossing: str, type_: str, key: str) -> str:
    """The id under which a thing of ours is made at a target: the same every time (RFC 9562, version 5)."""
    return str(uuid.uuid5(uuid.NAMESPACE_URL, f"grandferry:{crossing}:{type_}:{key}"))


@dataclass(frozen=True, slots=True)
class Takes:
    """What a target can take. ``redirects``: the matches its redirect table knows, none when it has no table;
    ``files`` and ``menus``: whether it has a place for them; ``folder``: it is a folder here, which takes items without
    an address as well, and the redirect map, the account and the plan as documents beside them; ``whole``: it is put
    all items every time, since several of them stand in one file."""

    redirects: frozenset[str] = field(default_factory=frozenset)
    files: bool = True
    menus: bool = False
    folder: bool = False
    whole: bool = False


@dataclass(slots=True)
class Ended:
    """What was done at the end: documents and files that are written, taken away, or left since a person changed them
    (each with the reason); and things that are called otherwise there (old key, the name that was wanted, that it
    has)."""

    written: int = 0
    removed: int = 0
    kept: list[tuple[str, str]] = field(default_factory=list)
    renamed: list[tuple[str, str, str]] = field(default_factory=list)


class Target(Protocol):
    """A target, open while it is used as a context. Everything it wants in its own way is known to its module alone."""

    takes: Takes

    async def __aenter__(self) -> Target: ...

    async def __aexit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None: ...

    async def exists(self) -> None:
        """Raise TargetError when there is no such target."""
        ...

    async def model(self) -> dict[str, tuple[str, ...]] | None:
        """Its own content model, type -> names of fields; None when it cannot be read."""
        ...

    def item(self, going: Going) -> dict[str, Any]:
        """The attributes of an item as this target wants them."""
        ...

    def file(self, path: str, name: str, mime: str, alt: str) -> dict[str, Any]:
        """The attributes of a file, its content aside."""
        ...

    def with_content(self, attributes: dict[str, Any], content: bytes) -> dict[str, Any]:
        """A file's attributes with its content."""
        ...

    def redirect(self, old: str, new: str, status: int, match: str) -> dict[str, Any]:
        """The attributes of a line of the redirect table."""
        ...

    async def get(self, type_: str, id_: str) -> dict[str, Any] | None:
        """A thing as it stands there, None when it is not there. Raises TargetError."""
        ...

    async def put(self, type_: str, id_: str, attributes: dict[str, Any], known: bool) -> str:
        """Make or change one thing; gives what was done (``created``, ``changed`` or ``same``). Raises TargetError."""
        ...

    async def remove(self, type_: str, id_: str) -> bool:
        """Take one thing away; whether it was there. Raises TargetError."""
        ...

    def differs(self) -> Iterable[tuple[str, Differs]]:
        """What bodies lost or gained as they were written, by the old keys of their items."""
        ...

    async def finish(self, ids: Collection[str], documents: Iterable[tuple[str, bytes]]) -> Ended:
        """All has been put. ``ids``: all that belongs there; ``documents``: what a folder holds beside it (name,
        content). Raises TargetError."""
        ...
