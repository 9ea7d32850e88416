"""Mappings: how the columns or paths of another system become readings of a device.

One mechanism for files, directories and inventories over HTTP. A *target* is a field of a section; a mapping
says which column or path fills it, and where it needs one, in which unit. What cannot be read is a fault that
names the target; a value is never guessed at.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import cache
from typing import Any

from pydantic import ValidationError

from tarn.core.fields import FIELDS
from tarn.core.finance.money import CURRENCIES, MoneyError, to_minor
from tarn.core.kinds import PLATFORMS, STATES, platform_of
from tarn.core.ranges import address_key, hardware_address
from tarn.core.registry import Registry
from tarn.core.sections import FACTS, OWN
from tarn.core.sightings import make_reading
from tarn.core.text import fold, nearest
from tarn.core.written import DAY_FIRST, MONTH_FIRST, PLAIN, POINT, Written, read_amount, read_day

UNITS = {
    "B": 1,
    "kB": 1 << 10,
    "MB": 1 << 20,
    "GB": 1 << 30,
    "TB": 1 << 40,
    "KiB": 1 << 10,
    "MiB": 1 << 20,
    "GiB": 1 << 30,
}
"""Units of memory; powers of 1024 (JEDEC 100B.01)."""


@dataclass(frozen=True, slots=True)
class Target:
    """A field that a column may fill: its section and attribute, its type, and what columns for it are called."""

    section: str
    field: str
    type: str
    label: str
    words: tuple[str, ...]
    read: Callable[[Any], Any] | None = None
    """How a value of a field of the company's own is read; raises ValueError."""


