"""HTTP requests over libcurl's multi interface, driven by the event loop: one request a handle, connections kept.

Nothing of libcurl shows outside this module: a request ends with ``Ended``, which says how, in words of ours.
"""

from __future__ import annotations

import asyncio
import os
import select
import socket
import ssl
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import pycurl

from .resolve import Refused, check_ip, is_loopback_name

BUFFER = 64 * 1024
_BY_KIND = {
    "unknown host": (pycurl.E_COULDNT_RESOLVE_HOST,),
    "no connection": (pycurl.E_COULDNT_CONNECT,),
    "slow": (pycurl.E_OPERATION_TIMEDOUT,),
    "not secure": (
        pycurl.E_SSL_CONNECT_ERROR,
        pycurl.E_PEER_FAILED_VERIFICATION,
        pycurl.E_SSL_CERTPROBLEM,
        pycurl.E_SSL_CIPHER,
        pycurl.E_SSL_CACERT_BADFILE,
        pycurl.E_SSL_ISSUER_ERROR,
    ),
    "cut": (pycurl.E_PARTIAL_FILE,),
}
_WANTED = {
    pycurl.POLL_IN: select.EPOLLIN,
    pycurl.POLL_OUT: select.EPOLLOUT,
    pycurl.POLL_INOUT: select.EPOLLIN | select.EPOLLOUT,
}
_KINDS = {code: kind for kind, codes in _BY_KIND.items() for code in codes}


@dataclass(frozen=True, slots=True)
class Ended:
    """How a request ended: ``kind`` is "" when the whole answer came, else unknown host, no connection, slow, not
    secure, refused (never asked), cut (ended early), or broken; ``reason`` says more."""

    kind: str = ""
    reason: str = ""


@dataclass(slots=True)
class _Running:
    """A request under way; ``refused`` is set when its host leads where it must not go."""

    done: asyncio.Future[Ended]
    private: bool = False  # its host may lie at a private address
    loopback: bool = False
    refused: str = ""


class _Line:
    """One of libcurl's handles, and the request that it carries at the moment."""

    def __init__(self, timeout: float) -> None:
        self.running: _Running | None = None
        self._headers: list[str] = []
        self._whole = 0.0
        self._no_body = False
        self._version = pycurl.IPRESOLVE_WHATEVER
        self.handle = handle = pycurl.Curl()
        for option, value in (
            (pycurl.NOSIGNAL, 1),
            (pycurl.PATH_AS_IS, 1),  # the address goes out exactly as it is
            (pycurl.HTTP_VERSION, pycurl.CURL_HTTP_VERSION_1_1),
            (pycurl.PROTOCOLS, pycurl.PROTO_HTTP | pycurl.PROTO_HTTPS),
            (pycurl.PROXY, ""),
            (pycurl.NETRC, pycurl.NETRC_IGNORED),
            (pycurl.HTTPAUTH, pycurl.HTTPAUTH_NONE),
            (pycurl.BUFFERSIZE, BUFFER),
            (pycurl.CONNECTTIMEOUT_MS, max(1, round(timeout * 1000))),
            (pycurl.LOW_SPEED_LIMIT, 1),
            (pycurl.LOW_SPEED_TIME, max(1, round(timeout))),
            (pycurl.OPENSOCKETFUNCTION, self._socket),
        ):
            handle.setopt(option, value)
        places = ssl.get_default_verify_paths()
        if places.cafile:
            handle.setopt(pycurl.CAINFO, places.cafile)
        if places.capath:
            handle.setopt(pycurl.CAPATH, places.capath)

    def begin(
        self,
        running: _Running,
        url: str,
        method: str,
        headers: list[str],
        head: Callable[[bytes], None],
        body: Callable[[bytes], int | None],
        whole: float,
    ) -> None:
        """Make ready for a request. What is as it was is not said to libcurl again."""
        handle = self.handle
        self.running = running
        handle.setopt(pycurl.URL, url)
        handle.setopt(pycurl.HEADERFUNCTION, head)
        handle.setopt(pycurl.WRITEFUNCTION, body)
        if headers != self._headers:
            self._headers = headers
            handle.setopt(pycurl.HTTPHEADER, headers)
        if whole != self._whole:
            self._whole = whole
            handle.setopt(pycurl.TIMEOUT_MS, max(1, round(whole * 1000)))
        no_body = method == "HEAD"
        if no_body != self._no_body:
            self._no_body = no_body
            handle.setopt(pycurl.NOBODY, no_body)
        version = pycurl.IPRESOLVE_V4 if running.loopback else pycurl.IPRESOLVE_WHATEVER
        if version != self._version:
            self._version = version
            handle.setopt(pycurl.IPRESOLVE, version)

    def _socket(self, _purpose: int, address: Any) -> Any:
        """The socket for a connection, or none when the address it leads to must not be asked. Looked at here, at the
        moment of connecting, a name cannot lead elsewhere between the look and the asking."""
        running = self.running
        if running is None:
            return pycurl.SOCKET_BAD
        ip = address.addr[0]
        if not running.loopback:
            try:
                check_ip(ip.decode() if isinstance(ip, bytes) else ip, running.private)
            except Refused as problem:
                running.refused = str(problem)
                return pycurl.SOCKET_BAD
        made = socket.socket(address.family, address.socktype, address.protocol)
        made.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        return made


