# ruff: noqa: E501 (a table: one report an entry)
"""The reports that ship, in the order of the work. Each is copied to be changed."""

from dataclasses import dataclass
from functools import lru_cache

from tarn.core.reports import Column, Definition, Detail, Total


@dataclass(frozen=True)
class Shipped:
    """A report that ships: `key` names it in addresses."""

    key: str
    name: str
    room: str
    text: str
    definition: Definition


def _of(
    row: str = "asset",
    columns: str = "",
    filter: str = "",
    by: str = "",
    sort: str = "",
    inner: str = "",
    days: int = 7,
    under: str = "",
    figures: str = "",
) -> Definition:
    names = columns.split()
    totals = [Total(column=names[0])] if by else []
    totals += [Total(column=c, function=f) for c, f in (one.split() for one in figures.split("; ") if one)]  # type: ignore[arg-type]
    return Definition(
        row=row,
        columns=[Column(field=n) for n in names],
        filter=filter,
        inner=inner,
        group_by=by.split(),
        totals=totals,
        sort=sort,
        days=days,
        details=[Detail(row=r, columns=c.split()) for r, _, c in (b.partition(": ") for b in under.split("; ") if b)],
    )


_WHO = "name number kind manufacturer model serial place department person"
_ITEM = "asset.name asset.place asset.person"

