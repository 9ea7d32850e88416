"""What is handed in of one address: how far it got, and the sighting, wherever it was looked at from."""

from dataclasses import dataclass, field

from tarn.collect.looked import Look
from tarn.collect.offers import Offer
from tarn.collect.sources.finding import whose
from tarn.core.sections import Hardware, Identity
from tarn.core.sightings import Sighting, compose, make_reading


@dataclass(slots=True)
class Found:
    """One address as it is handed in; `sighting` is None where nothing tells the device from others."""

    address: str
    outcome: str
    code: str = ""
    reason: str = ""
    remedy: str = ""
    credential: str = ""
    taken_for: str = ""
    ports: list[int] = field(default_factory=list)
    took_ms: int = 0
    worked: list[str] = field(default_factory=list)
    met: dict[str, str] = field(default_factory=dict)
    offers: list[Offer] = field(default_factory=list)
    sighting: Sighting | None = None
    guests: list[Sighting] = field(default_factory=list)
    """What a virtual host says of its guests, a sighting each."""

    @property
    def sightings(self) -> list[Sighting]:
        """Everything here that is evidence."""
        return [*([self.sighting] if self.sighting is not None else []), *self.guests]


def found_of(look: Look, source: tuple[str, str], place: str, organisation: str = "") -> Found:
    """Return what a look comes to, as evidence of a source at a place, of an organisation's device."""
    return Found(
        address=look.address,
        outcome=look.outcome,
        code=look.code,
        reason=look.reason[:1000],
        remedy=look.remedy,
        credential=look.credential,
        taken_for=look.taken_for[:200],
        ports=look.ports,
        took_ms=look.took_ms,
        worked=look.worked,
        met=look.met,
        offers=look.offers,
        sighting=look.sighting(source, place, organisation),
        guests=guests_of(look, organisation),
    )


def guests_of(look: Look, organisation: str = "") -> list[Sighting]:
    """Return what a virtual host tells of its guests as the host's own word: each guest a sighting.

    A guest is known by its UUID, which is what it finds as its hardware's own (SMBIOS, DSP0134), and by the hardware
    addresses of its virtual interfaces.
    """
    out = []
    for reading in look.readings:
        if reading.section != "guests" or not look.taken_for:
            continue
        for guest in reading.items:
            identity = Identity(uuid=guest.uuid, name=guest.name or None, macs=tuple(guest.macs.split()))
            collector = f"host.{reading.collector}"[:40]
            readings = [
                make_reading("identity", identity, collector),
                make_reading("hardware", Hardware(cores=guest.cores, memory=guest.memory), collector),
                *whose(organisation, collector),
            ]
            out.append(compose(("virtual host", look.taken_for[:200]), look.began.replace(microsecond=0), readings))
    return out
