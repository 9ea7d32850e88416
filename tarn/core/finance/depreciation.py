"""Depreciation: what an asset has lost of its cost by any day, exactly, in minor units.

Three methods spread cost less residual value over the useful life (IAS 16, paragraphs 50, 60, 62: a systematic basis;
straight-line and diminishing balance named there):

- straight line: each year of life an equal part;
- declining balance: a constant rate on the book value at the year's beginning, `factor` hundredths of the straight-line
  rate (200 is double), changed to straight line over what is left of the life in the first year in which that is more,
  and never below the residual value;
- sum of years' digits: each year the years left at its beginning over the sum of these for all years. With a life of
  W years and a part F the sum is (W + 1)(W + 2F) / 2, the sum n + (n − 1) + … + F written out.

Rounding: the amount of each year of life is rounded to the minor unit, half up, such that all years sum to cost less
residual; within a year what has gone by the end of a month (or day) is that part of the year's amount, rounded. So
every month is a difference of whole numbers and nothing is lost or gained.

A convention says how the months of life lie in the calendar:

- full month: the month of the start counts whole;
- mid-month: the month of the start counts half, and so does the last (26 U.S.C. § 168(d)(2));
- by day: each day from the start on counts equally within its year of life.

By month, a charge falls on the month's last day: the book value of any day is that after the last month that ended.
"""

import calendar
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal, NamedTuple, get_args

from dateutil.relativedelta import relativedelta

from tarn.core.finance.money import half_up

Method = Literal["straight line", "declining balance", "sum of years' digits"]
Convention = Literal["full month", "mid-month", "by day"]
METHODS, CONVENTIONS = get_args(Method), get_args(Convention)

LONGEST = 1_200
"""Months of the longest life, a hundred years."""


