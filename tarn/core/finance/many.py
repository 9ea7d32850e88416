"""Depreciation of many assets at once over arrays: the same figures as `depreciation`, to the minor unit."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tarn.core.finance.depreciation import CONVENTIONS, METHODS, Plan, Terms, book_value, schedule

Whole = NDArray[np.int64]
_DIGITS, _DECLINING = METHODS.index("sum of years' digits"), METHODS.index("declining balance")
_MID, _BY_DAY = CONVENTIONS.index("mid-month"), CONVENTIONS.index("by day")


@dataclass(frozen=True)
class Columns:
    """Terms as columns of one length: amounts in minor units, lives in months, days as days since 1970."""

    cost: Whole
    residual: Whole
    months: Whole
    start: Any
    method: Whole
    convention: Whole
    factor: Whole

    def __len__(self) -> int:
        return len(self.cost)


def columns(terms: Sequence[Terms]) -> Columns:
    """Return terms as columns."""
    return Columns(
        cost=np.array([t.cost for t in terms], dtype=np.int64),
        residual=np.array([t.residual for t in terms], dtype=np.int64),
        months=np.array([t.months for t in terms], dtype=np.int64),
        start=np.array([t.start for t in terms], dtype="datetime64[D]"),
        method=np.array([METHODS.index(t.method) for t in terms], dtype=np.int64),
        convention=np.array([CONVENTIONS.index(t.convention) for t in terms], dtype=np.int64),
        factor=np.array([t.factor for t in terms], dtype=np.int64),
    )


def _half_up(numerator: Whole, denominator: Whole) -> Whole:
    result: Whole = (2 * numerator + denominator) // (2 * denominator)
    return result


def gone_by_year(c: Columns) -> Whole:
    """Return what has gone by the end of each year of life, one row a year and one column an asset, from zero on."""
    years = int(-(-c.months.max(initial=12) // 12))
    out = np.zeros((years + 1, len(c)), dtype=np.int64)
    basis, book, weights = c.cost - c.residual, c.cost.copy(), np.zeros(len(c), dtype=np.int64)
    part_years = -(-c.months // 12)
    digits = part_years * c.months - 6 * part_years * (part_years - 1)  # the sum of the months left, year by year
    for year in range(years):
        left = np.maximum(c.months - 12 * year, 0)
        length = np.minimum(left, 12)
        weights += left
        even = _half_up(basis * (c.months - left + length), c.months)
        by_digits = _half_up(basis * np.minimum(weights, digits), digits)
        open_ = np.maximum(book - c.residual, 0)
        falling = np.maximum(
            _half_up(book * c.factor * length, 100 * c.months), _half_up(open_ * length, np.maximum(left, 1))
        )
        book -= np.minimum(falling, open_)
        out[year + 1] = np.choose(
            (c.method == _DIGITS) + 2 * (c.method == _DECLINING), (even, by_digits, c.cost - book)
        )
    return out


def accumulated_by_month(c: Columns, first: str, months: int) -> Whole:
    """Return what has gone by the end of each month from `first` (“2026-01”) on: one row a month, a column an asset."""
    out = np.zeros((months, len(c)), dtype=np.int64)
    for chosen, elapsed in (
        (np.flatnonzero(c.convention != _BY_DAY), _by_month),
        (np.flatnonzero(c.convention == _BY_DAY), _by_day),
    ):
        if len(chosen):
            part = _some(c, chosen)
            _fill(out, chosen, gone_by_year(part), elapsed(part, np.datetime64(first, "M"), months))
    return out


def _some(c: Columns, chosen: Whole) -> Columns:
    return Columns(**{name: getattr(c, name)[chosen] for name in Columns.__dataclass_fields__})


Elapsed = Iterator[tuple[Whole, Whole, Whole]]
"""Month by month, per asset: whole years of life gone, and the part of the next as a fraction."""


def _fill(out: Whole, chosen: Whole, gone: Whole, elapsed: Elapsed) -> None:
    many = len(chosen)
    before = gone.ravel()
    whole = np.diff(gone, axis=0, append=gone[-1:]).ravel()
    asset = np.arange(many)
    for number, (year, part, of) in enumerate(elapsed):
        at = year * many + asset
        out[number, chosen] = before[at] + (2 * whole[at] * part + of) // (2 * of)


def _by_month(c: Columns, first: Any, months: int) -> Elapsed:
    begun = (first - c.start.astype("datetime64[M]")).astype(np.int64)
    # Halves of a month gone so far are few, so their year and part are looked up rather than divided.
    halves_of = np.arange(2 * int(c.months.max()) + 1)
    year_of, part_of = halves_of // 24, halves_of % 24
    halves, life = 2 * (begun + 1) - (c.convention == _MID), 2 * c.months
    for _ in range(months):
        now = np.clip(halves, 0, life)
        year = year_of[now]
        yield year, part_of[now], np.clip(life - 24 * year, 1, 24)
        halves += 2


def _by_day(c: Columns, first: Any, months: int) -> Elapsed:
    begun, many = c.start.astype("datetime64[M]"), len(c)
    day = (c.start - begun.astype("datetime64[D]")).astype(np.int64)
    years = int(-(-c.months.max() // 12))
    turns = np.empty((years + 2, many), dtype=np.int64)
    for year in range(years + 2):
        target = begun + np.minimum(12 * year, c.months)
        begins = target.astype("datetime64[D]")
        length = ((target + 1).astype("datetime64[D]") - begins).astype(np.int64)
        turns[year] = begins.astype(np.int64) + np.minimum(day, length - 1)
    flat, asset, most = turns.ravel(), np.arange(many), -(-c.months // 12)
    ahead = (first - begun).astype(np.int64)
    for number in range(months):
        end = int((first + number + 1).astype("datetime64[D]").astype(np.int64)) - 1
        year = np.clip((ahead + number) // 12, 0, most)
        year = np.maximum(year - (flat[year * many + asset] > end), 0)
        begins, ends = flat[year * many + asset], flat[(year + 1) * many + asset]
        of = np.maximum(ends - begins, 1)
        part = np.clip(end + 1 - begins, 0, of)
        yield year, np.where(ends <= begins, 0, part), of


def books(plans: Sequence[Plan], day: date) -> list[int]:
    """Return the book values at the end of a day, in minor units; as `book_value`, one by one."""
    out = [0] * len(plans)
    plain = [n for n, p in enumerate(plans) if _plain(p, day)]
    ended = day if (day + timedelta(days=1)).day == 1 else day.replace(day=1) - timedelta(days=1)
    if plain:
        gone = accumulated_by_month(columns([plans[n].terms for n in plain]), f"{ended:%Y-%m}", 1)[0]
        for n, lost in zip(plain, gone.tolist(), strict=True):
            out[n] = plans[n].terms.cost - lost
    for n in set(range(len(plans))).difference(plain):
        out[n] = book_value(plans[n], day)
    return out


def charges(plans: Sequence[Plan], month: date) -> list[int]:
    """Return what is written down in the month of a day, in minor units; as `schedule` gives it, one by one."""
    out = [0] * len(plans)
    begins = month.replace(day=1)
    plain = [n for n, p in enumerate(plans) if not p.revisions and p.disposed is None]
    if plain:
        before = begins - timedelta(days=1)
        gone = accumulated_by_month(columns([plans[n].terms for n in plain]), f"{before:%Y-%m}", 2)
        for n, lost in zip(plain, (gone[1] - gone[0]).tolist(), strict=True):
            out[n] = lost
    for n in set(range(len(plans))).difference(plain):
        out[n] = schedule(plans[n], begins, 1)[0].charge
    return out


def _plain(plan: Plan, day: date) -> bool:
    """Whether a book value can be read from the months' ends: no change in mid-course, and no part of a month."""
    if plan.revisions or (plan.disposed is not None and day >= plan.disposed):
        return False
    return plan.terms.convention != "by day" or (day + timedelta(days=1)).day == 1
