"""Which of many short marks a page's source holds, told in one pass: what is not there need not be looked for."""

from __future__ import annotations

from collections.abc import Iterable

import re2


class Marks:
    """Looks for ASCII marks, whatever their case. On RE2, whose set of patterns is one automaton."""

    def __init__(self, marks: Iterable[str]):
        self._marks = list(dict.fromkeys(marks))
        options = re2.Options()
        options.case_sensitive = False
        options.encoding = re2.Options.Encoding.LATIN1
        options.never_capture = True
        self._set = re2.Set.SearchSet(options)
        for mark in self._marks:
            self._set.Add(re2.escape(mark).encode("ascii"))
        self._set.Compile()

    def within(self, source: bytes) -> frozenset[str]:
        """Those of the marks that stand in ``source``."""
        return frozenset(self._marks[number] for number in self._set.Match(source) or ())
