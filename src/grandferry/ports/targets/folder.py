"""Folders as targets: Markdown with front matter, JSON, JSON lines, HTML pages, feeds, with their files beside them.

The folder knows what was written to it by ``ledger.json``: file by file its hash, what it was made of, and what was
lost or added in writing. By that only what changed is written anew, what is no more of the crossing goes, and what a
person changed there since stays until it is said that it may be written over. Nothing is written outside of the folder.
"""

from __future__ import annotations

import errno
import hashlib
import json
import os
from collections.abc import Callable, Collection, Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

from grandferry.core.errors import FerryError
from grandferry.core.land.feed import FOOT, feed_head, feed_item
from grandferry.core.land.going import Going, html_page, json_line, json_page, markdown_page
from grandferry.core.land.names import Taken, filled, plain_path, served_file, spelled
from grandferry.core.land.profile import Profile
from grandferry.core.refit.choices import Odd, WrittenAs
from grandferry.core.refit.written import Differs, What, read_back

from .base import Ended, Takes, TargetError

# forms in which all items of a kind stand in one file, a line each: the file's ending, and what makes a line
WHOLE: Mapping[str, tuple[str, Callable[[Going], str]]] = {"jsonl": ("jsonl", json_line), "feed": ("xml", feed_item)}
LEDGER = "ledger.json"
FORMAT = 1
_NO_USE = (errno.ENOSPC, errno.EDQUOT, errno.EROFS)  # after which nothing else can be written either


@dataclass(slots=True)
class Entry:
    """A file that was written: for which thing (an id), of what (an old key, "" for a document), its SHA-256, and what
    a body lost or gained in it (``core.refit.written``)."""

    file: str
    sha256: str
    id: str
    key: str = ""
    differs: list[tuple[What, bool, int, tuple[str, ...]]] = field(default_factory=list)


