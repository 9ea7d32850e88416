"""What Tarn and its outposts say to each other: orders one way, what was found the other.

JSON over HTTPS, the outpost asking. `SPEECH` is the version of these documents; an outpost that speaks
another is refused in words, never half understood.
"""

from dataclasses import asdict, dataclass, field
from ipaddress import ip_address
from typing import Annotated, Any, TypeVar

from pydantic import StringConstraints, TypeAdapter, ValidationError

from tarn.collect.credentials import (
    CloudCredential,
    Credential,
    HttpCredential,
    LdapCredential,
    SnmpCredential,
    SshCredential,
    WinrmCredential,
)
from tarn.collect.found import Found
from tarn.collect.trial import TrialStep
from tarn.core.sightings import SightingError

SPEECH = 3
_T = TypeVar("_T")

_KINDS: dict[str, type[Credential]] = {
    "snmp": SnmpCredential,
    "ssh": SshCredential,
    "winrm": WinrmCredential,
    "ldap": LdapCredential,
    "http": HttpCredential,
    "cloud": CloudCredential,
}
_NAMES = {kind: name for name, kind in _KINDS.items()}


def pack(credential: Credential) -> dict[str, Any]:
    """Return a credential as it goes to an outpost, its secrets with it."""
    return {"kind": _NAMES[type(credential)], **asdict(credential)}


def unpack(packed: dict[str, Any]) -> Credential:
    """Return a credential as it came. Raises KeyError, TypeError for what is none."""
    given = dict(packed)
    given["reach"] = tuple(given["reach"])  # without it nothing is known of where it may be used
    return _KINDS[given.pop("kind")](**given)


@dataclass(slots=True)
class Stretch:
    """A network as an outpost needs to know it; `pause` in seconds."""

    range: str
    place: str
    at_once: int
    pause: float


@dataclass(slots=True)
class SweepOrder:
    """Addresses an outpost is to look at, under a lease: they are its own until the lease ends."""

    run: int
    sweep: str
    lease: Annotated[str, StringConstraints(pattern="^[0-9a-f]{32}$")]
    addresses: list[str]
    credentials: list[dict[str, Any]] = field(repr=False)
    protocols: list[str]
    patience: float
    ports: list[int]
    at_once: int
    networks: list[Stretch]
    organisation: str = ""
    worked: dict[str, list[str]] = field(default_factory=dict)
    refused: dict[str, int] = field(default_factory=dict)
    limited: dict[str, list[str]] = field(default_factory=dict)
    host_keys: dict[str, list[str]] = field(default_factory=dict)
    keys_met: list[str] = field(default_factory=list)
    macs: dict[str, tuple[str, str]] = field(default_factory=dict)
    behind: dict[str, tuple[str, str]] = field(default_factory=dict)
    """By hardware address the switch and port, as far as Tarn knows them; `macs` by address likewise."""


@dataclass(slots=True)
class TrialOrder:
    """A credential an outpost is to try at an address; `known` are the keys seen there before, `first_too` is whether a
    key met for the first time will do."""

    trial: int
    address: str
    credential: dict[str, Any] = field(repr=False)
    known: list[str]
    first_too: bool


@dataclass(slots=True)
class Greeting:
    """What an outpost says of itself each time it asks for work; `at` is its clock, seconds since 1970."""

    speech: int
    release: str
    at: float
    room: int
    """Orders it would take on now."""
    kept: int = 0
    """Hand-ins it keeps because they could not be sent yet."""
    leases: list[str] = field(default_factory=list)
    """What it is at; leases of its own that are missing here are lost and go to others."""


@dataclass(slots=True)
class WorkOffer:
    """What Tarn answers: when to ask again (seconds), and work."""

    again: float
    orders: list[SweepOrder] = field(default_factory=list)
    trials: list[TrialOrder] = field(default_factory=list)


@dataclass(slots=True)
class HandIn:
    """What an outpost found under a lease; the same `id` twice counts once."""

    id: str
    run: int
    lease: str
    found: list[Found] = field(default_factory=list)
    stages: dict[str, int] = field(default_factory=dict)
    refused: dict[str, int] = field(default_factory=dict)
    done: bool = False


@dataclass(slots=True)
class Receipt:
    """What became of a hand-in: addresses refused with the reason, and whether to stop looking at more."""

    halt: bool = False
    refused: dict[str, str] = field(default_factory=dict)


@dataclass(slots=True)
class TrialNews:
    """The steps of a trial so far."""

    steps: list[TrialStep]
    done: bool = False


_ADAPTERS: dict[type, TypeAdapter[Any]] = {
    kind: TypeAdapter(kind) for kind in (Greeting, WorkOffer, HandIn, Receipt, TrialNews)
}


def write(document: Any) -> bytes:
    """Return a document as it goes over the wire."""
    return _ADAPTERS[type(document)].dump_json(document, by_alias=True, exclude_none=True)


def read(kind: type[_T], body: bytes) -> _T:
    """Return a document as it came. Raises SightingError naming each fault and its place."""
    try:
        document: _T = _ADAPTERS[kind].validate_json(body)
    except ValidationError as error:
        places = [(".".join(map(str, e["loc"])) or "document", e["msg"]) for e in error.errors()]
        raise SightingError(places) from None
    if isinstance(document, HandIn):
        for found in document.found:
            try:
                ip_address(found.address)
            except ValueError:
                raise SightingError([("found.address", f"“{found.address}” is no address")]) from None
    return document
