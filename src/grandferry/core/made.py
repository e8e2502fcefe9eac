"""What a finding was made from, as one short hash: it agrees with what is there now, or the finding is behind.

Every stage names the version of its code; it is raised whenever the same input would give another finding.
"""

from __future__ import annotations

import hashlib
import json
from enum import StrEnum
from typing import Any

from pydantic import BaseModel

SORT, LIFT, REFIT, ROUTE = 2, 7, 9, 1  # versions of the stages' code


class Behind(StrEnum):
    """Why a finding no longer agrees with what it was made from."""

    NEW = "new"  # there is none yet
    CHANGED = "changed"  # its page, or a part of the plan it rests on, has changed
    OLDER = "older"  # an older version of the program made it
    GONE = "gone"  # what it was made from is there no more


def made_from(version: int, *parts: Any) -> str:
    """``version:hash`` of JSON-like values and models, in their order. Whether a part of the plan was proposed or
    decided changes nothing of what is made from it."""
    plain = [_bare(part) for part in parts]
    text = json.dumps(plain, ensure_ascii=False, sort_keys=True, separators=(",", ":"), default=_plain)
    return f"{version}:{hashlib.blake2b(text.encode('utf-8', 'surrogatepass'), digest_size=10).hexdigest()}"


# parts of the plan that came later: where they say nothing, findings of before there was such a thing still agree
_LATER = frozenset(
    "json_ld fixed parts xpath record default join template map follows select act box kinds off tidy".split()
)


def _bare(value: Any) -> Any:
    if isinstance(value, BaseModel):
        value = value.model_dump(mode="json")
    if isinstance(value, dict):
        said = ((name, part) for name, part in value.items() if name not in _LATER or part not in (None, [], False))
        return {name: _bare(part) for name, part in said if name != "proposed"}
    if isinstance(value, list) and value and isinstance(value[0], dict | list | BaseModel):
        return [_bare(part) for part in value]
    return value


def _plain(value: Any) -> Any:
    if isinstance(value, set | frozenset):
        return sorted(value)
    raise TypeError(f"{type(value).__name__} is no part of what a finding is made from")


def behind(had: str, now: str) -> Behind | None:
    """Whether a finding made from ``had`` ("" when none is known) is behind what is there ``now``, and why."""
    if had == now:
        return None
    if not had or had.partition(":")[0] != now.partition(":")[0]:
        return Behind.OLDER
    return Behind.CHANGED
