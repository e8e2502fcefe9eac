"""What a host asks for when it wants to be asked later."""

from __future__ import annotations

from datetime import UTC, datetime
from email.utils import parsedate_to_datetime

LONGEST_PAUSE = 120.0  # seconds that a Retry-After is heeded for


def retry_after(value: str, otherwise: float, now: datetime) -> float:
    """The seconds a ``Retry-After`` asks for (RFC 9110 section 10.2.3: seconds or a date), at most LONGEST_PAUSE
    from ``now`` on; ``otherwise`` when it says nothing that can be read."""
    value = value.strip()
    if value.isascii() and value.isdigit():
        return min(float(value), LONGEST_PAUSE)
    try:
        moment = parsedate_to_datetime(value)
    except (TypeError, ValueError):
        return otherwise
    if moment.tzinfo is None:
        moment = moment.replace(tzinfo=UTC)
    return min(max(0.0, (moment - now).total_seconds()), LONGEST_PAUSE)
