"""Acts over many old addresses at once: deciding over them, or asking their owner."""

from __future__ import annotations

from grandferry.store.lists.windows import Selection

from .asking import ask
from .decisions import decide_over


def act_over(crossing: int, chosen: Selection, what: str, to: str, reason: str, by: str) -> tuple[int, str]:
    """``ask`` puts ``reason`` as a question to the owner, the addresses leading ``to`` for now; all else decides, as
    ``decide_over``. Gives how many, and the change in words. Raises FerryError as those do."""
    if what == "ask":
        return ask(crossing, chosen, reason, to, by)
    return decide_over(crossing, chosen, what, to, reason, by)
