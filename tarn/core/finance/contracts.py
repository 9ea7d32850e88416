"""Terms of contracts: when the one in force ends, how it goes on, and until when notice can be given."""

from dataclasses import dataclass
from datetime import date, timedelta

from tarn.core.finance.payments import last_notice, months_between, same_day


@dataclass(frozen=True, slots=True)
class Agreed:
    """What is agreed of a contract: its first term, both days inclusive, and how it goes on.

    `ends` None: it has no end. `renews` months: it goes on for so long each time unless notice is given `notice` days
    before the end; 0: it is over at its end.
    """

    starts: date
    ends: date | None
    renews: int = 0
    notice: int = 0


@dataclass(frozen=True, slots=True)
class Standing:
    """How a contract stands on a day: `state` is to come, in force, or over; `ends` the end of the term in force or
    last; `notice_by` the last day to give notice, where it would go on; `times` it has gone on so far."""

    state: str
    ends: date | None
    notice_by: date | None
    times: int


def standing(agreed: Agreed, day: date) -> Standing:
    """Return how a contract stands on a day."""
    if agreed.ends is None:
        return Standing("to come" if day < agreed.starts else "in force", None, None, 0)
    times = 0
    end = agreed.ends
    if agreed.renews and day > end:
        # Terms follow the first end, not each other's, so the last of a month stays the last.
        after = end + timedelta(days=1)
        times = max(0, months_between(after, day) // agreed.renews)
        while same_day(after, times * agreed.renews) <= day:
            times += 1
        end = same_day(after, times * agreed.renews) - timedelta(days=1)
    state = "to come" if day < agreed.starts else "over" if day > end else "in force"
    by = last_notice(end, agreed.notice) if agreed.renews and state != "over" else None
    return Standing(state, end, by, times)
