"""HTTP requests over libcurl's multi interface, driven by the event loop: one request a handle, connections kept.

Nothing of libcurl shows outside this module: a request ends with ``Ended``, which says how, in words of ours.
"""

from __future__ import annotations

import asyncio
import os
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
_KINDS = {code: kind for kind, codes in _BY_KIND.items() for code in codes}


@dataclass(frozen=True, slots=True)
class Ended:
    """How a request ended: ``kind`` is "" when the whole answer came, else unknown host, no connection, slow, not secure,
    refused (never asked), cut (ended early), or broken; ``reason`` says more."""

    kind: str = ""
    reason: str = ""


@dataclass(slots=True)
class _Running:
    """A request under way; ``refused`` is set when its host leads where it must not go."""

    done: asyncio.Future[Ended]
    named: bool = False
    loopback: bool = False
    refused: str = ""


class Wire:
    """Up to ``at_once`` requests at a time. ``named``: hosts that may lie at private addresses; ``timeout``: seconds
    without a byte after which a request has failed. Use as an asynchronous context."""

    def __init__(self, *, at_once: int, named: set[str], timeout: float):
        self._named = named
        self._timeout = timeout
        self._free: list[pycurl.Curl] = []
        self._slots = asyncio.Semaphore(at_once)
        self._running: dict[pycurl.Curl, _Running] = {}
        self._watched: dict[int, int] = {}
        self._timer: asyncio.Handle | None = None
        self._at_once = at_once

    async def __aenter__(self) -> Wire:
        self._loop = asyncio.get_running_loop()
        self._multi = pycurl.CurlMulti()
        self._multi.setopt(pycurl.M_SOCKETFUNCTION, self._watch)
        self._multi.setopt(pycurl.M_TIMERFUNCTION, self._at)
        self._multi.setopt(pycurl.M_MAXCONNECTS, self._at_once * 2)
        self._free = [self._handle() for _ in range(self._at_once)]
        return self

    async def __aexit__(self, *_: object) -> None:
        if self._timer is not None:
            self._timer.cancel()
        for handle, running in list(self._running.items()):
            self._multi.remove_handle(handle)
            running.done.cancel()
        self._running.clear()
        for handle in self._free:
            handle.close()
        self._multi.close()
        for descriptor in list(self._watched):
            self._unwatch(descriptor)

    def _handle(self) -> pycurl.Curl:
        handle = pycurl.Curl()
        milliseconds = max(1, round(self._timeout * 1000))
        for option, value in (
            (pycurl.NOSIGNAL, 1),
            (pycurl.PATH_AS_IS, 1),  # the address goes out exactly as it is
            (pycurl.HTTP_VERSION, pycurl.CURL_HTTP_VERSION_1_1),
            (pycurl.PROTOCOLS, pycurl.PROTO_HTTP | pycurl.PROTO_HTTPS),
            (pycurl.PROXY, ""),
            (pycurl.NETRC, pycurl.NETRC_IGNORED),
            (pycurl.HTTPAUTH, pycurl.HTTPAUTH_NONE),
            (pycurl.BUFFERSIZE, BUFFER),
            (pycurl.CONNECTTIMEOUT_MS, milliseconds),
            (pycurl.LOW_SPEED_LIMIT, 1),
            (pycurl.LOW_SPEED_TIME, max(1, round(self._timeout))),
        ):
            handle.setopt(option, value)
        places = ssl.get_default_verify_paths()
        if places.cafile:
            handle.setopt(pycurl.CAINFO, places.cafile)
        if places.capath:
            handle.setopt(pycurl.CAPATH, places.capath)
        return handle

    async def ask(
        self,
        url: str,
        host: str,
        method: str,
        headers: list[str],
        head: Callable[[bytes], None],
        body: Callable[[bytes], int | None],
        whole: float,
    ) -> Ended:
        """Ask one address. ``head`` is called with each line of the answer's head, ``body`` with each part of its body (it
        ends the request by giving -1); ``whole`` caps the seconds in all. ``headers`` are whole lines."""
        async with self._slots:
            handle = self._free.pop()
            running = _Running(self._loop.create_future(), host in self._named, is_loopback_name(host))

            def opened(_purpose: int, address: Any) -> Any:
                return self._socket(running, address)

            try:
                handle.setopt(pycurl.URL, url)
                handle.setopt(pycurl.NOBODY, method == "HEAD")
                handle.setopt(pycurl.HTTPHEADER, headers)
                handle.setopt(pycurl.HEADERFUNCTION, head)
                handle.setopt(pycurl.WRITEFUNCTION, body)
                handle.setopt(pycurl.OPENSOCKETFUNCTION, opened)
                handle.setopt(pycurl.IPRESOLVE, pycurl.IPRESOLVE_V4 if running.loopback else pycurl.IPRESOLVE_WHATEVER)
                handle.setopt(pycurl.TIMEOUT_MS, max(1, round(whole * 1000)))
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
                    handle = self._handle()
                self._free.append(handle)
            return ended

    def _socket(self, running: _Running, address: Any) -> Any:
        """The socket for a connection, or none when the address it leads to must not be asked. Looked at here, at the
        moment of connecting, a name cannot lead elsewhere between the look and the asking."""
        ip = address.addr[0]
        if not running.loopback:
            try:
                check_ip(ip.decode() if isinstance(ip, bytes) else ip, running.named)
            except Refused as problem:
                running.refused = str(problem)
                return pycurl.SOCKET_BAD
        made = socket.socket(address.family, address.socktype, address.protocol)
        made.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        return made

    # --- the event loop -----------------------------------------------------------------------------

    def _watch(self, what: int, descriptor: int, _multi: Any, _data: Any) -> None:
        before = self._watched.get(descriptor, 0)
        wanted = 0 if what == pycurl.POLL_REMOVE else what
        if wanted & pycurl.POLL_IN and not before & pycurl.POLL_IN:
            self._loop.add_reader(descriptor, self._act, descriptor, pycurl.CSELECT_IN)
        elif before & pycurl.POLL_IN and not wanted & pycurl.POLL_IN:
            self._loop.remove_reader(descriptor)
        if wanted & pycurl.POLL_OUT and not before & pycurl.POLL_OUT:
            self._loop.add_writer(descriptor, self._act, descriptor, pycurl.CSELECT_OUT)
        elif before & pycurl.POLL_OUT and not wanted & pycurl.POLL_OUT:
            self._loop.remove_writer(descriptor)
        if wanted:
            self._watched[descriptor] = wanted
        else:
            self._watched.pop(descriptor, None)

    def _unwatch(self, descriptor: int) -> None:
        self._watch(pycurl.POLL_REMOVE, descriptor, None, None)

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
        self._act(pycurl.SOCKET_TIMEOUT, 0)

    def _act(self, descriptor: int, events: int) -> None:
        _, before = self._multi.socket_action(descriptor, events)
        if before == len(self._running):
            return  # all are still under way
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
