"""Which addresses may be asked: ``*.localhost`` means loopback (RFC 6761); link-local never, private only when the
crossing has such a host."""

from __future__ import annotations

import ipaddress


class Refused(OSError):
    """A name that leads where the fetcher must not go."""


def is_loopback_name(host: str) -> bool:
    """Whether a name means this machine by its very form (RFC 6761 section 6.3)."""
    return host == "localhost" or host.endswith(".localhost")


def check_ip(text: str, ours: bool) -> None:
    """Raise Refused for an IP address that must not be asked. ``ours``: it is that of a host of the crossing."""
    ip = ipaddress.ip_address(text.split("%")[0])
    if ip.is_link_local or ip.is_multicast or ip.is_unspecified:
        raise Refused(f"{text} is a link-local or reserved address and is never asked")
    if (ip.is_private or ip.is_loopback) and not ours:
        raise Refused(f"{text} is a private address that the crossing does not name")


def check_literal(host: str, hosts: set[str]) -> None:
    """The same for a host that is an IP address itself, which no resolver sees."""
    try:
        ipaddress.ip_address(host.strip("[]"))
    except ValueError:
        return
    check_ip(host.strip("[]"), host in hosts)