@dataclass(slots=True)
class Folder:
    """A folder as a target. ``over``: what a person changed in it is written over."""

    place: Path
    form: str
    profile: Profile
    choices: dict[Odd, WrittenAs]
    over: bool = False
    takes: Takes = field(default_factory=lambda: Takes(folder=True))
    renamed: list[tuple[str, str, str]] = field(default_factory=list)  # key, the name it wanted, the name it has
    _entries: dict[str, Entry] = field(default_factory=dict)  # by id
    _holders: dict[str, str] = field(default_factory=dict)  # file -> id of the thing that it is of now
    _taken: Taken = field(default_factory=Taken)
    _lines: dict[str, dict[str, tuple[str, str]]] = field(default_factory=dict)  # file -> id -> (line, old key)
    _left: list[tuple[str, str]] = field(default_factory=list)  # files of before that stay, and why
    _last: tuple[str, Going, str] | None = None  # of the item made last its text, itself, and its Markdown

    def __post_init__(self) -> None:
        if self.form in WHOLE:
            self.takes = Takes(folder=True, whole=True)

    async def __aenter__(self) -> Folder:
        return self

    async def __aexit__(self, *_: object) -> None:
        if self.place.is_dir():
            self._keep_ledger()

    async def exists(self) -> None:
        """Raise TargetError when it holds other things, or cannot be written. It is made with the first file in it."""
        check_folder(self.place)
        there = next(above for above in (self.place, *self.place.parents) if above.exists())
        if not there.is_dir() or not os.access(there, os.W_OK | os.X_OK):
            raise TargetError(f"{self.place} cannot be written: {there} is no folder that may be written to.")
        for entry in read_ledger(self.place):
            self._entries[entry.id] = entry
            if not entry.id.startswith("line:"):  # they stand in a file together
                self._holders[entry.file] = entry.id
        self._taken.one(LEDGER)

    async def model(self) -> dict[str, tuple[str, ...]] | None:
        return None

    def item(self, going: Going) -> dict[str, Any]:
        if self.form in WHOLE:
            ending, line_of = WHOLE[self.form]
            return {"file": f"items/{going.kind.name}.{ending}", "line": line_of(going), "key": going.key}
        if self.form == "markdown":
            dated = bool(going.fields.get(self.profile.date))
            pattern = self.profile.file if dated else self.profile.undated or self.profile.file
            name = going.place(pattern)
            page = markdown_page(going, self.profile, self.choices)
            text = page.text
            if self.profile.reader == "commonmark":
                self._last = (text, going, page.markdown)
        elif self.form == "json":
            name, text = going.place("items/{path}.json"), json_page(going)
        else:
            served = {"path": served_file(going.path, "folder").lstrip("/")}
            name = filled("pages/{path}", served) if going.path else going.place("pages/{path}.html")
            text = html_page(going)
        return {"file": self._named(name, going.key), "text": text, "key": going.key}

    def _named(self, wanted: str, key: str) -> str:
        name = self._taken.one(wanted)
        if name != wanted:
            self.renamed.append((key, wanted, name))
        return name

    def file(self, path: str, name: str, mime: str, alt: str) -> dict[str, Any]:
        pattern = {"markdown": self.profile.media, "html": "pages/{path}"}.get(self.form, "files/{path}")
        at = plain_path(path).lstrip("/")
        parts = {"path": at, "name": at.rpartition("/")[2], "kind": "files"}
        wanted = filled(pattern, parts)
        plain = spelled(pattern, parts)
        if wanted != plain:
            self.renamed.append((path, plain, wanted))
        return {"file": self._named(wanted, path), "key": path}

    def with_content(self, attributes: dict[str, Any], content: bytes) -> dict[str, Any]:
        return {**attributes, "content": content}

    def redirect(self, old: str, new: str, status: int, match: str) -> dict[str, Any]:
        return {"old": old, "new": new, "status": status, "match": match}

    async def get(self, type_: str, id_: str) -> dict[str, Any] | None:
        entry = self._entries.get(id_)
        return {"file": entry.file} if entry is not None and (self.place / entry.file).is_file() else None

    async def put(self, type_: str, id_: str, attributes: dict[str, Any], known: bool) -> str:
        if "line" in attributes:
            return self._line(id_, attributes)
        if "content" in attributes:
            return self._put(id_, attributes["file"], attributes["content"], attributes["key"])
        done = self._put(id_, attributes["file"], _bytes(attributes["text"]), attributes["key"])
        if self._last is not None and self._last[0] == attributes["text"]:
            _, going, markdown = self._last
            self._entries[id_].differs = [tuple(one) for one in read_back(going.blocks, markdown, self.choices)]  # type: ignore[misc]
        return done

    def differs(self) -> Iterator[tuple[str, Differs]]:
        """What bodies lost or gained in writing, by the old keys of their items."""
        for entry in self._entries.values():
            yield from ((entry.key, Differs(What(what), lost, n, tuple(said))) for what, lost, n, said in entry.differs)

    def _line(self, id_: str, attributes: dict[str, Any]) -> str:
        """Keep a line for its file, which is written in the end."""
        line = attributes["line"]
        self._lines.setdefault(attributes["file"], {})[f"line:{id_}"] = line, attributes["key"]
        before = self._entries.get(f"line:{id_}")
        return "created" if before is None else "same" if before.sha256 == _sha(_bytes(line)) else "changed"

    def _put(self, id_: str, name: str, content: bytes, key: str) -> str:
        place, now = self._within(name), _sha(content)
        entry = self._entries.get(id_)
        holder = self._entries.get(self._holders.get(name, ""))  # another thing's, where names have changed hands
        ours = holder.sha256 if holder is not None and holder.file == name else None
        try:
            there = _sha(place.read_bytes()) if place.is_file() else None
            if there is None and place.exists():
                raise TargetError(f"{name} is a folder there.")
            if there == now:
                self._enter(id_, name, now, key)
                return "same" if ours is not None else "created"
            if there is not None and there != ours and not self.over:
                if ours == now:
                    return "same"  # what a person made of it stays, and there is nothing new to say
                why = "was changed there since" if ours is not None else "is there, and not of this crossing"
                raise TargetError(
                    f"{name} {why}, and is left as it is.", "Land again with “write over what was changed there”."
                )
            self._begin()
            write_whole(place, content)
        except OSError as problem:
            said = f"{self.place / name} cannot be written: {problem.strerror}."
            if problem.errno in _NO_USE:
                raise FerryError(said, "What was written so far stays; make room and land again.") from None
            raise TargetError(said) from None
        self._enter(id_, name, now, key)
        if entry is not None and entry.file != name and (why := self._take_away(entry)):
            self._left.append((entry.file, why))
        return "changed" if entry is not None or there is not None else "created"

    def _begin(self) -> None:
        """Have a ledger before the first file, so that a folder is known for ours whatever ends the run."""
        if not (self.place / LEDGER).is_file():
            self._keep_ledger(begin=True)

    def _enter(self, id_: str, name: str, sha256: str, key: str) -> None:
        before = self._entries.get(id_)
        kept = before.differs if before is not None and before.sha256 == sha256 else []
        self._entries[id_] = Entry(name, sha256, id_, key, kept)
        self._holders[name] = id_

    def _within(self, name: str) -> Path:
        """A file's place. Raises TargetError where a link leads out of the folder."""
        place = self.place / name
        home = self.place.resolve()
        if not place.parent.resolve().is_relative_to(home) or place.is_symlink():
            raise TargetError(f"{name} would be written outside of {self.place}, by a link that is there.")
        return place

    async def remove(self, type_: str, id_: str) -> bool:
        entry = self._entries.get(id_)
        if entry is None:
            return False
        there = (self.place / entry.file).is_file()
        why = self._take_away(entry)
        if why:
            raise TargetError(f"{entry.file} {why}")
        del self._entries[id_]
        return there

    def _take_away(self, entry: Entry) -> str:
        """Take a file away, and the folders that are empty then; why it stays, "" when it is gone, or is another
        thing's now."""
        if self._holders.get(entry.file) != entry.id:
            return ""
        place = self._within(entry.file)
        try:
            if not place.is_file():
                return ""
            if _sha(place.read_bytes()) != entry.sha256 and not self.over:
                return "was changed there since, and stays."
            place.unlink()
            del self._holders[entry.file]
            for above in place.parents:
                if above == self.place or any(above.iterdir()):
                    break
                above.rmdir()
        except OSError as problem:
            return f"cannot be taken away: {problem.strerror}."
        return ""

    async def finish(self, ids: Collection[str], documents: Iterable[tuple[str, bytes]]) -> Ended:
        ended = Ended(renamed=self.renamed, kept=self._left)
        wanted = set(ids)
        for name, lines in sorted(self._lines.items()):
            wanted |= {f"lines:{name}", *lines}
            text = "".join(f"{line}\n" for line, _ in lines.values())
            if self.form == "feed":
                text = feed_head(Path(name).stem) + text + FOOT
            self._document(f"lines:{name}", name, _bytes(text), ended)
            for id_, (line, key) in lines.items():
                self._entries[id_] = Entry(name, _sha(_bytes(line)), id_, key)
        for name, content in documents:
            wanted.add(f"document:{name}")
            self._document(f"document:{name}", name, content, ended)
        for id_, entry in list(self._entries.items()):
            if id_ in wanted:
                continue
            if not id_.startswith("line:"):
                why = self._take_away(entry)
                if why:
                    ended.kept.append((entry.file, why))
                    continue
                ended.removed += 1
            del self._entries[id_]
        self._keep_ledger()
        return ended

    def _document(self, id_: str, name: str, content: bytes, ended: Ended) -> None:
        try:
            ended.written += self._put(id_, name, content, "") != "same"
        except TargetError as problem:
            ended.kept.append((name, str(problem)))

    def _keep_ledger(self, begin: bool = False) -> None:
        rows = [asdict(entry) for entry in sorted(self._entries.values(), key=lambda one: (one.file, one.id))]
        text = json.dumps({"format": FORMAT, "form": self.form, "files": rows}, ensure_ascii=False, indent=1) + "\n"
        try:
            place = self.place / LEDGER
            if not (rows or begin or place.is_file()):
                return
            if not place.is_file() or place.read_bytes() != _bytes(text):
                write_whole(place, _bytes(text))
        except OSError as problem:
            raise FerryError(f"{self.place / LEDGER} cannot be written: {problem.strerror}.") from None