class Wire:
    """Up to ``at_once`` requests at a time. ``timeout``: seconds without a byte after which a request has failed. Use
    as an asynchronous context."""

    def __init__(self, *, at_once: int, timeout: float):
        self._timeout = timeout
        self._free: list[_Line] = []
        self._slots = asyncio.Semaphore(at_once)
        self._running: dict[pycurl.Curl, _Running] = {}
        self._timer: asyncio.Handle | None = None
        self._at_once = at_once
        # a selector of its own, watched by the event loop as one: libcurl changes its mind about a socket several times
        # a request, which costs the loop more than asking
        self._sockets = select.epoll()
        self._watched: set[int] = set()

    async def __aenter__(self) -> Wire:
        self._loop = asyncio.get_running_loop()
        self._loop.add_reader(self._sockets, self._ready)
        self._multi = pycurl.CurlMulti()
        self._multi.setopt(pycurl.M_SOCKETFUNCTION, self._watch)
        self._multi.setopt(pycurl.M_TIMERFUNCTION, self._at)
        self._multi.setopt(pycurl.M_MAXCONNECTS, self._at_once * 2)
        self._free = [_Line(self._timeout) for _ in range(self._at_once)]
        return self

    async def __aexit__(self, *_: object) -> None:
        if self._timer is not None:
            self._timer.cancel()
        for handle, running in list(self._running.items()):
            self._multi.remove_handle(handle)
            running.done.cancel()
        self._running.clear()
        for line in self._free:
            line.handle.close()
        self._multi.close()
        self._loop.remove_reader(self._sockets)
        self._sockets.close()

    async def ask(
        self,
        url: str,
        host: str,
        ours: bool,
        method: str,
        headers: list[str],
        head: Callable[[bytes], None],
        body: Callable[[bytes], int | None],
        whole: float,
    ) -> Ended:
        """Ask one address. ``ours``: its host may lie at a private address; ``head`` is called with each line of the
        answer's head, ``body`` with each part of its body (it ends the request by giving -1); ``whole`` caps the
        seconds in all. ``headers`` are whole lines."""
        async with self._slots:
            line = self._free.pop()
            handle = line.handle
            running = _Running(self._loop.create_future(), ours, is_loopback_name(host))
            try:
                line.begin(running, url, method, headers, head, body, whole)
                self._running[handle] = running
                self._multi.add_handle(handle)
                ended = await running.done
            finally:
                if self._running.pop(handle, None) is not None:  # given up half-way, or never begun
                    try:
                        self._multi.remove_handle(handle)
                    except pycurl.error:
                        pass
                    handle.close()
                    line = _Line(self._timeout)
                line.running = None
                self._free.append(line)
            return ended

    # --- the event loop -----------------------------------------------------------------------------

    def _watch(self, what: int, descriptor: int, _multi: Any, _data: Any) -> None:
        wanted = _WANTED.get(what, 0)
        if descriptor not in self._watched:
            if wanted:
                self._watched.add(descriptor)
                self._sockets.register(descriptor, wanted)
        elif wanted:
            self._sockets.modify(descriptor, wanted)
        else:
            self._watched.discard(descriptor)
            self._sockets.unregister(descriptor)

    def _ready(self) -> None:
        for descriptor, events in self._sockets.poll(0):
            act = 0
            if events & ~select.EPOLLOUT:
                act |= pycurl.CSELECT_IN
            if events & ~select.EPOLLIN:
                act |= pycurl.CSELECT_OUT
            self._multi.socket_action(descriptor, act)
        self._collect()

    def _at(self, milliseconds: int) -> None:
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None
        if milliseconds == 0:
            self._timer = self._loop.call_soon(self._due)
        elif milliseconds > 0:
            self._timer = self._loop.call_later(milliseconds / 1000, self._due)

    def _due(self) -> None:
        self._timer = None
        self._multi.socket_action(pycurl.SOCKET_TIMEOUT, 0)
        self._collect()

    def _collect(self) -> None:
        """End what libcurl has done with."""
        while True:
            waiting, done, failed = self._multi.info_read()
            for handle in done:
                self._end(handle, Ended())
            for handle, code, reason in failed:
                self._end(handle, self._failure(handle, code, reason))
            if not waiting:
                return

    def _failure(self, handle: pycurl.Curl, code: int, reason: str) -> Ended:
        running = self._running.get(handle)
        if running is not None and running.refused:
            return Ended("refused", running.refused)
        kind = _KINDS.get(code, "broken")
        if kind == "no connection":
            number = handle.getinfo(pycurl.OS_ERRNO)
            reason = os.strerror(number) if number else "refused"
        return Ended(kind, reason)

    def _end(self, handle: pycurl.Curl, ended: Ended) -> None:
        self._multi.remove_handle(handle)
        running = self._running.pop(handle, None)
        if running is not None and not running.done.done():
            running.done.set_result(ended)
