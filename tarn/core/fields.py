"""The registry of fields: everything a filter may ask, a column may show or a band may divide by.

A new fact is added here, once. `stored` says where it lies in terms the query compiler knows:
`span.x` a column of the asset's span, `term.x` a word of that column's vocabulary, `asset.x` a
column of the asset itself, `seen.x` from the times of sightings, `count.x` a number of items,
`item.x` a column of the group's own table, `product.x` / `release.x` of an installation.
"""

from dataclasses import dataclass

from tarn.core.kinds import KINDS, PLATFORMS, STATES
from tarn.core.naming import ROLES
from tarn.core.rulings import VERDICTS
from tarn.core.text import fold

TYPES = {
    "text": "text; letter case and accents do not count",
    "number": "a number, such as 8",
    "bytes": "a quantity with a unit: B, kB, MB, GB, TB (powers of 1000) or KiB, MiB, GiB, TiB (powers of 1024)",
    "memory": "a quantity with a unit; for memory kB, MB, GB, TB are powers of 1024 (JEDEC 100B.01), as are KiB … TiB",
    "bits": "a speed with a unit: kb, Mb, Gb a second",
    "percent": "a number from 0 to 100",
    "version": "a version, such as 11.0.3",
    "address": "an address, a network such as 10.60.4.0/24, or a range of addresses",
    "addresses": "an address, a network such as 10.60.4.0/24 or a range of addresses: it holds where one that stands "
    "there lies within; or text",
    "hardware address": "a hardware address in any spelling; after ~ a part of one",
    "moment": "a date such as 2026-08-03, a time such as 2026-08-03T10:00, today or now, or one shifted: now - 30d",
    "yes/no": "yes or no",
    "choice": "one of a list of words",
}


@dataclass(frozen=True, slots=True)
class Field:
    """One field: `group` is the list it belongs to in brackets, empty for the asset's own."""

    name: str
    type: str
    meaning: str
    stored: str
    group: str = ""
    choices: tuple[str, ...] = ()
    label: str = ""
    bare: bool = False
    also: tuple[tuple[str, str], ...] = ()
    """Other words for some of the choices, each with the choice it means."""

    def choice(self, said: str) -> str | None:
        """Return the choice a word means, whatever its case; None if there is none of it."""
        word = fold(said)
        for choice in self.choices:
            if fold(choice) == word:
                return choice
        return next((choice for other, choice in self.also if fold(other) == word), None)

    @property
    def heading(self) -> str:
        """The field's name as a heading."""
        return self.label or self.name.replace(".", " ").replace("_", " ").capitalize()


SEVERAL = frozenset(("tags", "filled_by"))
"""Fields that hold several values, parted by semicolons: a comparison asks for any one of them."""

DAYS = frozenset(
    ("claim.bought_at", "claim.warranty_end", "claim.due_back", "item.begins", "item.installed", "item.used")
)
"""Where days are stored: whole days as the first second of each in UTC, so they are the same day in any time zone."""


def is_day(field: Field) -> bool:
    """Whether a field holds days, which have no clock and begin nowhere: every date of the company's own does."""
    return field.type == "moment" and (field.stored in DAYS or field.stored.startswith("own."))


CODES = frozenset(("item.port", "item.vlan"))
"""Numbers that are names: they have no thousands mark and are not added up."""

_F = Field

