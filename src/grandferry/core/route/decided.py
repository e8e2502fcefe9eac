"""The columns of the table of decisions that is given out and brought back."""

from __future__ import annotations

MARK = "as given out"
COLUMNS = ("address", "decision", "new address", "why", "title", "visits", MARK)


def is_decisions(columns: list[str]) -> bool:
    """Whether a table's columns are those of a table of decisions, in whatever order."""
    return {MARK, "address", "decision"} <= {name.strip().lower() for name in columns}
