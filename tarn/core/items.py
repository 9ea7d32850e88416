"""The lists a sighting may have: one class an item. No class says where it is stored; see `item.py`."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints, field_validator

from tarn.core.item import SECTIONS as SECTIONS
from tarn.core.item import Attribute, Count, Item, LongText, Mac, Name, PortNumber, Text
from tarn.core.ranges import address_key

_Percent = Annotated[int, Field(ge=0, le=100)]


class Address(Item, section="addresses", key=("address",), one="address", many="addresses"):
    """An address of an interface, without its prefix length."""

    address: Annotated[Text, Attribute("an address it has", "address", bare=True)]
    interface: Annotated[Text, Attribute("the interface that has it")] = ""
    prefix: Annotated[
        Annotated[int, Field(ge=0, le=128)] | None, Attribute("how many bits of it name the network", "code")
    ] = None

    @field_validator("address")
    @classmethod
    def _is_address(cls, value: str) -> str:
        address_key(value)
        return value


class Interface(
    Item, section="interfaces", key=("name",), one="interface", many="interfaces", exchanged=("speed", "mac")
):
    """A network interface; a link that goes down is no other part."""

    name: Annotated[Name, Attribute("the interface's name", bare=True)]
    mac: Annotated[Mac | None, Attribute("its hardware address", "hardware address")] = None
    speed: Annotated[Count | None, Attribute("its speed in bits a second", "bits")] = None
    up: Annotated[bool | None, Attribute("whether it is up", "yes/no")] = None
    kind: Annotated[Text, Attribute("what sort of interface it is")] = ""


class Disk(Item, section="disks", key=("name",), one="disk", many="disks", exchanged=("size", "model", "serial")):
    """A whole disk."""

    name: Annotated[Name, Attribute("the disk's name", bare=True)]
    model: Annotated[Text, Attribute("the disk's model")] = ""
    serial: Annotated[Text, Attribute("the disk's serial number")] = ""
    size: Annotated[Count | None, Attribute("its size in bytes", "bytes")] = None


class Filesystem(Item, section="filesystems", key=("mount",), one="file system", many="file systems"):
    """A mounted file system."""

    mount: Annotated[Name, Attribute("where it is mounted", bare=True)]
    device: Annotated[Text, Attribute("what is mounted")] = ""
    type: Annotated[Text, Attribute("the file system's type")] = ""
    size: Annotated[Count | None, Attribute("its size in bytes", "bytes")] = None
    full: Annotated[_Percent | None, Attribute("how full it is, to the nearest 5 %", "percent")] = None


class Package(Item, section="packages", key=("name", "version"), one="package", many="packages"):
    """An installed package as its manager names it; `system`: which kind of packages it is of, where that has a rule
    of its own for versions."""

    name: Annotated[Name, Attribute("the name it is listed under", asked=False)]
    version: Annotated[Text, Attribute("its version", asked=False)] = ""
    arch: Annotated[Text, Attribute("the architecture it is built for", asked=False)] = ""
    publisher: Annotated[Text, Attribute("who publishes it", asked=False)] = ""
    system: Annotated[Literal["", "deb", "rpm"], Attribute("which kind of packages it is of", asked=False)] = ""


class Account(Item, section="accounts", key=("name",), one="account", many="accounts"):
    """A local account. `administrator` and `enabled` are null where the account that read it may not know."""

    name: Annotated[Name, Attribute("the account's name", bare=True)]
    uid: Annotated[int | None, Attribute("its number in the system", "code")] = None
    full_name: Annotated[Text, Attribute("the name of its person")] = ""
    administrator: Annotated[
        bool | None, Attribute("whether it may act as administrator: as root, or by a group", "yes/no")
    ] = False
    enabled: Annotated[
        bool | None, Attribute("whether it can sign in: not locked, not over, with a shell", "yes/no")
    ] = True


class Port(Item, section="ports", key=("protocol", "port"), one="listening port", many="listening ports"):
    """A port that listens; `process` where the machine says which process holds it; `bound`: parted by spaces, empty
    where it listens at all addresses or that is not told; `clear`: what may be overheard there."""

    protocol: Annotated[
        Annotated[str, StringConstraints(pattern=r"^(tcp|udp)$")],
        Attribute("tcp or udp", "choice", choices=("tcp", "udp")),
    ]
    port: Annotated[PortNumber, Attribute("the port that listens", "code")]
    process: Annotated[Text, Attribute("the process that holds it", bare=True)] = ""
    bound: Annotated[Text, Attribute("the addresses it listens at; none where at all of them", "addresses")] = ""
    clear: Annotated[Text, Attribute("what goes over it in clear that should not: telnet, SNMP v2c, a sign-in")] = ""


class Certificate(Item, section="certificates", key=("port",), one="certificate", many="certificates"):
    """The certificate a TLS port presents (RFC 5280). `key` stays when it is renewed with the same (RFC 7469, 2.4);
    `key_kind`, `key_bits`: its algorithm and strength; `hashed`: the hash that was signed, empty where it is the
    algorithm's own; `names`: its subject alternative names; `chain`: the subjects of those presented after it, in order
    (RFC 8446, 4.4.2)."""

    port: Annotated[Annotated[int, Field(ge=1, le=65535)], Attribute("the port that presents it", "code")]
    subject: Annotated[Text, Attribute("whom it names", bare=True)] = ""
    issuer: Annotated[Text, Attribute("who signed it")] = ""
    serial: Annotated[Text, Attribute("its serial number", label="Serial number")] = ""
    begins: Annotated[int | None, Attribute("from when it holds", "moment")] = None
    ends: Annotated[int | None, Attribute("when it runs out", "moment")] = None
    fingerprint: Annotated[Text, Attribute("the SHA-256 of it, in hexadecimal")] = ""
    key: Annotated[Text, Attribute("its public key, as the SHA-256 of it in base64")] = ""
    key_kind: Annotated[Text, Attribute("what sort of key it is: RSA, EC, Ed25519", label="Sort of key")] = ""
    key_bits: Annotated[int | None, Attribute("how long its key is, in bits", "number", label="Key length")] = None
    hashed: Annotated[Text, Attribute("the hash its signature is made over: sha1, sha256", label="Signed over")] = ""
    names: Annotated[LongText, Attribute("the names and addresses it holds for, parted by spaces")] = ""
    chain: Annotated[LongText, Attribute("who signed whom up to the last that was presented, parted by semicolons")] = (
        ""
    )


class SignIn(Item, section="signins", key=("account",), one="sign-in", many="sign-ins"):
    """Who signed in last on a terminal, and when."""

    account: Annotated[Name, Attribute("the account that signed in", bare=True)]
    at: Annotated[int, Attribute("when", "moment")]
    origin: Annotated[Text, Attribute("from where", "addresses")] = ""


class Coverage(Item, section="coverages", key=("name",), one="coverage", many="coverages"):
    """What its maker or another answers for, and until when."""

    name: Annotated[Name, Attribute("what the coverage is called", bare=True)]
    begins: Annotated[int | None, Attribute("the first day of the coverage", "day")] = None
    ends: Annotated[int | None, Attribute("the last day of the coverage", "moment")] = None
    level: Annotated[Text, Attribute("what the coverage promises")] = ""
    claim: Annotated[Text, Attribute("how it is claimed")] = ""


class Ticket(Item, section="tickets", key=("number",), one="ticket", many="tickets", heading="Tickets"):
    """A ticket of the service desk about it; `link`: where it is read."""

    number: Annotated[Name, Attribute("the ticket's number", label="Ticket")]
    title: Annotated[Text, Attribute("what the ticket is about", label="About", bare=True)] = ""
    state: Annotated[Text, Attribute("how the ticket stands")] = ""
    open: Annotated[bool, Attribute("whether the ticket is open", "yes/no", shown=False)] = True
    opened: Annotated[int | None, Attribute("when the ticket was opened", "moment")] = None
    priority: Annotated[Text, Attribute("how urgent the ticket is")] = ""
    link: Annotated[Text, Attribute("where the ticket is read", asked=False, shown=False)] = ""


class Supply(Item, section="supplies", key=("name",), one="supply", many="supplies", heading="Supplies"):
    """A printer's supply (RFC 3805)."""

    name: Annotated[Name, Attribute("the supply's name", bare=True)]
    sort: Annotated[Text, Attribute("what sort of supply it is")] = ""
    level: Annotated[_Percent | None, Attribute("how much is left, to the nearest 5 %", "percent", label="Left")] = None