ASSET_FIELDS: tuple[Field, ...] = (
    _F("name", "text", "the host name, or what it is called", "span.name", bare=True),
    _F("number", "text", "the asset number Tarn issued", "asset.number", bare=True),
    _F("kind", "choice", "what sort of device it is", "term.kind", choices=KINDS),
    _F("state", "choice", "where it stands in its life", "term.state", choices=STATES),
    _F(
        "standing",
        "choice",
        "whether it is in the register, waits at intake, or was set aside",
        "term.standing",
        choices=("register", "intake", "set aside"),
    ),
    _F("serial", "text", "the maker's serial number", "span.serial", label="Serial number", bare=True),
    _F(
        "own_number",
        "text",
        "the company's own number of it, as a list has it",
        "claim.own_number",
        label="Company number",
        bare=True,
    ),
    _F("manufacturer", "text", "who made it", "term.manufacturer", bare=True),
    _F("model", "text", "the maker's name for the model", "term.model", bare=True),
    _F("platform", "choice", "the family of its operating system", "term.platform", choices=PLATFORMS),
    _F("os.name", "text", "the operating system", "term.os_name", label="System", bare=True),
    _F("os.version", "version", "the operating system's version", "span.os_version", label="System version"),
    _F("os.kernel", "text", "the kernel's version", "span.os_kernel", label="Kernel"),
    _F("arch", "text", "the processor architecture", "term.arch", label="Architecture"),
    _F("processor", "text", "the processor's name", "span.processor"),
    _F("processors", "number", "processors, by the sockets they sit in", "claim.processors"),
    _F("cores", "number", "processor cores in all", "span.cores"),
    _F("memory", "memory", "installed memory, in bytes", "span.memory"),
    _F("address", "address", "the address it was last met at", "span.address", bare=True),
    _F(
        "mac",
        "hardware address",
        "the hardware address of that interface",
        "span.mac",
        label="Hardware address",
        bare=True,
    ),
    _F("domain", "text", "the domain it belongs to", "span.domain"),
    _F("uuid", "text", "the hardware UUID", "span.uuid", label="Hardware UUID"),
    _F("description", "text", "what the device says of itself", "span.description"),
    _F("place", "text", "where it stands", "term.place", bare=True),
    _F("person", "text", "who has it", "term.person", bare=True),
    _F(
        "person.left",
        "yes/no",
        "whether who has it has left, say all systems that know them",
        "holder.left",
        label="Holder has left",
    ),
    _F("department", "text", "the department it belongs to", "term.department", bare=True),
    _F("organisation", "text", "the organisation it belongs to", "term.organisation", bare=True),
    _F("last_user", "text", "who signed in last", "span.last_user", label="Last signed in"),
    _F("aside_reason", "text", "why it was set aside", "span.aside_reason", label="Set aside because"),
    _F("note", "text", "what a person noted about it", "span.note"),
    _F("tags", "text", "the tags people gave it; it answers to each of them", "own.tags"),
    _F("filled_by", "text", "the fill rules whose word stands on it; it answers to each of them", "filled.by"),
    _F("encrypted", "yes/no", "whether its disks are encrypted, say systems of record", "claim.encrypted"),
    _F("passcode", "yes/no", "whether a passcode is set, say systems of record", "claim.passcode"),
    _F("disabled", "yes/no", "whether the directory has its account disabled", "claim.disabled"),
    _F("checked_in", "moment", "when it last reported to device management", "claim.checked_in", label="Last check-in"),
    _F("bought", "moment", "when it was bought", "claim.bought_at"),
    _F("warranty.end", "moment", "the last day its warranty covers", "claim.warranty_end", label="Warranty until"),
    _F("tickets.open", "number", "open tickets about it, says the service desk", "claim.tickets_open"),
    _F("supplier", "text", "who sold it", "claim.supplier"),
    _F("order", "text", "the order it came with", "claim.order"),
    _F("cost_centre", "text", "the cost centre it is charged to", "claim.cost_centre", label="Cost centre"),
    _F("due_back", "moment", "the day it is to come back, where it is on loan", "claim.due_back", label="Due back"),
    _F("first_seen", "moment", "the first sighting", "seen.first"),
    _F("last_seen", "moment", "the latest sighting", "seen.last"),
    _F("sources", "number", "how many sources vouch for it", "seen.sources"),
    _F("software.count", "number", "how many packages are installed", "count.software", label="Packages"),
)

