"""Plain boxes and old wrappers: elements that are not unknown, and say nothing of what they hold."""

from __future__ import annotations

import re

_NAME = re.compile(r"[a-z]\w*(?:[\w.]*-[\w.-]*)?", re.A)  # a dot only in those that an author may make (with a dash)


def no_name(tag: str) -> bool:
    """Whether a name is none that an element can have in HTML: of an office program's own (``o:p``), or what somebody
    set between ``<`` and ``>`` that is no tag (``<me@here>``, ``<limits.h>``). It says nothing of what it holds."""
    return _NAME.fullmatch(tag) is None


BOXES = frozenset(
    (
        "html body div section article main header footer nav aside center address hgroup search fieldset "
        "legend noframes frameset dialog label span font a b i em strong small big u s strike tt nobr blink "
        "marquee ins del sub sup mark q cite abbr acronym bdi bdo code kbd samp var dfn time data output "
        "picture slot optgroup option rb rp rt rtc spacer multicol layer ilayer nolayer"
    ).split()
)