_T = Target
TARGETS: Registry[Target] = Registry(
    {
        "number": _T("identity", "tarn", "text", "Tarn's asset number", ("tarn number", "tarn asset number", "tarn")),
        "own_number": _T(
            "identity",
            "own_number",
            "text",
            "The company's number",
            ("asset number", "asset no", "asset", "asset tag", "inventory number", "inventory no", "company number"),
        ),
        "name": _T(
            "identity", "name", "name", "Host name", ("name", "host name", "hostname", "computer", "device", "cn")
        ),
        "domain": _T("identity", "domain", "text", "Domain", ("domain", "dns domain")),
        "serial": _T(
            "identity", "serial", "text", "Serial number", ("serial", "serial number", "serialno", "sn", "bios serial")
        ),
        "manufacturer": _T(
            "identity", "manufacturer", "text", "Manufacturer", ("manufacturer", "maker", "make", "vendor", "brand")
        ),
        "model": _T("identity", "model", "text", "Model", ("model", "product", "type designation", "model name")),
        "uuid": _T("identity", "uuid", "text", "Hardware UUID", ("uuid", "hardware uuid", "smbios uuid")),
        "mac": _T(
            "identity", "macs", "mac", "Hardware address", ("mac", "mac address", "hardware address", "ethernet")
        ),
        "kind": _T("decision", "kind", "kind", "Kind", ("kind", "device type", "category", "class", "type")),
        "state": _T("decision", "state", "state", "State", ("state", "status", "lifecycle")),
        "person": _T(
            "decision", "person", "text", "Person", ("person", "user", "owner", "assigned to", "holder", "employee")
        ),
        "department": _T(
            "decision", "department", "text", "Department", ("department", "dept", "cost centre", "division")
        ),
        "place": _T("decision", "place", "text", "Place", ("place", "location", "site", "building", "office")),
        "rack": _T("decision", "rack", "text", "Rack", ("rack", "cabinet")),
        "rack_unit": _T("decision", "rack_unit", "count", "Height unit", ("height unit", "rack unit", "u", "position")),
        "rack_height": _T("decision", "rack_height", "count", "Units high", ("units high", "rack height", "units")),
        "fed_by": _T("decision", "fed_by", "text", "Fed by", ("fed by", "power", "power feeds", "outlets")),
        "note": _T("decision", "note", "text", "Note", ("note", "notes", "comment", "remarks")),
        "address": _T("placement", "address", "address", "Address", ("address", "ip", "ip address", "ipv4")),
        "platform": _T("system", "platform", "platform", "Platform", ("platform", "os family")),
        "os_name": _T("system", "os_name", "text", "System", ("os", "operating system", "system", "os name")),
        "os_version": _T("system", "os_version", "text", "System version", ("os version", "version", "build")),
        "last_user": _T(
            "system", "last_user", "text", "Last signed in", ("last user", "last logged on", "primary user")
        ),
        "processor": _T("hardware", "processor", "text", "Processor", ("processor", "cpu")),
        "cores": _T("hardware", "cores", "count", "Cores", ("cores", "cpu cores")),
        "memory": _T("hardware", "memory", "memory", "Memory", ("memory", "ram", "installed memory")),
        "checked_in": _T(
            "management", "checked_in", "moment", "Last check-in", ("last check-in", "last checkin", "last contact")
        ),
        "signed_in": _T("management", "signed_in", "moment", "Last sign-in", ("last sign-in", "last logon")),
        "disabled": _T("management", "disabled", "yes/no", "Disabled", ("disabled",)),
        "encrypted": _T("management", "encrypted", "yes/no", "Encrypted", ("encrypted", "encryption")),
        "passcode": _T("management", "passcode", "yes/no", "Passcode", ("passcode", "passcode set")),
        "supervised": _T("management", "supervised", "yes/no", "Supervised", ("supervised",)),
        "site": _T("management", "site", "text", "Their site", ("management site",)),
        "managed_by": _T("management", "managed_by", "text", "Managed by", ("managed by", "server")),
        "bought": _T("acquisition", "bought_at", "moment", "Bought", ("bought", "purchase date", "purchased")),
        "warranty": _T(
            "acquisition", "warranty_end", "moment", "Warranty until", ("warranty", "warranty end", "warranty until")
        ),
        "price": _T("acquisition", "price", "price", "Price", ("price", "purchase price", "unit price", "cost")),
        "currency": _T("acquisition", "currency", "currency", "Currency", ("currency", "currency code")),
        "supplier": _T("acquisition", "supplier", "text", "Supplier", ("supplier", "reseller", "sold by")),
        "order": _T("acquisition", "order", "text", "Order", ("order", "purchase order", "po")),
        "cost_centre": _T("acquisition", "cost_centre", "text", "Cost centre", ("cost center", "cost code")),
        "unit": _T("management", "unit", "text", "Organisational unit", ("organisational unit", "ou", "unit")),
    }
)
"""Everything a column may fill, by the name a mapping uses."""

OWN_SCHEME = "company number"
"""The scheme of the company's own numbers where none is named: a number identifies within its scheme alone."""

IDENTIFYING = ("number", "own_number", "serial", "uuid", "mac", "name")
"""Targets that can tell one device from another; a mapping needs one of them."""


class MappingError(ValueError):
    """A value that cannot be read; `target` names what it was to fill."""

    def __init__(self, target: str, message: str) -> None:
        super().__init__(message)
        self.target = target


def check_mapping(mapping: dict[str, dict[str, str]]) -> None:
    """Check which column or path fills which target, by target {"from": …, "unit": …}. Raises MappingError."""
    for name, part in mapping.items():
        if name not in TARGETS:
            raise MappingError(name, f"“{name}” is no field; one of: {', '.join(TARGETS)}.")
        if not part.get("from"):
            raise MappingError(name, f"{TARGETS[name].label}: say what fills it.")
        if name == "own_number":
            continue  # its scheme: any name
        days = (DAY_FIRST, MONTH_FIRST) if TARGETS[name].type == "moment" else UNITS
        known = CURRENCIES if name == "price" else days
        if part.get("unit") and part["unit"] not in known:
            raise MappingError(name, f"{TARGETS[name].label}: “{part['unit']}” is no unit.")
    if not set(mapping) & set(IDENTIFYING):
        raise MappingError("", "Map something that tells one device from another: serial number, UUID, name …")


