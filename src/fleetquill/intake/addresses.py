"""Which addresses of the Internet are public: strangers may not lead us into our own networks."""

from __future__ import annotations

import ipaddress
import socket
from typing import Final

from fleetquill.errors import PolicyError, SourceError, Where

Address = ipaddress.IPv4Address | ipaddress.IPv6Address

TRANSLATED: Final = (  # IPv6 addresses whose last 32 bits are one of IPv4
    ipaddress.IPv6Network("64:ff9b::/96"),  # RFC 6052 §2.1
    ipaddress.IPv6Network("64:ff9b:1::/48"),  # RFC 8215
    ipaddress.IPv6Network("::/96"),  # RFC 4291 §2.5.5.1
    ipaddress.IPv6Network("::ffff:0:0/96"),  # RFC 4291 §2.5.5.2
    ipaddress.IPv6Network("::ffff:0:0:0/96"),  # RFC 2765 §2.1
)


def is_public(address: Address) -> bool:
    """Whether an address is one that anybody may reach: no private, loopback, link-local, multicast or reserved one,
    nor one that stands for such a one."""
    if isinstance(address, ipaddress.IPv6Address):
        inner: Address | None = address.sixtofour
        if inner is None and address.teredo is not None:
            return False
        if inner is None and any(address in network for network in TRANSLATED):
            inner = ipaddress.IPv4Address(int(address) & 0xFFFFFFFF)
        if inner is not None:
            return is_public(inner)
        if address.is_site_local:
            return False
    return address.is_global and not address.is_multicast and not address.is_reserved and not address.is_unspecified


def public_address(host: str, port: int, asked: str) -> str:
    """The address that a name stands for; PolicyError where any that it stands for is not public."""
    where = Where(asked)
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise SourceError(f"The address cannot be fetched (there is no '{host}').", where=where) from error
    addresses = [str(entry[4][0]).partition("%")[0] for entry in found]
    if not addresses or not all(is_public(ipaddress.ip_address(address)) for address in addresses):
        raise PolicyError(f"'{host}' is an address of a private network, which strangers may not read.", where=where)
    return addresses[0]
