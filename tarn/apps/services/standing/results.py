"""What pictures of ports, talk, networks, and of two days are made of."""

from typing import Literal

from typing_extensions import TypedDict

from tarn.apps.services.results import EdgeEnd, FallenCount

PortState = Literal["switch", "one", "several", "nothing"]


class SwitchPort(TypedDict):
    """A port: what is behind it, since when, and who was there before; `to_port`: of a switch at its other end the port
    there; `new`: it came within a week; `guess`: what of it is only guessed; `role` and `spanning`: its part in the
    spanning tree; `feeds`: whether it feeds what is plugged in; `errors` and `discards` among a million frames."""

    name: str
    state: PortState
    up: bool | None
    speed: int | None
    vlans: list[str]
    addresses: int
    behind: list[EdgeEnd]
    more: int
    to_port: str
    seen_by: str
    since: str | None
    new: bool
    before: list[str]
    guess: str
    role: str
    spanning: str
    duplex: str
    aggregate: str
    feeds: str
    errors: int | None
    discards: int | None


class SwitchStrip(EdgeEnd):
    """A switch as a strip of its ports; `steps`: how far it is from the way out, none where that is not known."""

    steps: int | None
    used: int
    ports: list[SwitchPort]


class PortsOut(TypedDict):
    """Switches with their ports; `unplaced`: devices read lately that stand at no port; links known from one end."""

    switches: list[SwitchStrip]
    unplaced: FallenCount
    one_ended: int


class TalkCell(TypedDict):
    """Talk of one group of devices with another: callers, called, and the filter for the callers."""

    caller: str
    called: str
    edges: int
    devices: int
    quiet: int
    ports: list[str]
    filter: str | None


class TalkOut(TypedDict):
    """Who speaks with whom, by `by`; the groups are in order of how much they speak."""

    by: str
    callers: list[str]
    called: list[str]
    cells: list[TalkCell]


class SubnetRoute(TypedDict):
    """A gateway that leads to a network, and what it hands on to; `next_hop` empty where it is attached."""

    asset: int
    name: str
    next_hop: str


class SubnetOut(TypedDict):
    """A network: how many of its addresses are used, by how many devices, where, who routes for it, and how many of its
    devices are known by hand alone."""

    network: str
    size: int
    used: int
    devices: FallenCount
    places: list[str]
    gear: list[SubnetRoute]
    by_hand: int


class EdgeChange(TypedDict):
    """An edge that came, went or moved between two days; of a moved one where it led before."""

    what: Literal["came", "went", "moved"]
    stands: EdgeEnd
    on: EdgeEnd
    kind: str
    over: str
    before: EdgeEnd | None
    before_over: str


class BetweenOut(TypedDict):
    """What came, went and moved between two days."""

    since: str
    until: str
    came: int
    went: int
    moved: int
    rows: list[EdgeChange]


class RackFeed(TypedDict):
    """What the power of a device comes from, and at which outlet; empty where that is not told."""

    asset: int
    name: str
    outlet: str


class RackSlot(EdgeEnd):
    """A device in a rack: its lowest height unit (none where nobody says), how many it takes, what feeds it;
    `one_feed`: all of its plugs come from one source; `clash`: another device is said to be at the same place."""

    unit: int | None
    height: int
    feeds: list[RackFeed]
    one_feed: bool
    clash: bool
    mine: bool


class RackOut(TypedDict):
    """A rack: how many height units it has at least and how many are taken, its devices and what feeds them."""

    rack: str
    place: str
    units: int
    taken: int
    devices: FallenCount
    sources: list[str]
    slots: list[RackSlot]


class HostGuest(TypedDict):
    """A guest as its host has it; `asset` none where the guest itself is not known. `oldest_at`: when the oldest of its
    snapshots was taken; `kept`: the host's cluster would start it on another node."""

    asset: int | None
    name: str
    state: str
    cores: int | None
    memory: int | None
    networks: list[str]
    snapshots: int
    oldest_at: str | None
    kept: bool


class HostStore(TypedDict):
    """A data store of a virtual host."""

    name: str
    size: int | None
    full: int | None


class HostOut(EdgeEnd):
    """A virtual host: what it has, what it has given its guests that run, and the guests it would be without; the
    cluster it is of, with the other nodes that are online `beside` it."""

    cores: int | None
    memory: int | None
    given_cores: int
    given_memory: int
    guests: list[HostGuest]
    stores: list[HostStore]
    cluster: str
    beside: list[str]


class VlanOut(TypedDict):
    """A VLAN: its names, the switches that know it, the ports it goes over, the devices met in it, and the switches it
    goes by another name at."""

    vlan: int
    names: list[str]
    switches: FallenCount
    untagged: int
    tagged: int
    devices: FallenCount
    apart: list[str]


class CertificatePlace(EdgeEnd):
    """A device that presents a certificate, and the port it does so at."""

    port: int


class CertificateOut(TypedDict):
    """A certificate: `days` until it is over, below none once it is; where it is presented, who calls there, and the
    services whose members present it; `key`: its key and the hash it was signed over."""

    fingerprint: str
    subject: str
    names: list[str]
    issuer: str
    chain: list[str]
    self_signed: bool
    begins: str | None
    ends: str | None
    days: int | None
    key: str
    places: list[CertificatePlace]
    callers: FallenCount
    services: list[str]
