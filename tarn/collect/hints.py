"""What one device tells of others, so that a later stage knows where to look and who a silent device is."""

from dataclasses import dataclass, field
from typing import Any

from tarn.collect.problems import Problem
from tarn.core.identifiers import stable_mac
from tarn.core.sections import Identity
from tarn.core.sightings import make_reading


@dataclass(slots=True)
class Hints:
    """What has been learnt in this sweep: hardware addresses by address (routers' ARP tables), ports by hardware
    address (switches' forwarding tables), and addresses of virtual hosts."""

    macs: dict[str, tuple[str, str]] = field(default_factory=dict)
    ports: dict[str, tuple[str, str]] = field(default_factory=dict)

    def learn(self, name: str, readings: list[Any]) -> None:
        """Take in what a device called `name` told. Of several switches the one that hears fewest is nearest."""
        for reading in readings:
            if reading.section == "arp":
                for entry in reading.items:
                    self.macs[entry.address] = (entry.mac, name)
            elif reading.section == "forwarding":
                behind: dict[str, int] = {}
                for entry in reading.items:
                    behind[entry.port] = behind.get(entry.port, 0) + 1
                for entry in reading.items:
                    held = self.ports.get(entry.mac)
                    if held is None or behind[entry.port] == 1:
                        self.ports[entry.mac] = (name, entry.port)

    def identity(self, address: str) -> Any | None:
        """Return a reading of the hardware address a router has for an address, where it stays with one device."""
        mac, _ = self.macs.get(address, ("", ""))
        if not mac or not stable_mac(mac):
            return None
        return make_reading("identity", Identity(macs=(mac,)), "reach.arp")

    def seen(self, address: str) -> Problem | None:
        """Return what to say of an address that does not answer although a router has seen it."""
        if address not in self.macs:
            return None
        mac, router = self.macs[address]
        switch, port = self.ports.get(mac, ("", ""))
        where = f", behind {port} of {switch}" if switch else ""
        return Problem("heard-of", router=router or "a router", mac=mac, where=where)
