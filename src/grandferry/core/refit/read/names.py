"""Which other elements an element says that it switches: by id, in ``aria-controls``, a data attribute, an inline
handler, or as the address of a link within the page."""

from __future__ import annotations

import re

from ...page import Node

_IN_HANDLER = re.compile(r"""['"#]([A-Za-z][\w:.-]*)['"]""")
_NAME = re.compile(r"\A#?([A-Za-z][\w:.-]*)\Z")
_ID = re.compile(r"#([A-Za-z][\w:.-]*)\Z")
_DATA = frozenset(
    "data-target data-bs-target data-controls data-tab data-toggle-target data-href data-panel data-id".split()
)
TOGGLING = frozenset("data-toggle data-bs-toggle data-collapse data-accordion data-fold aria-expanded".split())
# what an element that switches another one has at least one of
SWITCHING = _DATA | TOGGLING | {"aria-controls", "onclick"}


def named_ids(node: Node, by_address: bool) -> list[str]:
    """The ids, in order; ``by_address``: also that of a link within the page."""
    attrs = node.attrs
    found = (attrs.get("aria-controls") or "").split()
    for name, value in attrs.items():
        if value and name in _DATA:
            found += _NAME.findall(value.strip())
    if by_address and node.tag == "a" and (match := _ID.match(node.get("href").strip())):
        found.append(match[1])
    if handler := attrs.get("onclick"):
        found += _IN_HANDLER.findall(handler)
    return found
