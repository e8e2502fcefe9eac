"""Addresses that are alike: the same content under several addresses, nearly the same, and spellings that may be
one."""

from __future__ import annotations

import numpy as np

from grandferry.core.side import Side
from grandferry.core.survey.fingerprint import near_groups
from grandferry.core.survey.spellings import doubts, loosened
from grandferry.store.survey.likeness import Alike, compared

NEAR_BITS = 3  # of 64 that may differ in pages nearly the same


def find(side: Side) -> list[Alike]:
    """All groups of a side's addresses as they were captured last."""
    found = compared(side)
    made: list[Alike] = []
    same: dict[str, list[int]] = {}
    loose: dict[tuple[str, str], list[tuple[int, str]]] = {}
    prints: dict[str, list[int]] = {}
    content_of: dict[int, str] = {}
    for id_, host, key, type_, body, text, near, words in found:
        content = content_of[id_] = (text or "") if type_ == "page" else body
        if content and (type_ == "file" or words):
            same.setdefault(content, []).append(id_)
        if near and type_ == "page":
            prints.setdefault(near, []).append(id_)
        loose.setdefault((host, loosened(key)), []).append((id_, key))
    groups = [ids for ids in same.values() if len(ids) > 1]
    made += [Alike("same", number, id_, "") for number, ids in enumerate(groups) for id_ in ids]
    names = list(prints)
    values = np.array([int(name, 16) for name in names], dtype=np.uint64)
    for number, group in enumerate(near_groups(values, NEAR_BITS) if len(names) > 1 else []):
        ids = [id_ for k in group for id_ in prints[names[k]]]
        made += [Alike("near", number, id_, "") for id_ in ids]
    for number, twins in enumerate(group for group in loose.values() if len(group) > 1):
        for id_, key in twins:  # each against the first of the group, the first against the second
            twin, other = twins[0] if id_ != twins[0][0] else twins[1]
            alike = content_of[id_] and content_of[id_] == content_of[twin]
            why = f"{', '.join(doubts(other, key))}; {'the same content' if alike else 'other content'}"
            made.append(Alike("spelling", number, id_, why))
    return made