class Guest(Item, section="guests", key=("uuid",), one="guest", many="guests", heading="Guests", known_by="name"):
    """A guest of a virtual host; `macs` its hardware addresses and `disks` the paths of its disks, parted by spaces."""

    name: Annotated[Text, Attribute("the guest's name", bare=True)] = ""
    state: Annotated[Text, Attribute("whether it runs")] = ""
    cores: Annotated[Count | None, Attribute("its processor cores", "number")] = None
    memory: Annotated[Count | None, Attribute("its memory in bytes", "memory")] = None
    weight: Annotated[
        Count | None, Attribute("its weight where guests want more of the processor than there is", "number")
    ] = None
    uuid: Annotated[Name, Attribute("the UUID it finds as its hardware's", label="UUID")]
    macs: Annotated[Text, Attribute("its hardware addresses", label="Hardware addresses", shown=False)] = ""
    disks: Annotated[Text, Attribute("the paths of its disks", shown=False)] = ""


class Module(
    Item, section="modules", key=("name",), one="module", many="modules", heading="Parts", exchanged=("model", "serial")
):
    """A physical part with an identity of its own: a stack member, a line card, a supply unit (RFC 6933)."""

    name: Annotated[Name, Attribute("the module's name", bare=True)]
    sort: Annotated[Text, Attribute("what sort of part it is")] = ""
    model: Annotated[Text, Attribute("the module's model")] = ""
    serial: Annotated[Text, Attribute("the module's serial number")] = ""