def check_folder(place: Path) -> None:
    """Raise TargetError when a folder holds something else than what was written there before."""
    try:
        if not place.exists():
            return
        if not place.is_dir():
            raise TargetError(f"{place} is a file.", "Name a folder.")
        if any(place.iterdir()) and not (place / LEDGER).is_file():
            raise TargetError(f"The folder {place} holds other things.", "Name a new or an empty one.")
    except OSError as problem:
        raise TargetError(f"{place} cannot be read: {problem.strerror}.") from None


def read_ledger(place: Path) -> list[Entry]:
    """What was written to a folder before, nothing where there is no ledger. Raises TargetError for one that cannot be
    read."""
    file = place / LEDGER
    try:
        if not file.is_file():
            return []
        said = json.loads(file.read_bytes())
        if said["format"] != FORMAT:
            raise ValueError
        return [Entry(**row) for row in said["files"]]
    except (OSError, ValueError, KeyError, TypeError):
        raise TargetError(
            f"{file} cannot be read, so it is not known what was written there.", "Name a new or an empty folder."
        ) from None


def take_as_known(place: Path, names: Collection[str]) -> None:
    """Take what stands in some files now for what was written there, so that the next landing may write over it."""
    entries = read_ledger(place)
    for entry in entries:
        if entry.file in names and not entry.id.startswith("line:") and (place / entry.file).is_file():
            entry.sha256 = _sha((place / entry.file).read_bytes())
    said = json.loads((place / LEDGER).read_bytes())
    text = json.dumps(said | {"files": [asdict(one) for one in entries]}, ensure_ascii=False, indent=1) + "\n"
    write_whole(place / LEDGER, _bytes(text))


def hash_of(text: str) -> str:
    """What the ledger knows a text by."""
    return _sha(_bytes(text))


def write_whole(place: Path, content: bytes) -> None:
    """Write a file so that it is there whole, or as it was. Raises OSError."""
    place.parent.mkdir(parents=True, exist_ok=True)
    fresh = place.with_name(f".{os.getpid()}.part")
    try:
        fresh.write_bytes(content)
        os.replace(fresh, place)
    finally:
        fresh.unlink(missing_ok=True)


def _bytes(text: str) -> bytes:
    return text.encode("utf-8", "replace")


def _sha(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()
