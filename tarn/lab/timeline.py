"""What happens day by day. The lab's day 400 is the day the demo was made; every day has its devices."""

import pickle
from collections.abc import Callable, Iterator

from tarn.lab.fleet import VESSELS
from tarn.lab.links import plug_in
from tarn.lab.model import GIB, Account, Device, Interface, Package
from tarn.lab.names import PRODUCTS
from tarn.lab.parts import appliance, digest, mac, serial
from tarn.lab.running import equip
from tarn.lab.scenario import SALTHOLM, TANSY, devices, in_port
from tarn.lab.workings import connect, take_in_guests

TODAY = 400

_BORN = {
    **{f"salt-lt-{i:02d}": 350 for i in (11, 12, 13, 14)},
    "avrn-kiosk-15": 392,
    "avrn-kiosk-16": 392,
    "avrn-kiosk-17": TODAY,
    "avrn-kiosk-18": TODAY,
    "salt-ws-25": TODAY,
    "salt-ap-04": TODAY,
}
_GONE = {"salt-lt-09": 330, "avrn-cam-03": 384}


class World:
    """The devices of every day, from the fixed seed of their names."""

    def __init__(self) -> None:
        self._first = {d.name: d for d in devices()}
        for first in self._first.values():
            equip(first)
        # A copy a day of every device: by far the quickest way to make one.
        self._kept = {name: pickle.dumps(d) for name, d in self._first.items()}

    def on(self, day: int) -> list[Device]:
        """Return the devices that can be reached on a day, as they are then."""
        out = []
        for name, first in self._first.items():
            if _BORN.get(name, 0) > day or _GONE.get(name, 10**6) <= day:
                continue
            if first.place in (TANSY, *VESSELS) and not in_port(day, first.place):
                continue
            out.append(self._as_of(first, day))
        plug_in(out, day)
        take_in_guests(out, day)
        connect(out)
        return out

    def _as_of(self, first: Device, day: int) -> Device:
        device: Device = pickle.loads(self._kept[first.name])
        _update(device, day)
        if event := _EVENTS.get(first.name):
            device = event(device, day)
        _dock(device, day)
        if device.kind == "printer":
            device.pages = 4_000 + (digest(device.name, "pages") % 90 + 20) * day
        return device

    def days(self, first: int, last: int, every: int) -> Iterator[tuple[int, list[Device]]]:
        """Yield sampled days with their devices, the last day left out."""
        for day in range(first, last, every):
            yield day, self.on(day)


def _update(device: Device, day: int) -> None:
    """Bring products to the release their wave has reached: most within four days, some late, some never."""
    for package in device.packages.values():
        if package.name not in PRODUCTS:
            continue
        for out, version in PRODUCTS[package.name][1]:
            luck = digest(device.identity, package.name, version)
            wait = luck % 4 if luck % 10 < 8 else 9 + luck % 12
            if day >= out + wait and not (out and luck % 23 == 0):
                package.version = version + ("-1.tl8" if device.family == "rpm" else "")


def _berth(device: Device, day: int) -> Device:
    if day >= 340:
        device.memory = 32 * GIB
    return _roll_back(device, day)


def _roll_back(device: Device, day: int) -> Device:
    if day >= 379 and "berthwright-planner" in device.packages:
        device.packages["berthwright-planner"].version = "7.4.2"
    return device


def _mail(device: Device, day: int) -> Device:
    root = device.filesystems[0]
    root.used = int(root.size * min(0.97, 0.40 + max(0, day - 280) * 0.0045))
    return device


def _file(device: Device, day: int) -> Device:
    if day >= 380:
        device.os_version, device.kernel = "12", "6.1.0-26-amd64"
    return device


def _tix(device: Device, day: int) -> Device:
    if day >= 398:
        device.accounts.append(Account("svc-deploy", 1010, "Release job", ("sudo",)))
    return device


def _tix_quiet(device: Device, day: int) -> Device:
    """The second ticketing server speaks to its database no more; nobody has noticed yet."""
    if day >= 393:
        device.quiet = (("10.60.4.29", 5432),)
    return device


def _reimaged(device: Device, day: int) -> Device:
    if day >= 365:
        device.name, device.host_key = "salt-ws-31", "salt-ws-31"
        device.packages.pop("pellucid-reader", None)
    return device


def _drift(device: Device, day: int) -> Device:
    if day >= 391:
        device.packages["driftshare"] = Package("driftshare", "2.9", publisher="Driftline")
    return device


def _no_ostler(device: Device, day: int) -> Device:
    if day >= 395:
        device.packages.pop("ostler-client", None)
    return device


def _renamed_till(device: Device, day: int) -> Device:
    """The maker of the till software was bought and its product re-named."""
    if day >= 355 + digest(device.name, "rename") % 6:
        old = device.packages.pop("tillmaster")
        device.packages["galleykeeper-till"] = Package("galleykeeper-till", old.version, publisher="Galleykeeper")
    return device


def _swapped_printer(device: Device, day: int) -> Device:
    if day < 370:
        return device
    new = appliance(device.name, "printer", device.address, SALTHOLM, "quarto", "Folio 450", "laserprint printer",
                    web=(80, 631, 9100), firmware="4.0.0")  # fmt: skip
    new.serial, new.interfaces[0].mac = serial("quarto", "folio-450"), mac("quarto", "folio-450")
    new.identity = "salt-prn-03 (second)"
    return new


def _dock(device: Device, day: int) -> None:
    """One docking station goes round five laptops; its interface answers with its own address."""
    if device.name.startswith("salt-lt-0") and device.name[-1] in "12345":
        if day % 5 == int(device.name[-1]) - 1:
            device.interfaces.append(Interface("enx-dock", mac("selkie", "dock"), addresses=[]))


_EVENTS: dict[str, Callable[[Device, int], Device]] = {
    "salt-berth-01": _berth,
    "salt-ws-06": _roll_back,
    "salt-ws-12": _roll_back,
    "salt-ws-18": _roll_back,
    "salt-mail-01": _mail,
    "salt-file-01": _file,
    "salt-tix-01": _tix,
    "salt-tix-02": _tix_quiet,
    "salt-ws-07": _reimaged,
    "salt-ws-11": _drift,
    "salt-lt-04": _drift,
    "salt-lt-06": _no_ostler,
    "salt-prn-03": _swapped_printer,
    **{f"avrn-till-{i:02d}": _renamed_till for i in range(1, 9)},
    **{f"tansy-till-0{i}": _renamed_till for i in range(1, 5)},
}


def truth(day: int) -> list[dict[str, object]]:
    """Return what is really there on a day, for tests: one entry a device."""
    return [
        {
            "identity": d.identity,
            "name": d.name,
            "kind": d.kind,
            "address": d.address,
            "serial": d.serial,
            "maker": d.maker,
            "model": d.model,
            "memory": d.memory,
            "cores": d.cores,
            "os": f"{d.os_name} {d.os_version}".strip(),
            "place": d.place,
            "person": d.person,
            "department": d.department,
            "snmp": d.snmp,
            "ssh": d.ssh,
            "fault": d.fault,
            "packages": {p.name: p.version for p in d.packages.values()},
        }
        for d in World().on(day)
    ]