class MemoryModule(
    Item,
    section="memory_modules",
    key=("slot",),
    one="memory module",
    many="memory modules",
    heading="Memory modules",
    exchanged=("size", "speed", "serial"),
):
    """A memory module."""

    slot: Annotated[Name, Attribute("the slot it sits in", bare=True)]
    size: Annotated[Count | None, Attribute("its size in bytes", "memory")] = None
    speed: Annotated[Count | None, Attribute("its transfers a second, in millions", "number", unit="MT/s")] = None
    manufacturer: Annotated[Text, Attribute("who made it")] = ""
    serial: Annotated[Text, Attribute("its serial number")] = ""


class UsbDevice(
    Item, section="usb_devices", key=("port",), one="USB device", many="USB devices", heading="USB devices"
):
    """A device that is plugged in by USB; hubs are none."""

    port: Annotated[Name, Attribute("the bus and the ports that lead to it, such as 1-1.4")]
    manufacturer: Annotated[Text, Attribute("who made it, by its own word")] = ""
    model: Annotated[Text, Attribute("the device's model", bare=True)] = ""
    serial: Annotated[Text, Attribute("the device's serial number")] = ""


class Neighbour(
    Item, section="neighbours", key=("port", "chassis"), one="neighbour", many="neighbours", heading="Neighbours"
):
    """What a port hears of the device at its other end (LLDP, IEEE 802.1AB)."""

    port: Annotated[Name, Attribute("the port the neighbour is heard on")]
    name: Annotated[Text, Attribute("the neighbour's name", bare=True)] = ""
    remote_port: Annotated[Text, Attribute("the neighbour's port", label="Its port")] = ""
    chassis: Annotated[Name, Attribute("what the neighbour's chassis is known by")]


class Vlan(Item, section="vlans", key=("vlan",), one="VLAN", many="VLANs", heading="VLANs"):
    """A VLAN and its name."""

    vlan: Annotated[Count, Attribute("the VLAN's number", "code", label="VLAN")]
    name: Annotated[Text, Attribute("the VLAN's name", bare=True)] = ""


class Forwarding(
    Item,
    section="forwarding",
    key=("mac", "vlan"),
    one="learnt hardware address",
    many="learnt hardware addresses",
    heading="Learnt behind its ports",
    news=False,
):
    """A hardware address a bridge has learnt behind one of its ports (IEEE 802.1Q)."""

    port: Annotated[Text, Attribute("the port it was learnt on")] = ""
    mac: Annotated[Mac, Attribute("a hardware address learnt", "hardware address", label="Hardware address", bare=True)]
    vlan: Annotated[Count, Attribute("the VLAN it was learnt in", "code", label="VLAN")] = 0


class ArpEntry(
    Item,
    section="arp",
    key=("address",),
    one="ARP entry",
    many="ARP entries",
    heading="Seen by it (ARP)",
    news=False,
):
    """An address and the hardware address a router has seen it at."""

    address: Annotated[Text, Attribute("an address a router has seen", "address", bare=True)]
    mac: Annotated[Mac, Attribute("the hardware address it was seen at", "hardware address", label="Hardware address")]
    interface: Annotated[Text, Attribute("the interface it was seen on")] = ""


