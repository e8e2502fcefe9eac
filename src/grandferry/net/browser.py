"""Pages as a real browser builds them: headless Chromium, as it is found on the machine, a few at once."""

from __future__ import annotations

import asyncio
import codecs
import contextlib
import os
import re
import secrets
import shutil
import signal
import tempfile
from contextlib import AsyncExitStack
from dataclasses import replace

from .fetch import Fetched
from .proxy import Ask, Proxy

AT_ONCE = 2
SECONDS = 45.0  # for one page, start of the browser included
SETTLE = 8000  # milliseconds of the page's own time after which it is taken as built
DOM_CAP = 32_000_000
NAMES = ("chromium", "chromium-browser")
KEPT = 300  # files a page asks for that are kept for the next pages
KEPT_BYTES = 2_000_000
LEFT = "its script leads away from it, or writes it anew, so the answer of the server is kept."
ABSENT = "no Chromium is installed on this machine (Debian: apt-get install chromium)"


def find_browser() -> str:
    """The path of a Chromium, "" when there is none."""
    return next((path for name in NAMES if (path := shutil.which(name))), "")


# runs a command, and ends all of its group when our end of the pipe that is its input is gone, however that came about
_GUARD = """exec 3<&0
(read -r _ <&3; kill -9 0) &
"$@" </dev/null 3<&-
code=$?
kill $!
exit $code"""
_DOCTYPE = re.compile(rb"\A(?:\xef\xbb\xbf)?(?:\s|<!--.{0,2000}?-->)*<!doctype[^>]{0,500}>", re.I | re.S)


def marked(got: Fetched, mark: bytes) -> Fetched:
    """A document that holds a mark: what a browser shows without it is another one, or the browser's own words."""
    body = got.body
    if body.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        body = codecs.BOM_UTF8 + body.decode("utf-16", "replace").encode()
    before = _DOCTYPE.match(body)
    at = before.end() if before else len(codecs.BOM_UTF8) if body.startswith(codecs.BOM_UTF8) else 0
    return replace(got, body=body[:at] + mark + body[at:])


class Renderer:
    """Builds pages. ``ask`` fetches what they ask for. ``note`` is to be said when it is opened."""

    def __init__(self, ask: Ask):
        self._ask = ask
        self._path = find_browser()
        self._documents: dict[str, Fetched] = {}
        self._files: dict[str, Fetched] = {}
        self._slots = asyncio.Semaphore(AT_ONCE)
        self._stack = AsyncExitStack()
        self.note = ""
        if not self._path:
            self.note = f"Pages cannot be captured through a browser: {ABSENT}."
        elif os.geteuid() == 0:
            self.note = "Chromium runs without its own sandbox, since Grand Ferry runs as root."

    async def open(self) -> None:
        if self._path:
            self._proxy = await self._stack.enter_async_context(Proxy(self._for_page))

    async def close(self) -> None:
        await self._stack.aclose()

    async def _for_page(self, url: str) -> Fetched:
        known = self._documents.get(url) or self._files.get(url)
        if known is not None:
            return known
        got = await self._ask(url)
        if (
            got.status == 200
            and len(self._files) < KEPT
            and got.size < KEPT_BYTES
            and not got.mime.startswith("text/html")
        ):
            self._files[url] = got
        return got

    async def render(self, got: Fetched) -> tuple[bytes | None, str]:
        """(the page's elements as HTML in UTF-8, "") or (None, why not). The document itself is not fetched again."""
        if not self._path:
            return None, ABSENT
        async with self._slots:
            mark = f'<meta name="{secrets.token_hex(12)}">'.encode()
            self._documents[got.url] = marked(got, mark)
            try:
                with tempfile.TemporaryDirectory(prefix="grandferry-browser-", ignore_cleanup_errors=True) as profile:
                    dom, problem = await self._dump(got.url, profile)
                if dom is not None and mark not in dom:
                    return None, LEFT
                return (dom and dom.replace(mark, b"", 1)), problem
            except OSError as problem:  # no memory, no more processes, a full disk
                return None, f"the browser cannot be started ({problem.strerror or problem})."
            finally:
                self._documents.pop(got.url, None)

    async def _dump(self, url: str, profile: str) -> tuple[bytes | None, str]:
        command = [
            self._path,
            "--headless=new",
            "--dump-dom",
            f"--user-data-dir={profile}",
            f"--proxy-server=http://127.0.0.1:{self._proxy.port}",
            "--proxy-bypass-list=<-loopback>",  # loopback goes through the proxy as well
            f"--ignore-certificate-errors-spki-list={self._proxy.pin}",  # the proxy's key alone is trusted
            f"--virtual-time-budget={SETTLE}",
            f"--timeout={int(SECONDS * 600)}",
            "--window-size=1280,2000",
            "--disable-gpu",
            "--disable-dev-shm-usage",
            "--disable-quic",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-default-apps",
            "--disable-extensions",
            "--disable-sync",
            "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
            "--mute-audio",
            "--no-first-run",
            "--no-pings",
        ]
        if os.geteuid() == 0:
            command.append("--no-sandbox")  # it does not start as root otherwise
        process = await asyncio.create_subprocess_exec(
            "/bin/sh",
            "-c",
            _GUARD,
            "sh",
            *command,
            url,
            stdin=asyncio.subprocess.PIPE,
            stdout=asyncio.subprocess.PIPE,
            stderr=asyncio.subprocess.DEVNULL,
            start_new_session=True,
            limit=DOM_CAP,
        )
        assert process.stdout is not None
        try:
            async with asyncio.timeout(SECONDS):
                dom = await process.stdout.read(DOM_CAP)
                while len(dom) < DOM_CAP and (more := await process.stdout.read(DOM_CAP - len(dom))):
                    dom += more
                await process.wait()
        except TimeoutError:
            return None, f"it was not built within {SECONDS:g} seconds."
        finally:
            with contextlib.suppress(ProcessLookupError):
                os.killpg(process.pid, signal.SIGKILL)
            await process.wait()
        if not dom.strip():
            return None, "the browser gave nothing back."
        return dom, ""