_GROUP_FIELDS: tuple[Field, ...] = (
    _F("name", "text", "the name it is listed under, or the product's", "product.name", "software", bare=True),
    _F("product", "text", "the product, its spellings made one", "title.name", "software"),
    _F("publisher", "text", "who publishes it, spellings made one", "title.publisher", "software"),
    _F("role", "choice", "what the entry is", "product.role", "software", ROLES, label="Role"),
    _F("edition", "text", "the edition its name tells", "product.edition", "software"),
    _F("ruling", "choice", "what the company says of it", "ruling.verdict", "software", VERDICTS),
    _F("version", "version", "the installed release", "release.version", "software"),
    _F("since", "moment", "when it was first found installed", "item.valid_from", "software"),
    _F("name", "text", "the product's name", "item.name", "installs", bare=True),
    _F("user", "text", "the one user it is installed for; none where it is for all", "item.user", "installs"),
    _F("installed", "moment", "when the system says it was installed", "item.installed", "installs"),
    _F("used", "moment", "the week it was last used in, where the system tells", "item.used", "installs"),
    _F("product", "text", "the product a licence key is for", "item.product", "licence_keys", bare=True),
    _F("state", "text", "what the system says of the key", "item.state", "licence_keys"),
    _F("name", "text", "the interface's name", "item.name", "interfaces", bare=True),
    _F("mac", "hardware address", "its hardware address", "item.mac", "interfaces"),
    _F("speed", "bits", "its speed in bits a second", "item.speed", "interfaces"),
    _F("up", "yes/no", "whether it is up", "item.up", "interfaces"),
    _F("address", "address", "an address it has", "item.address", "addresses", bare=True),
    _F("interface", "text", "the interface that has it", "item.interface", "addresses"),
    _F("name", "text", "the disk's name", "item.name", "disks", bare=True),
    _F("model", "text", "the disk's model", "item.model", "disks"),
    _F("serial", "text", "the disk's serial number", "item.serial", "disks"),
    _F("size", "bytes", "its size in bytes", "item.size", "disks"),
    _F("mount", "text", "where it is mounted", "item.mount", "filesystems", bare=True),
    _F("type", "text", "the file system's type", "item.type", "filesystems"),
    _F("size", "bytes", "its size in bytes", "item.size", "filesystems"),
    _F("full", "percent", "how full it is, to the nearest 5 %", "item.full", "filesystems"),
    _F("name", "text", "the account's name", "item.name", "accounts", bare=True),
    _F("full_name", "text", "the name of its person", "item.full_name", "accounts"),
    _F("administrator", "yes/no", "whether it may act as administrator", "item.administrator", "accounts"),
    _F("enabled", "yes/no", "whether it can sign in", "item.enabled", "accounts"),
    _F("port", "number", "the port that listens", "item.port", "ports"),
    _F("protocol", "choice", "tcp or udp", "item.protocol", "ports", ("tcp", "udp")),
    _F("process", "text", "the process that holds it", "item.process", "ports", bare=True),
    _F("bound", "addresses", "the addresses it listens at; none where at all of them", "item.bound", "ports"),
    _F("port", "number", "the port that presents it", "item.port", "certificates"),
    _F("subject", "text", "whom it names", "item.subject", "certificates", bare=True),
    _F("issuer", "text", "who signed it", "item.issuer", "certificates"),
    _F("ends", "moment", "when it runs out", "item.ends", "certificates"),
    _F("key", "text", "its public key, as the SHA-256 of it", "item.key", "certificates"),
    _F("account", "text", "the account that signed in", "item.account", "signins", bare=True),
    _F("at", "moment", "when", "item.at", "signins"),
    _F("origin", "addresses", "from where", "item.origin", "signins"),
    _F("slot", "text", "the slot it sits in", "item.slot", "memory_modules", bare=True),
    _F("size", "memory", "its size in bytes", "item.size", "memory_modules"),
    _F("name", "text", "the service's name", "item.name", "services", bare=True),
    _F("start", "text", "how it starts: automatic, manual or disabled", "item.start", "services"),
    _F("running", "yes/no", "whether it runs", "item.running", "services"),
    _F("account", "text", "the account it runs as", "item.account", "services"),
    _F("name", "text", "the scheduled task's name", "item.name", "scheduled", bare=True),
    _F("runs", "text", "what the task runs", "item.runs", "scheduled"),
    _F("account", "text", "the account the task runs as", "item.account", "scheduled"),
    _F("enabled", "yes/no", "whether the task is switched on", "item.enabled", "scheduled"),
    _F("name", "text", "the system feature's name", "item.name", "features", bare=True),
    _F("label", "text", "what the system calls the feature", "item.label", "features"),
    _F("name", "text", "the update's name", "item.name", "updates", bare=True),
    _F("installed", "moment", "when it was installed", "item.installed", "updates"),
    _F("name", "text", "the product that protects", "item.name", "protections", bare=True),
    _F("on", "yes/no", "whether it is on", "item.on", "protections"),
    _F("up_to_date", "yes/no", "whether its definitions are up to date", "item.up_to_date", "protections"),
    _F("name", "text", "the printer's name", "item.name", "printers", bare=True),
    _F("group", "text", "the local group", "item.group", "memberships"),
    _F("member", "text", "who belongs to it", "item.member", "memberships", bare=True),
    _F("process", "text", "the process that holds the connection", "item.process", "connections", bare=True),
    _F("peer", "addresses", "the address at the other end", "item.peer", "connections"),
    _F("port", "number", "the port at the other end", "item.port", "connections"),
    _F("name", "text", "the guest's name", "item.name", "guests", bare=True),
    _F("state", "text", "whether it runs", "item.state", "guests"),
    _F("memory", "memory", "its memory in bytes", "item.memory", "guests"),
    _F("name", "text", "the container's name", "item.name", "containers", bare=True),
    _F("image", "text", "the image it runs", "item.image", "containers"),
    _F("port", "text", "the port the neighbour is heard on", "item.port", "neighbours"),
    _F("name", "text", "the neighbour's name", "item.name", "neighbours", bare=True),
    _F("mac", "hardware address", "a hardware address learnt", "item.mac", "forwarding", bare=True),
    _F("vlan", "number", "the VLAN it was learnt in", "item.vlan", "forwarding"),
    _F("port", "text", "the port it was learnt on", "item.port", "forwarding"),
    _F("address", "address", "an address a router has seen", "item.address", "arp", bare=True),
    _F("mac", "hardware address", "the hardware address it was seen at", "item.mac", "arp"),
    _F("destination", "addresses", "the network a route leads to", "item.destination", "routes", bare=True),
    _F("next_hop", "addresses", "the next hop", "item.next_hop", "routes"),
    _F("vlan", "number", "the VLAN's number", "item.vlan", "vlans"),
    _F("name", "text", "the VLAN's name", "item.name", "vlans", bare=True),
    _F("name", "text", "the module's name", "item.name", "modules", bare=True),
    _F("serial", "text", "the module's serial number", "item.serial", "modules"),
    _F("name", "text", "the supply's name", "item.name", "supplies", bare=True),
    _F("level", "percent", "how much is left, to the nearest 5 %", "item.level", "supplies"),
    _F("name", "text", "what the coverage is called", "item.name", "coverages", bare=True),
    _F("begins", "moment", "the first day of the coverage", "item.begins", "coverages"),
    _F("ends", "moment", "the last day of the coverage", "item.ends", "coverages"),
    _F("level", "text", "what the coverage promises", "item.level", "coverages"),
    _F("number", "text", "the ticket's number", "item.number", "tickets"),
    _F("title", "text", "what the ticket is about", "item.title", "tickets", bare=True),
    _F("state", "text", "how the ticket stands", "item.state", "tickets"),
    _F("open", "yes/no", "whether the ticket is open", "item.open", "tickets"),
    _F("opened", "moment", "when the ticket was opened", "item.opened", "tickets"),
    _F("priority", "text", "how urgent the ticket is", "item.priority", "tickets"),
)

