"""Name resolution: ``*.localhost`` means loopback (RFC 6761); link-local never, private only when named."""

from __future__ import annotations

import ipaddress
import socket
from typing import Any

import aiohttp
from aiohttp.abc import AbstractResolver, ResolveResult


class Refused(OSError):
    """A name that leads where the fetcher must not go."""


def is_loopback_name(host: str) -> bool:
    """Whether a name means this machine by its very form (RFC 6761 section 6.3)."""
    return host == "localhost" or host.endswith(".localhost")


class Resolver(AbstractResolver):
    """``named``: host names (without port) the crossing itself speaks of; only they may be private addresses."""

    def __init__(self, named: set[str]):
        self._named = named
        self._system: Any = None

    async def resolve(
        self, host: str, port: int = 0, family: socket.AddressFamily = socket.AF_INET
    ) -> list[ResolveResult]:
        if is_loopback_name(host):
            return [
                ResolveResult(
                    hostname=host,
                    host="127.0.0.1",
                    port=port,
                    family=socket.AF_INET,
                    proto=0,
                    flags=socket.AI_NUMERICHOST,
                )
            ]
        if self._system is None:
            self._system = aiohttp.ThreadedResolver()
        found = await self._system.resolve(host, port, family)
        for one in found:
            check_ip(one["host"], host in self._named)
        return list(found)

    async def close(self) -> None:
        if self._system is not None:
            await self._system.close()


def check_ip(text: str, named: bool) -> None:
    """Raise Refused for an IP address that must not be asked."""
    ip = ipaddress.ip_address(text.split("%")[0])
    if ip.is_link_local or ip.is_multicast or ip.is_unspecified:
        raise Refused(f"{text} is a link-local or reserved address and is never asked")
    if (ip.is_private or ip.is_loopback) and not named:
        raise Refused(f"{text} is a private address that the crossing does not name")


def check_literal(host: str, named: set[str]) -> None:
    """The same for a host that is an IP address itself, which no resolver sees."""
    try:
        ipaddress.ip_address(host.strip("[]"))
    except ValueError:
        return
    check_ip(host.strip("[]"), host in named)
