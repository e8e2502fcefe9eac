"""What is seen of items as they go over, and goes along with them in a folder: forms to wire up, comments, links to
pages that do not go over."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from grandferry.core.land.going import Going
from grandferry.core.land.names import Taken
from grandferry.core.mapping import Blocks
from grandferry.core.plan import FormSaid
from grandferry.core.refit.blocks import Embed, Form, walk
from grandferry.core.refit.forms import mark_of

COMMENTS = "comments"  # the field, and the folder


@dataclass(slots=True)
class Along:
    """``records``: what files that were handed over say of an old key; ``said``: of forms, by their marks; ``silent``:
    comments are left out by decision, and only counted (``left_out``). ``forms``: a row for each form of an item;
    ``comments``: rows by the name of their file, one for each item that has some."""

    records: Mapping[str, Mapping[str, Any]]
    said: Mapping[str, FormSaid] = field(default_factory=dict)
    silent: bool = False
    left_out: int = 0
    forms: list[dict[str, Any]] = field(default_factory=list)
    kinds: Counter[str] = field(default_factory=Counter)  # how many items there are of each
    films: list[str] = field(default_factory=list)  # the keys of items with one that has no picture, one for each
    comments: dict[str, list[dict[str, Any]]] = field(default_factory=dict)
    _taken: Taken = field(default_factory=Taken)

    def note(self, going: Going) -> None:
        """Note what an item has. Called once for each item, in their order."""
        self.kinds[going.kind.name] += 1
        for value in going.fields.values():
            if not isinstance(value, Blocks):
                continue
            for block in walk(value.blocks):
                if isinstance(block, Form):
                    self.forms.append(_row(going, block, self.said.get(mark_of(block))))
                elif isinstance(block, Embed) and block.without_picture:
                    self.films.append(going.key)
        said = going.fields.get(COMMENTS)
        if not isinstance(said, list) or not all(isinstance(one, dict) for one in said):
            said = self.records.get(going.key, {}).get(COMMENTS)
        if said and self.silent:
            self.left_out += len(said)
        elif said:
            name = self._taken.one(going.place(f"{COMMENTS}/{{path}}.jsonl"))
            self.comments[name] = [dict(one) for one in said]

    def open(self, missed: Counter[tuple[str, str]]) -> list[dict[str, Any]]:
        """What of it waits for a person, as an account has it. ``missed``: links (page, target) to pages that do not go
        over, by how often."""
        found = []
        left = sum(not row["state"] for row in self.forms)
        if left:
            found.append({"what": "forms", "count": left, "why": "to be wired up; each in forms.json"})
        if self.films:
            why = f"no picture stands for them until they play, first on {self.films[0]}"
            found.append({"what": "films", "count": len(self.films), "why": why})
        if missed:
            page, target = next(iter(sorted(missed)))
            why = f"to pages and files that do not go over, first to {target} on {page}; all in links.csv"
            found.append({"what": "links", "count": missed.total(), "why": why})
        return found


def _row(going: Going, form: Form, said: FormSaid | None) -> dict[str, Any]:
    fields = [asdict(one) for one in form.fields]
    made = {"old": going.key, "new": going.path, "posts_to": form.action, "method": form.method, "fields": fields}
    return made | {"state": said.state if said else "", "note": said.note if said else ""}
