"""The demo world, first part: Skerrivane Ferries' head office, one terminal, one vessel."""

from dataclasses import dataclass

from tarn.lab.fleet import CAMPION, GREY_NESS, KITTIWAKE, MARRAM, RUSK, THRIFT, TRUST, WORKSHOP, fleet
from tarn.lab.model import Device, Filesystem, Interface
from tarn.lab.names import DEPARTMENTS, PEOPLE
from tarn.lab.parts import GANNET, TALLOW, appliance, certificate, digest, linux, serial, windows

SALTHOLM, AVERNE, TANSY = "Saltholm", "Port Averne", "MV Tansy"


@dataclass(frozen=True)
class Range:
    """A network of the company."""

    range: str
    name: str
    place: str
    never_probe: bool = False
    outside: bool = False
    organisation: str = "Skerrivane Ferries"


NETWORKS = (
    Range("10.60.4.0/24", "Saltholm data room", SALTHOLM),
    Range("10.60.5.0/24", "Saltholm head office", SALTHOLM),
    Range("10.60.6.0/24", "Saltholm second floor", SALTHOLM),
    Range("10.60.8.0/24", "Port Averne terminal", AVERNE),
    Range("10.60.9.0/24", "Grey Ness terminal", GREY_NESS),
    Range("10.60.10.0/24", "Kittiwake Bay terminal", KITTIWAKE),
    Range("10.60.11.0/24", "Holm of Rusk terminal", RUSK),
    Range("10.60.12.0/24", "Workshop and slipway", WORKSHOP, outside=True),
    Range("10.60.13.0/24", "Harbour trust", TRUST, organisation="Averne Harbour Trust"),
    Range("10.60.20.0/24", "MV Tansy ship's network", TANSY),
    Range("10.60.21.0/24", "MV Tansy bridge and engine", TANSY, never_probe=True),
    Range("10.60.22.0/24", "MV Marram ship's network", MARRAM),
    Range("10.60.23.0/24", "MV Marram bridge and engine", MARRAM, never_probe=True),
    Range("10.60.24.0/24", "MV Sea Campion ship's network", CAMPION),
    Range("10.60.25.0/24", "MV Sea Campion bridge and engine", CAMPION, never_probe=True),
    Range("10.60.26.0/24", "MV Thrift ship's network", THRIFT),
    Range("10.60.27.0/24", "MV Thrift bridge and engine", THRIFT, never_probe=True),
)

VESSEL_NETS = tuple(range(20, 28))
"""Third numbers of the networks aboard: two a vessel, reached from nowhere else."""

SNMP_COMMUNITY = "skerry-read"
SNMP_USER, SNMP_AUTH, SNMP_PRIVACY = "harbour", "harbour-auth-pass", "harbour-priv-pass"
SSH_USER, SSH_PASSWORD = "tarn-reader", "low-water-42"
SSH_RENEWED = "low-water-43"
"""The password on computers where the old one has expired."""
WINRM_ACCOUNTS = {"SKERRIVANE\\tarn-reader": "low-water-42", "HARBOURTRUST\\tarn-reader": "low-water-42"}
HAND_PASSWORD = "high-water-7"
"""Of the account that may act on devices, not only read them."""
ASLEEP = ("salt-ws-19",)
"""Devices that sleep until a wake-up packet comes for them."""
NAME_SERVER = "10.60.4.53"
PAIR_ADDRESS = "10.60.4.20"
"""The virtual address that the two ticketing servers share."""

_DESK = ("desktop-session", "quill-office", "pellucid-reader")


def devices() -> list[Device]:
    """Return every device as it was on the lab's first day, whether it was there yet or not."""
    out = [*_data_room(), *_head_office(), *_terminal(), *_vessel(), *fleet()]
    for device in out:
        if device.kind == "printer":
            colours = ("black", "cyan", "magenta", "yellow") if "4" in device.model else ("black",)
            device.supplies = tuple((f"Toner {c}", 3, digest(device.name, c) % 100) for c in colours)
        if device.kind == "power supply":
            device.battery = 25 if device.name == "avrn-ups-01" else 100
    by_name = {d.name: d for d in out}
    by_name["salt-sw-01"].stack = tuple((f"member {n}", serial("selkie", "salt-sw-01", n)) for n in (2, 3))
    return out


