"""Depreciation of many assets at once over arrays: the same figures as `depreciation`, to the minor unit."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from tarn.core.finance.depreciation import CONVENTIONS, METHODS, Terms

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
    gone = gone_by_year(c)
    flat, many = gone.ravel(), len(c)
    asset = np.arange(many)
    whole = np.diff(gone, axis=0, append=gone[-1:]).ravel()
    start_month = c.start.astype("datetime64[M]")
    day_of = (c.start - start_month.astype("datetime64[D]")).astype(np.int64)
    by_day = np.flatnonzero(c.convention == _BY_DAY)
    out = np.empty((months, many), dtype=np.int64)
    # A year a column, looked up rather than divided: twice the months of life are few.
    most = int(2 * c.months.max(initial=12)) + 1
    year_of = np.arange(most) // 24
    part_of = np.arange(most) % 24
    mid = (c.convention == _MID).astype(np.int64)
    for number in range(months):
        month = np.datetime64(first, "M") + number
        ended = (month - start_month).astype(np.int64) + 1
        halves = np.clip(2 * ended - mid, 0, 2 * c.months)
        year, part = year_of[halves], part_of[halves]
        of = np.maximum(2 * np.minimum(12, c.months - 12 * year), 1)
        if len(by_day):
            year[by_day], part[by_day], of[by_day] = _days(c, by_day, month, start_month, day_of)
        at = year * many + asset
        out[number] = flat[at] + _half_up(whole[at] * part, of)
    return out


def _days(c: Columns, chosen: Whole, month: Any, start_month: Any, day_of: Whole) -> tuple[Whole, Whole, Whole]:
    """Return years gone, days gone of the next and its length for assets written down by the day, at a month's end."""
    start, begun, months = c.start[chosen], start_month[chosen], c.months[chosen]
    end = (month + 1).astype("datetime64[D]") - 1

    def after(some: Any) -> Any:
        """Return the day so many months after the start, at most the last of its month."""
        target = begun + some
        length = ((target + 1).astype("datetime64[D]") - target.astype("datetime64[D]")).astype(np.int64)
        return target.astype("datetime64[D]") + np.minimum(day_of[chosen], length - 1)

    year = np.clip((month - begun).astype(np.int64) // 12, 0, None)
    year = np.where(after(12 * year) > end, year - 1, year)
    year = np.clip(year, 0, -(-months // 12))
    begins, ends = after(12 * year), after(np.minimum(12 * (year + 1), months))
    of = np.maximum((ends - begins).astype(np.int64), 1)
    part = np.clip((end - begins).astype(np.int64) + 1, 0, of)
    part = np.where((start > end) | (ends <= begins), 0, part)
    return year, part, of
