"""A proxy of our own for the browser: whatever a page asks for while it is built goes through the same bounds, manners
and access as every other request. It listens on loopback, answers GET and HEAD, and speaks TLS to the browser with a
certificate made for this run alone; towards the site the fetcher checks certificates as ever.
"""

from __future__ import annotations

import asyncio
import base64
import contextlib
import hashlib
import ssl
import tempfile
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime, timedelta
from http import HTTPStatus
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from .fetch import Fetched

HEAD_CAP = 64 * 1024
SECONDS = 60.0
_NOT_PASSED = frozenset(
    "connection keep-alive proxy-authenticate transfer-encoding content-encoding content-length upgrade set-cookie "
    "strict-transport-security alt-svc".split()
)
Ask = Callable[[str], Awaitable[Fetched]]


def _certificate() -> tuple[ssl.SSLContext, str]:
    """A TLS context with a key and a certificate of its own, good for a day; and the pin of its key (the SHA-256 of its
    SubjectPublicKeyInfo in base64, RFC 7469 section 2.4), by which the browser trusts this key and no other.
    """
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Grand Ferry, for this run alone")])
    begin = datetime.now(UTC) - timedelta(hours=1)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(begin)
        .not_valid_after(begin + timedelta(days=1))
        .sign(key, hashes.SHA256())
    )
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pair.pem"
        path.write_bytes(
            key.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            )
            + made.public_bytes(serialization.Encoding.PEM)
        )
        context.load_cert_chain(path)
    public = key.public_key().public_bytes(serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo)
    return context, base64.b64encode(hashlib.sha256(public).digest()).decode()


class Proxy:
    """``ask`` answers every request; it alone decides what may be fetched. Use as an asynchronous context."""

    def __init__(self, ask: Ask):
        self._ask = ask
        self._tls, self.pin = _certificate()
        self._server: asyncio.Server | None = None
        self.port = 0

    async def __aenter__(self) -> Proxy:
        self._server = await asyncio.start_server(self._serve, "127.0.0.1", 0, limit=HEAD_CAP)
        self.port = int(self._server.sockets[0].getsockname()[1])
        return self

    async def __aexit__(self, *_: object) -> None:
        if self._server is not None:
            self._server.close()

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with contextlib.suppress(
            OSError, ssl.SSLError, TimeoutError, asyncio.IncompleteReadError, ValueError, asyncio.LimitOverrunError
        ):
            async with asyncio.timeout(SECONDS * 2):
                method, target = await _head(reader)
                if method == "CONNECT":
                    writer.write(b"HTTP/1.1 200 Connection established\r\n\r\n")
                    await writer.drain()
                    await writer.start_tls(self._tls)
                    host = target.removesuffix(":443")
                    method, target = await _head(reader)
                    target = f"https://{host}{target}"
                await self._answer(writer, method, target)
        with contextlib.suppress(OSError, ssl.SSLError):
            writer.close()

    async def _answer(self, writer: asyncio.StreamWriter, method: str, url: str) -> None:
        got = await self._ask(url) if method in ("GET", "HEAD") else Fetched(url, status=403)
        status = got.status or 502
        try:
            phrase = HTTPStatus(status).phrase
        except ValueError:
            phrase = "Unknown"
        lines = [f"HTTP/1.1 {status} {phrase}", f"Content-Length: {len(got.body)}", "Connection: close"]
        lines += [
            f"{name}: {' '.join(value.split())}" for name, value in got.headers.items() if name not in _NOT_PASSED
        ]
        writer.write("\r\n".join([*lines, "", ""]).encode("latin-1", "replace"))
        if method != "HEAD":
            writer.write(got.body)
        await writer.drain()


async def _head(reader: asyncio.StreamReader) -> tuple[str, str]:
    """(method, target) of the next request. Raises ValueError when it is none."""
    head = await reader.readuntil(b"\r\n\r\n")
    words = head.split(b"\r\n", 1)[0].decode("latin-1").split(" ")
    if len(words) != 3:
        raise ValueError("no request line")
    return words[0], words[1]
