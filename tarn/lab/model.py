"""What a simulated device is made of. The SNMP tables and command output are rendered from this."""

from dataclasses import dataclass, field
from datetime import datetime

GIB = 1 << 30


Answer = tuple[str, str, int]
"""What a command prints, what it prints as an error, and its exit code."""


@dataclass
class Interface:
    """A network interface; `speed` in bits a second, addresses as (address, prefix length)."""

    name: str
    mac: str
    speed: int = 1_000_000_000
    up: bool = True
    addresses: list[tuple[str, int]] = field(default_factory=list)


@dataclass
class Disk:
    """A whole disk; `size` in bytes."""

    name: str
    model: str
    serial: str
    size: int


@dataclass
class Filesystem:
    """A mounted file system; sizes in bytes."""

    mount: str
    device: str
    type: str
    size: int
    used: int


@dataclass
class Package:
    """An installed package."""

    name: str
    version: str
    arch: str = "amd64"
    publisher: str = ""


@dataclass
class Account:
    """A local account."""

    name: str
    uid: int
    full_name: str = ""
    groups: tuple[str, ...] = ()
    shell: str = "/bin/bash"


@dataclass
class Listener:
    """A port that listens, and the process behind it."""

    port: int
    process: str
    protocol: str = "tcp"


@dataclass(frozen=True)
class Program:
    """A program of the company's own: its process, command, account, the ports it listens on, and whom it calls."""

    name: str
    command: str
    account: str
    ports: tuple[int, ...] = ()
    calls: tuple[str, int] | None = None


@dataclass
class SignIn:
    """A sign-in on a terminal, `hours` before the time of asking."""

    account: str
    origin: str
    hours: int


@dataclass
class Certificate:
    """A TLS certificate: whom it names, and the lab's days on which it begins and ends; `weak`: of a short key, and
    signed over a broken hash."""

    subject: str
    begins: int
    ends: int
    weak: bool = False
    issued: bool = False
    """Signed by the company's own authority, not by itself."""


@dataclass
class Links:
    """What a piece of network gear knows of others: (address, mac), (network, next hop), (mac, vlan, port number),
    (vlan, name), and (port number, chassis, name, remote port) of its neighbours."""

    arp: list[tuple[str, str]] = field(default_factory=list)
    routes: list[tuple[str, str]] = field(default_factory=list)
    forwarding: list[tuple[str, int, int]] = field(default_factory=list)
    vlans: list[tuple[int, str]] = field(default_factory=list)
    neighbours: list[tuple[int, str, str, str]] = field(default_factory=list)
    blocked: frozenset[int] = frozenset()
    """Ports the spanning tree holds back."""
    failing: frozenset[int] = frozenset()
    """Ports that lose frames: two in a thousand, since a day."""
    day: int = 0
    """The day its tables are of: what its counters go by."""


@dataclass
class Guest:
    """A guest as its virtual host knows it; `memory` in bytes."""

    uuid: str
    name: str
    cores: int
    memory: int
    macs: tuple[str, ...] = ()
    state: str = "running"


@dataclass
class Device:
    """One device on one day.

    `snmp`: "", "v2c" or "v3"; `ssh`: whether it takes the reader's sign-in ("yes"), refuses it ("refuse"),
    or has none (""), or says that the password has expired ("expired"); `winrm` likewise ("yes", "refuse", "");
    `fault` is how it misbehaves: "", "stall", "nonsense", "cut", "loop", "limited" (the account may not read all).
    """

    name: str
    kind: str
    address: str
    maker: str
    model: str
    serial: str
    uuid: str = ""
    domain: str = "skerrivane.example"
    place: str = ""
    family: str = "appliance"
    os_name: str = ""
    os_version: str = ""
    kernel: str = ""
    description: str = ""
    object_id: str = ""
    board_serial: str = ""
    processor: str = ""
    cores: int = 0
    memory: int = 0
    interfaces: list[Interface] = field(default_factory=list)
    disks: list[Disk] = field(default_factory=list)
    filesystems: list[Filesystem] = field(default_factory=list)
    packages: dict[str, Package] = field(default_factory=dict)
    accounts: list[Account] = field(default_factory=list)
    listeners: list[Listener] = field(default_factory=list)
    signins: list[SignIn] = field(default_factory=list)
    certificates: dict[int, Certificate] = field(default_factory=dict)
    open_ports: tuple[int, ...] = ()
    programs: tuple[Program, ...] = ()
    quiet: tuple[tuple[str, int], ...] = ()
    """Whom it calls no more, and over which port, though nobody changed a thing."""
    callers: list[tuple[str, int]] = field(default_factory=list)
    """Who is connected to it, and to which of its ports."""
    asks: str = ""
    """How its pages in clear have people sign in: basic, form, or not at all."""
    snmp: str = ""
    ssh: str = ""
    winrm: str = ""
    guests: list[Guest] = field(default_factory=list)
    links: Links | None = None
    stack: tuple[tuple[str, str], ...] = ()
    supplies: tuple[tuple[str, int, int], ...] = ()
    """Supplies of a printer: name, prtMarkerSuppliesType, percent left."""
    pages: int = 0
    battery: int = 100
    outlets: tuple[tuple[str, int], ...] = ()
    """What is written on each outlet of a power device, in order, and the watts drawn from it."""
    fault: str = ""
    shared: tuple[str, ...] = ()
    """Virtual addresses it holds just now for itself and its partner (VRRP, RFC 9568)."""
    host_key: str = ""
    up_days: int = 40
    person: str = ""
    department: str = ""
    identity: str = ""
    """Which real device this is, whatever it calls itself: what the truth file goes by."""
    restarted: datetime | None = None
    dropped: tuple[str, ...] = ()
    """Accounts that were removed by hand."""
    changes: list[tuple[str, str, float]] = field(default_factory=list)
    """What was done to it: a verb, a thing, and when, in seconds since 1970."""

    def presented(self) -> dict[int, Certificate]:
        """Return the certificates its ports present; remote management has one of its own."""
        managed = {}
        if self.winrm and self.fault != "nonsense":
            managed[5986] = Certificate(f"{self.name}.{self.domain}", 100, 830)
        return managed | self.certificates

    @property
    def sockets(self) -> int:
        """Processors it has: two where there are eight cores or more in a server."""
        return 2 if self.cores >= 8 and self.kind in ("server", "hypervisor") else 1
