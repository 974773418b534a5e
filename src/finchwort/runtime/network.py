"""The local network: this computer's addresses in it, and its name announced to phones."""

from __future__ import annotations

import contextlib
import re
import socket
from collections.abc import Sequence

import ifaddr
import structlog
from zeroconf import Error as ZeroconfError
from zeroconf import ServiceInfo, Zeroconf

from finchwort.runtime.authority import is_private

KIND = "_https._tcp.local."
INSIDE = re.compile(r"^(lo|docker|br-|veth|virbr|vmnet|vboxnet|lxc|lxd|podman|cni|flannel|tun|tap|wg)")
"""Names of links that lead to no phone: inside this computer, or out through a tunnel (common practice)."""

log = structlog.get_logger()


def local_addresses() -> list[str]:
    """Return this computer's addresses in local networks."""
    results = []
    for adapter in ifaddr.get_adapters():
        if INSIDE.match(adapter.nice_name or ""):
            continue
        for ip in adapter.ips:
            if isinstance(ip.ip, str) and is_private(ip.ip) and not ip.ip.startswith(("127.", "169.254.")):
                results.append(ip.ip)
    return sorted(set(results))


def local_name() -> str:
    """Return the name by which phones may find this computer.

    It bears the computer's own name, so that two workshops in one network are told apart.
    """
    host = re.sub(r"[^a-z0-9]+", "-", socket.gethostname().split(".")[0].lower()).strip("-")[:40]
    return f"finchwort-{host}.local" if host else "finchwort.local"


class Announcement:
    """The name in the network, for as long as it is shared; a network that allows none is left alone."""

    def __init__(self, name: str, port: int, addresses: Sequence[str]) -> None:
        self._zeroconf: Zeroconf | None = None
        label = name.removesuffix(".local")
        info = ServiceInfo(
            KIND,
            f"{label}.{KIND}",
            port=port,
            server=f"{name}.",
            addresses=[socket.inet_aton(address) for address in addresses],
        )
        try:
            self._zeroconf = Zeroconf(interfaces=list(addresses))
            self._zeroconf.register_service(info, allow_name_change=True)
        except (ZeroconfError, OSError) as error:
            log.warning("the name could not be announced in the network", error=str(error))
            self.close()

    def close(self) -> None:
        """Take the name back."""
        held, self._zeroconf = self._zeroconf, None
        if held is not None:
            with contextlib.suppress(ZeroconfError, OSError):
                held.unregister_all_services()
            with contextlib.suppress(ZeroconfError, OSError):
                held.close()
