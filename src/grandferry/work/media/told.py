"""What a person says of files, carried into items: texts of pictures, the places that crops keep, posters of films."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from grandferry.core.address import Scope
from grandferry.core.media.said import FileSaid, by_address, of_bodies, whole
from grandferry.core.refit.blocks import Embed, Picture
from grandferry.store import media, said


class Told:
    """What is said of files by their old addresses; of one under several addresses it holds for each of them."""

    def __init__(self, crossing: int, scope: Scope, origin: str):
        self._scope, self._origin = scope, origin
        mine = by_address(said.every(crossing), origin)
        addresses = media.every_address(crossing) if mine else {}
        said_ = of_bodies(addresses, mine)
        self._by_url = mine | {url: one for body, one in said_.items() for url in addresses[body]}

    def of(self, address: str) -> FileSaid | None:
        """What is said of the file of an address as written."""
        found = self._scope.normal(address) if self._by_url and address else None
        return self._by_url.get(str(found)) if found is not None else None

    def block(self, thing: Any) -> Any:
        """A picture with the text that counts, a film with its poster; anything else as it is."""
        if isinstance(thing, Picture) and (mine := self.of(thing.src)) and mine.alt and (mine.over or not thing.alt):
            return replace(thing, alt=mine.alt)
        if isinstance(thing, Embed) and not thing.poster and (mine := self.of(thing.src)) and mine.poster:
            return replace(thing, poster=whole(mine.poster, self._origin))
        return thing

    def value(self, value: Mapping[str, Any], source: Callable[[str], str]) -> dict[str, Any]:
        """The value of a picture's field at its new place, with the text that counts, and the place that crops keep."""
        mine = self.of(value["src"])
        made = {**value, "src": source(value["src"])}
        if mine is not None and mine.alt and (mine.over or not made.get("alt")):
            made["alt"] = mine.alt
        if mine is not None and mine.focus:
            made["focus"] = mine.focus
        return made
