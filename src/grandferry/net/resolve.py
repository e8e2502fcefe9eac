"""Which addresses may be asked: ``*.localhost`` means loopback (RFC 6761); link-local never, private only when the
crossing has such a host."""

from __future__ import annotations

import ipaddress


class Refused(OSError):
    """A name that leads where the fetcher must not go."""


def is_loopback_name(host: str) -> bool:
    """Whether a name means this machine by its very form (RFC 6761 section 6.3)."""
    return host == "localhost" or host.endswith(".localhost")


_TRANSLATED = ipaddress.ip_network("64:ff9b::/96")  # RFC 6052
_COMPATIBLE = ipaddress.ip_network("::/96")  # RFC 4291 section 2.5.5.1


def _carried(ip: ipaddress.IPv4Address | ipaddress.IPv6Address) -> ipaddress.IPv4Address | None:
    """The IPv4 address that an IPv6 address stands for (mapped, translated, 6to4, compatible)."""
    if isinstance(ip, ipaddress.IPv4Address):
        return None
    if ip.ipv4_mapped or ip.sixtofour:
        return ip.ipv4_mapped or ip.sixtofour
    if ip in _TRANSLATED or (ip in _COMPATIBLE and int(ip) > 0xFFFF):
        return ipaddress.IPv4Address(int(ip) & 0xFFFFFFFF)
    return None


def check_ip(text: str, ours: bool) -> None:
    """Raise Refused for an IP address that must not be asked. ``ours``: it is that of a host of the crossing. Whatever
    is not reached from everywhere counts as private (RFC 6890), carrier-grade addresses (RFC 6598) among it."""
    ip = ipaddress.ip_address(text.split("%")[0])
    for one in filter(None, (ip, _carried(ip))):
        if one.is_link_local or one.is_multicast or one.is_unspecified:
            raise Refused(f"{text} is a link-local or reserved address and is never asked")
        if not one.is_global and not ours:
            raise Refused(f"{text} is a private address that the crossing does not name")


def check_literal(host: str, ours: bool) -> None:
    """The same for a host that is an IP address itself, which no resolver sees, or means this machine by its name."""
    if is_loopback_name(host) and not ours:
        raise Refused(f"{host} is this machine, at a port that the crossing does not name")
    try:
        ipaddress.ip_address(host.strip("[]"))
    except ValueError:
        return
    check_ip(host.strip("[]"), ours)


def place_of(netloc: str, scheme: str) -> str:
    """A host with its port, lower case, the scheme's own port left out: what a crossing names."""
    place = netloc.rpartition("@")[2].lower()
    return place.removesuffix(":443" if scheme == "https" else ":80")
