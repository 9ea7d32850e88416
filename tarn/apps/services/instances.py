"""Instances of the applications recognisers know, as of any moment."""

from dataclasses import dataclass

from tarn.apps.services.running import Place, recognised, running
from tarn.core.programs.features import Seen
from tarn.core.programs.recognising import INSTANCES, version_of
from tarn.core.programs.recognising import Recogniser as Ready


@dataclass(frozen=True, slots=True)
class Instance:
    """An application on a device, as it runs there; `ports` it listens on."""

    application: str
    asset: int
    version: str
    account: str
    ports: tuple[int, ...]
    general: bool


def instances(at: int | None, asset: int | None = None) -> list[Instance]:
    """Return the instances recognisers know as of a moment, of all devices or of one."""
    out: dict[tuple[object, ...], Instance] = {}
    by = recognised(at)
    for one, places in running(at).items():
        if (known := by.get(one)) is None:
            continue
        for place in places:
            if asset is None or place.asset == asset:
                for key, ports in _told_apart(known, one, place):
                    made = Instance(
                        known.name, place.asset, version_of(known.version, one), one.account, ports, known.general
                    )
                    out.setdefault(key, made)
    return list(out.values())


def _told_apart(known: Ready, one: Seen, place: Place) -> list[tuple[tuple[object, ...], tuple[int, ...]]]:
    """Return the instances a process is, each by what tells it from others."""
    if known.instance == INSTANCES[1] and one.ports:
        # Its first port tells the instance; a second one, for looking after it, makes no other.
        return [((known.number, place.asset, one.ports[0]), one.ports)]
    if known.instance == INSTANCES[2]:
        return [((known.number, place.asset, one.account), one.ports)]
    return [((known.number, place.asset), one.ports)]