def _data_room() -> list[Device]:
    net = "10.60.4."
    out = [
        appliance("salt-gw-01", "router", net + "1", SALTHOLM, "selkie", "SR40", "router", snmp="v3", ports=6, web=(443,)),
        appliance("salt-fw-01", "firewall", net + "2", SALTHOLM, "selkie", "Bulwark 12", "firewall", snmp="v3", ports=8, web=(443,)),
        *(
            appliance(f"salt-sw-0{i}", "switch", f"{net}{2 + i}", SALTHOLM, "selkie", "SX48", "ethernet switch", snmp="v3", ports=26)
            for i in (1, 2, 3)
        ),
        *(
            appliance(f"salt-ups-0{i}", "power supply", f"{net}{7 + i}", SALTHOLM, "gannet", "GP3000", "uninterruptible power supply")
            for i in (1, 2)
        ),
        *(
            appliance(f"salt-pdu-0{i}", "power distributor", f"{net}{11 + i}", SALTHOLM, "gannet", "GR24", "power distribution unit")
            for i in (1, 2)
        ),
    ]  # fmt: skip
    for i in (1, 2):
        host = linux(
            f"salt-hv-0{i}", "hypervisor", f"{net}{9 + i}", SALTHOLM, "halberd", "R740 rack virtual host",
            memory=256, cores=32, products=("heron-monitor",), os=("Tallow Linux", "8.10"), family="rpm", disk=1920,
            listeners=((16509, "guestd"),),
        )  # fmt: skip
        out.append(host)
    plan: list[tuple[str, int, int, int, tuple[str, ...], tuple[tuple[int, str], ...]]] = [
        ("salt-tix-01", 21, 64, 16, ("grebe-database", "tixline-server"), ((5432, "grebe"),)),
        ("salt-tix-02", 22, 32, 8, ("tixline-server",), ((80, "tixline"),)),
        ("salt-berth-01", 23, 16, 8, ("berthwright-planner",), ((80, "berthwright"),)),
        ("salt-crew-01", 24, 16, 8, ("crewroster",), ((80, "crewroster"),)),
        ("salt-store-01", 25, 16, 4, ("storekeeper",), ((80, "storekeeper"),)),
        ("salt-mail-01", 26, 32, 8, ("merlin-mail",), ((25, "merlin"), (143, "merlin"), (993, "merlin"))),
        ("salt-file-01", 27, 16, 4, (), ((445, "smbd"), (2049, "nfsd"))),
        ("salt-mon-01", 28, 8, 4, ("heron-monitor",), ((80, "heron"),)),
        ("salt-db-01", 29, 64, 16, ("grebe-database",), ((5432, "grebe"),)),
        ("salt-bak-01", 30, 16, 4, (), ()),
        ("salt-app-01", 31, 8, 2, ("crewroster",), ()),
        ("salt-app-02", 32, 8, 2, ("crewroster",), ()),
    ]
    for name, host_part, memory, cores, products, listeners in plan:
        virtual = name.startswith("salt-app")
        server = linux(
            name, "server", f"{net}{host_part}", SALTHOLM, "tallow" if virtual else "halberd",
            "VH guest" if virtual else "R520 rack server", memory=memory, cores=cores, products=products,
            listeners=listeners, department="IT",
            os=("Debian GNU/Linux", "11") if name in ("salt-file-01", "salt-bak-01") else TALLOW,
        )  # fmt: skip
        out.append(server)
    for i in (1, 2):
        out.append(
            windows(
                f"salt-win-0{i}",
                "server",
                f"{net}{39 + i}",
                SALTHOLM,
                snmp="v2c",
                products=("berthwright-planner", "quill-office"),
            )
        )
    _power(out)
    by_name = {d.name: d for d in out}
    certificate(by_name["salt-tix-02"], 443, 47, 412, issued=True)
    certificate(by_name["salt-crew-01"], 443, 300, 665, issued=True)
    certificate(by_name["salt-mail-01"], 443, 200, 565, issued=True)
    certificate(by_name["salt-mail-01"], 993, 200, 565, issued=True)
    certificate(by_name["salt-fw-01"], 8443, 0, 3650)
    # A pair shares a virtual address: each has its interface, the first one holds the address.
    for name in ("salt-tix-01", "salt-tix-02"):
        held = [(PAIR_ADDRESS, 24)] if name == "salt-tix-01" else []
        by_name[name].interfaces.append(Interface("vrrp14", "00:00:5e:00:01:0e", addresses=held))
    by_name["salt-tix-01"].shared = (PAIR_ADDRESS,)
    for name in ("salt-tix-01", "salt-tix-02", "salt-bak-01"):
        files = Filesystem("/srv/files", "salt-file-01:/srv/files", "nfs4", 4 << 40, (4 << 40) * 3 // 5)
        by_name[name].filesystems.append(files)
    for name in ("salt-app-01", "salt-app-02"):
        # Two guests cloned from one image: one UUID, one host key, no serial of their own.
        guest = by_name[name]
        guest.uuid, guest.serial, guest.host_key = "5a17c10e-0000-4000-a000-00000000c10e", "None", "salt-app"
    return out


BOTH_IN_ONE = "salt-store-01"
"""The server whose two plugs are in one distributor."""


def _power(room: list[Device]) -> None:
    """Feed the data room twice: each server by both distributors, each of those by a supply of its own; one server has
    both plugs in the first."""
    fed = [
        d for d in room if d.kind in ("server", "hypervisor", "switch", "router", "firewall") and "VH" not in d.model
    ]
    for number in (1, 2):
        supply = next(d for d in room if d.name == f"salt-ups-0{number}")
        distributor = next(d for d in room if d.name == f"salt-pdu-0{number}")
        outlets = [(d.name, 60 + digest(d.name, "watts") % 240) for d in fed if d.name != BOTH_IN_ONE]
        if number == 1:
            outlets += [(BOTH_IN_ONE, 90), (BOTH_IN_ONE, 80)]
        distributor.outlets = (*outlets, *[("", 0)] * max(0, 24 - len(outlets)))
        supply.outlets = ((distributor.name, sum(watts for _, watts in outlets)),)


def _head_office() -> list[Device]:
    net, out = "10.60.5.", []
    for i in (1, 2):
        out.append(
            appliance(f"salt-sw-1{i}", "switch", f"{net}{1 + i}", SALTHOLM, "selkie", "SX24", "ethernet switch", snmp="v3", ports=24)
        )  # fmt: skip
    for i in range(1, 5):
        out.append(
            appliance(f"salt-ap-0{i}", "access point", f"{net}{5 + i}", SALTHOLM, "selkie", "WA6", "access point")
        )
    for i in range(1, 6):
        printer = appliance(
            f"salt-prn-0{i}", "printer", f"{net}{10 + i}", SALTHOLM, "quarto", "Folio 420", "laserprint printer",
            web=(80, 631, 9100),
        )  # fmt: skip
        out.append(printer)
    out[-1].fault = "loop"
    for i in range(1, 26):
        owner = PEOPLE[(i * 5) % len(PEOPLE)]
        station = linux(
            f"salt-ws-{i:02d}", "workstation", f"{net}{20 + i}", SALTHOLM, "halberd", "D40 workstation",
            memory=16 if i % 3 else 8, cores=6, products=_DESK + (("berthwright-planner",) if i % 6 == 0 else ()),
            person=owner, department=DEPARTMENTS[i % len(DEPARTMENTS)],
        )  # fmt: skip
        out.append(station)
    for i in range(1, 15):
        owner = PEOPLE[(i * 7 + 3) % len(PEOPLE)]
        laptop = linux(
            f"salt-lt-{i:02d}", "laptop", f"{net}{60 + i}", SALTHOLM, "halberd", "L14 notebook",
            memory=16, cores=8, products=(*_DESK, "ostler-client"), os=("Ubuntu", "22.04"),
            person=owner, department=DEPARTMENTS[(i + 2) % len(DEPARTMENTS)],
        )  # fmt: skip
        out.append(laptop)
    for i in range(1, 9):
        out.append(
            appliance(f"salt-tel-0{i}", "desk phone", f"{net}{90 + i}", SALTHOLM, "brightwire", "Hail 3", "desk phone", snmp="", web=(80, 5060))
        )  # fmt: skip
    for i in (1, 2):
        out.append(
            appliance(f"salt-cam-0{i}", "camera", f"{net}{110 + i}", SALTHOLM, "brightwire", "Lookout 2", "camera", web=(80, 554))
        )  # fmt: skip
    for i in range(1, 7):
        owner = PEOPLE[(i * 3 + 1) % len(PEOPLE)]
        out.append(
            windows(f"salt-pc-0{i}", "workstation", f"{net}{120 + i}", SALTHOLM, person=owner, department="Accounts")
        )
    by_name = {d.name: d for d in out}
    for i in (1, 2):
        camera = by_name[f"salt-cam-0{i}"]
        camera.open_ports, camera.asks = (23, *camera.open_ports), "basic"
    by_name["salt-prn-01"].asks = "form"
    by_name["salt-prn-01"].open_ports = (21, *by_name["salt-prn-01"].open_ports)
    by_name["salt-ws-20"].fault = "stall"
    by_name["salt-ws-15"].ssh = "refuse"
    by_name["salt-pc-05"].winrm = "refuse"
    by_name["salt-pc-06"].fault = "limited"
    return out


def _terminal() -> list[Device]:
    net = "10.60.8."
    out = [
        appliance("avrn-gw-01", "router", net + "1", AVERNE, "selkie", "SR20", "router", snmp="v3", ports=4, web=(443,)),
        *(
            appliance(f"avrn-sw-0{i}", "switch", f"{net}{1 + i}", AVERNE, "selkie", "SX24", "ethernet switch", snmp="v3", ports=24)
            for i in (1, 2)
        ),
        *(
            appliance(f"avrn-ap-0{i}", "access point", f"{net}{4 + i}", AVERNE, "selkie", "WA6", "access point")
            for i in (1, 2, 3)
        ),
        appliance("avrn-ups-01", "power supply", net + "9", AVERNE, "gannet", "GP1500", "uninterruptible power supply"),
    ]  # fmt: skip
    for name, part, products, listeners in (
        ("avrn-pos-01", 10, ("grebe-database",), ((5432, "grebe"),)),
        ("avrn-gate-01", 14, (), ((80, "gatehouse"),)),
        ("avrn-rec-01", 31, ("heron-monitor",), ((554, "recorder"),)),
    ):
        out.append(
            linux(
                name, "server", f"{net}{part}", AVERNE, "halberd", "R320 server", memory=16, cores=4,
                products=products, listeners=listeners, department="IT",
                os=("Debian GNU/Linux", "11") if "gate" in name else TALLOW,
            )
        )  # fmt: skip
    for i in range(1, 19):
        kiosk = linux(
            f"avrn-kiosk-{i:02d}", "kiosk", f"{net}{40 + i}", AVERNE, "orrin", "Kiosk K2", memory=8, cores=4,
            products=("tixline-kiosk",), disk=128, department="Ticketing", os=TALLOW,
        )  # fmt: skip
        if 9 <= i <= 12:
            kiosk.serial, kiosk.board_serial = "To be filled by O.E.M.", "Default string"
            kiosk.uuid = "03000200-0400-0500-0006-000700080009"
        out.append(kiosk)
    for i in range(1, 9):
        out.append(
            linux(
                f"avrn-till-{i:02d}", "till", f"{net}{70 + i}", AVERNE, "orrin", "Till T1 point of sale", memory=4,
                cores=2, products=("tillmaster",), disk=64, department="Galley and Retail", os=GANNET,
            )
        )  # fmt: skip
    for i in range(1, 9):
        out.append(
            appliance(
                f"avrn-cam-0{i}", "camera", f"{net}{90 + i}", AVERNE, "brightwire", "Lookout 2", "camera",
                snmp="v2c" if i <= 5 else "", web=(80, 554),
            )
        )  # fmt: skip
    for i in range(1, 4):
        out.append(
            appliance(
                f"avrn-prn-0{i}", "printer", f"{net}{110 + i}", AVERNE, "quarto", "Folio 120", "printer",
                web=(80, 631, 9100),
            )
        )  # fmt: skip
    by_name = {d.name: d for d in out}
    by_name["avrn-cam-06"].open_ports = (23, *by_name["avrn-cam-06"].open_ports)
    certificate(by_name["avrn-prn-02"], 443, 0, 3650, weak=True)
    by_name["avrn-till-06"].ssh = "expired"
    by_name["avrn-kiosk-07"].fault = "nonsense"
    certificate(by_name["avrn-gate-01"], 443, 290, 655)
    return out


def _vessel() -> list[Device]:
    net = "10.60.20."
    out = [
        appliance("tansy-gw-01", "router", net + "1", TANSY, "selkie", "SR20", "router", snmp="v3", ports=4, web=(443,)),
        appliance("tansy-sw-01", "switch", net + "2", TANSY, "selkie", "SX24", "ethernet switch", snmp="v3", ports=24),
        *(
            appliance(f"tansy-ap-0{i}", "access point", f"{net}{4 + i}", TANSY, "selkie", "WA6", "access point")
            for i in (1, 2, 3)
        ),
        appliance("tansy-prn-01", "printer", net + "11", TANSY, "quarto", "Folio 120", "printer", web=(80, 9100)),
        appliance("tansy-ups-01", "power supply", net + "9", TANSY, "gannet", "GP1500", "uninterruptible power supply"),
        linux(
            "tansy-srv-01", "server", net + "10", TANSY, "halberd", "R320 server", memory=16, cores=4,
            products=("crewroster", "storekeeper"), listeners=((80, "crewroster"),), department="Fleet",
        ),
    ]  # fmt: skip
    for i in range(1, 4):
        out.append(
            linux(
                f"tansy-ws-0{i}", "workstation", f"{net}{20 + i}", TANSY, "halberd", "D40 workstation", memory=8,
                cores=4, products=_DESK, person=PEOPLE[(i * 11) % len(PEOPLE)], department="Crewing",
            )
        )  # fmt: skip
    for i in range(1, 5):
        out.append(
            linux(
                f"tansy-till-0{i}", "till", f"{net}{30 + i}", TANSY, "orrin", "Till T1 point of sale", memory=4, cores=2,
                products=("tillmaster",), disk=64, department="Galley and Retail",
            )
        )  # fmt: skip
    for i in range(1, 5):
        out.append(
            appliance(f"tansy-cam-0{i}", "camera", f"{net}{40 + i}", TANSY, "brightwire", "Lookout 2", "camera", web=(80, 554))
        )  # fmt: skip
    next(d for d in out if d.name == "tansy-till-02").fault = "cut"
    return out


def in_port(day: int, vessel: str = TANSY) -> bool:
    """Whether a vessel lies in port on a day, within reach: two days of three, always on multiples of 100."""
    seed = "port" if vessel == TANSY else f"port {vessel}"
    return day % 100 == 0 or digest(seed, day // 3) % 3 > 0
