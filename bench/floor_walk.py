"""The floor of a survey: a bare walk with the fastest general libraries and none of our features.

Fetch (pycurl multi, 16 at once), find links (Lexbor), join (ada-url), store (SQLite in batches of 200, zlib 1).
Run as a process of its own: ``python -m bench.floor_walk URL DATABASE``; prints pages, files and seconds as JSON.
"""

from __future__ import annotations

import io
import json
import sqlite3
import sys
import time
import zlib

import ada_url
import pycurl
from selectolax.lexbor import LexborHTMLParser

AT_ONCE = 16
BATCH = 200
ATTRIBUTES = (("a", "href"), ("link", "href"), ("img", "src"), ("script", "src"), ("area", "href"), ("iframe", "src"))


def walk(start: str, database: str) -> dict[str, float]:
    began = time.perf_counter()
    db = sqlite3.connect(database)
    db.execute("PRAGMA journal_mode=WAL")
    db.execute("PRAGMA synchronous=NORMAL")
    db.execute("CREATE TABLE page (url TEXT PRIMARY KEY, status INTEGER, type TEXT, body BLOB)")
    root = "/".join(start.split("/")[:3]) + "/"
    seen, queue, rows = {start}, [start], []
    multi = pycurl.CurlMulti()
    multi.setopt(pycurl.M_MAX_HOST_CONNECTIONS, AT_ONCE)
    free = [pycurl.Curl() for _ in range(AT_ONCE)]
    for handle in free:
        handle.setopt(pycurl.NOSIGNAL, 1)
        handle.setopt(pycurl.TCP_NODELAY, 1)
    running = 0
    pages = files = 0
    while queue or running:
        while queue and free:
            handle, url = free.pop(), queue.pop(0)
            buffer = io.BytesIO()
            handle.url, handle.buffer = url, buffer
            handle.setopt(pycurl.URL, url)
            handle.setopt(pycurl.WRITEDATA, buffer)
            multi.add_handle(handle)
            running += 1
        while multi.perform()[0] == pycurl.E_CALL_MULTI_PERFORM:
            pass
        _, done, failed = multi.info_read()
        for handle in [*done, *(f[0] for f in failed)]:
            multi.remove_handle(handle)
            running -= 1
            status, kind = handle.getinfo(pycurl.RESPONSE_CODE), handle.getinfo(pycurl.CONTENT_TYPE) or ""
            body, url = handle.buffer.getvalue(), handle.url
            free.append(handle)
            html = kind.startswith("text/html")
            rows.append((url, status, kind, zlib.compress(body, 1) if html else body))
            if len(rows) >= BATCH:
                db.executemany("INSERT INTO page VALUES (?, ?, ?, ?)", rows)
                db.commit()
                rows.clear()
            if not html or status != 200:
                files += 1
                continue
            pages += 1
            tree = LexborHTMLParser(body.decode("utf-8", "replace"))
            for tag, name in ATTRIBUTES:
                for node in tree.css(f"{tag}[{name}]"):
                    try:
                        link = ada_url.join_url(url, node.attributes[name] or "").partition("#")[0]
                    except ValueError:
                        continue
                    if link.startswith(root) and link not in seen:
                        seen.add(link)
                        queue.append(link)
        if running:
            multi.select(0.1)
    db.executemany("INSERT INTO page VALUES (?, ?, ?, ?)", rows)
    db.commit()
    return {"pages": pages, "files": files, "seconds": time.perf_counter() - began}


if __name__ == "__main__":
    print(json.dumps(walk(sys.argv[1], sys.argv[2])))
