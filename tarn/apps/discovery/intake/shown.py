"""What waits at intake, and the filters its rules keep."""

from collections import defaultdict
from collections.abc import Iterator

from tarn.apps.discovery.intake.results import IntakeGroupOut, IntakeOut
from tarn.apps.discovery.models import IntakeRule
from tarn.apps.estate.asking.uses import Kept
from tarn.apps.estate.register import intake as estate_intake
from tarn.apps.estate.register.results import WaitingDevice
from tarn.apps.people.scope import visible


def intake() -> IntakeOut:
    """Return found devices that wait, grouped by what they look like, and the undecided cases."""
    groups: dict[tuple[str, str, str, str], list[WaitingDevice]] = defaultdict(list)
    waiting = estate_intake.waiting()
    for device in waiting:
        key = (device["kind"] or "device", device["manufacturer"] or "", device["model"] or "", device["place"] or "")
        groups[key].append(device)
    out: list[IntakeGroupOut] = []
    for (kind, manufacturer, model, place), devices in groups.items():
        out.append(
            {
                "kind": kind,
                "manufacturer": manufacturer,
                "model": model,
                "place": place,
                "sure": min(d["sure"] for d in devices),
                "first_seen": min(d["first_seen"] for d in devices),
                "devices": devices,
            }
        )
    out.sort(key=lambda g: (not g["place"], -len(g["devices"]), -g["sure"], g["kind"]))
    total = estate_intake.number_waiting()
    return {"groups": out, "total": total, "shown": len(waiting), "undecided": estate_intake.undecided()}


def intake_count() -> int:
    """Return how much waits at intake: devices, and sightings whose asset is undecided."""
    return estate_intake.number_waiting() + estate_intake.number_undecided()


def kept_filters() -> Iterator[Kept]:
    """Yield the filters that intake rules keep."""
    for intake_rule in visible(IntakeRule).order_by("pk"):
        yield Kept("intake rule", intake_rule.name, "/discovery/intake", intake_rule.filter)
