"""What came of looking at one address."""

from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from tarn.collect.credentials import Credential
from tarn.collect.offers import Offer
from tarn.collect.problems import Problem
from tarn.collect.reach import GUESTS_PORT
from tarn.core.items import Certificate
from tarn.core.sections import Placement
from tarn.core.sightings import Sighting, compose, make_reading


@dataclass(slots=True, repr=False)  # tasks print their results, and readings make a text of megabytes
class Look:
    """What came of looking: the outcome, the reason and remedy in words, and the readings."""

    address: str
    outcome: str = "waiting"
    code: str = ""
    reason: str = ""
    remedy: str = ""
    credential: str = ""
    taken_for: str = ""
    ports: list[int] = field(default_factory=list)
    readings: list[Any] = field(default_factory=list)
    began: datetime = field(default_factory=lambda: datetime.now(UTC))
    took_ms: int = 0
    worked: list[str] = field(default_factory=list)
    problems: list[Problem] = field(default_factory=list)
    told: bool = False
    answers: bool = False
    met: dict[str, str] = field(default_factory=dict)
    offers: list[Offer] = field(default_factory=list)
    signed_in_over: Certificate | None = None
    """The certificate a sign-in was sent to, where there was one."""
    clear: dict[tuple[str, int], str] = field(default_factory=dict)
    """What goes in clear over a port, by protocol and number."""

    @property
    def is_virtual_host(self) -> bool:
        """Whether it answers as hosts of guests do (libvirt's port)."""
        return GUESTS_PORT in self.ports

    @property
    def is_network_gear(self) -> bool:
        """Whether it told of others: a router or a switch."""
        return any(r.section in ("arp", "forwarding", "neighbours") for r in self.readings)

    def has_identity(self) -> bool:
        """Whether anything read tells the device from others."""
        identities = [r.facts for r in self.readings if r.section == "identity"]
        return any(i.name or i.serial or i.uuid or i.macs or i.keys for i in identities)

    def let_in(self, credential: Credential) -> None:
        """Note the credential that worked."""
        self.credential = credential.name
        self.worked.append(credential.name)

    def end(self, outcome: str, problem: Problem) -> None:
        """Note how it ended."""
        self.outcome, self.code, self.reason, self.remedy = outcome, problem.code, problem.says, problem.remedy
        self.met = problem.met

    def sighting(self, source: tuple[str, str], place: str = "", organisation: str = "") -> Sighting | None:
        """Return the sighting to hand in, or None where nothing was learnt that tells the device from others."""
        if not self.has_identity():
            return None
        mac = self._mac()
        whose = organisation or None
        placement = Placement(address=self.address, mac=mac, place=place or None, organisation=whose)
        readings = [*self.readings, make_reading("placement", placement, "reach")]
        return compose(source, self.began.replace(microsecond=0), readings, address=self.address)

    def _mac(self) -> str | None:
        """Return the hardware address of the interface that has the address it was met at."""
        held = {a.address: a.interface for r in self.readings if r.section == "addresses" for a in r.items}
        macs = {i.name: i.mac for r in self.readings if r.section == "interfaces" for i in r.items}
        return macs.get(held.get(self.address, ""))
