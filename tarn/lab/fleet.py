"""The demo world, second part: the other terminals and vessels, the workshop, a floor of PCs, and what is carried."""

from dataclasses import dataclass

from tarn.lab.model import Device
from tarn.lab.names import DEPARTMENTS, PEOPLE
from tarn.lab.parts import GANNET, TALLOW, appliance, digest, linux, mac, macos, serial, uuid, windows

GREY_NESS, KITTIWAKE, RUSK = "Grey Ness", "Kittiwake Bay", "Holm of Rusk"
MARRAM, CAMPION, THRIFT = "MV Marram", "MV Sea Campion", "MV Thrift"
WORKSHOP, SALTHOLM = "Workshop", "Saltholm"
TRUST = "Trust House"
"""The harbour trust's own house at Port Averne: another organisation, with another directory."""
VESSELS = (MARRAM, CAMPION, THRIFT)
OUTLYING = (GREY_NESS, KITTIWAKE, RUSK, WORKSHOP, *VESSELS)
CARRIED = frozenset({"phone", "tablet", "scanner"})


@dataclass(frozen=True)
class Fit:
    """How a place is fitted out: how many of each."""

    place: str
    short: str
    net: str
    points: int = 2
    servers: int = 0
    kiosks: int = 0
    tills: int = 0
    cameras: int = 0
    printers: int = 1
    stations: int = 0
    pcs: int = 0
    supply: bool = True


PLACES = (
    Fit(GREY_NESS, "ness", "10.60.9.", servers=1, kiosks=6, tills=4, cameras=4, pcs=4),
    Fit(KITTIWAKE, "kitt", "10.60.10.", servers=1, kiosks=6, tills=4, cameras=4, pcs=4),
    Fit(RUSK, "rusk", "10.60.11.", points=1, kiosks=2, tills=2, cameras=2, pcs=2, supply=False),
    Fit(TRUST, "trust", "10.60.13.", points=1, servers=1, cameras=2, pcs=6),
    Fit(WORKSHOP, "slip", "10.60.12.", points=1, pcs=8, supply=False),
    *(
        Fit(place, short, net, servers=1, tills=3, cameras=3, stations=2)
        for place, short, net in (
            (MARRAM, "marram", "10.60.22."),
            (CAMPION, "campion", "10.60.24."),
            (THRIFT, "thrift", "10.60.26."),
        )
    ),
)


def fleet() -> list[Device]:
    """Return the devices of this part."""
    out = [d for fit in PLACES for d in _place(fit)]
    for device in out:
        if device.place == TRUST:
            device.domain, device.department = "harbour-trust.example", "Harbour Office"
    return [*out, *_floor(), *_carried()]


def _place(fit: Fit) -> list[Device]:
    net, place, short = fit.net, fit.place, fit.short
    out = [
        appliance(
            f"{short}-gw-01", "router", net + "1", place, "selkie", "SR20", "router", snmp="v3", ports=4, web=(443,)
        ),
        appliance(
            f"{short}-sw-01", "switch", net + "2", place, "selkie", "SX24", "ethernet switch", snmp="v3", ports=24
        ),
    ]
    out += [
        appliance(f"{short}-ap-{i:02d}", "access point", f"{net}{4 + i}", place, "selkie", "WA6", "access point")
        for i in range(1, fit.points + 1)
    ]
    if fit.supply:
        out.append(
            appliance(
                f"{short}-ups-01", "power supply", net + "9", place, "gannet", "GP1500", "uninterruptible power supply"
            )
        )
    for i in range(1, fit.servers + 1):
        out.append(
            linux(f"{short}-srv-{i:02d}", "server", f"{net}{9 + i}", place, "halberd", "R320 server", memory=16, cores=4,
                  products=("crewroster", "storekeeper"), listeners=((80, "crewroster"),), department="Fleet", os=TALLOW)
        )  # fmt: skip
    for i in range(1, fit.kiosks + 1):
        out.append(
            linux(f"{short}-kiosk-{i:02d}", "kiosk", f"{net}{40 + i}", place, "orrin", "Kiosk K2", memory=8, cores=4,
                  products=("tixline-kiosk",), disk=128, department="Ticketing", os=TALLOW)
        )  # fmt: skip
    for i in range(1, fit.tills + 1):
        out.append(
            linux(f"{short}-till-{i:02d}", "till", f"{net}{70 + i}", place, "orrin", "Till T1 point of sale", memory=4,
                  cores=2, products=("tillmaster",), disk=64, department="Galley and Retail", os=GANNET)
        )  # fmt: skip
    for i in range(1, fit.stations + 1):
        out.append(
            linux(f"{short}-ws-{i:02d}", "workstation", f"{net}{20 + i}", place, "halberd", "D40 workstation", memory=8,
                  cores=4, products=("desktop-session", "quill-office"), department="Crewing",
                  person=PEOPLE[digest(short, i) % len(PEOPLE)])
        )  # fmt: skip
    for i in range(1, fit.cameras + 1):
        out.append(
            appliance(
                f"{short}-cam-{i:02d}",
                "camera",
                f"{net}{90 + i}",
                place,
                "brightwire",
                "Lookout 2",
                "camera",
                web=(80, 554),
            )
        )
    for i in range(1, fit.printers + 1):
        out.append(
            appliance(
                f"{short}-prn-{i:02d}",
                "printer",
                f"{net}{110 + i}",
                place,
                "quarto",
                "Folio 120",
                "printer",
                web=(80, 631, 9100),
            )
        )
    for i in range(1, fit.pcs + 1):
        person = PEOPLE[digest(short, "pc", i) % len(PEOPLE)]
        out.append(
            windows(
                f"{short}-pc-{i:02d}", "workstation", f"{net}{120 + i}", place, person=person, department="Harbour Desk"
            )
        )
    return out


