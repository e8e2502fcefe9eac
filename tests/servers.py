"""Real servers for tests, on free loopback ports: nginx, the demo's sites, and hand-made hostile ones."""

from __future__ import annotations

import asyncio
import socket
import subprocess
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import uvicorn
from aiohttp import web

from grandferry.api.app import make_app

NGINX = "/usr/sbin/nginx"


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def free_pair() -> int:
    """A free port of which the next one is free as well, as the application wants them."""
    while True:
        port = free_port()
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port + 1)) == 0:
                continue
            try:
                probe.bind(("0.0.0.0", port + 1))
            except OSError:
                continue
            return port


def wait_for(port: int, seconds: float = 15.0, process: subprocess.Popen[bytes] | None = None) -> None:
    """Wait until something listens on a port; no longer than the process lives that is to do so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end and (process is None or process.poll() is None):
        with socket.socket() as probe:
            if probe.connect_ex(("127.0.0.1", port)) == 0:
                return
        time.sleep(0.02)
    raise AssertionError(f"nothing listens on {port}")


@contextmanager
def nginx(folder: Path, server: str, http: str = "", log: str = "off") -> Iterator[int]:
    """A real nginx with these directives in its server and http blocks; gives its port."""
    port = free_port()
    (folder / "tmp").mkdir(parents=True, exist_ok=True)
    config = folder / "nginx.conf"
    temps = " ".join(f"{name}_temp_path tmp/{name};" for name in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
    config.write_text(
        f"""daemon off; master_process off; worker_processes 1; pid tmp/nginx.pid; error_log tmp/error.log warn; user root;
events {{ worker_connections 512; }}
http {{
  types {{ text/html html htm; text/css css; application/javascript js; image/png png; image/svg+xml svg; text/plain txt; }}
  default_type application/octet-stream; access_log {log}; keepalive_requests 100000; {temps}
  {http}
  server {{ listen 127.0.0.1:{port}; {server} }}
}}""",
        "utf-8",
    )
    checked = subprocess.run([NGINX, "-t", "-p", str(folder), "-c", str(config)], capture_output=True, text=True)
    assert checked.returncode == 0, checked.stderr
    process = subprocess.Popen([NGINX, "-p", str(folder), "-c", str(config)], stderr=subprocess.DEVNULL)
    try:
        wait_for(port)
        yield port
    finally:
        process.terminate()
        process.wait(10)


@contextmanager
def apps(*made: Callable[[], web.Application] | web.Application, ports: list[int] | None = None) -> Iterator[list[int]]:
    """aiohttp applications on free (or the given) ports, in a thread of their own."""
    ports = ports or [free_port() for _ in made]
    loop = asyncio.new_event_loop()
    ready = threading.Event()
    runners: list[web.AppRunner] = []

    async def start() -> None:
        for one, port in zip(made, ports, strict=True):
            runner = web.AppRunner(
                one() if not isinstance(one, web.Application) else one, access_log=None, shutdown_timeout=0.1
            )
            await runner.setup()
            await web.TCPSite(runner, "127.0.0.1", port).start()
            runners.append(runner)
        ready.set()

    def run() -> None:
        asyncio.set_event_loop(loop)
        loop.create_task(start())
        loop.run_forever()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    assert ready.wait(10)
    try:
        yield ports
    finally:

        async def stop() -> None:
            for runner in runners:
                await runner.cleanup()

        asyncio.run_coroutine_threadsafe(stop(), loop).result(10)
        loop.call_soon_threadsafe(loop.stop)
        thread.join(5)


@contextmanager
def served_api() -> Iterator[str]:
    """The application over the open workspace as it is served: uvicorn on a port; gives its base address."""
    port = free_port()
    config = uvicorn.Config(
        make_app(port), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=1
    )
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    wait_for(port)
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.should_exit = True
        thread.join(10)


def pages_app(
    pages: dict[str, web.Response | str | tuple[int, dict[str, str], bytes]], seen: list[str] | None = None
) -> web.Application:
    """A site from a table: path with query -> HTML text, or (status, headers, body)."""

    async def answer(request: web.Request) -> web.StreamResponse:
        if seen is not None:
            seen.append(request.raw_path)
        found = pages.get(request.raw_path)
        if found is None:
            return web.Response(status=404, text="<h1>Not here</h1>", content_type="text/html")
        if isinstance(found, str):
            return web.Response(text=found, content_type="text/html")
        status, headers, body = found  # type: ignore[misc]
        return web.Response(status=status, headers=headers, body=body)

    app = web.Application()
    app.router.add_route("*", "/{rest:.*}", answer)
    return app


class RawServer:
    """A server that writes exact bytes: ``answer(path, connection)`` does what it likes with the socket."""

    def __init__(self, answer: Callable[[str, socket.socket], None]):
        self._answer = answer
        self._socket = socket.create_server(("127.0.0.1", 0))
        self.port = int(self._socket.getsockname()[1])
        self._thread = threading.Thread(target=self._serve, daemon=True)

    def _serve(self) -> None:
        while True:
            try:
                connection, _ = self._socket.accept()
            except OSError:
                return
            threading.Thread(target=self._one, args=(connection,), daemon=True).start()

    def _one(self, connection: socket.socket) -> None:
        with connection:
            try:
                head = b""
                while b"\r\n\r\n" not in head:
                    piece = connection.recv(65536)
                    if not piece:
                        return
                    head += piece
                self._answer(head.split(b" ", 2)[1].decode("latin-1"), connection)
            except OSError:
                return

    def __enter__(self) -> RawServer:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._socket.close()
