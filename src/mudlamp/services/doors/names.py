"""Under which names and addresses other machines reach this one; the lasting name, said by multicast DNS."""

import contextlib
import ipaddress
import socket
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import ifaddr
import structlog
from zeroconf import Error, ServiceInfo, Zeroconf

NAME = "mudlamp.local"
# Addresses that are never on the internet (RFC 1918, RFC 3927), and the loopback.
PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8")
LOOPBACK = ("127.0.0.1", "localhost", "::1", "[::1]")


@dataclass(frozen=True, slots=True, kw_only=True)
class Doors:
    """How other machines reach this one: host names and addresses, the port of https, the authority's certificate."""

    hosts: Sequence[str]
    port: int
    authority: bytes

    @property
    def others(self) -> Sequence[str]:
        """Where else they may: at addresses that the authority vouches for."""
        return [f"https://{host}:{self.port}/boat" for host in self.hosts if host != NAME and is_private(host)]

    @property
    def address(self) -> str:
        """Where phones open it."""
        return f"https://{NAME}:{self.port}/boat"


def is_loopback(address: str) -> bool:
    """Return whether an address is this machine's own."""
    if address in LOOPBACK:
        return True
    try:
        return ipaddress.ip_address(address.strip("[]")).is_loopback
    except ValueError:
        return False


def is_private(address: str) -> bool:
    """Return whether an address is one that is never on the internet: what the authority may vouch for."""
    return any(ipaddress.ip_address(address) in ipaddress.ip_network(net) for net in PRIVATE)


def own_addresses() -> Sequence[str]:
    """Return this machine's IPv4 addresses, the loopback's left out."""
    found = {str(ip.ip) for adapter in ifaddr.get_adapters() for ip in adapter.ips if ip.is_IPv4}
    return sorted(one for one in found if not is_loopback(one))


@contextlib.contextmanager
def lasting_name(port: int) -> Iterator[None]:
    """Let other machines find this one by its lasting name while this runs; where multicast is not to be had, by its addresses alone."""
    voice = _said(port)
    try:
        yield
    finally:
        if voice is not None:
            voice.close()


def _said(port: int) -> Zeroconf | None:
    """Say the name; None where it cannot be said now: nobody is kept from serving by that."""
    addresses = [socket.inet_aton(one) for one in own_addresses()]
    if not addresses:
        return None
    try:
        voice = Zeroconf()
    except OSError:
        return None
    try:
        info = ServiceInfo("_https._tcp.local.", "Mud Lamp._https._tcp.local.", addresses=addresses, port=port, server=f"{NAME}.")
        voice.register_service(info, allow_name_change=True)
    except (OSError, TimeoutError, Error) as error:
        structlog.get_logger().warning("the name is not said", name=NAME, why=str(error))
        voice.close()
        return None
    return voice