def _floor() -> list[Device]:
    """The second floor at Saltholm: PCs with Windows, laptops, desk phones."""
    net = "10.60.6."
    out = [
        appliance("salt-sw-21", "switch", net + "2", SALTHOLM, "selkie", "SX48", "ethernet switch", snmp="v3", ports=48)
    ]
    for i in range(1, 31):
        person, department = PEOPLE[(i * 3) % len(PEOPLE)], DEPARTMENTS[(i * 5) % len(DEPARTMENTS)]
        out.append(
            windows(
                f"salt-pc-{i + 20}", "workstation", f"{net}{20 + i}", SALTHOLM, person=person, department=department
            )
        )
    for i in range(1, 11):
        person = PEOPLE[(i * 11 + 2) % len(PEOPLE)]
        out.append(windows(f"salt-nb-{i:02d}", "laptop", f"{net}{60 + i}", SALTHOLM, person=person, department="Fleet"))
    for i, version in enumerate(("14.7.1", "15.1", "13.7"), start=1):
        person = PEOPLE[(i * 7 + 3) % len(PEOPLE)]
        out.append(macos(f"salt-leaf-{i:02d}", f"{net}{70 + i}", SALTHOLM, version=version, person=person,
                         department="Ticketing"))  # fmt: skip
    for i in range(1, 13):
        out.append(
            appliance(
                f"salt-tel-{i + 20}",
                "desk phone",
                f"{net}{90 + i}",
                SALTHOLM,
                "brightwire",
                "Hail 3",
                "desk phone",
                snmp="",
                web=(80, 5060),
            )
        )
    by_name = {d.name: d for d in out}
    by_name["salt-pc-33"].winrm = "refuse"
    by_name["salt-pc-41"].fault = "limited"
    by_name["salt-pc-44"].winrm = ""
    return out


def _carried() -> list[Device]:
    """What people carry: on Wi-Fi with changing addresses, so that only device management knows it well."""
    out = []
    plan = (
        ("phone", "tel", 50, "Brightwire Pebble 5"),
        ("tablet", "tab", 25, "Orrin Slate 10"),
        ("scanner", "scan", 20, "Orrin Gateway G2"),
    )
    for kind, short, number, model in plan:
        for i in range(1, number + 1):
            name = f"crew-{short}-{i:02d}"
            maker, _, rest = model.partition(" ")
            person = PEOPLE[digest(name, "owner") % len(PEOPLE)] if kind != "scanner" else ""
            place = (SALTHOLM, *OUTLYING)[digest(name, "place") % 8]
            device = appliance(
                name, kind, f"10.60.15.{len(out) + 1}", place, maker.lower(), rest, kind, snmp="", web=()
            )
            device.os_name, device.os_version = "Android", f"1{4 + digest(name) % 2}"
            device.serial, device.uuid = serial(maker.lower(), name), uuid(name)
            device.interfaces[0].mac = mac(maker.lower(), name)
            device.person, device.department = person, DEPARTMENTS[digest(name, "dept") % len(DEPARTMENTS)]
            out.append(device)
    return out