class Route(Item, section="routes", key=("destination", "next_hop"), one="route", many="routes", heading="Routes"):
    """A route: destination network, next hop (empty where the network is attached), interface."""

    destination: Annotated[Name, Attribute("the network a route leads to", "addresses", bare=True)]
    next_hop: Annotated[Text, Attribute("the next hop", "addresses")] = ""
    interface: Annotated[Text, Attribute("the interface it leads out of")] = ""


class Protection(
    Item,
    section="protections",
    key=("name",),
    one="protection product",
    many="protection products",
    heading="Protection",
):
    """A protection product: whether it is on and whether its definitions are up to date."""

    name: Annotated[Name, Attribute("the product that protects", bare=True)]
    on: Annotated[bool | None, Attribute("whether it is on", "yes/no")] = None
    up_to_date: Annotated[bool | None, Attribute("whether its definitions are up to date", "yes/no")] = None


class Update(Item, section="updates", key=("name",), one="update", many="updates", heading="System updates"):
    """An update of the operating system by the name its maker gives it."""

    name: Annotated[Name, Attribute("the update's name", bare=True)]
    description: Annotated[Text, Attribute("what sort of update it is")] = ""
    installed: Annotated[int | None, Attribute("when it was installed", "day")] = None


class Install(
    Item,
    section="installs",
    key=("name", "user"),
    one="dated installation",
    many="dated installations",
    heading="Installed and last used",
    news=False,
):
    """What a system says of an installed product beside its release: for which `user` alone (empty: for all), when it
    was `installed` (to the day) and `used` last (to the week, weeks of seven days since 1970), both in seconds since
    1970, and the command that `removes` it."""

    name: Annotated[Name, Attribute("the product's name", bare=True)]
    user: Annotated[
        Text, Attribute("the one user it is installed for; none where it is for all", label="For", none="everyone")
    ] = ""
    installed: Annotated[int | None, Attribute("when the system says it was installed", "day")] = None
    used: Annotated[int | None, Attribute("the week it was last used in, where the system tells", "day")] = None
    removes: Annotated[Text, Attribute("the command that removes it", asked=False, shown=False)] = ""


class LicenceKey(
    Item,
    section="licence_keys",
    key=("product", "key"),
    one="licence key",
    many="licence keys",
    heading="Licence keys found",
):
    """A licence or product key a system holds for a product, or the part of it that the system shows."""

    product: Annotated[Name, Attribute("the product a licence key is for", bare=True)]
    key: Annotated[Name, Attribute("the key", asked=False, secret=True)]
    state: Annotated[Text, Attribute("what the system says of the key")] = ""


class Feature(
    Item, section="features", key=("name",), one="system feature", many="system features", heading="System features"
):
    """A part of the operating system that is switched on."""

    name: Annotated[Name, Attribute("the system feature's name", bare=True)]
    label: Annotated[Text, Attribute("what the system calls the feature")] = ""


class Membership(
    Item,
    section="memberships",
    key=("group", "member"),
    one="group membership",
    many="group memberships",
    heading="Local groups",
):
    """A member of a local group."""

    group: Annotated[Name, Attribute("the local group")]
    member: Annotated[Name, Attribute("who belongs to it", bare=True)]


class Printer(
    Item, section="printers", key=("name",), one="printer set up", many="printers set up", heading="Printers set up"
):
    """A printer a computer has set up."""

    name: Annotated[Name, Attribute("the printer's name", bare=True)]
    driver: Annotated[Text, Attribute("its driver")] = ""
    port: Annotated[Text, Attribute("the port it is reached by")] = ""


# The lists come in the order of their classes, and these last.
from tarn.core.gear import Outlet as Outlet  # noqa: E402
from tarn.core.gear import SwitchPort as SwitchPort  # noqa: E402
from tarn.core.hosting import DataStore as DataStore  # noqa: E402
from tarn.core.hosting import DnsName as DnsName  # noqa: E402
from tarn.core.hosting import HeldDatabase as HeldDatabase  # noqa: E402
from tarn.core.hosting import Share as Share  # noqa: E402
from tarn.core.hosting import Snapshot as Snapshot  # noqa: E402
from tarn.core.hosting import VirtualNetwork as VirtualNetwork  # noqa: E402
from tarn.core.running import Connection as Connection  # noqa: E402
from tarn.core.running import Container as Container  # noqa: E402
from tarn.core.running import Process as Process  # noqa: E402
from tarn.core.running import Scheduled as Scheduled  # noqa: E402
from tarn.core.running import Service as Service  # noqa: E402
