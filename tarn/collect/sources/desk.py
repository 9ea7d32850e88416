"""A service desk over HTTP: its tickets, told by the device each is about."""

from collections import defaultdict
from collections.abc import AsyncIterator, Sequence
from dataclasses import dataclass
from typing import Any

from tarn.collect.credentials import HttpCredential
from tarn.collect.problems import Problem
from tarn.collect.routes import Route
from tarn.collect.sources.finding import Finding
from tarn.collect.sources.inventory import PAGINGS, Inventory, InventorySettings, at_path
from tarn.collect.sources.kind import CERTIFICATE, Setting, SourceKind, base
from tarn.collect.sources.known import KnownDevice, KnownDevices
from tarn.core.items import Ticket
from tarn.core.mapping import MappingError, read_value
from tarn.core.sections import Desk
from tarn.core.sightings import make_reading
from tarn.core.text import fold

COLLECTOR = "desk"
BY = ("serial", "number", "name")
"""What a ticket may know its device by."""


@dataclass(frozen=True, slots=True)
class DeskSettings:
    """How a service desk is asked: `base` its address, `list` the call, `items` the path of the tickets, paging as of
    an inventory. `give`: the call that takes a ticket in (a POST), none where it takes none. `device`: path of what it
    knows the device by, which is its `by`: one of BY. `closed`: states in which a ticket is over. `link`: where a
    ticket is read, with {number}.
    """

    base: str
    list: str = "tickets"
    items: str = "tickets"
    device: str = "device"
    by: str = "serial"
    number: str = "number"
    title: str = "title"
    state: str = "state"
    opened: str = "opened"
    priority: str = "priority"
    closed: Sequence[str] = ("closed", "resolved", "cancelled")
    link: str = ""
    give: str = ""
    text: str = "text"
    paging: str = "none"
    page_parameter: str = "page"
    size_parameter: str = ""
    size: int = 100
    next: str = ""
    certificate: str = ""
    """The pin of its key (`trust.py`), where no authority signed its certificate."""


async def read_desk(
    route: Route, credential: HttpCredential | None, settings: DeskSettings, known: KnownDevices
) -> AsyncIterator[Finding]:
    """Yield the devices tickets are about, and those that were and no longer are. Raises Problem.

    A ticket about what no device of the register is known by is a fault; it makes no device.
    """
    asked = InventorySettings(
        base=settings.base,
        list=settings.list,
        items=settings.items,
        key=settings.number,
        fields={},
        paging=settings.paging,
        page_parameter=settings.page_parameter,
        size_parameter=settings.size_parameter,
        size=settings.size,
        next=settings.next,
        certificate=settings.certificate,
    )
    devices = known.by(settings.by)
    told: dict[str, list[Ticket]] = defaultdict(list)
    faults: dict[str, list[MappingError]] = defaultdict(list)
    about: dict[str, KnownDevice] = {}
    async for item in Inventory(route, credential, asked).items():
        named = str(at_path(item, settings.device) or "").strip()
        device = devices.get(fold(named)) if named else None
        if device is None:
            number = at_path(item, settings.number)
            if named:
                fault = MappingError("device", f"No device of the register has the {settings.by} “{named}”.")
                yield Finding("", f"ticket {number}", [], [fault])
            continue
        about[device.number] = device
        try:
            told[device.number].append(_ticket(item, settings))
        except MappingError as wrong:
            faults[device.number].append(wrong)
    for number, device in sorted(about.items()):
        finding = _finding(device, told[number])
        finding.faults = faults[number]
        yield finding
    for device in known.devices:
        if device.number in known.before and device.number not in about:
            yield _finding(device, [])


async def open_ticket(
    route: Route, credential: HttpCredential | None, settings: DeskSettings, title: str, text: str, device: str = ""
) -> str:
    """Have the desk take a ticket in; return its number. `device`: what the desk knows it by, where it is about one.

    Raises Problem.
    """
    asked = InventorySettings(
        base=settings.base, list=settings.list, key=settings.number, certificate=settings.certificate
    )
    body: dict[str, Any] = {}
    for path, value in ((settings.title, title), (settings.text, text), (settings.device, device)):
        if value:
            _put(body, path, value)
    inventory = Inventory(route, credential, asked)
    async with await inventory.open() as client:
        told = await inventory.ask(client, settings.give, {}, body)
    number = at_path(told, settings.number) if isinstance(told, dict) else None
    if not isinstance(number, str | int) or not str(number).strip():
        raise Problem("nonsense", protocol="The desk", detail=f"its answer names no {settings.number} of the ticket")
    return str(number).strip()[:120]


def _put(body: dict[str, Any], path: str, value: str) -> None:
    """Put a value where a path of names leads, as `at_path` reads it."""
    *above, last = path.split(".")
    for name in above:
        body = body.setdefault(name, {})
    body[last] = value


def _finding(device: KnownDevice, tickets: list[Ticket]) -> Finding:
    once = {t.number: t for t in tickets}
    facts = Desk(tickets_open=sum(t.open for t in once.values()))
    readings = [
        device.identity(COLLECTOR),
        make_reading("tickets", [once[k] for k in sorted(once)], COLLECTOR),
        make_reading("desk", facts, COLLECTOR),
    ]
    return Finding(device.number, device.name or device.number, readings)


def _ticket(item: dict[str, Any], settings: DeskSettings) -> Ticket:
    """Return a ticket. Raises MappingError where it was opened on no day there is."""

    def text(path: str) -> str:
        return str(at_path(item, path) or "").strip()[:480]

    number = text(settings.number) or "without a number"
    opened = at_path(item, settings.opened)
    return Ticket(
        number=number[:300],
        title=text(settings.title),
        state=text(settings.state),
        open=fold(text(settings.state)) not in {fold(s) for s in settings.closed},
        opened=None if opened is None else read_value("checked_in", opened),
        priority=text(settings.priority),
        link=settings.link.replace("{number}", number)[:480]
        if settings.link.startswith(("http://", "https://"))
        else "",
    )


KINDS = (
    SourceKind(
        "service desk",
        COLLECTOR,
        "a service desk: its tickets about devices there are",
        DeskSettings,
        (
            base(),
            CERTIFICATE,
            Setting("list", "Call that lists tickets", usual="tickets"),
            Setting(
                "items",
                "Path of the tickets in its answer",
                usual="tickets",
                needed="Say where the tickets lie in its answer, such as tickets.",
            ),
            Setting(
                "device",
                "Path of the device in a ticket",
                usual="device.serial",
                needed="Say where a ticket tells its device, such as device.serial.",
            ),
            Setting("by", "It knows devices by", "choice", usual="serial", options=BY),
            Setting("link", "Where a ticket is read, with {number}"),
            Setting("give", "Call that takes a ticket in (POST)"),
            Setting("paging", "Pages", "choice", usual="none", options=PAGINGS),
            Setting("size_parameter", "Parameter of the size"),
        ),
        lambda settings, asking: read_desk(asking.route, asking.credential, settings, asking.known),
        HttpCredential,
        "http",
        about=True,
    ),
)