_YES = frozenset({"yes", "true", "1", "y", "on", "enabled"})
_NO = frozenset({"no", "false", "0", "n", "off", "disabled"})
_QUANTITY = re.compile(r"^\s*(\d+(?:[.,]\d+)?)\s*([A-Za-z]*)\s*$")
_DAYS = ("%Y-%m-%d", "%Y-%m-%d %H:%M", "%Y-%m-%d %H:%M:%S", "%Y%m%d%H%M%S.0Z", "%Y%m%d%H%M%SZ")


def read_value(name: str, raw: Any, unit: str = "", written: Written = PLAIN) -> Any:
    """Return a raw value as its target holds it, or None where it is empty. Raises MappingError.

    A price comes with the currency written beside it, "" where none is.
    """
    target = TARGETS[name]
    said = re.sub(r"[\x00-\x1f\x7f\s]+", " ", str(raw)).strip() if raw is not None else ""
    if not said or said.lower() in ("none", "null", "n/a", "-"):
        return None

    def wrong(expected: str) -> MappingError:
        return MappingError(name, f"{target.label}: “{said[:60]}” is not {expected}.")

    if target.read is not None:
        try:
            return target.read(raw)
        except ValueError as error:
            raise MappingError(name, str(error)) from None
    match target.type:
        case "yes/no":
            if isinstance(raw, bool):
                return raw
            if said.lower() in _YES | _NO:
                return said.lower() in _YES
            raise wrong("yes or no")
        case "count":
            if said.isdigit():
                return int(said)
            raise wrong("a whole number")
        case "memory":
            return _memory(said, unit, wrong)
        case "mac":
            plain = re.sub(r"[^0-9a-f]", "", said.lower())
            if len(plain) != 12 or re.search(r"[g-z]", said.lower()):
                raise wrong("a hardware address")
            return (hardware_address(plain),)
        case "address":
            try:
                address_key(said)
            except ValueError:
                raise wrong("an address") from None
            return said
        case "moment":
            return _moment(name, said, Written(written.decimals, unit or written.dates), wrong)
        case "currency":
            if said.upper() not in CURRENCIES:
                raise wrong("a currency; write its three letters (ISO 4217), such as EUR")
            return said.upper()
        case "price":
            try:
                return read_amount(said, written if isinstance(raw, str) else Written(POINT))
            except ValueError as error:
                raise MappingError(name, f"{target.label}: {error}.") from None
        case "kind":
            return FIELDS["kind"].choice(said) or _choice(said, FIELDS["kind"].choices, wrong)
        case "state" | "platform":
            return _choice(said, {"state": STATES, "platform": PLATFORMS}[target.type], wrong)
    return said[:480]


def _memory(said: str, unit: str, wrong: Any) -> int:
    match = _QUANTITY.match(said)
    if not match:
        raise wrong("a quantity such as 16 GB")
    written = match[2] or unit
    factor = {u.lower(): f for u, f in UNITS.items()}.get(written.lower())
    if factor is None:
        raise wrong("a quantity with a unit; say the unit in the value, the heading or the mapping")
    return round(float(match[1].replace(",", ".")) * factor)


def _moment(name: str, said: str, written: Written, wrong: Any) -> int:
    if said.isdigit() and len(said) == 18:  # 100 ns since 1601 (MS-DTYP 2.3.3), as Windows directories keep stamps
        return int(said) // 10_000_000 - 11_644_473_600
    if said.isdigit() and len(said) in (10, 13):
        return int(said[:10])
    try:
        at = datetime.fromisoformat(said)
        return int((at if at.tzinfo else at.replace(tzinfo=UTC)).timestamp())
    except ValueError:
        pass
    for shape in _DAYS:
        try:
            return int(datetime.strptime(said, shape).replace(tzinfo=UTC).timestamp())
        except ValueError:
            continue
    try:
        day = read_day(said, written)
    except ValueError as error:
        raise MappingError(name, f"{TARGETS[name].label}: {error}.") from None
    if day is None:
        raise wrong("a date")
    return int(day.timestamp())


