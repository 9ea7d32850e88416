"""Amounts of money: currencies, their minor units, rounding, and rates of exchange by day.

Inside, an amount is a whole number of the currency's minor units (cents), so sums are exact. Rounding is half up, away
from zero, and is done once, where an amount is reckoned; what is rounded is added, never the other way round.
"""

import csv
import io
from bisect import bisect_right
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date
from decimal import ROUND_HALF_UP, Decimal, InvalidOperation

_ISO_4217 = (
    "AED AFN ALL AMD AOA ARS AUD AWG AZN BAM BBD BDT BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLP "
    "CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG "
    "HUF IDR ILS INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL "
    "MGA MKD MMK MNT MOP MRU MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR "
    "RON RSD RUB RWF SAR SBD SCR SDG SEK SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD "
    "TZS UAH UGX USD UYU UZS VES VND VUV WST XAF XCD XOF XPF YER ZAR ZMW ZWG "
)
CURRENCIES = frozenset(_ISO_4217.split())
"""Codes of currencies in use (ISO 4217)."""

_NONE, _THREE = "BIF CLP DJF GNF ISK JPY KMF KRW PYG RWF UGX VND VUV XAF XOF XPF", "BHD IQD JOD KWD LYD OMR TND"
_PLACES = {**dict.fromkeys(_NONE.split(), 0), **dict.fromkeys(_THREE.split(), 3)}
"""Decimal places of the minor unit where they are not two (ISO 4217)."""


class MoneyError(ValueError):
    """An amount, currency or rate that cannot be."""


def checked_currency(code: str) -> str:
    """Return the code in capitals. Raises MoneyError if ISO 4217 has no such currency."""
    known = code.strip().upper()
    if known not in CURRENCIES:
        raise MoneyError(f"“{code}” is no currency; write its three letters (ISO 4217), such as EUR")
    return known


def places(currency: str) -> int:
    """Return the decimal places of a currency's minor unit."""
    return _PLACES.get(currency, 2)


def to_minor(amount: Decimal | str, currency: str) -> int:
    """Return an amount in minor units, exactly.

    Raises MoneyError for what is no number, or has more decimal places than the currency.
    """
    checked_currency(currency)
    try:
        value = Decimal(amount)
        scaled = value.scaleb(places(currency))
        whole = int(scaled)
    except (InvalidOperation, ValueError, OverflowError) as wrong:
        raise MoneyError(f"“{amount}” is no amount of money; write it like 1250.00") from wrong
    if scaled != whole:
        raise MoneyError(f"“{amount}” is finer than {currency} goes: it has {places(currency)} decimal places")
    return whole


def from_minor(minor: int, currency: str) -> Decimal:
    """Return minor units as a decimal with the currency's places."""
    return Decimal(minor).scaleb(-places(currency))


def half_up(numerator: int, denominator: int) -> int:
    """Return numerator / denominator rounded to a whole number, halves away from zero. The denominator is positive."""
    if numerator < 0:
        return -half_up(-numerator, denominator)
    return (2 * numerator + denominator) // (2 * denominator)


@dataclass(frozen=True, slots=True)
class Rates:
    """How many of a currency one unit of the base buys, by the days the rates were set on."""

    base: str
    days: dict[str, tuple[tuple[date, ...], tuple[Decimal, ...]]] = field(default_factory=dict)

    def at(self, currency: str, day: date) -> Decimal:
        """Return the rate in force on a day: the latest set on or before it. Raises MoneyError if there is none."""
        if currency == self.base:
            return Decimal(1)
        days, rates = self.days.get(currency, ((), ()))
        found = bisect_right(days, day)
        if not found:
            first = f"; the first known is of {days[0].isoformat()}" if days else ""
            raise MoneyError(f"no rate of {currency} against {self.base} for {day.isoformat()}{first}")
        return rates[found - 1]

    def convert(self, minor: int, currency: str, into: str, day: date) -> int:
        """Return an amount of one currency in another at the day's rates, rounded once, in minor units."""
        if currency == into:
            return minor
        value = from_minor(minor, currency) / self.at(currency, day) * self.at(into, day)
        return int(value.scaleb(places(into)).to_integral_value(ROUND_HALF_UP))


def rates_of(base: str, rows: Iterable[tuple[date, str, Decimal]]) -> Rates:
    """Return rates from rows of day, currency and rate, in any order; a later row of the same day and currency wins."""
    held: dict[str, dict[date, Decimal]] = {}
    for day, currency, rate in rows:
        held.setdefault(currency, {})[day] = rate
    return Rates(base, {code: (tuple(sorted(by)), tuple(by[day] for day in sorted(by))) for code, by in held.items()})


def read_rates(text: str, base: str) -> list[tuple[date, str, Decimal]]:
    """Read a file of rates: comma or semicolon separated, with the columns date, currency, rate.

    A rate is how many of the currency one unit of the base buys; dates are ISO 8601. Raises MoneyError naming the line.
    """
    if not text.strip():
        raise MoneyError("the file is empty")
    head = text.lstrip("\ufeff").splitlines()[0]
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff")), delimiter=";" if ";" in head else ",")
    names = {name.strip().lower(): name for name in reader.fieldnames or ()}
    if missing := [name for name in ("date", "currency", "rate") if name not in names]:
        raise MoneyError(f"line 1: no column “{missing[0]}”; the file needs date, currency, rate")
    rows = []
    for row in reader:
        try:
            day = date.fromisoformat((row[names["date"]] or "").strip())
            currency = checked_currency(row[names["currency"]] or "")
            rate = Decimal((row[names["rate"]] or "").strip())
        except (ValueError, InvalidOperation) as wrong:
            said = str(wrong) if isinstance(wrong, MoneyError) else "needs a day like 2026-03-01 and a rate like 1.0875"
            raise MoneyError(f"line {reader.line_num}: {said}") from wrong
        if not rate.is_finite() or rate <= 0:
            raise MoneyError(f"line {reader.line_num}: a rate is more than nothing, not {rate}")
        if currency == base and rate != 1:
            raise MoneyError(f"line {reader.line_num}: {base} is the company's own currency; its rate is 1")
        rows.append((day, currency, rate))
    return rows
