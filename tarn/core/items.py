"""What the lists of a sighting are made of: one class an item. No class says where it is stored."""

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, field_validator

from tarn.core.ranges import address_key

Text = Annotated[str, StringConstraints(max_length=500, pattern=r"^[^\x00-\x08\x0a-\x1f\x7f]*$")]
LongText = Annotated[str, StringConstraints(max_length=4_000, pattern=r"^[^\x00-\x08\x0b-\x1f\x7f]*$")]
"""Text of several lines."""
Name = Annotated[str, StringConstraints(min_length=1, max_length=300, pattern=r"^[^\x00-\x1f\x7f]+$")]
Count = Annotated[int, Field(ge=0, le=2**62)]
Mac = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{2}(:[0-9a-f]{2}){5}$")]


class Part(BaseModel):
    """Base of everything inside a sighting: unknown names are refused, not dropped."""

    model_config = ConfigDict(extra="forbid", frozen=True)


class Address(Part):
    """An address of an interface, without its prefix length."""

    address: Text
    interface: Text = ""
    prefix: Annotated[int, Field(ge=0, le=128)] | None = None

    @field_validator("address")
    @classmethod
    def _is_address(cls, value: str) -> str:
        address_key(value)
        return value


class Interface(Part):
    """A network interface; `speed` in bits a second."""

    name: Name
    mac: Mac | None = None
    speed: Count | None = None
    up: bool | None = None
    kind: Text = ""


class Disk(Part):
    """A whole disk; `size` in bytes."""

    name: Name
    model: Text = ""
    serial: Text = ""
    size: Count | None = None


class Filesystem(Part):
    """A mounted file system; `size` in bytes, `full` in percent, to the nearest five."""

    mount: Name
    device: Text = ""
    type: Text = ""
    size: Count | None = None
    full: Annotated[int, Field(ge=0, le=100)] | None = None


class Package(Part):
    """An installed package as its manager names it; `system`: which kind of packages it is of, where that has a rule
    of its own for versions."""

    name: Name
    version: Text = ""
    arch: Text = ""
    publisher: Text = ""
    system: Literal["", "deb", "rpm"] = ""


class Install(Part):
    """What a system says of an installed product beside its release: for which `user` alone (empty: for all), when it
    was `installed` (to the day) and `used` last (to the week, weeks of seven days since 1970), both in seconds since
    1970, and the command that `removes` it."""

    name: Name
    user: Text = ""
    installed: int | None = None
    used: int | None = None
    removes: Text = ""


class LicenceKey(Part):
    """A licence or product key a system holds for a product, or the part of it that the system shows."""

    product: Name
    key: Name
    state: Text = ""


class Feature(Part):
    """A part of the operating system that is switched on."""

    name: Name
    label: Text = ""


class Scheduled(Part):
    """A task that a system runs by itself: what it runs, as whom, and whether it is switched on."""

    name: Name
    runs: Text = ""
    account: Text = ""
    enabled: bool | None = None


class Account(Part):
    """A local account; `administrator`: may act as root or belongs to an administrators' group; `enabled`: not locked,
    not over, with a shell. Either is null where the account that read it may not know."""

    name: Name
    uid: int | None = None
    full_name: Text = ""
    administrator: bool | None = False
    enabled: bool | None = True


class Port(Part):
    """A port that listens; `process` where the machine says which process holds it; `bound`: the addresses it listens
    at, parted by spaces, empty where it listens at all of them or that is not told."""

    protocol: Annotated[str, StringConstraints(pattern=r"^(tcp|udp)$")]
    port: Annotated[int, Field(ge=0, le=65535)]
    process: Text = ""
    bound: Text = ""


class Certificate(Part):
    """The certificate a TLS port presents (RFC 5280); `ends`: notAfter, seconds since 1970; `key`: the SHA-256 of its
    public key in base64, which stays when it is renewed with the same key (RFC 7469, 2.4)."""

    port: Annotated[int, Field(ge=1, le=65535)]
    subject: Text = ""
    issuer: Text = ""
    serial: Text = ""
    begins: int | None = None
    ends: int | None = None
    fingerprint: Text = ""
    key: Text = ""