@cache
def _folded(known: tuple[str, ...]) -> dict[str, str]:
    return {fold(k): k for k in known}


def _choice(said: str, known: tuple[str, ...], wrong: Any) -> str:
    if (found := _folded(known).get(fold(said))) is not None:
        return found
    near = nearest(said, list(known), 2)
    raise wrong(f"one of the known ones{' (perhaps ' + ' or '.join(near) + ')' if near else ''}")


def build(
    values: dict[str, Any],
    units: dict[str, str],
    collector: str,
    *,
    written: Written = PLAIN,
    currency: str = "",
) -> tuple[list[Any], list[MappingError]]:
    """Return the readings that raw values by target come to, and what could not be read.

    A host name with a domain in it fills both. `written`: how numbers and days are written; `currency`: the company's,
    for prices that name none.
    """
    sections: dict[str, dict[str, Any]] = {}
    faults: list[MappingError] = []
    for name, raw in values.items():
        try:
            value = read_value(name, raw, units.get(name, ""), written)
        except MappingError as fault:
            faults.append(fault)
            continue
        target = TARGETS[name]
        if value is None:
            if target.section == "decision":  # the other side has no word on it any more: an earlier one is taken back
                _decide(sections.setdefault("decision", {}), target.field, None)
            continue
        if target.type == "name":
            short, _, rest = value.partition(".")
            sections.setdefault("identity", {})["name"] = short.rstrip("$").lower()
            if rest:
                sections["identity"].setdefault("domain", rest.lower())
            continue
        _decide(sections.setdefault(target.section, {}), target.field, value)
    told = sections.get("system", {})
    if told.get("os_name") and not told.get("platform") and (platform := platform_of(told["os_name"])):
        told["platform"] = platform
    _priced(sections.get("acquisition", {}), units.get("price", "") or currency, faults)
    if "own_number" in sections.get("identity", {}):
        sections["identity"]["own_scheme"] = units.get("own_number") or OWN_SCHEME
    readings = []
    for section, facts in sections.items():
        made = _made(section, facts, faults)
        if made is not None:
            readings.append(make_reading(section, made, collector))
    return readings, faults


def _made(section: str, facts: dict[str, Any], faults: list[MappingError]) -> Any | None:
    """Return the facts of a section without those that cannot be, each of which is a fault; None where none is left."""
    try:
        return FACTS[section](**facts)
    except ValidationError as error:
        wrong = {str(error_details["loc"][0]): str(error_details["msg"]) for error_details in error.errors()}
    for field, said in wrong.items():
        name = next((n for n, t in TARGETS.items() if (t.section, t.field) == (section, field)), field)
        faults.append(MappingError(name, f"{name}: {said}."))
    rest = {field: value for field, value in facts.items() if field not in wrong}
    return _made(section, rest, faults) if rest and len(rest) < len(facts) else None


def _priced(facts: dict[str, Any], unit: str, faults: list[MappingError]) -> None:
    """Put a price into the minor units of its currency: that written beside it, of its column, or of the mapping."""
    told = facts.pop("price", None)
    if told is None:
        return
    price, beside = told
    if beside and facts.get("currency", beside) != beside:
        faults.append(MappingError("price", f"Price: {beside} stands beside it and {facts['currency']} in its column."))
        return
    currency = facts.setdefault("currency", beside or unit)
    try:
        if not currency:
            raise MappingError("price", "Price: say in which currency, by a column or in the mapping.")
        minor = to_minor(price, currency)
        if minor < 0:
            raise MappingError("price", f"Price: “{price}” is less than nothing.")
        facts["price"] = minor
    except MoneyError as wrong:
        faults.append(MappingError("price", f"Price: {wrong}."))
    except MappingError as wrong:
        faults.append(wrong)
        facts.pop("currency")


def _decide(facts: dict[str, Any], field: str, value: Any) -> None:
    """Put a value among facts; fields of the company's own lie in a dictionary of their own."""
    if field.startswith(OWN):
        facts.setdefault("own", {})[field[len(OWN) :]] = value
    else:
        facts[field] = value
