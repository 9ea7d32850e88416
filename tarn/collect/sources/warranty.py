"""Makers' warranty services: asked by serial number, in batches, with their limits; each device's coverages."""

from collections.abc import AsyncIterator
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from tarn.collect.credentials import HttpCredential
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.inventory import Inventory, InventorySettings, at_path
from tarn.collect.sources.kind import CERTIFICATE, Setting, SourceKind, base
from tarn.collect.sources.known import KnownDevice, KnownDevices
from tarn.core.days import noon
from tarn.core.items import Coverage
from tarn.core.mapping import MappingError
from tarn.core.sections import Acquisition
from tarn.core.sightings import make_reading
from tarn.core.text import fold

COLLECTOR = "warranty"
TRIES = 3
"""How often a batch that failed is asked again before its devices are told as faults."""


@dataclass(frozen=True, slots=True)
class WarrantySettings:
    """How a maker's service is asked: `base` its address, `path` the call that takes serial numbers, `manufacturer`
    whose devices it is asked about; `ask` the name of the list in what is sent, `batch` how many at once. In the
    answer: `items` the path of the devices; in each `serial`, `coverages`, and in each of those the other paths."""

    base: str
    manufacturer: str
    path: str = "warranties"
    ask: str = "serials"
    batch: int = 25
    items: str = "results"
    serial: str = "serial"
    coverages: str = "coverages"
    name: str = "name"
    begins: str = "from"
    ends: str = "to"
    level: str = "level"
    claim: str = "claim"
    certificate: str = ""
    """The pin of its key (`trust.py`), where no authority signed its certificate."""


async def read_warranties(
    route: Route, credential: HttpCredential | None, settings: WarrantySettings, known: KnownDevices
) -> AsyncIterator[Finding]:
    """Yield what a maker's service says of the devices known of it. Raises Problem where nothing can be asked at all.

    A batch that fails while others are answered is told as faults of its devices.
    """
    mine = [d for d in known.devices if d.serial and fold(d.manufacturer) == fold(settings.manufacturer)]
    service = Inventory(route, credential, _as_inventory(settings))
    answered = False
    async with await service.open() as client:
        for start in range(0, len(mine), settings.batch):
            batch = mine[start : start + settings.batch]
            body = {settings.ask: [d.serial for d in batch]}
            for again in range(TRIES):
                try:
                    document = await service.ask(client, settings.path, {}, body)
                    break
                except Problem as problem:
                    if problem.code in ("sign-in-refused", "unreachable", "elsewhere"):
                        raise
                    if again + 1 == TRIES:
                        if not answered and start + settings.batch >= len(mine):
                            raise
                        for device in batch:
                            said = f"{device.serial} was not answered: {problem.says}"
                            yield Finding("", device.name, [], [MappingError("warranty", said)])
                        document = None
            if document is None:
                continue
            answered = True
            for finding in findings_of(document, batch, settings):
                yield finding


def _as_inventory(settings: WarrantySettings) -> InventorySettings:
    return InventorySettings(
        base=settings.base,
        list="",
        items=settings.items,
        key=settings.serial,
        fields={},
        certificate=settings.certificate,
    )


def findings_of(document: Any, batch: list[KnownDevice], settings: WarrantySettings) -> list[Finding]:
    """Return what an answer says of the devices that were asked about; what it does not name it does not know."""
    by_serial = {fold(d.serial): d for d in batch}
    out = []
    items = at_path(document, settings.items)
    for item in items if isinstance(items, list) else []:
        device = by_serial.get(fold(str(at_path(item, settings.serial) or "")))
        told = at_path(item, settings.coverages)
        if device is None or not isinstance(told, list) or not told:
            continue
        coverages, faults = [], []
        for number, one in enumerate(told, start=1):
            try:
                coverages.append(_coverage(one, number, settings))
            except ValueError as wrong:
                faults.append(MappingError("warranty", f"Coverage {number}: {wrong}"))
        readings = [device.identity(COLLECTOR), make_reading("coverages", _unlike(coverages), COLLECTOR)]
        if coverages and not faults:
            begins = [c.begins for c in coverages if c.begins is not None]
            ends = [c.ends for c in coverages if c.ends is not None]
            facts = Acquisition(warranty_from=min(begins, default=None), warranty_end=max(ends, default=None))
            readings.append(make_reading("acquisition", facts, COLLECTOR, complete=False))
        out.append(Finding(device.serial, device.name or device.serial, readings, faults))
    return out


def _coverage(one: Any, number: int, settings: WarrantySettings) -> Coverage:
    def text(path: str) -> str:
        return str(at_path(one, path) or "").strip()[:480]

    begins, ends = _moment(text(settings.begins)), _moment(text(settings.ends))
    if begins is not None and ends is not None and ends < begins:
        raise ValueError("it ends before it begins")
    name = text(settings.name) or f"coverage {number}"
    return Coverage(name=name[:300], begins=begins, ends=ends, level=text(settings.level), claim=text(settings.claim))


def _moment(text: str) -> int | None:
    if not text:
        return None
    try:
        return noon(date.fromisoformat(text[:10]))
    except ValueError:
        raise ValueError(f"“{text[:40]}” is no day") from None


def _unlike(coverages: list[Coverage]) -> list[Coverage]:
    """Return coverages with names that tell them apart: a second of one name is told by its last day."""
    seen: dict[str, Coverage] = {}
    for coverage in coverages:
        name = coverage.name
        if name in seen:
            ends = coverage.ends
            until = "" if ends is None else f", until {datetime.fromtimestamp(ends, UTC).date().isoformat()}"
            name = f"{name} ({len(seen) + 1}{until})"
        seen[name] = coverage.model_copy(update={"name": name})
    return list(seen.values())


KINDS = (
    SourceKind(
        "warranty service",
        COLLECTOR,
        "a maker's service that is asked about the warranties of devices there are",
        WarrantySettings,
        (
            base(),
            CERTIFICATE,
            Setting("manufacturer", "Whose devices it is asked about", needed="Say whose devices it is asked about."),
            Setting("path", "Call that takes serial numbers", usual="warranties"),
            Setting("batch", "Serial numbers at once", "number", usual=25, least=1, most=1_000),
            Setting("items", "Path of the devices in its answer", usual="results"),
            Setting("coverages", "Path of a device's coverages", usual="coverages"),
        ),
        lambda settings, asking: read_warranties(asking.route, asking.credential, settings, asking.known),
        HttpCredential,
        "http",
        about=True,
    ),
)
