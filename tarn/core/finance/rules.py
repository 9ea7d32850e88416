"""Rules of depreciation: by which terms assets of a class are written down, and changes of those in mid-course."""

from dataclasses import dataclass
from datetime import date

from tarn.core.finance.depreciation import (
    Convention,
    DepreciationError,
    Method,
    Plan,
    Revision,
    Terms,
    book_value,
)
from tarn.core.finance.money import half_up
from tarn.core.finance.payments import months_between


@dataclass(frozen=True, slots=True)
class RuleChange:
    """From a day on the life of assets of the class is so many months in all, and the residual value so much.

    `residual` in hundredths of a percent of the cost. What is written down by then stays (IAS 8, paragraph 36).
    """

    day: date
    months: int
    residual: int


@dataclass(frozen=True, slots=True)
class DepreciationRule:
    """Terms for a class of assets: `months` of useful life, `residual` in hundredths of a percent of the cost."""

    name: str
    months: int
    residual: int = 0
    method: Method = "straight line"
    convention: Convention = "full month"
    factor: int = 200
    changes: tuple[RuleChange, ...] = ()

    def __post_init__(self) -> None:
        for share in (self.residual, *(c.residual for c in self.changes)):
            if not 0 <= share <= 10_000:
                raise DepreciationError("residual", "a residual value is 0 to 100 percent of the cost")
        days = [c.day for c in self.changes]
        if days != sorted(set(days)):
            raise DepreciationError("changes", "changes come one after another, each on a day of its own")
        # The terms of a cost of nothing are checked like those of any other.
        for months in (self.months, *(c.months for c in self.changes)):
            Terms(0, 0, months, date(2000, 1, 1), self.method, self.convention, self.factor)


def residual_of(cost: int, share: int) -> int:
    """Return a share of a cost, in hundredths of a percent, rounded half up to the minor unit."""
    return half_up(cost * share, 10_000)


def plan_for(rule: DepreciationRule, cost: int, start: date, disposed: date | None = None) -> Plan:
    """Return how an asset of the class is written down.

    A change before the start is simply the terms; one after the end of the life changes nothing; of two within a month,
    where the convention goes by months, the later holds; one that leaves no month of life writes what is left down
    within one month. The residual value is never raised over the book value
    of the day of the change.
    """
    months, share = rule.months, rule.residual
    later = []
    for change in rule.changes:
        if change.day <= start:
            months, share = change.months, change.residual
        else:
            later.append(change)
    terms = Terms(cost, residual_of(cost, share), months, start, rule.method, rule.convention, rule.factor)
    revisions: list[Revision] = []
    life = months
    for change in later:
        gone = months_between(start, change.day)
        if gone >= life or (disposed is not None and change.day >= disposed):
            break
        if gone == 0:
            # Within the first month there is no book value to carry over yet: the next month is the first to differ.
            continue
        begins = change.day if rule.convention == "by day" else change.day.replace(day=1)
        if revisions and rule.convention != "by day" and revisions[-1].day.replace(day=1) == begins:
            # Both begin with the month, so the later word is the only one.
            revisions.pop()
        book = book_value(Plan(terms, tuple(revisions)), date.fromordinal(begins.toordinal() - 1))
        residual = min(residual_of(cost, change.residual), book)
        revisions.append(Revision(change.day, max(1, change.months - gone), residual))
        life = max(gone + 1, change.months)
    return Plan(terms, tuple(revisions), disposed)
