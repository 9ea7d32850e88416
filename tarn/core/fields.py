"""The registry of fields: everything a filter may ask, a column may show or a band may divide by.

A new fact of an asset is added here, once; those of the lists in brackets are declared by their classes (`items.py`).
`stored` says where it lies in terms the query compiler knows:
`span.x` a column of the asset's span, `term.x` a word of that column's vocabulary, `asset.x` a
column of the asset itself, `seen.x` from the times of sightings, `count.x` a number of items,
`told.x` reckoned by another app,
`item.x` a column of the group's own table, `product.x` / `release.x` of an installation.
"""

from dataclasses import dataclass

from tarn.core.exposure.grade import GRADES
from tarn.core.exposure.told import STATUSES
from tarn.core.item import Section
from tarn.core.items import SECTIONS
from tarn.core.kinds import IMPORTANCE, KINDS, PLATFORMS, STATES
from tarn.core.naming import ROLES
from tarn.core.registry import Registry
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
    day: bool = False
    """Of a moment: it is a day, kept as its first second in UTC, so that it is the same day in any time zone."""
    code: bool = False
    """Of a number: it is a name, so it has no thousands mark and is not added up."""

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


def is_day(field: Field) -> bool:
    """Whether a field holds days, which have no clock and begin nowhere: every date of the company's own does."""
    return field.day or (field.type == "moment" and field.stored.startswith("own."))


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
    _F("importance", "choice", "how much hangs on it", "claim.importance", choices=IMPORTANCE),
    _F("rack", "text", "the rack it stands in", "claim.rack"),
    _F(
        "rack.unit",
        "number",
        "the lowest height unit of its rack that it takes",
        "claim.rack_unit",
        label="Height unit",
    ),
    _F("rack.height", "number", "how many height units it takes", "claim.rack_height", label="Units high"),
    _F("fed_by", "text", "what its power comes from, as a person or a list says", "claim.fed_by", label="Fed by"),
    _F("battery", "number", "how far its battery is charged, in percent", "claim.battery"),
    _F("feeding_from", "text", "what it feeds from: mains, battery", "claim.feeding_from", label="Feeds from"),
    _F("load", "number", "how much of the power it can give is drawn, in percent", "claim.load"),
    _F(
        "exposure",
        "choice",
        "the gravest of what it is open to and is not accepted",
        "told.grade",
        choices=GRADES,
        label="Open, gravest",
    ),
    _F("exposure.count", "number", "how many advisories and rules of our own it is open to", "told.open", label="Open"),
    _F(
        "importance.services",
        "choice",
        "how much hangs on it by the services that stand on it",
        "told.carried",
        choices=IMPORTANCE,
        label="Importance by services",
    ),
    _F("tags", "text", "the tags people gave it; it answers to each of them", "own.tags"),
    _F("filled_by", "text", "the fill rules whose word stands on it; it answers to each of them", "filled.by"),
    _F("encrypted", "yes/no", "whether its disks are encrypted, say systems of record", "claim.encrypted"),
    _F("passcode", "yes/no", "whether a passcode is set, say systems of record", "claim.passcode"),
    _F(
        "given_password",
        "yes/no",
        "whether a password that everybody knows is let in, where it was tried",
        "claim.given_password",
        label="Known password",
    ),
    _F("disabled", "yes/no", "whether the directory has its account disabled", "claim.disabled"),
    _F("checked_in", "moment", "when it last reported to device management", "claim.checked_in", label="Last check-in"),
    _F("bought", "moment", "when it was bought", "claim.bought_at", day=True),
    _F(
        "warranty.end",
        "moment",
        "the last day its warranty covers",
        "claim.warranty_end",
        label="Warranty until",
        day=True,
    ),
    _F("tickets.open", "number", "open tickets about it, says the service desk", "claim.tickets_open"),
    _F("supplier", "text", "who sold it", "claim.supplier"),
    _F("order", "text", "the order it came with", "claim.order"),
    _F("cost_centre", "text", "the cost centre it is charged to", "claim.cost_centre", label="Cost centre"),
    _F(
        "due_back",
        "moment",
        "the day it is to come back, where it is on loan",
        "claim.due_back",
        label="Due back",
        day=True,
    ),
    _F("first_seen", "moment", "the first sighting", "seen.first"),
    _F("last_seen", "moment", "the latest sighting", "seen.last"),
    _F("sources", "number", "how many sources vouch for it", "seen.sources"),
    _F("software.count", "number", "how many packages are installed", "count.software", label="Packages"),
)

_SOFTWARE: tuple[Field, ...] = (
    _F("name", "text", "the name it is listed under, or the product's", "listing.name", "software", bare=True),
    _F("product", "text", "the product, its spellings made one", "product.name", "software"),
    _F("publisher", "text", "who publishes it, spellings made one", "product.publisher", "software"),
    _F("role", "choice", "what the entry is", "listing.role", "software", ROLES, label="Role"),
    _F("edition", "text", "the edition its name tells", "listing.edition", "software"),
    _F("ruling", "choice", "what the company says of it", "ruling.verdict", "software", VERDICTS),
    _F("version", "version", "the installed release", "release.version", "software"),
    _F("since", "moment", "when it was first found installed", "item.valid_from", "software"),
)


KNOWN = ("then", "afterwards")
"""By which knowledge the findings of a day may be asked for."""

