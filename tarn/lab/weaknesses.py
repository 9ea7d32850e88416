"""Invented vulnerabilities of invented products, one a day for 400 days; and which device is open to which, in truth.

What a document says of them is in `advisories.py`. Identifiers are such as no real record bears: CVE-2026-99 with six
more digits. How versions stand to each other is reckoned here anew, so that tests compare two reckonings.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache

from tarn.lab.model import Device
from tarn.lab.names import PRODUCTS, base_packages
from tarn.lab.parts import digest

DAYS = 401
ELSEWHERE = (
    ("Petrelworks", "Petrel Browser"), ("Gullane", "Gull Mail"), ("Ternwork", "Tern Draw"), ("Fulmar", "Fulmar Proxy"),
    ("Brentside", "Brent Archive"), ("Dunlin", "Dunlin Meet"), ("Knotley", "Knot Backup"), ("Scoter", "Scoter Wiki"),
)  # fmt: skip
"""Makers and products that are nowhere here: most of what feeds tell of touches nobody."""
FIRMWARE = (("Selkie Networks", "SX48"), ("Selkie Networks", "SR20"), ("Quarto Imaging", "Folio 120"),
            ("Brightwire", "Lookout 2"), ("Gannet Power", "GP1500"))  # fmt: skip
HARM = (
    ("a stranger who can reach the port may run commands before signing in", "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:H/I:H/A:H"),
    ("a document that is opened may run commands", "CVSS:3.1/AV:L/AC:L/PR:N/UI:R/S:U/C:H/I:H/A:H"),
    ("whoever is signed in may read what is others'", "CVSS:3.1/AV:N/AC:L/PR:L/UI:N/S:U/C:H/I:N/A:N"),
    ("a message of a certain length makes it stop", "CVSS:3.1/AV:N/AC:L/PR:N/UI:N/S:U/C:N/I:N/A:H"),
    ("a local account may become administrator", "CVSS:4.0/AV:L/AC:L/AT:N/PR:L/UI:N/VC:H/VI:H/VA:H/SC:N/SI:N/SA:N"),
    ("passwords stand in its log", "CVSS:3.1/AV:L/AC:H/PR:H/UI:N/S:U/C:L/I:N/A:N"),
)  # fmt: skip


@dataclass(frozen=True)
class Weakness:
    """One vulnerability. `ranges`: versions from the first to below the second, "" for open ends; the second is the
    cure where it is out by `cure_day`. `form`: how it is told. `told_as`: the maker as the document spells it.

    `platform`: only on such devices; `spared`: the maker says from that day that it is not affected at all.
    """

    id: str
    day: int
    sort: str
    maker: str
    product: str
    package: str
    ranges: tuple[tuple[str, str], ...]
    form: str
    harm: int = 0
    notice: str = ""
    told_as: str = ""
    cure_day: int = 0
    withdrawn: int | None = None
    used: int | None = None
    platform: str = ""
    distributions: tuple[str, ...] = ()
    spared: int | None = None

    def known(self, day: int) -> bool:
        """Whether it is told of and not taken back on a day."""
        return self.day <= day and (self.withdrawn is None or day < self.withdrawn)


def older(one: str, other: str) -> bool:
    """Whether a version is older than another, as the lab's are written: by its numbers and letters in turn."""
    return _parts(one) < _parts(other)


def _parts(version: str) -> list[tuple[int, int | str]]:
    return [(1, int(p)) if p.isdigit() else (0, p) for p in re.findall(r"\d+|[a-z]+", version.split("-1.tl8")[0])]


@cache
def weaknesses() -> tuple[Weakness, ...]:
    """Return all of them, those of whom more is to be told first."""
    return (*_SPECIAL, *(_of_day(day) for day in range(DAYS)))


