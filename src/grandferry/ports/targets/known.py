"""The systems content can go to: one module a target, and a line here."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from aiohttp.abc import AbstractResolver

from grandferry.core.plan import FOLDERS, LandSettings
from grandferry.core.refit.choices import Odd, WrittenAs

from .base import Target
from .folder import Folder
from .jsonapi import JsonApi


@dataclass(frozen=True, slots=True)
class Opening:
    """What a target is opened with: the plan's settings; ``place``: of one that is a folder; ``over``: what a person
    changed there is written over; how Markdown says what it has no mark for."""

    settings: LandSettings
    place: Path
    over: bool
    choices: Mapping[Odd, WrittenAs]
    resolver: AbstractResolver | None = None


def _jsonapi(opening: Opening) -> Target:
    return JsonApi(opening.settings.base or "", opening.resolver)


def _folder(opening: Opening) -> Target:
    settings = opening.settings
    profile = settings.as_markdown
    return Folder(opening.place, settings.target, profile, profile.choices(opening.choices), opening.over)


# the name a plan gives it -> how it is opened
TARGETS: dict[str, Callable[[Opening], Target]] = {"jsonapi": _jsonapi, **dict.fromkeys(FOLDERS, _folder)}
