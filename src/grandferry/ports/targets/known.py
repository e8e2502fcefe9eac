"""The systems content can go to: one module a target, and a line here."""

from __future__ import annotations

from collections.abc import Callable

from aiohttp.abc import AbstractResolver

from .base import Target
from .jsonapi import JsonApi

# the name a plan gives it -> how it is opened at a base address
TARGETS: dict[str, Callable[[str, AbstractResolver | None], Target]] = {"jsonapi": JsonApi}
