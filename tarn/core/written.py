"""Amounts and days as people write them: `1.249,50`, `£1,200.00`, `03/04/2026`; what is open is never guessed.

What a file leaves open is settled once for all of it: by another value of the same column that can only mean one
thing, or by a person.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from decimal import Decimal

from tarn.core.finance.money import CURRENCIES

POINT, COMMA = "point", "comma"
DAY_FIRST, MONTH_FIRST = "day first", "month first"
SYMBOLS = {"£": "GBP", "€": "EUR", "¥": "JPY", "₹": "INR", "₩": "KRW", "₺": "TRY", "zł": "PLN", "Kč": "CZK"}
"""Signs that stand for one currency alone; a dollar or a crown is of several countries (ISO 4217)."""


class Ambiguous(ValueError):
    """A value that may mean two things until somebody says how the file is written; `about` says which question."""

    def __init__(self, about: str, message: str) -> None:
        super().__init__(message)
        self.about = about


@dataclass(frozen=True, slots=True)
class Written:
    """How a file writes numbers and days: `decimals` point or comma, `dates` day first or month first; "" not said."""

    decimals: str = ""
    dates: str = ""


PLAIN = Written()

_NUMBER = re.compile(r"-?\d[\d.,'’   ]*")
_CODE = re.compile(r"\b([A-Za-z]{3})\b")


def read_amount(text: str, written: Written = PLAIN) -> tuple[Decimal, str]:
    """Return an amount and the currency written beside it ("" where none is).

    Raises ValueError where it is no amount, Ambiguous where its comma or point may be either.
    """
    said = text.strip()
    currency = next((code for sign, code in SYMBOLS.items() if sign in said), "")
    if (match := _CODE.search(said)) and match[1].upper() in CURRENCIES:
        currency = match[1].upper()
        said = said.replace(match[1], "")
    for sign in (*SYMBOLS, "$", "kr"):
        said = said.replace(sign, "")
    said = said.strip().removesuffix(",-").removesuffix(".-").strip()
    if not _NUMBER.fullmatch(said):
        raise ValueError(f"“{text.strip()[:60]}” is no amount such as 985.00")
    plain = re.sub(r"['’   ]", "", said)
    return _decimal(plain, written, text), currency


def _decimal(plain: str, written: Written, text: str) -> Decimal:
    decimal = _decimal_sign(plain)
    if decimal == "?":
        decimal = {POINT: ".", COMMA: ","}.get(written.decimals, "?")
        if decimal == "?":
            raise Ambiguous("decimals", f"“{text.strip()[:60]}” may be a thousand and more, or one and a part")
    elif decimal and written.decimals and decimal != {POINT: ".", COMMA: ","}[written.decimals]:
        raise ValueError(f"“{text.strip()[:60]}” is not written with a decimal {written.decimals}")
    whole, _, part = plain.partition(decimal) if decimal else (plain, "", "")
    groups = re.split(r"[.,]", whole)
    misgrouped = any(len(g) != 3 for g in groups[1:]) or (len(groups) > 1 and len(groups[0].lstrip("-")) > 3)
    if misgrouped or (part and not part.isdigit()):
        raise ValueError(f"“{text.strip()[:60]}” is no amount such as 985.00")
    return Decimal("".join(groups) + (f".{part}" if part else ""))


def _decimal_sign(plain: str) -> str:
    """Return the sign before the decimals, "" where there are none, "?" where it may be one for thousands as well."""
    signs = re.findall(r"[.,]", plain)
    if not signs:
        return ""
    if len(set(signs)) == 2:
        return signs[-1]
    if len(signs) > 1:
        return ""
    before, _, after = plain.partition(signs[0])
    thousands = len(after) == 3 and 1 <= len(before.lstrip("-")) <= 3 and before.lstrip("-") != "0"
    return "?" if thousands else signs[0]


_SLASHED = re.compile(r"^(\d{1,2})[/\-. ](\d{1,2})[/\-. ](\d{4}|\d{2})(?:[ ,T]+(\d{1,2}:\d{2}(?::\d{2})?))?$")
_NAMED = ("%d %b %Y", "%d %B %Y", "%b %d %Y", "%B %d %Y", "%d-%b-%Y", "%d-%b-%y")


def read_day(text: str, written: Written = PLAIN) -> datetime | None:
    """Return a day of numbers parted by / - or points, or with its month in words; None where it is neither.

    With points the day comes first (DIN 5008). Raises ValueError where there is no such day, Ambiguous where day and
    month may be either.
    """
    said = text.strip()
    for shape in _NAMED:
        try:
            return datetime.strptime(said.replace(",", ""), shape).replace(tzinfo=UTC)
        except ValueError:
            continue
    if not (match := _SLASHED.match(said)):
        return None
    first, second, year = int(match[1]), int(match[2]), int(match[3])
    year += 2000 if year < 100 else 0
    order = DAY_FIRST if "." in said else written.dates
    if not order and first <= 12 and second <= 12 and first != second:
        raise Ambiguous("dates", f"“{said[:40]}” may be the {first}. of the {second}. month, or the other way round")
    if not order:
        order = MONTH_FIRST if second > 12 else DAY_FIRST
    day, month = (first, second) if order == DAY_FIRST else (second, first)
    try:
        made = date(year, month, day)
    except ValueError:
        raise ValueError(f"“{said[:40]}” is no day with the {order}") from None
    hour, _, rest = (match[4] or "0:00").partition(":")
    clock = time.fromisoformat(f"{int(hour):02d}:{rest}")
    return datetime.combine(made, clock, UTC)


def told_by(values: Iterable[str]) -> Written:
    """Return what values of columns of amounts and days show of how a file is written; "" where nothing does."""
    decimals: set[str] = set()
    dates: set[str] = set()
    for value in values:
        if (match := _SLASHED.match(value.strip())) and "." not in value:
            first, second = int(match[1]), int(match[2])
            dates |= {DAY_FIRST} if first > 12 else {MONTH_FIRST} if second > 12 else set()
            continue
        plain = re.sub(r"[^\d.,-]", "", value)
        sign = _decimal_sign(plain)
        if sign and sign != "?":
            decimals.add(POINT if sign == "." else COMMA)
        elif not sign and (signs := set(re.findall(r"[.,]", plain))):
            decimals.add(COMMA if "." in signs else POINT)  # several of one sign part thousands
    return Written(_only(decimals), _only(dates))


def _only(found: set[str]) -> str:
    return next(iter(found)) if len(found) == 1 else ""
