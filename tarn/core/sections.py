"""The sections a sighting may have: single facts here, lists in `items.py`."""

from collections.abc import Callable, Collection, Sequence
from typing import Annotated, Any

from pydantic import Field, StringConstraints

from tarn.core.gear import as_rates
from tarn.core.item import Count, LongText, Mac, Name, Part, Text
from tarn.core.items import SECTIONS


class Identity(Part):
    """What tells the device from others. `tarn`: the number Tarn issued; `own_number`: the company's own number of it,
    which identifies within its scheme alone (`own_scheme`); `keys`: fingerprints it presents."""

    tarn: Text | None = None
    name: Text | None = None
    domain: Text | None = None
    serial: Text | None = None
    manufacturer: Text | None = None
    model: Text | None = None
    uuid: Text | None = None
    instance: Text | None = None
    own_number: Text | None = None
    own_scheme: Text | None = None
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
    booted: int | None = None


class Hardware(Part):
    """Processors and memory; `memory` in bytes, `processors` and `cores` in all."""

    processor: Text | None = None
    processors: Count | None = None
    cores: Count | None = None
    memory: Count | None = None


class Condition(Part):
    """How a device that meters itself stands: pages printed (to the hundred), battery in percent (to the
    nearest five), minutes it would last, what it says of its battery, how much of what it can give is drawn (to the
    nearest five percent), and where it takes it from (RFC 1628, upsOutputSource)."""

    pages: Count | None = None
    battery: Annotated[int, Field(ge=0, le=100)] | None = None
    runtime: Count | None = None
    battery_state: Text | None = None
    load: Annotated[int, Field(ge=0, le=1_000)] | None = None
    feeding_from: Text | None = None


class Management(Part):
    """What a system that manages devices or accounts says of one: `checked_in` and `signed_in` are seconds
    since 1970, `disabled` an account switched off, `unit` its place in the other system's own order."""

    checked_in: Count | None = None
    signed_in: Count | None = None
    disabled: bool | None = None
    encrypted: bool | None = None
    passcode: bool | None = None
    given_password: bool | None = None
    supervised: bool | None = None
    site: Text | None = None
    managed_by: Text | None = None
    unit: Text | None = None


class Acquisition(Part):
    """How it was acquired and what its maker answers for: days as seconds since 1970, the price in minor units of the
    currency."""

    bought_at: int | None = None
    supplier: Text | None = None
    order: Text | None = None
    cost_centre: Text | None = None
    price: Count | None = None
    currency: Text | None = None
    warranty_from: int | None = None
    warranty_end: int | None = None


class Desk(Part):
    """What the service desk has to do with it: tickets that are open."""

    tickets_open: Count | None = None


class Placement(Part):
    """Where it was met: its address, the place of that network, and the organisation it was looked for."""

    address: Text | None = None
    mac: Mac | None = None
    place: Text | None = None
    organisation: Text | None = None


Own = str | int | float | bool | None
"""A value of a field of the company's own: text, a number, yes or no; a date as seconds since 1970."""


class Decision(Part):
    """What a person, a rule or a file says of it. A field given as null takes the earlier word back; `due_back` is the
    day a loan ends, as seconds since 1970; `rack_unit` the lowest height unit (IEC 60297) it takes of its rack, and
    `rack_height` how many; `fed_by` names what its power comes from, parted by commas; `own` holds fields of the
    company's own by name, each likewise."""

    standing: Annotated[str, StringConstraints(pattern=r"^(intake|register|set aside)$")] | None = None
    aside_reason: Text | None = None
    kind: Text | None = None
    state: Text | None = None
    person: Text | None = None
    department: Text | None = None
    organisation: Text | None = None
    place: Text | None = None
    manufacturer: Text | None = None
    model: Text | None = None
    serial: Text | None = None
    memory: Count | None = None
    note: LongText | None = None
    due_back: int | None = None
    importance: Annotated[str, StringConstraints(pattern=r"^(high|usual)?$")] | None = None
    rack: Text | None = None
    rack_unit: Annotated[int, Field(ge=1, le=100)] | None = None
    rack_height: Annotated[int, Field(ge=1, le=100)] | None = None
    fed_by: Text | None = None
    own: dict[Name, Annotated[Own, Field(union_mode="left_to_right")]] | None = None


