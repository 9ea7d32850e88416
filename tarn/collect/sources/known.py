"""What Tarn knows already, for sources that are asked about devices rather than for them."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from tarn.core.sections import Identity
from tarn.core.sightings import make_reading
from tarn.core.text import fold


@dataclass(frozen=True, slots=True)
class KnownDevice:
    """A device of the register: its asset number, and what other systems know it by; empty where that is not known."""

    number: str
    serial: str = ""
    manufacturer: str = ""
    name: str = ""

    def identity(self, collector: str) -> Any:
        """Return the reading that says whose sighting this is."""
        return make_reading("identity", Identity(tarn=self.number), collector, complete=False)


@dataclass(frozen=True, slots=True)
class KnownDevices:
    """The devices of the register, and the keys this source told of before."""

    devices: tuple[KnownDevice, ...] = ()
    before: frozenset[str] = frozenset()

    def by(self, what: str) -> dict[str, KnownDevice]:
        """Return devices by serial number, asset number or name, folded; what several share tells none of them."""
        return _once(self.devices, lambda d: fold(str(getattr(d, what))))


def _once(devices: Iterable[KnownDevice], key: Callable[[KnownDevice], str]) -> dict[str, KnownDevice]:
    out: dict[str, KnownDevice] = {}
    shared: set[str] = set()
    for device in devices:
        mark = key(device)
        if mark and out.setdefault(mark, device) is not device:
            shared.add(mark)
    return {mark: device for mark, device in out.items() if mark not in shared}