_VULNERABILITY: tuple[Field, ...] = tuple(
    Field(name, type_, meaning, f"finding.{name}", "vulnerability", choices, label, bare)
    for name, type_, meaning, choices, label, bare in (
        ("id", "text", "the advisory's name, or another it is known by", (), "Advisory", True),
        ("title", "text", "what the advisory is called", (), "", False),
        ("product", "text", "the product or package that is open to it", (), "", False),
        ("release", "version", "the release that is open to it", (), "", False),
        (
            "under",
            "text",
            "what the release stands under: a distribution, or a sort of system",
            (),
            "",
            False,
        ),
        ("cure", "version", "the release that carries the cure, where one is told", (), "", False),
        ("status", "choice", "how the release stands to it", STATUSES[:2], "", False),
        ("grade", "choice", "what it asks for on the device", GRADES, "", False),
        ("score", "number", "the base score as published (CVSS)", (), "", False),
        ("exploited", "yes/no", "whether it stands on a list of those in use", (), "In use", False),
        ("chance", "number", "the chance of use within 30 days (EPSS), 0 to 1", (), "", False),
        ("open", "moment", "since when the device is open to it", (), "Open since", False),
        ("published", "moment", "when it was published", (), "", False),
        ("accepted", "yes/no", "whether it is accepted for a while", (), "", False),
        ("known", "choice", "by what was known then, as is usual, or by what is known since", KNOWN, "", False),
        ("own", "yes/no", "whether it is a finding of our own, by a rule of the company", (), "", False),
        ("late", "yes/no", "whether the day it was promised to be ended by has passed", (), "", False),
    )
)


def _asked(section: Section) -> dict[str, Field]:
    """Return the fields a filter may ask of the items of a list, as their class declares them."""
    types = {"day": "moment", "code": "number"}
    return {
        name: Field(
            name,
            types.get(a.type, a.type),
            a.meaning,
            f"item.{name}",
            section.name,
            a.choices,
            a.label,
            a.bare,
            day=a.type == "day",
            code=a.type == "code",
        )
        for name, a in section.attributes.items()
        if a.asked
    }


FIELDS: Registry[Field] = Registry({f.name: f for f in ASSET_FIELDS})
"""Fields of an asset; those of the company's own join them (`own.know`)."""

_SUPPORT: tuple[Field, ...] = (
    _F("product", "text", "what is supported: a product, a system, a model", "support.product", "support", bare=True),
    _F("release", "version", "the release that is here", "support.release", "support"),
    _F("ends", "moment", "the last day it is supported", "support.ends", "support", label="Supported until", day=True),
    _F("sort", "choice", "what sort of thing it is", "support.sort", "support", ("software", "system", "model")),
)

_SERVES: tuple[Field, ...] = (
    _F("name", "text", "the service", "service.name", "serves", label="Service", bare=True),
    _F("part", "text", "the part of the service it is of", "service.part", "serves"),
    _F("owner", "text", "who owns the service", "service.owner", "serves"),
    _F("importance", "choice", "how much hangs on the service", "service.importance", "serves", IMPORTANCE),
)

_APPLICATIONS: tuple[Field, ...] = (
    _F("name", "text", "the application, as its recogniser calls it", "instance.name", "applications",
       label="Application", bare=True),
    _F("version", "version", "the release its command tells", "instance.version", "applications"),
    _F("account", "text", "the account it runs as", "instance.account", "applications"),
    Field("port", "number", "a port it listens on", "instance.port", "applications", code=True),
    _F("general", "yes/no", "whether only its sort is known", "instance.general", "applications"),
)  # fmt: skip

_LEFT = _F(
    "left",
    "yes/no",
    "whether it is the account of somebody who has left",
    "account.left",
    "accounts",
    label="Of a leaver",
)

GROUPS: dict[str, dict[str, Field]] = {
    "software": {f.name: f for f in _SOFTWARE},
    **{name: asked for name, section in SECTIONS.items() if (asked := _asked(section))},
    "vulnerability": {f.name: f for f in _VULNERABILITY},
    "support": {f.name: f for f in _SUPPORT},
    "serves": {f.name: f for f in _SERVES},
    "applications": {f.name: f for f in _APPLICATIONS},
}
GROUPS["accounts"]["left"] = _LEFT

RECKONED = frozenset({"vulnerability", "support", "serves", "applications"})
"""Lists nobody reads of a device: what is in them follows from what is read, and is asked of whoever reckons it."""

SINGULAR = {name: section.one for name, section in SECTIONS.items()}
SINGULAR |= {"software": "piece of software", "vulnerability": "vulnerability", "support": "end of support"}
SINGULAR |= {"serves": "service it serves", "applications": "application that runs"}
PLURAL = {name: section.many for name, section in SECTIONS.items()}
PLURAL |= {"software": "pieces of software", "vulnerability": "vulnerabilities", "support": "ends of support"}
PLURAL |= {"serves": "services they serve", "applications": "applications that run"}

RELATIONS: dict[str, str] = {
    "guest of": "run as guests of",
    "plugged into": "are plugged into",
    "powered by": "have their power from",
    "mounts": "mount file systems of",
    "talks to": "talk to",
    "called by": "are called by",
    "depends on": "depend on",
    "needed by": "are needed by",
}
"""Relations the language has words for, with what they say of several. Hosts tell of their guests; the others are asked
of whoever knows what stands on what: one step of it, or any number for *depends on* and *needed by*."""
