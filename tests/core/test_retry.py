"""What a host asks for when it wants to be asked later (RFC 9110 section 10.2.3)."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from grandferry.core.retry import LONGEST_PAUSE, retry_after

NOW = datetime(2026, 5, 1, 12, 0, 0, tzinfo=UTC)


@pytest.mark.parametrize(
    ("value", "seconds"),
    [
        ("7", 7),
        (" 0 ", 0),
        ("9" * 400, LONGEST_PAUSE),
        ("Fri, 01 May 2026 12:00:30 GMT", 30),
        ("Fri, 01 May 2026 11:00:00 GMT", 0),
        ("Fri, 01 May 2037 11:00:00 GMT", LONGEST_PAUSE),
        ("Friday, 01-May-26 12:00:30 GMT", 30),  # as it was once written
        ("", 1.5),
        ("soon", 1.5),
        ("-3", 1.5),
        ("²", 1.5),
    ],
)
def test_seconds_or_a_date(value: str, seconds: float) -> None:
    assert retry_after(value, 1.5, NOW) == seconds
