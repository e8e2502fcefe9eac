"""The stand-in new system: a JSON:API for editors, a media library, a redirect table it really applies, and a
staging site that shows what was delivered. Kept in SQLite, so that it survives a restart."""

from __future__ import annotations

import base64
import json
import sqlite3
from html import escape
from pathlib import Path
from typing import Any
from urllib.parse import quote, unquote

from aiohttp import web

MEDIA = "application/vnd.api+json"
ITEM_TYPES = {"posts", "engines", "questions", "pages", "items", "events", "people", "roles"}
TYPES = ITEM_TYPES | {"files", "redirects"}
SECTIONS = {
    "/news/": "News",
    "/engines/": "Engines",
    "/questions/": "Questions",
    "/shop/": "Shop",
    "/events/": "Events",
    "/gallery/": "Pictures",
    "/papers/": "Papers",
    "/stations/": "Stations",
    "/visit/": "Visit",
    "/volunteer/": "Volunteer",
    "/railway/": "The railway",
    "/cy/": "Croeso",
}
REQUIRED = {
    **dict.fromkeys(ITEM_TYPES, ("title", "path")),
    "files": ("path", "data"),
    "redirects": ("old", "status", "match"),
}


def spelled(path: str) -> str:
    """A path with its escapes in one spelling, so that a request and a record compare equal."""
    return quote(unquote(path), safe="/-._~!$&'()*+,;=:@")