FIELDS: dict[str, Field] = {f.name: f for f in ASSET_FIELDS}

GROUPS: dict[str, dict[str, Field]] = {}
for _f in _GROUP_FIELDS:
    GROUPS.setdefault(_f.group, {})[_f.name] = _f

SINGULAR = {
    "software": "piece of software",
    "installs": "dated installation",
    "licence_keys": "licence key",
    "interfaces": "interface",
    "addresses": "address",
    "disks": "disk",
    "filesystems": "file system",
    "accounts": "account",
    "ports": "listening port",
    "certificates": "certificate",
    "signins": "sign-in",
    "memory_modules": "memory module",
    "services": "service",
    "scheduled": "scheduled task",
    "features": "system feature",
    "updates": "update",
    "protections": "protection product",
    "printers": "printer set up",
    "memberships": "group membership",
    "connections": "connection",
    "guests": "guest",
    "containers": "container",
    "neighbours": "neighbour",
    "forwarding": "learnt hardware address",
    "arp": "ARP entry",
    "routes": "route",
    "vlans": "VLAN",
    "modules": "module",
    "supplies": "supply",
    "coverages": "coverage",
    "tickets": "ticket",
}

PLURAL = {
    "software": "pieces of software",
    "installs": "dated installations",
    "licence_keys": "licence keys",
    "interfaces": "interfaces",
    "addresses": "addresses",
    "disks": "disks",
    "filesystems": "file systems",
    "accounts": "accounts",
    "ports": "listening ports",
    "certificates": "certificates",
    "signins": "sign-ins",
    "memory_modules": "memory modules",
    "services": "services",
    "scheduled": "scheduled tasks",
    "features": "system features",
    "updates": "updates",
    "protections": "protection products",
    "printers": "printers set up",
    "memberships": "group memberships",
    "connections": "connections",
    "guests": "guests",
    "containers": "containers",
    "neighbours": "neighbours",
    "forwarding": "learnt hardware addresses",
    "arp": "ARP entries",
    "routes": "routes",
    "vlans": "VLANs",
    "modules": "modules",
    "supplies": "supplies",
    "coverages": "coverages",
    "tickets": "tickets",
}

RELATIONS: dict[str, str] = {"guest of": "the virtual host it runs on", "depends on": "what it needs to work"}
"""Relations the language has words for. Virtual hosts tell of their guests; nothing tells of needs yet."""
