"""The sections a sighting may have: what each holds, what tells its items apart, what is a fact.

One table for everything that needs to know: the sighting document, the span tables,
the filter registry and the dossier all read it.
"""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, field_validator

from tarn.core.ranges import address_key

Text = Annotated[str, StringConstraints(max_length=500, pattern=r"^[^\x00-\x08\x0a-\x1f\x7f]*$")]
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
    """An installed package as its manager names it."""

    name: Name
    version: Text = ""
    arch: Text = ""
    publisher: Text = ""


class Account(Part):
    """A local account; `administrator`: may act as root or belongs to an administrators' group."""

    name: Name
    uid: int | None = None
    full_name: Text = ""
    administrator: bool = False
    enabled: bool = True


class Port(Part):
    """A port that listens; `process` where the machine says which process holds it."""

    protocol: Annotated[str, StringConstraints(pattern=r"^(tcp|udp)$")]
    port: Annotated[int, Field(ge=0, le=65535)]
    process: Text = ""


class Certificate(Part):
    """The certificate a TLS port presents (RFC 5280); `ends`: notAfter, seconds since 1970."""

    port: Annotated[int, Field(ge=1, le=65535)]
    subject: Text = ""
    issuer: Text = ""
    serial: Text = ""
    begins: int | None = None
    ends: int | None = None
    fingerprint: Text = ""


class SignIn(Part):
    """Who signed in last on a terminal, and when (seconds since 1970)."""

    account: Name
    at: int
    origin: Text = ""


class Identity(Part):
    """What tells the device from others. `tarn`: the number Tarn issued; `keys`: fingerprints it presents."""

    tarn: Text | None = None
    name: Text | None = None
    domain: Text | None = None
    serial: Text | None = None
    manufacturer: Text | None = None
    model: Text | None = None
    uuid: Text | None = None
    instance: Text | None = None
    macs: tuple[Mac, ...] = ()
    keys: tuple[Text, ...] = ()


class System(Part):
    """The operating system and what the device says of itself."""

    platform: Text | None = None
    os_name: Text | None = None
    os_version: Text | None = None
    os_kernel: Text | None = None
    arch: Text | None = None
    description: Text | None = None
    object_id: Text | None = None
    location: Text | None = None
    contact: Text | None = None
    last_user: Text | None = None


class Hardware(Part):
    """Processor and memory; `memory` in bytes, `cores` in all."""

    processor: Text | None = None
    cores: Count | None = None
    memory: Count | None = None


class Placement(Part):
    """Where it was met: its address and the place of that network."""

    address: Text | None = None
    mac: Mac | None = None
    place: Text | None = None


class Decision(Part):
    """What a person or a file says of it. A field given as null takes the earlier word back."""

    standing: Annotated[str, StringConstraints(pattern=r"^(intake|register|set aside)$")] | None = None
    aside_reason: Text | None = None
    kind: Text | None = None
    state: Text | None = None
    person: Text | None = None
    department: Text | None = None
    place: Text | None = None
    manufacturer: Text | None = None
    model: Text | None = None
    serial: Text | None = None
    memory: Count | None = None
    note: Text | None = None


class SameAs(Part):
    """A person's ruling on an undecided sighting: it is of this asset, or (null) of a new one."""

    sighting: Text
    asset: Text | None = None


FACTS: dict[str, type[Part]] = {
    "identity": Identity,
    "system": System,
    "hardware": Hardware,
    "placement": Placement,
    "decision": Decision,
}
"""Sections of single facts; each attribute is a field of the asset, `tarn`, `macs`, `keys` excepted."""

NOT_FIELDS = frozenset({"tarn", "macs", "keys", "instance"})

ITEMS: dict[str, type[Part]] = {
    "addresses": Address,
    "interfaces": Interface,
    "disks": Disk,
    "filesystems": Filesystem,
    "packages": Package,
    "accounts": Account,
    "ports": Port,
    "certificates": Certificate,
    "signins": SignIn,
}
"""Sections that are lists."""

KEYS: dict[str, tuple[str, ...]] = {
    "addresses": ("address",),
    "interfaces": ("name",),
    "disks": ("name",),
    "filesystems": ("mount",),
    "packages": ("name", "version"),
    "accounts": ("name",),
    "ports": ("protocol", "port"),
    "certificates": ("port",),
    "signins": ("account",),
}
"""What tells two items of one list apart."""

RULING = "same_as"

COLLECTOR_RANKS: dict[str, int] = {"hand": 0, "reporter": 1, "ssh": 2, "snmp": 4, "reach": 6}
"""Which collector's reading of a section is fuller; the lower wins. Others rank 3."""

STALE_AFTER = 30 * 86_400
"""Seconds after which a lesser collector's reading replaces a fuller one that has not come again."""


def columns(section: str) -> tuple[str, ...]:
    """Return the attributes of a list's items that are no part of their key."""
    return tuple(f for f in ITEMS[section].model_fields if f not in KEYS[section])


def rows(section: str, items: list[Any]) -> dict[tuple[Any, ...], tuple[Any, ...]]:
    """Return a list's items as `{key: values}`; of two items with one key the last counts."""
    keys, values = KEYS[section], columns(section)
    return {tuple(getattr(i, k) for k in keys): tuple(getattr(i, v) for v in values) for i in items}