def _of_day(day: int) -> Weakness:
    id_, luck = f"CVE-2026-99{day:03d}000", digest("weakness", day)
    harm, kind = luck // 100 % len(HARM), luck % 100
    if kind < 40:
        maker, product = ELSEWHERE[luck // 7 % len(ELSEWHERE)]
        form = ("record", "configuration", "maker")[luck // 3 % 3]
        return Weakness(id_, day, "elsewhere", maker, product, "", (("", f"{luck % 9 + 1}.{luck % 5}"),), form, harm)
    if kind < 75:
        packages = base_packages(96)
        name, version = packages[luck // 11 % len(packages)]
        touches = luck // 13 % 14 == 0
        cure = f"{version.rsplit('-', 1)[0]}-9" if touches else "0.9-1"
        return Weakness(id_, day, "package", "Tallow Systems", name, name, (("", cure),), "notice", harm,
                        f"SKA-{200 + day}", distributions=("tallow", "gannet") if luck % 2 else ("tallow",))  # fmt: skip
    if kind < 92:
        return _of_product(id_, day, luck, harm)
    maker, model = FIRMWARE[luck // 17 % len(FIRMWARE)]
    cure = "3.3.0" if luck // 19 % 3 == 0 else "3.1.0"
    form = ("configuration", "maker")[luck // 23 % 2]
    return Weakness(id_, day, "firmware", maker, f"{model} firmware", model, (("", cure),), form, harm)


_SOLD = tuple(p for p in PRODUCTS if p not in ("secure-shell-server", "desktop-session", "tillmaster", "merlin-mail"))


def _of_product(id_: str, day: int, luck: int, harm: int) -> Weakness:
    """A weakness of a product that is here: cured by one of its releases, which may come out some days later."""
    package = _SOLD[luck // 29 % len(_SOLD)]
    maker, releases = PRODUCTS[package]
    cure_day, cure = [(at, version) for at, version in releases if at <= day + 25][-1]
    form = ("record", "configuration", "maker")[luck // 31 % 3]
    used = day + 12 if luck // 37 % 9 == 0 else None
    return Weakness(
        id_, day, "product", maker, package, package, (("", cure),), form, harm, cure_day=cure_day, used=used
    )


_SPECIAL = (
    # The notice of the distribution carries back what upstream cures much later; it becomes used.
    Weakness("CVE-2026-99041007", 373, "package", "Tallow Systems", "secure-shell-server", "secure-shell-server",
             (("", "9.2p1-3"),), "notice", 0, "SKA-118", cure_day=377, used=379,
             distributions=("tallow", "gannet")),
    Weakness("CVE-2026-99352001", 352, "product", "Northquill", "quill-office", "quill-office", (("", "16.1.1"),), "maker",
             1, cure_day=391, used=386),
    # A hole between two ranges.
    Weakness("CVE-2026-99340001", 340, "product", "Corvid", "corvid-protect", "corvid-protect",
             (("6.1.0", "6.1.1"), ("6.2.0", "6.2.2")), "configuration", 4, cure_day=399),
    # Only where it runs on Windows.
    Weakness("CVE-2026-99330001", 330, "product", "Pellucid", "pellucid-reader", "pellucid-reader", (("", "11.0.3"),),
             "configuration", 1, cure_day=388, platform="windows"),
    # The general record says affected, the maker that the feature is not built in.
    Weakness("CVE-2026-99360001", 360, "product", "Heron", "heron-monitor", "heron-monitor", (("", "1.15"),),
             "configuration", 2, cure_day=375, spared=366),
    # The maker's name is misspelt: nobody finds it until a person says who is meant.
    Weakness("CVE-2026-99370001", 370, "product", "Northquill", "merlin-mail", "merlin-mail", (("", "9.2.2"),),
             "configuration", 0, told_as="Nortquill", cure_day=361),
    Weakness("CVE-2026-99350002", 350, "product", "Tixline", "tixline-kiosk", "tixline-kiosk", (("", "2.3.1"),), "record", 3,
             cure_day=380, withdrawn=362),
    Weakness("CVE-2026-99355002", 355, "package", "Tallow Systems", "desktop-session", "desktop-session", (("", "99-1"),),
             "notice", 3, "SKA-120", withdrawn=365, distributions=("tallow",)),
    Weakness("CVE-2026-99380001", 380, "firmware", "Selkie Networks", "SX48 firmware", "SX48", (("", "3.3.0"),), "maker", 0,
             used=395),
)  # fmt: skip


def open_to(device: Device, day: int, found_alone: bool = True) -> Iterator[str]:
    """Yield the vulnerabilities a device is open to on a day, in truth; `found_alone`: those that can be told without
    a person's word on who is meant."""
    for one in weaknesses():
        if not one.known(day) or (one.spared is not None and day >= one.spared):
            continue
        if one.told_as and found_alone:
            continue
        if _is_open(device, one):
            yield one.id


def _is_open(device: Device, one: Weakness) -> bool:
    if one.sort == "firmware":
        return device.model == one.package and device.maker == one.maker and _within(device.os_version, one)
    package = device.packages.get(one.package)
    if one.sort == "elsewhere" or package is None:
        return False
    if one.platform and device.family != one.platform:
        return False
    if one.sort == "package":
        system = device.os_name.partition(" ")[0].lower()
        if system not in one.distributions or device.family != "debian":
            return False
    return _within(package.version, one)


def archived(device: Device, package: str) -> str:
    """Return the newest release of a package that archives hold on the last day: with all cures that are out."""
    held = device.packages[package]
    released = [version for at, version in PRODUCTS.get(package, ("", []))[1] if at < DAYS]
    newest = max((held.version, *released), key=_parts)
    for one in weaknesses():
        if (
            one.package == package
            and one.known(DAYS - 1)
            and one.cure_day < DAYS
            and one.ranges[-1][1]
            and one.sort != "firmware"
        ):
            cure = one.ranges[-1][1]
            newest = cure if older(newest, cure) else newest
    return newest


def _within(version: str, one: Weakness) -> bool:
    return any((not low or not older(version, low)) and (not high or older(version, high)) for low, high in one.ranges)


def as_of(one: Weakness, day: int) -> Weakness:
    """Return it as it is told on a day: a cure that is not out yet is not named."""
    if one.cure_day <= day:
        return one
    *rest, (low, _) = one.ranges
    return replace(one, ranges=(*rest, (low, "")))
