"""Values of each field type: from the text in a filter to what is compared."""

import re
from calendar import monthrange
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from tarn.core.fields import TYPES, Field, is_day
from tarn.core.filters.parse import FilterError
from tarn.core.filters.tree import Moment, Plain
from tarn.core.ranges import RangeError, hardware_address, range_keys
from tarn.core.text import fold, nearest
from tarn.core.versions import Release


@dataclass(frozen=True, slots=True)
class Clock:
    """The time a filter is asked as of (seconds since 1970) and the zone in which its days begin."""

    at: int
    zone: ZoneInfo

    @property
    def now(self) -> datetime:
        """The time in the company's zone."""
        return datetime.fromtimestamp(self.at, self.zone)


_UTC = ZoneInfo("UTC")
_AMOUNT = re.compile(r"^(\d+(?:\.\d+)?)\s*([A-Za-z%]*)$")
_BYTE_UNITS = {"": 1, "b": 1} | {
    prefix + unit: base**power
    for unit, base in (("b", 1000), ("ib", 1024))
    for power, prefix in enumerate("kmgtp", start=1)
}
_MEMORY_UNITS = _BYTE_UNITS | {prefix + "b": 1024**power for power, prefix in enumerate("kmgtp", start=1)}
_BIT_UNITS = {"": 1, "b": 1, "kb": 10**3, "mb": 10**6, "gb": 10**9, "tb": 10**12}
_UNITS = {"bytes": _BYTE_UNITS, "memory": _MEMORY_UNITS, "bits": _BIT_UNITS}
_YES = {"yes": 1, "true": 1, "no": 0, "false": 0}


def wrong(field: Field, value: Plain | Moment, tries: list[str] | None = None) -> FilterError:
    """Return the error for a value that does not suit its field."""
    text = value.text if isinstance(value, Plain) else value.base
    expected = TYPES[field.type]
    if field.type == "choice":
        expected = "one of: " + ", ".join(field.choices)
    message = f"“{text}” is no value for {field.name}, which is {expected}."
    if tries:
        message += f" Did you mean {tries[0]}?"
    return FilterError(message, value.pos, value.pos + len(text), tries)


def scalar(field: Field, value: Plain) -> str | int | float:
    """Return what a value is compared as, for every type but moments and addresses. Raises FilterError."""
    text = value.text
    match field.type:
        case "text" | "addresses":
            return fold(text)
        case "hardware address":
            return whole_hardware_address(field, value)
        case "choice":
            meant = field.choice(text)
            if meant is None:
                # Kinds of the company's own are words too; a near miss is nearly always a slip.
                raise wrong(field, value, nearest(text, [*field.choices, *(word for word, _ in field.also)]))
            return fold(meant)
        case "version":
            return Release(text)
        case "yes/no":
            if fold(text) not in _YES:
                raise wrong(field, value, ["yes", "no"])
            return _YES[fold(text)]
        case "number" | "percent":
            match = _AMOUNT.match(text)
            if not match or match[2] not in ("", "%"):
                raise wrong(field, value)
            return float(match[1]) if "." in match[1] else int(match[1])
        case "bytes" | "bits" | "memory":
            match = _AMOUNT.match(text)
            units = _UNITS[field.type]
            if not match or match[2].lower() not in units:
                raise wrong(field, value)
            return int(float(match[1]) * units[match[2].lower()])
    raise AssertionError(field.type)


_HARDWARE = re.compile(r"^[0-9a-f]{1,4}([:.\-]?[0-9a-f]{1,4})*[:.\-]?$")


def whole_hardware_address(field: Field, value: Plain) -> str:
    """Return a whole hardware address, however it is spelt, as Tarn writes it. Raises FilterError."""
    part = hardware_part(value.text)
    if not re.fullmatch(r"[0-9a-f]{2}(:[0-9a-f]{2}){5}", part):
        end = value.pos + len(value.text)
        message = f"“{value.text}” is no whole hardware address; {field.name} ~ {value.text} looks for a part of one."
        raise FilterError(message, value.pos, end)
    return part


def hardware_part(text: str) -> str:
    """Return a piece of a hardware address as Tarn writes it (`3c:52:82`); other text as it is, folded."""
    said = fold(text)
    return hardware_address(said) if _HARDWARE.match(said) else said


def address_span(field: Field, value: Plain) -> tuple[str, str]:
    """Return the lowest and highest address key a value stands for."""
    try:
        return range_keys(value.text)
    except RangeError as error:
        raise FilterError(str(error), value.pos, value.pos + len(value.text)) from None


def by_clock(value: Plain | Moment) -> bool:
    """Whether a date or time goes by when it is asked."""
    said = value.text if isinstance(value, Plain) else value.base
    return said.lower() in ("today", "now")


def moment_span(field: Field, value: Plain | Moment, clock: Clock) -> tuple[int, int]:
    """Return the first second a date or time stands for and the first second after it."""
    if isinstance(value, Plain):
        value = Moment(value.text.lower() if by_clock(value) else value.text, (), value.pos)
    base: date | datetime
    if value.base == "now":
        base = clock.now
    elif value.base == "today":
        base = clock.now.date()
    else:
        base = _read_moment(field, value, clock)
    for sign, number, unit in value.shifts:
        base = _shift(base, number if sign == "+" else -number, unit, clock, field, value)
    if isinstance(base, datetime):
        second = int(base.timestamp())
        return second, second + 1
    zone = _UTC if is_day(field) else clock.zone  # a day is stored by its first second in UTC, wherever one asks
    return day_start(base, zone), day_start(base + timedelta(days=1), zone)


def day_start(day: date, zone: ZoneInfo) -> int:
    """Return the second at which a day begins in a zone."""
    return int(datetime.combine(day, time(), zone).timestamp())


def _read_moment(field: Field, value: Moment, clock: Clock) -> date | datetime:
    try:
        if len(value.base) == 10:
            return date.fromisoformat(value.base)
        if value.base[:4].isdigit() and len(value.base) > 10:
            read = datetime.fromisoformat(value.base)
            return read if read.tzinfo else read.replace(tzinfo=clock.zone)
    except ValueError:
        pass
    raise wrong(field, value)


def _shift(base: date | datetime, number: int, unit: str, clock: Clock, field: Field, value: Moment) -> date | datetime:
    try:
        match unit:
            case "d":
                return base + timedelta(days=number)
            case "w":
                return base + timedelta(weeks=number)
            case "mo" | "y":
                months = base.year * 12 + base.month - 1 + number * (12 if unit == "y" else 1)
                year, month = divmod(months, 12)
                return base.replace(year=year, month=month + 1, day=min(base.day, monthrange(year, month + 1)[1]))
        if not isinstance(base, datetime):
            base = datetime.combine(base, time(), clock.zone)
        return base + (timedelta(hours=number) if unit == "h" else timedelta(minutes=number))
    except (ValueError, OverflowError):
        raise FilterError(
            f"“{value.base}” shifted by {number}{unit} is no date a calendar has.", value.pos, value.pos + 5
        ) from None