class SignIn(Part):
    """Who signed in last on a terminal, and when (seconds since 1970)."""

    account: Name
    at: int
    origin: Text = ""


class MemoryModule(Part):
    """A memory module; `size` in bytes, `speed` in MT/s."""

    slot: Name
    size: Count | None = None
    speed: Count | None = None
    manufacturer: Text = ""
    serial: Text = ""


class Service(Part):
    """A service or daemon the system manages: how it starts (automatic, manual, disabled) and whether it runs."""

    name: Name
    label: Text = ""
    start: Text = ""
    running: bool | None = None
    account: Text = ""


class Update(Part):
    """An update of the operating system by the name its maker gives it; `installed`: seconds since 1970."""

    name: Name
    description: Text = ""
    installed: int | None = None


class Protection(Part):
    """A protection product: whether it is on and whether its definitions are up to date."""

    name: Name
    on: bool | None = None
    up_to_date: bool | None = None


class Printer(Part):
    """A printer a computer has set up."""

    name: Name
    driver: Text = ""
    port: Text = ""


class Membership(Part):
    """A member of a local group."""

    group: Name
    member: Name


class Connection(Part):
    """Established connections of a process to one port of one peer, however many there are; without a process where
    the account that read it may not see whose it is."""

    process: Annotated[str, StringConstraints(max_length=300, pattern=r"^[^\x00-\x1f\x7f]*$")]
    peer: Text
    port: Annotated[int, Field(ge=0, le=65535)]


class Guest(Part):
    """A guest of a virtual host; `memory` in bytes; `macs` its hardware addresses and `disks` the paths of its disks,
    parted by spaces."""

    uuid: Name
    name: Text = ""
    state: Text = ""
    cores: Count | None = None
    memory: Count | None = None
    macs: Text = ""
    disks: Text = ""


class Container(Part):
    """A container and the image it runs."""

    name: Name
    image: Text = ""
    running: bool | None = None


class Neighbour(Part):
    """What a port hears of the device at its other end (LLDP, IEEE 802.1AB)."""

    port: Name
    chassis: Name
    name: Text = ""
    remote_port: Text = ""


class Forwarding(Part):
    """A hardware address a bridge has learnt behind one of its ports (IEEE 802.1Q)."""

    mac: Mac
    vlan: Count = 0
    port: Text = ""


class ArpEntry(Part):
    """An address and the hardware address a router has seen it at."""

    address: Text
    mac: Mac
    interface: Text = ""


class Route(Part):
    """A route: destination network, next hop (empty where the network is attached), interface."""

    destination: Name
    next_hop: Text = ""
    interface: Text = ""


class Vlan(Part):
    """A VLAN and its name."""

    vlan: Count
    name: Text = ""


class Module(Part):
    """A physical part with an identity of its own: a stack member, a line card, a supply unit (RFC 6933)."""

    name: Name
    sort: Text = ""
    model: Text = ""
    serial: Text = ""


class Supply(Part):
    """A printer's supply (RFC 3805); `level` in percent, to the nearest five."""

    name: Name
    sort: Text = ""
    level: Annotated[int, Field(ge=0, le=100)] | None = None


class Coverage(Part):
    """What its maker or another answers for, and until when: `begins` and `ends` are days as seconds since 1970,
    `level` what is promised, `claim` how it is claimed."""

    name: Name
    begins: int | None = None
    ends: int | None = None
    level: Text = ""
    claim: Text = ""


class Ticket(Part):
    """A ticket of the service desk about it: `opened` in seconds since 1970, `link` where it is read."""

    number: Name
    title: Text = ""
    state: Text = ""
    open: bool = True
    opened: int | None = None
    priority: Text = ""
    link: Text = ""
