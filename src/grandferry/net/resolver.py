"""Name resolution for aiohttp, with the same bounds as the fetcher's."""

from __future__ import annotations

import socket
from typing import Any

import aiohttp
from aiohttp.abc import AbstractResolver, ResolveResult

from .resolve import check_ip, is_loopback_name


class Resolver(AbstractResolver):
    """``hosts``: those of the crossing (without port); only they may lie at private addresses."""

    def __init__(self, hosts: set[str]):
        self._hosts = hosts
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
            check_ip(one["host"], host in self._hosts)
        return list(found)

    async def close(self) -> None:
        if self._system is not None:
            await self._system.close()