class DepreciationError(ValueError):
    """Terms that cannot be; `field` says which."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class Terms:
    """What an asset is written down by: cost and residual value in minor units, useful life in months, first day.

    `factor`: hundredths of the straight-line rate, for declining balance. Raises DepreciationError.
    """

    cost: int
    residual: int
    months: int
    start: date
    method: Method = "straight line"
    convention: Convention = "full month"
    factor: int = 200

    def __post_init__(self) -> None:
        if self.cost < 0:
            raise DepreciationError("cost", "a cost is not less than nothing")
        if not 0 <= self.residual <= self.cost:
            raise DepreciationError("residual", "a residual value lies between nothing and the cost")
        if not 1 <= self.months <= LONGEST:
            raise DepreciationError("months", f"a useful life is 1 to {LONGEST} months, not {self.months}")
        if self.method not in METHODS:
            raise DepreciationError("method", f"“{self.method}” is no method; one of: {', '.join(METHODS)}")
        if self.convention not in CONVENTIONS:
            raise DepreciationError(
                "convention", f"“{self.convention}” is no convention; one of: {', '.join(CONVENTIONS)}"
            )
        if self.method == "declining balance" and not 100 <= self.factor <= 1_000:
            raise DepreciationError("factor", "the rate is 100 to 1000 hundredths of the straight-line rate")


@dataclass(frozen=True, slots=True)
class Revision:
    """A change of estimate, from a day on: months of life left then, and the residual value now expected.

    What is already written down stays; what is left is spread anew by the same method (IAS 8, paragraph 36: changes of
    estimates are prospective). By month it holds from the first of the day's month.
    """

    day: date
    months_left: int
    residual: int


@dataclass(frozen=True, slots=True)
class Plan:
    """Terms, the changes of them in mid-course, and the day the asset was disposed of, if it was."""

    terms: Terms
    revisions: tuple[Revision, ...] = ()
    disposed: date | None = None


@dataclass(frozen=True, slots=True)
class Month:
    """One line of a schedule: the charge of a month, what has gone by its end and the book value then.

    `derecognised`: what was still in the books when it was parted with; it goes with the asset and is no depreciation
    (IAS 16, paragraph 67).
    """

    year: int
    month: int
    charge: int
    accumulated: int
    book: int
    derecognised: int = 0


class Year(NamedTuple):
    """A fiscal year: what was written down in it, and what left the books with what was parted with."""

    charge: int
    derecognised: int


@dataclass(frozen=True, slots=True)
class Disposal:
    """What comes of parting with an asset: its book value then, and the gain (below nothing: the loss)."""

    book: int
    gain: int


def yearly(terms: Terms) -> list[int]:
    """Return the amount of each year of life, the last of which may be shorter; they sum to cost less residual."""
    basis, months = terms.cost - terms.residual, terms.months
    begins = range(0, months, 12)
    if terms.method == "straight line":
        ends = [half_up(basis * min(b + 12, months), months) for b in begins]
    elif terms.method == "sum of years' digits":
        weights = [months - b for b in begins]
        whole, gone, ends = sum(weights), 0, []
        for weight in weights:
            gone += weight
            ends.append(half_up(basis * gone, whole))
    else:
        return _declining(terms)
    return [end - before for end, before in zip(ends, [0, *ends], strict=False)]


def _declining(terms: Terms) -> list[int]:
    book, out = terms.cost, []
    for begins in range(0, terms.months, 12):
        left = terms.months - begins
        length = min(12, left)
        open_ = book - terms.residual
        charge = max(half_up(book * terms.factor * length, 100 * terms.months), half_up(open_ * length, left))
        charge = min(charge, open_)
        out.append(charge)
        book -= charge
    return out


def elapsed(terms: Terms, day: date) -> tuple[int, int, int]:
    """Return how much of the life has gone by the end of a day: whole years, and the part of the next as a fraction."""
    if day < terms.start:
        return 0, 0, 1
    if terms.convention == "by day":
        year = relativedelta(day, terms.start).years
        begins = terms.start + relativedelta(years=year)
        ends = terms.start + relativedelta(months=min(12 * (year + 1), terms.months))
        if ends <= begins:
            return -(-terms.months // 12), 0, 1
        gone, whole = (day - begins).days + 1, (ends - begins).days
        return (year + 1, 0, 1) if gone >= whole else (year, gone, whole)
    ended = 12 * (day.year - terms.start.year) + day.month - terms.start.month
    ended += day.day == calendar.monthrange(day.year, day.month)[1]
    halves = min(2 * ended - (terms.convention == "mid-month" and ended > 0), 2 * terms.months)
    year, gone = divmod(halves, 24)
    return year, gone, 2 * min(12, terms.months - 12 * year) or 1


def accumulated(plan: Plan, day: date) -> int:
    """Return what has been written down by the end of a day, in minor units."""
    parts = segments(plan)
    terms = next((t for t in reversed(parts) if t.start <= day), parts[0])
    return plan.terms.cost - terms.cost + _gone(terms, day)


def _gone(terms: Terms, day: date) -> int:
    years, gone, whole = elapsed(terms, day)
    amounts = yearly(terms)
    within = half_up(amounts[years] * gone, whole) if years < len(amounts) else 0
    return sum(amounts[:years]) + within


def segments(plan: Plan) -> list[Terms]:
    """Return the terms in force one after another: the first, and what each revision makes of the rest.

    Raises DepreciationError for a revision out of order, before the start, or of a residual over the book value.
    """
    out = [plan.terms]
    for revision in plan.revisions:
        last = out[-1]
        by_month = last.convention != "by day"
        begins = revision.day.replace(day=1) if by_month else revision.day
        if begins <= last.start:
            raise DepreciationError("revisions", f"the change of {revision.day} does not come after {last.start}")
        book = last.cost - _gone(last, date.fromordinal(begins.toordinal() - 1))
        if not 0 <= revision.residual <= book:
            raise DepreciationError(
                "revisions", f"the change of {revision.day} leaves more than the book value of that day"
            )
        out.append(
            # The half of a first month is spent; what is left of the life is counted in full months.
            Terms(
                book,
                revision.residual,
                revision.months_left,
                begins,
                last.method,
                "full month" if by_month else "by day",
                last.factor,
            )
        )
    return out


def book_value(plan: Plan, day: date) -> int:
    """Return the book value at the end of a day: cost less what was written down; nothing once it is disposed of."""
    if plan.disposed is not None and day >= plan.disposed:
        return 0
    return plan.terms.cost - accumulated(plan, day)


def disposal(plan: Plan, day: date, proceeds: int, costs: int = 0) -> Disposal:
    """Return what comes of parting with the asset on a day for `proceeds`, less `costs` of parting.

    Written down until then: by month the months that ended before (mid-month: and half of that month), by day the days
    before. The gain is what is received less book value (IAS 16, paragraph 71).
    """
    parts = segments(plan)
    terms = next((t for t in reversed(parts) if t.start <= day), parts[0])
    gone = _gone(terms, date.fromordinal(day.toordinal() - 1))
    if terms.convention == "mid-month" and day >= terms.start:
        last = day.replace(day=calendar.monthrange(day.year, day.month)[1])
        before = day.replace(day=1)
        gone = _gone(terms, date.fromordinal(before.toordinal() - 1))
        if before > terms.start.replace(day=1):
            gone += half_up(_gone(terms, last) - gone, 2)
    book = terms.cost - gone
    return Disposal(book, proceeds - costs - book)


def schedule(plan: Plan, first: date, months: int) -> list[Month]:
    """Return a line for each of `months` months from the first day's month on."""
    out = []
    before = plan.terms.cost - book_value(plan, date.fromordinal(first.replace(day=1).toordinal() - 1))
    for number in range(months):
        begins = first.replace(day=1) + relativedelta(months=number)
        end = begins.replace(day=calendar.monthrange(begins.year, begins.month)[1])
        gone = accumulated(plan, end)
        left = 0
        if plan.disposed is not None and end >= plan.disposed:
            gone = plan.terms.cost
            if begins <= plan.disposed:
                left = disposal(replace(plan, disposed=None), plan.disposed, 0).book
        out.append(Month(begins.year, begins.month, gone - before - left, gone, plan.terms.cost - gone, left))
        before = gone
    return out


def by_fiscal_year(lines: Sequence[Month], first_month: int = 1) -> dict[int, Year]:
    """Return each fiscal year, named by the calendar year it ends in, of years that begin in a month."""
    out: dict[int, Year] = {}
    for line in lines:
        year = line.year if first_month == 1 or line.month < first_month else line.year + 1
        before = out.get(year, Year(0, 0))
        out[year] = Year(before.charge + line.charge, before.derecognised + line.derecognised)
    return out