_ALL: tuple[tuple[str, str, str, str, Definition], ...] = (
    ("new-week", "New devices this week", "Discovery", "First seen in the last seven days, adopted or not.",
     _of(columns=f"{_WHO} standing first_seen", filter='standing in (register, intake) and first_seen >= now - 7d', sort="-first_seen")),
    ("silent", "Silent for four weeks", "Discovery", "In the register, and no source has seen them for four weeks.",
     _of(columns=f"{_WHO} last_seen sources", filter="last_seen < now - 28d and not state = retired", sort="last_seen")),
    ("never-read", "Never read", "Discovery", "Known, but nothing could be read of their system.",
     _of(columns=f"{_WHO} address last_seen", filter="platform = none and kind in (server, workstation, laptop, hypervisor)")),
    ("one-source", "Vouched for by one source only", "Discovery", "Whoever is right about them, nobody can say.",
     _of(columns=f"{_WHO} sources last_seen", filter="sources = 1", by="")),
    ("runs-week", "Runs of sweeps", "Discovery", "What was swept in the last seven days, and how far it got.",
     _of("run", "sweep started ended state addresses read message", days=7)),
    ("at-intake", "Waiting at intake", "Discovery", "Found, and nobody has decided.",
     _of(columns="name address mac kind manufacturer place first_seen last_seen", filter="standing = intake", sort="first_seen")),
    ("set-aside", "Set aside, and why", "Discovery", "What was found and is not tracked.",
     _of(columns="name address kind aside_reason last_seen", filter='standing = "set aside"', by="")),
    ("disabled", "Disabled in the directory, yet alive", "Discovery", "Their account is switched off; a sweep still meets them.",
     _of(columns=f"{_WHO} last_seen", filter="disabled = yes and last_seen > now - 14d")),
    ("by-place", "The estate by place and kind", "Estate", "How many of what stands where.",
     _of(columns="name place kind model serial", by="place kind", sort="name")),
    ("by-system", "Operating systems and their versions", "Estate", "What runs, and how old it is.",
     _of(columns="name os.name os.version place last_seen", filter="os.name != none", by="os.name os.version")),
    ("by-model", "Makers and models", "Estate", "What the estate is made of.",
     _of(columns="name manufacturer model serial place", filter="manufacturer != none", by="manufacturer model")),
    ("by-department", "Devices by department", "Estate", "Who has what.",
     _of(columns="name department person kind model serial", filter="department != none", by="department")),
    ("no-serial", "Without a serial number", "Estate", "They cannot be told apart for certain.",
     _of(columns="name number kind manufacturer address mac place", filter="serial = none")),
    ("little-memory", "Computers with little memory", "Estate", "Under 8 GB.",
     _of(columns="name memory processor os.name place person", filter="memory < 8GB and kind in (workstation, laptop)", sort="memory")),
    ("people", "People and what they hold", "Estate", "Everybody known, by department, with how many devices they hold and use.",
     _of("person", "department name title holds signed_in left_at", by="department", sort="name")),
    ("leavers", "What leavers still hold", "Estate", "Their holder has left, say all systems that know them.",
     _of(columns=f"{_WHO} last_user last_seen", filter="person.left = yes", by="")),
    ("no-holder", "Laptops and phones nobody has", "Estate", "Carried devices without a person.",
     _of(columns="name kind model serial place last_user last_seen", filter="kind in (laptop, phone, tablet) and person = none")),
    ("disks-full", "Disks nearly full", "Estate", "File systems at 90 % or more.",
     _of("filesystems", f"{_ITEM} mount full size", inner="full >= 90", sort="-full")),
    ("disks", "Disks by model", "Estate", "What to keep spares of.",
     _of("disks", "model size serial asset.name asset.place", inner="model != none", by="model")),
    ("supplies-low", "Supplies running low", "Estate", "Printers with a supply at 20 % or less.",
     _of("supplies", "asset.name asset.place name level", inner="level <= 20", sort="level")),
    ("certificates", "Certificates that run out", "Estate", "Within sixty days, or over already.",
     _of("certificates", "subject asset.name port issuer ends", inner="ends < now + 60d", sort="ends")),
    ("ports", "What listens", "Estate", "Listening ports by process.",
     _of("ports", "process protocol port asset.name asset.place", inner="process != none", by="process")),
    ("telnet", "Old ways in", "Estate", "Telnet, FTP and unencrypted remote shells that listen.",
     _of("ports", "asset.name asset.kind asset.place protocol port process", inner="port in (21, 23, 512, 513, 514)")),
    ("guests", "Guests by virtual host", "Estate", "What runs where, and what is switched off.",
     _of("guests", "asset.name name state memory", by="asset.name")),
    ("containers", "Containers", "Estate", "Images in use.",
     _of("containers", "image name asset.name", by="image")),
    ("never-started", "Not started for long", "Estate", "Scheduled tasks that are switched off.",
     _of("scheduled", "name runs account asset.name", inner="enabled = no")),
    ("services-down", "Services that should run and do not", "Estate", "Started by themselves, and not running.",
     _of("services", "name asset.name asset.place account", inner="start = automatic and running = no", by="name")),
    ("interfaces-slow", "Slow interfaces", "Estate", "Up, and slower than 1 Gb/s.",
     _of("interfaces", "asset.name asset.kind name speed mac", inner="up = yes and speed < 1Gb", sort="speed")),
    ("changes-day", "Changes of a day", "Software", "What was installed, removed and updated since yesterday.",
     _of("change", "at asset.name verb thing before after", days=1)),
    ("changes-week", "Installed this week", "Software", "New software, by product.",
     _of("change", "thing verb before after asset.name at", by="thing verb", days=7)),
    ("hardware-month", "Parts that came and went", "Estate", "Disks, memory, interfaces and modules, over four weeks.",
     _of("hardware_change", "at asset.name verb thing before after", days=28)),
    ("starts-week", "Starts and sign-ins of a week", "Estate", "When devices were started, and by whom they were used.",
     _of("activity", "at asset.name verb thing asset.place", days=7)),
    ("inside-servers", "What is inside the servers", "Estate", "Each with its disks, memory and interfaces under it.",
     _of(columns="name manufacturer model serial memory cores place", filter="kind in (server, hypervisor)",
         under="disks: name model serial size; memory_modules: slot size; interfaces: name mac speed")),
    ("barred", "Barred software, and where", "Software", "What the company does not want, device by device.",
     _of("software", "product version asset.name asset.person asset.department asset.place", inner="ruling = barred", by="product")),
    ("unruled", "Products without a ruling", "Software", "What nobody has decided of.",
     _of("product", "name publisher devices releases newest first_seen", inner='verdict = "none yet"', sort="-devices")),
    ("products", "Products and their spread", "Software", "What is installed, on how many devices.",
     _of("product", "publisher name devices before releases newest", by="publisher", sort="-devices")),
    ("versions", "Releases in use", "Software", "By product and release.",
     _of("software", "product version asset.name", inner="role = product", by="product version")),
    ("per-user", "Installed for one user only", "Software", "Outside the hands of whoever manages the machine.",
     _of("installs", "name user asset.name asset.place installed", inner="user != none", by="name")),
    ("unused", "Not used for three months", "Software", "Installed and, says the system, not started since.",
     _of("installs", "name used installed asset.name asset.person", inner="used < now - 90d", by="name")),
    ("touches-us", "Advisories that touch us", "Exposure", "Which of all that feeds tell of are here, the gravest first.",
     _of("advisory", "name title grade devices unsure exploited chance score since late")),
    ("open", "What is open, and why", "Exposure", "Device by device, with the because of each.",
     _of("finding", "device advisory product release status since grade score exploited because", by="device")),
    ("to-do", "What to do first", "Exposure", "The changes that end the most, in their order.",
     _of("change_to_do", "place verb product target devices advisories used ends left_share due disturbs", sort="place")),
    ("late", "Past the promised day", "Exposure", "Devices with something open whose promised day has passed.",
     _of(columns=f"{_WHO} os.name last_seen", filter="vulnerability[late = yes]", sort="name")),
    ("promises", "Promises kept", "Exposure", "What ended in time and late in the last ninety days, and what is open.",
     _of("promise", "grade promised kept broken half_days open_late open_in_time", days=90)),
    ("notices", "Notices of what ends", "Lifecycle", "Contracts and terms of licences, so many days before their end.",
     _of("notice", "name stream provider before ends notice_by then", sort="ends")),
    ("in-hands", "What is handed over", "Lifecycle", "In whose hands it is, what is overdue, what is not acknowledged.",
     _of("hand_over", "receiver name kind serial given_at due overdue acknowledged_at left", sort="-overdue")),
    ("replace", "Replace rather than mend", "Lifecycle", "Out of warranty with open tickets, those with most first.",
     _of(columns=f"{_WHO} tickets.open warranty.end bought", filter="warranty.end < today and tickets.open > 0", sort="-tickets.open")),
    ("tickets", "Open tickets by device", "Lifecycle", "What the service desk has open, device by device.",
     _of("tickets", "asset.name number title state priority opened asset.person", inner="open = yes", sort="opened")),
    ("coverages", "Coverages that end", "Lifecycle", "What makers answer for, ending within ninety days.",
     _of("coverages", "name ends level asset.name asset.serial asset.person", inner="ends >= today and ends < now + 90d", sort="ends")),
    ("worth", "Book values", "Lifecycle", "What every device cost, is worth, and costs a month, by department.",
     _of("worth", "department name kind bought cost book month currency by", by="department", sort="name",
         figures="cost sum; book sum; month sum")),
    ("refresh", "To be replaced", "Lifecycle", "What the first scenario of the refresh plan replaces, quarter by quarter.",
     _of("refresh", "quarter name kind place due price currency why", by="quarter", sort="due", figures="price sum")),
    ("idle", "Licences that lie idle", "Licences", "Holders who left, and what nobody has used for long.",
     _of("idle", "product name person department why licence units worth currency", sort="-worth")),
    ("licence-warnings", "Warnings of licences", "Licences", "What is wrong with licences and keys, or about to be.",
     _of("licence_warning", "sort name text")),
    ("short", "Short of licences", "Licences", "What is used without a right, and what buying it would cost.",
     _of("shortage", "name metric entitled needed short cure currency", sort="-cure")),
    ("positions", "Positions of all licences", "Licences", "Right and need of everything licensed.",
     _of("position", "name metric entitled needed short spare spare_value currency", sort="name")),
    ("owned", "Licences and their terms", "Licences", "What is owned, drawn on, and until when.",
     _of("licence", "name products metric quantity used price currency ends maintained_until", sort="ends")),
    ("keys", "Licence keys found", "Licences", "By product; the keys themselves are with the devices.",
     _of("licence_keys", "product state asset.name asset.person", by="product")),
    ("no-protection", "Without protection", "Exposure", "Windows computers on which no protection product is on.",
     _of(columns=f"{_WHO} os.name last_seen", filter="platform = Windows and no protections[on = yes]")),
    ("old-protection", "Protection out of date", "Exposure", "On, with old definitions, or off.",
     _of("protections", f"name on up_to_date {_ITEM}", inner="on = no or up_to_date = no")),
    ("administrators", "Accounts with administrator rights", "Exposure", "Local accounts, by device.",
     _of("accounts", "name full_name enabled asset.name asset.place", inner="administrator = yes and not enabled = no", by="name")),
    ("members", "Who is in the administrators' group", "Exposure", "Directory accounts among local administrators.",
     _of("memberships", "member group asset.name asset.person", inner="group = Administrators", by="member")),
    ("not-encrypted", "Carried and not encrypted", "Exposure", "Laptops, phones and tablets.",
     _of(columns=f"{_WHO} checked_in", filter="kind in (laptop, phone, tablet) and encrypted = no")),
    ("old-files", "Old file sharing", "Exposure", "Where the first version of the file sharing protocol is switched on.",
     _of("features", "name label asset.name asset.place", inner="name ~ smb1")),
)  # fmt: skip


@lru_cache(maxsize=1)
def shipped() -> dict[str, Shipped]:
    """Return the reports that ship, by key."""
    return {key: Shipped(key, name, room, text, made) for key, name, room, text, made in _ALL}
