"""What a person says of a file, and of what files are for: a line of ``media.csv``, and the plan's ``media``."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from ..address import normal, to_key
from ..errors import FerryError
from ..kinds import Name
from ..strict import Strict

SHAPE_MARGIN = 0.03  # of a side: so far a picture may be from the shape of its role
_FOCUS = re.compile(r"(\d{1,3}(?:\.\d{1,2})?)% (\d{1,3}(?:\.\d{1,2})?)%")
_SHAPE = re.compile(r"(\d{1,5}):(\d{1,5})")


def _good_file(value: str) -> str:
    if "://" not in value:
        try:
            return to_key(value)
        except FerryError as problem:
            raise ValueError(str(problem)) from None
    address = normal(value)
    if address is None:
        raise ValueError(f"“{value}” is no address of a file")
    return str(address)


def _good_focus(value: str) -> str:
    match = _FOCUS.fullmatch(value)
    if value and (match is None or any(float(part) > 100 for part in match.groups())):
        raise ValueError(f"“{value}” is no place on a picture; it is written as “30% 40%”: from the left, from the top")
    return value


def _good_shape(value: str) -> str:
    match = _SHAPE.fullmatch(value)
    if value and (match is None or not all(int(part) for part in match.groups())):
        raise ValueError(f"“{value}” is no shape; it is written as 16:9: width to height")
    return value


FileAddress = Annotated[
    str,
    AfterValidator(_good_file),
    Field(max_length=2000, description="path with query on the old site's own host, else the whole address"),
]
Focus = Annotated[
    str,
    AfterValidator(_good_focus),
    Field(max_length=20, description="the place of a picture that crops keep in view, as CSS has it (object-position)"),
]


def written_as(url: str, origin: str) -> str:
    """What the plan calls the file of an address: free of the host where that is the old site's own (``origin``: its
    scheme and host)."""
    return url.removeprefix(origin) if url.startswith(f"{origin}/") else url


def whole(file: str, origin: str) -> str:
    """The address of what the plan calls a file."""
    return f"{origin}{file}" if file.startswith("/") else file


class FileSaid(Strict):
    """A file, and what a person says of it: what it is for (``role``), the text that stands for it where a page says
    none (``over``: also where a page has one of its own), what it is called (its name without the folders), the place
    of it that crops keep, the picture that stands for a film (``poster``), why it stays behind (``aside``), and that it
    goes over as it is although pictures are made anew (``same``)."""

    file: FileAddress
    role: Annotated[str, Field(max_length=60)] = ""
    alt: Annotated[str, Field(max_length=2000)] = ""
    over: bool = False
    name: Annotated[str, Field(max_length=120, pattern=r"^$|^[^/\\?#\x00-\x1f]+$")] = ""
    focus: Focus = ""
    poster: FileAddress | Literal[""] = ""
    aside: Annotated[str, Field(max_length=2000)] = ""
    same: bool = False

    @property
    def nothing(self) -> bool:
        """Whether nothing is said."""
        return self == FileSaid(file=self.file)


class RoleFault(StrEnum):
    """Why a picture does not suit its role."""

    SMALL = "small"  # fewer pixels than wanted
    SHAPE = "shape"  # another shape than wanted
    UNKNOWN = "unknown"  # nothing is known of its size
    NO_ROLE = "no role"  # the plan knows no such role


class Role(Strict):
    """What pictures are for: the least they must have in pixels (0: whatever), the shape they are shown in ("": any),
    and fields of items whose pictures have this role without being named."""

    name: str = Field(min_length=1, max_length=60)
    width: int = Field(0, ge=0, le=100_000)
    height: int = Field(0, ge=0, le=100_000)
    shape: Annotated[str, AfterValidator(_good_shape)] = ""
    fields: Annotated[list[Name], Field(max_length=50)] = []

    def fault(self, width: int, height: int) -> RoleFault | None:
        """Why a picture of so many pixels does not suit; None where it does."""
        wanted = self.width or self.height or self.shape
        if wanted and not (width and height):
            return RoleFault.UNKNOWN
        if width < self.width or height < self.height:
            return RoleFault.SMALL
        if self.shape:
            across, down = map(int, self.shape.split(":"))
            if abs(width / height - across / down) > SHAPE_MARGIN * across / down:
                return RoleFault.SHAPE
        return None


class Remake(Strict):
    """How pictures are made anew as they go over; their originals are kept. ``widest``: pixels of the longer side, 0
    for as many as they have; ``form``: webp for all that it suits, or as they are; ``quality`` of JPEG and WebP (1 to
    100)."""

    widest: int = Field(0, ge=0, le=20_000)
    form: Literal["", "webp"] = ""
    quality: int = Field(82, ge=1, le=100)


class MediaSettings(Strict):
    roles: Annotated[list[Role], Field(max_length=200)] = []
    remake: Remake = Remake()  # type: ignore[call-arg]

    @model_validator(mode="after")
    def _roles_once(self) -> Self:
        names = [role.name for role in self.roles]
        twice = {name for name in names if names.count(name) > 1}
        if twice:
            raise ValueError(f"the role “{sorted(twice)[0]}” is named twice")
        fields = [name for role in self.roles for name in role.fields]
        twice = {name for name in fields if fields.count(name) > 1}
        if twice:
            raise ValueError(f"pictures of the field “{sorted(twice)[0]}” would have two roles")
        return self

    def fault(self, role: str, width: int, height: int) -> RoleFault | None:
        """Why a picture does not suit the role of a name."""
        known = next((one for one in self.roles if one.name == role), None)
        return known.fault(width, height) if known is not None else RoleFault.NO_ROLE


def of_bodies(addresses: Mapping[str, Iterable[str]], said: Mapping[str, FileSaid]) -> dict[str, FileSaid]:
    """What is said of files by their bodies; ``addresses``: those of each body in their order, the first of which
    something is said counts."""
    found = ((body, next((said[url] for url in urls if url in said), None)) for body, urls in addresses.items())
    return {body: one for body, one in found if one is not None}


def by_address(said: Iterable[FileSaid], origin: str) -> dict[str, FileSaid]:
    """What is said of files by whole addresses."""
    return {whole(one.file, origin): one for one in said}
