"""Why an address that was met is kept out of a survey, and the ways in which it may be let in."""

from __future__ import annotations

from enum import StrEnum


class KeptOut(StrEnum):
    """``LET_IN``: it is not kept out."""

    LET_IN = ""
    OTHER_HOST = "other host"
    FILES_ONLY = "other host: files only"
    REPEATS = "repeats itself"
    OUTSIDE = "outside the folder"
    EXCLUDED = "excluded by pattern"
    NOT_INCLUDED = "not in an included pattern"
    TOO_DEEP = "deeper than allowed"
    ROBOTS = "robots.txt"
    ENDLESS = "endless space"


class LetIn(StrEnum):
    """A way to let in what is kept out."""

    FILES = "files"  # of its host
    PAGES = "pages"  # of its host, too
    ALIAS = "alias"  # its host is another name of the site
    THESE = "these"  # the addresses alone
    ENDLESS = "endless"  # the space is none


_WAYS: dict[KeptOut, tuple[LetIn, ...]] = {
    KeptOut.OTHER_HOST: (LetIn.FILES, LetIn.PAGES, LetIn.ALIAS),
    KeptOut.FILES_ONLY: (LetIn.PAGES,),
    KeptOut.ROBOTS: (),  # only the owner may say so, and then for all of the site
    KeptOut.ENDLESS: (LetIn.ENDLESS,),
}


def ways(reason: KeptOut, files: bool = True) -> tuple[LetIn, ...]:
    """The ways that are open for a whole group kept out for a reason. ``files``: there are files among them."""
    found = _WAYS.get(reason, (LetIn.THESE,))
    return found if files else tuple(way for way in found if way is not LetIn.FILES)


def one_by_one(reason: KeptOut) -> bool:
    """Whether single addresses of a group may be let in."""
    return reason not in (KeptOut.ROBOTS, KeptOut.ENDLESS)