class SameAs(Part):
    """A person's ruling on whose sightings are whose: an undecided `sighting`, or `sightings` that belong to an asset
    already, are of this asset, or (null) of a new one. Merging and splitting are the latter. `withdrawn`: the
    sightings are of no asset, for an import was undone."""

    withdrawn: bool = False
    sighting: Text = ""
    sightings: tuple[Text, ...] = ()
    asset: Text | None = None


FACTS: dict[str, type[Part]] = {
    "identity": Identity,
    "system": System,
    "hardware": Hardware,
    "condition": Condition,
    "management": Management,
    "acquisition": Acquisition,
    "desk": Desk,
    "placement": Placement,
    "decision": Decision,
}
"""Sections of single facts; each attribute is a field of the asset, `tarn`, `macs`, `keys` excepted."""

NOT_FIELDS = frozenset({"tarn", "macs", "keys", "instance", "own_scheme", "own"})
OWN = "own:"
"""What the names of the company's own fields begin with among all fields."""

ITEMS: dict[str, type[Part]] = {name: section.item for name, section in SECTIONS.items()}
"""Sections that are lists."""

KEYS: dict[str, tuple[str, ...]] = {name: section.key for name, section in SECTIONS.items()}
"""What tells two items of one list apart."""

SINCE_BEFORE: dict[str, Callable[[Sequence[Any], Sequence[Any]], list[Any]]] = {"switch_ports": as_rates}
"""Lists of which something is reckoned from the reading before: of the items of that one and of this what they say."""

RULING = "same_as"

COLLECTOR_RANKS: dict[str, int] = {"hand": 0, "reporter": 1, "ssh": 2, "winrm": 2, "snmp": 4, "reach": 6}
"""Which collector's reading of a section is fuller; the lower wins. Others rank 3."""

STALE_AFTER = 30 * 86_400
"""Seconds after which a lesser collector's reading replaces a fuller one that has not come again."""


def columns(section: str) -> tuple[str, ...]:
    """Return the attributes of a list's items that are no part of their key."""
    return tuple(f for f in ITEMS[section].model_fields if f not in KEYS[section])


def rows(section: str, listed: list[Any]) -> dict[tuple[Any, ...], tuple[Any, ...]]:
    """Return a list's items as `{key: values}`; of two items with one key the last counts."""
    keys, values = KEYS[section], columns(section)
    return {tuple(getattr(i, k) for k in keys): tuple(getattr(i, v) for v in values) for i in listed}


Rows = dict[tuple[Any, ...], tuple[Any, ...]]
_NOTHING = (None, "")


def seen_through(section: str, read: Rows, held: Rows, unseen: Collection[str]) -> Rows:
    """Return a reading's rows completed by what is held, where the account could not see an attribute.

    An empty value of an attribute in `unseen` is no word against what is held: the held value stands. Where the
    attribute is part of the key, every held row that agrees in all the rest of the key is confirmed, and a row that
    confirms none is left out, for nobody knows what it is of.
    """
    if not unseen:
        return read
    keys, values = KEYS[section], columns(section)
    hidden_keys = [i for i, k in enumerate(keys) if k in unseen]
    hidden_values = [i for i, v in enumerate(values) if v in unseen]
    out: Rows = {}
    for key, value in read.items():
        blind = [i for i in hidden_keys if key[i] in _NOTHING]
        if blind:
            rest = [i for i in range(len(key)) if i not in blind]
            out |= {k: v for k, v in held.items() if k not in read and all(k[i] == key[i] for i in rest)}
            continue
        before = held.get(key)
        if before is not None:
            kept = [before[i] if i in hidden_values and v in _NOTHING else v for i, v in enumerate(value)]
            value = tuple(kept)
        out[key] = value
    return out
