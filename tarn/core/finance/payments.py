"""What is to be paid when: recurring payments laid out on the calendar."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal, get_args

Every = Literal["once", "month", "quarter", "half year", "year"]
EVERY = get_args(Every)
MONTHS: dict[str, int] = {"month": 1, "quarter": 3, "half year": 6, "year": 12}
"""Months from one payment to the next."""


@dataclass(frozen=True, slots=True)
class Due:
    """A cost that comes again: `amount` in minor units of `currency`, first on `first`, and `every` so often, until
    `end` (inclusive; None: with no end known). `renews`: it goes on after its end, from term to term. `begins` and
    `until`: only payments on days from the one (inclusive) up to the other (exclusive) are of these terms."""

    key: str
    amount: int
    currency: str
    first: date
    every: Every = "year"
    end: date | None = None
    renews: bool = False
    begins: date | None = None
    until: date | None = None


@dataclass(frozen=True, slots=True)
class Payment:
    """One payment on its day; `renewal`: it lies after the term that is agreed, if the term is renewed as it stands."""

    key: str
    day: date
    amount: int
    currency: str
    renewal: bool


def months_between(first: date, day: date) -> int:
    """Return whole calendar months from one date's month to another's."""
    return 12 * (day.year - first.year) + day.month - first.month


def same_day(first: date, months: int) -> date:
    """Return the same day so many months on; the last day of a month that has no such day."""
    year, month = divmod(first.year * 12 + first.month - 1 + months, 12)
    length = (
        31,
        29 if year % 4 == 0 and (year % 100 or year % 400 == 0) else 28,
        31,
        30,
        31,
        30,
        31,
        31,
        30,
        31,
        30,
        31,
    )
    return date(year, month + 1, min(first.day, length[month]))


def payments(due: Due, since: date, until: date) -> list[Payment]:
    """Return the payments on days from `since` up to `until`, both inclusive."""
    since = max(since, due.begins or since)
    until = min(until, due.until - timedelta(days=1)) if due.until else until
    if due.every == "once":
        inside = since <= due.first <= until and (due.end is None or due.first <= due.end)
        return [Payment(due.key, due.first, due.amount, due.currency, False)] if inside else []
    step = MONTHS[due.every]
    last = until if due.renews or due.end is None else min(until, due.end)
    number = max(0, months_between(due.first, since) // step)
    out = []
    while (day := same_day(due.first, number * step)) <= last:
        if day >= since:
            out.append(Payment(due.key, day, due.amount, due.currency, due.end is not None and day > due.end))
        number += 1
    return out


def calendar_of(dues: Iterable[Due], since: date, months: int) -> dict[tuple[int, int], dict[str, int]]:
    """Return what falls due by month (year, month) and currency, over so many months from that of `since`."""
    begins = since.replace(day=1)
    until = date.fromordinal(same_day(begins, months).toordinal() - 1)
    sums: dict[str, list[int]] = {}
    for due in dues:
        held = sums.setdefault(due.currency, [0] * months)
        for month in _months_of(due, begins, until):
            held[month] += due.amount
    out: dict[tuple[int, int], dict[str, int]] = {}
    for number in range(months):
        month_ = same_day(begins, number)
        out[month_.year, month_.month] = {code: held[number] for code, held in sums.items() if held[number]}
    return out


def _months_of(due: Due, begins: date, until: date) -> Sequence[int]:
    """Return the months after that of `begins` in which a payment falls; the same days as `payments` gives."""
    if due.begins or due.until:
        return [months_between(begins, payment.day) for payment in payments(due, begins, until)]
    step = MONTHS.get(due.every, 1)
    last = until if due.renews or due.end is None or due.end > until else due.end
    times = months_between(due.first, last) // step if due.every != "once" else 0
    if same_day(due.first, times * step) > last:
        times -= 1
    offset = months_between(begins, due.first)
    number = max(0, -(offset // step)) if due.every != "once" else 0
    first = offset + number * step
    return range(first, offset + times * step + 1, step) if first >= 0 else range(0)


def last_notice(end: date, days: int) -> date:
    """Return the last day to give notice that must be given so many days before an end."""
    return date.fromordinal(end.toordinal() - days)


def notices_due(end: date, before: Sequence[int], since: date, today: date) -> list[int]:
    """Return which of the notices, each so many days before an end, fall after `since` up to today, both by day.

    One that fell on a day when nothing ran is still told, as long as the end lies ahead or is today.
    """
    if end < today:
        return []
    return [n for n in sorted(before, reverse=True) if since < last_notice(end, n) <= today]