class NewSystem:
    """One stand-in. ``fail_every``: answer every n-th write with 503 (for tests)."""

    def __init__(self, database: Path | str, fail_every: int = 0):
        self.db = sqlite3.connect(database)
        self.db.execute("PRAGMA journal_mode=WAL")
        self.db.execute("PRAGMA synchronous=NORMAL")
        self.db.execute(
            "CREATE TABLE IF NOT EXISTS thing (type TEXT, id TEXT, path TEXT, attributes TEXT, data BLOB, revision "
            "INTEGER, PRIMARY KEY (type, id))"
        )
        self.db.execute("CREATE INDEX IF NOT EXISTS by_path ON thing (path)")
        self.writes = 0
        self.fail_every = fail_every

    # --- editor's API -------------------------------------------------------------------------------

    def _error(self, status: int, title: str, detail: str) -> web.Response:
        body = {"jsonapi": {"version": "1.1"}, "errors": [{"status": str(status), "title": title, "detail": detail}]}
        return web.Response(status=status, text=json.dumps(body), content_type=MEDIA)

    def _document(self, data: Any, status: int = 200, location: str = "") -> web.Response:
        headers = {"Location": location} if location else {}
        return web.Response(
            status=status,
            text=json.dumps({"jsonapi": {"version": "1.1"}, "data": data}),
            content_type=MEDIA,
            headers=headers,
        )

    def _resource(self, row: tuple[Any, ...]) -> dict[str, Any]:
        type_, id_, attributes, revision = row
        return {"type": type_, "id": id_, "attributes": json.loads(attributes), "meta": {"revision": revision}}

    async def api(self, request: web.Request) -> web.Response:
        parts = [p for p in request.match_info["rest"].split("/") if p]
        if not parts:
            return self._document([{"type": "type", "id": t} for t in sorted(TYPES)])
        type_ = parts[0]
        if type_ not in TYPES:
            return self._error(404, "Unknown type", f"There is no type “{type_}” here.")
        if request.method in ("POST", "PATCH", "DELETE"):
            self.writes += 1
            if self.fail_every and self.writes % self.fail_every == 0:
                return self._error(503, "Busy", "Try again in a moment.")
        if len(parts) == 1:
            if request.method == "GET":
                rows = self.db.execute(
                    "SELECT type, id, attributes, revision FROM thing WHERE type = ? ORDER BY id", (type_,)
                )
                return self._document([self._resource(row) for row in rows])
            if request.method == "POST":
                return await self._create(request, type_)
        elif len(parts) == 2:
            row = self.db.execute(
                "SELECT type, id, attributes, revision FROM thing WHERE type = ? AND id = ?", (type_, parts[1])
            ).fetchone()
            if row is None:
                return self._error(404, "Not there", f"{type_} {parts[1]} is not there.")
            if request.method == "GET":
                return self._document(self._resource(row))
            if request.method == "PATCH":
                return await self._change(request, row)
            if request.method == "DELETE":
                self.db.execute("DELETE FROM thing WHERE type = ? AND id = ?", (type_, parts[1]))
                self.db.commit()
                return web.Response(status=204)
        return self._error(405, "Not allowed", f"{request.method} is not possible here.")

    async def _read(self, request: web.Request, type_: str) -> tuple[dict[str, Any], web.Response | None]:
        if request.content_type != MEDIA:
            return {}, self._error(415, "Media type", f"Send {MEDIA}.")
        try:
            data = (await request.json())["data"]
            attributes = data["attributes"]
        except (ValueError, KeyError, TypeError):
            return {}, self._error(400, "Not readable", "The document has no data with attributes.")
        if data.get("type") != type_:
            return {}, self._error(409, "Type conflict", f"The document says {data.get('type')}, the address {type_}.")
        return data, None if isinstance(attributes, dict) else self._error(
            400, "Not readable", "attributes is no object."
        )

    def _fault(self, type_: str, id_: str, attributes: dict[str, Any]) -> str:
        for name in REQUIRED[type_]:
            if attributes.get(name) in (None, ""):
                return f"“{name}” is required."
        path = attributes.get("path")
        if path is not None:
            if not str(path).startswith("/"):
                return "“path” must begin with “/”."
            other = self.db.execute("SELECT id FROM thing WHERE path = ? AND id != ?", (spelled(path), id_)).fetchone()
            if other:
                return f"“{path}” is the place of {other[0]} already."
        return ""

    def _store(self, type_: str, id_: str, attributes: dict[str, Any], revision: int) -> None:
        data = None
        if type_ == "files" and "data" in attributes:
            data = base64.b64decode(attributes.pop("data"))
            attributes["size"] = len(data)
        path = spelled(attributes["path"]) if attributes.get("path") else None
        if data is None:
            kept = self.db.execute("SELECT data FROM thing WHERE type = ? AND id = ?", (type_, id_)).fetchone()
            data = kept[0] if kept else None
        self.db.execute(
            "INSERT OR REPLACE INTO thing VALUES (?, ?, ?, ?, ?, ?)",
            (type_, id_, path, json.dumps(attributes), data, revision),
        )
        self.db.commit()

    async def _create(self, request: web.Request, type_: str) -> web.Response:
        data, fault = await self._read(request, type_)
        if fault:
            return fault
        id_ = str(data.get("id") or f"{type_}-{self.writes}")
        if self.db.execute("SELECT 1 FROM thing WHERE type = ? AND id = ?", (type_, id_)).fetchone():
            return self._error(409, "Already there", f"{type_} {id_} is there already.")
        wrong = self._fault(type_, id_, data["attributes"])
        if wrong:
            return self._error(422, "Refused", wrong)
        self._store(type_, id_, data["attributes"], 1)
        row = self.db.execute(
            "SELECT type, id, attributes, revision FROM thing WHERE type = ? AND id = ?", (type_, id_)
        ).fetchone()
        return self._document(self._resource(row), 201, f"/api/{type_}/{id_}")

    async def _change(self, request: web.Request, row: tuple[Any, ...]) -> web.Response:
        type_, id_, attributes, revision = row
        data, fault = await self._read(request, type_)
        if fault:
            return fault
        merged = {**json.loads(attributes), **data["attributes"]}
        wrong = self._fault(type_, id_, {"data": "kept", **merged})
        if wrong:
            return self._error(422, "Refused", wrong)
        self._store(type_, id_, merged, revision + 1)
        return self._document(self._resource((type_, id_, json.dumps(merged), revision + 1)))

    # --- staging site -------------------------------------------------------------------------------

    def _page(self, title: str, inner: str, status: int = 200) -> web.Response:
        html = (
            f'<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>{escape(title)} – Quillmere Valley '
            "Railway"
            f'</title></head><body><nav><a href="/">Home</a> '
            + " ".join(f'<a href="{path}">{name}</a>' for path, name in SECTIONS.items())
            + f"</nav><main><h1>{escape(title)}</h1>{inner}</main></body></html>\n"
        )
        return web.Response(text=html, status=status, content_type="text/html", charset="utf-8")

    def _redirect(self, path: str, query: str) -> web.Response | None:
        """The redirect table: exact with query, exact path, then the longest prefix."""
        for wanted in ([f"{path}?{query}"] if query else []) + [path]:
            row = self.db.execute(
                "SELECT attributes FROM thing WHERE type = 'redirects' AND json_extract(attributes, '$.match') = "
                "'exact' AND json_extract(attributes, '$.old') = ?",
                (wanted,),
            ).fetchone()
            if row:
                return self._hop(json.loads(row[0]), "")
        best: dict[str, Any] = {}
        for (text,) in self.db.execute(
            "SELECT attributes FROM thing WHERE type = 'redirects' AND json_extract(attributes, '$.match') = 'prefix'"
        ):
            rule = json.loads(text)
            old = rule["old"].rstrip("/")
            if (path == old or path.startswith(old + "/")) and len(old) > len(best.get("old", "")):
                best = rule
        return self._hop(best, path[len(best["old"].rstrip("/")) :]) if best else None

    def _hop(self, rule: dict[str, Any], rest: str) -> web.Response:
        if rule["status"] == 410:
            return self._page("Gone", "<p>This page has been taken down for good.</p>", 410)
        target = rule["new"].rstrip("/") + rest if rest else rule["new"]
        return web.Response(status=rule["status"], headers={"Location": target})

    async def staging(self, request: web.Request) -> web.Response:
        raw, _, query = request.raw_path.partition("?")
        path = spelled(raw)
        row = self.db.execute("SELECT type, attributes, data FROM thing WHERE path = ?", (path,)).fetchone()
        if row and not query:
            type_, text, data = row
            attributes = json.loads(text)
            if type_ == "files":
                return web.Response(body=data, content_type=attributes.get("mime") or "application/octet-stream")
            if attributes.get("published"):
                body = attributes.get("body") or {}
                return self._page(attributes["title"], body.get("value", "") if isinstance(body, dict) else str(body))
        if path in SECTIONS and not query:
            rows = self.db.execute("SELECT attributes FROM thing WHERE path LIKE ? ORDER BY path", (path + "%",))
            links = [json.loads(text) for (text,) in rows]
            items = "".join(f'<li><a href="{escape(a["path"])}">{escape(a.get("title", ""))}</a></li>' for a in links)
            return self._page(SECTIONS[path], f"<ul>{items}</ul>")
        hop = self._redirect(raw, query)
        if hop is not None:
            return hop
        return self._page("Not found", "<p>There is no such page.</p>", 404)

    def app(self) -> web.Application:
        app = web.Application(client_max_size=64 * 1024 * 1024)
        app.router.add_route("*", "/api/{rest:.*}", self.api)
        app.router.add_route("*", "/{rest:.*}", self.staging)
        return app
