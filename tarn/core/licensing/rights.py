"""What a licence allows: whether it may cover an installation, by which right, or why not."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from typing import Literal, get_args

from tarn.core.versions import version_key

Guests = Literal["own", "host"]
GUESTS = get_args(Guests)


@dataclass(frozen=True, slots=True)
class Licence:
    """One right to use, with its quantity, in units of its metric (None: without limit).

    `products`: numbers of the products covered. `release`: the release bought (“16”); empty: any. `downgrade`: also
    older ones. `maintained_until`: newer releases that were installed by then are covered (None: no maintenance).
    `starts`, `ends`: of the term, both inclusive; `ends` None: perpetual. `departments`: only devices of these, folded.
    `second_device`: one unit serves two devices of one person. `guests`: whether each virtual machine needs units of
    its own, or the host's units carry all guests on it; `per_host`: so many guests a unit. `per_processor`: fewest
    cores counted a processor; `pack`: units come in packs of so many. `formula`: of a capacity unit. `price`: of one
    unit, in minor units of money. `edition`: of the products, folded; empty: any. `organisation`: whose it is, empty:
    the whole company's; it covers others' uses only where it is `shared`.
    """

    key: int
    name: str
    metric: str
    quantity: int | None
    products: frozenset[int]
    release: str = ""
    downgrade: bool = False
    maintained_until: date | None = None
    starts: date = date.min
    ends: date | None = None
    departments: frozenset[str] = frozenset()
    second_device: bool = False
    guests: Guests = "own"
    per_processor: int = 0
    pack: int = 1
    per_host: int = 1
    formula: str = ""
    price: int = 0
    edition: str = ""
    organisation: str = ""
    shared: bool = False

    @property
    def breadth(self) -> int:
        """How broad the right is: how many products it covers."""
        return len(self.products)


@dataclass(frozen=True, slots=True)
class Use:
    """One product on one device, with what licences ask about.

    `person`: who uses it, empty if nobody is known. `host`: the device a virtual machine runs on. `facts`: numbers
    that a capacity formula may use. `since`: the day the release counts from, and `dated` what day that is: the release
    came out, it was installed, or it was first seen. `edition`: folded, empty if not known. `organisation`: whose
    device it is.
    """

    key: int
    product: int
    release: str
    device: int
    person: str = ""
    since: date = date.min
    department: str = ""
    virtual: bool = False
    host: int | None = None
    processors: int = 0
    cores: int = 0
    host_processors: int = 0
    host_cores: int = 0
    dated: str = "first seen"
    edition: str = ""
    organisation: str = ""
    facts: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class RightToCover:
    """Whether a licence may cover a use: `right` in words if so, otherwise `reason` why not."""

    right: str = ""
    reason: str = ""

    def __bool__(self) -> bool:
        return bool(self.right)


def in_force(licence: Licence, day: date) -> bool:
    """Return whether a licence's term holds a day."""
    return licence.starts <= day and (licence.ends is None or day <= licence.ends)


def bought_anew(licence: Licence, day: date) -> Licence:
    """Return what is to be had by buying a licence anew: its right from that day, for any release and department.

    Its last price is taken for the price; its key is the licence's with its bits inverted, so never that of a licence.
    """
    return replace(
        licence,
        key=~licence.key,
        quantity=0,
        release="",
        maintained_until=None,
        departments=frozenset(),
        starts=day,
        ends=None,
    )


def is_anew(licence: Licence) -> bool:
    """Whether a licence stands for one that is to be bought anew."""
    return licence.key < 0


def _compared(release: str, bought: str) -> int:
    """Return −1, 0 or 1: a release is older than, of, or newer than the one bought (16.2.1 is of 16)."""
    parts, wanted = release.split("."), bought.split(".")
    if parts[: len(wanted)] == wanted:
        return 0
    return -1 if version_key(release) < version_key(bought) else 1


def may_cover(licence: Licence, use: Use, day: date) -> RightToCover:
    """Return whether a licence may cover a use on a day, quantities aside, and by which right."""
    if use.product not in licence.products:
        return RightToCover(reason="it does not cover this product")
    if day < licence.starts:
        return RightToCover(reason=f"it begins on {licence.starts.isoformat()}")
    if licence.ends is not None and licence.ends < day:
        return RightToCover(reason=f"its term was over on {licence.ends.isoformat()}")
    if licence.organisation and use.organisation != licence.organisation and not licence.shared:
        return RightToCover(reason=f"it is {licence.organisation}'s and does not cover other organisations")
    if licence.edition and use.edition != licence.edition:
        installed = f"installed is {use.edition}" if use.edition else "which edition is installed is not known"
        return RightToCover(reason=f"it is for the edition {licence.edition}, and {installed}")
    if licence.departments and use.department.casefold() not in licence.departments:
        return RightToCover(reason=f"it is for {', '.join(sorted(licence.departments))} alone")
    if licence.metric == "named person" and not use.person:
        return RightToCover(reason="nobody is known to use it, and the licence is by person")
    how = "as part of a suite" if licence.breadth > 1 else "as the product itself"
    if not licence.release or not use.release:
        return RightToCover(how)
    side = _compared(use.release, licence.release)
    if side == 0:
        return RightToCover(how)
    if side < 0:
        if licence.downgrade:
            return RightToCover(f"{how}, by the right to older releases")
        return RightToCover(reason=f"{use.release} is older than {licence.release}, and there is no downgrade right")
    if licence.maintained_until is None:
        return RightToCover(reason=f"{use.release} is newer than {licence.release}, and there is no maintenance")
    until, dated = licence.maintained_until.isoformat(), f"{use.dated} {use.since.isoformat()}"
    if use.since <= licence.maintained_until:
        return RightToCover(f"{how}, by maintenance until {until} ({dated})")
    return RightToCover(reason=f"{use.release} came after maintenance was over on {until} ({dated})")
