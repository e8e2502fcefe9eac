"""Waiting for something to come true."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

SECONDS = 20.0


def wait_for(condition: Callable[[], Any], seconds: float = SECONDS) -> Any:
    """What the condition gives as soon as it holds. Fails when it does not within so many seconds."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if got := condition():
            return got
        time.sleep(0.02)
    raise AssertionError(f"not within {seconds:g} s")
