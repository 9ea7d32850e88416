"""Whether a device is in cover on a day, by all that answers for it."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date


@dataclass(frozen=True, slots=True)
class Cover:
    """One thing that covers a device: what it is called, who says so, its first and last day (None: not known, or
    without end), what is promised and how it is claimed."""

    name: str
    source: str
    begins: date | None
    ends: date | None
    level: str = ""
    claim: str = ""

    def holds(self, day: date) -> bool:
        """Whether it covers on a day."""
        return (self.begins is None or self.begins <= day) and (self.ends is None or day <= self.ends)


@dataclass(frozen=True, slots=True)
class CoverState:
    """Whether a device is in cover, until when, and that in words; `days_left` None without an end."""

    in_cover: bool
    until: date | None
    days_left: int | None
    says: str


def verdict(covers: Sequence[Cover], day: date) -> CoverState:
    """Return whether a device is in cover on a day, by the cover that holds longest."""
    now = [c for c in covers if c.holds(day)]
    if now:
        best = max(now, key=lambda c: c.ends or date.max)
        how = f" {best.claim}." if best.claim else ""
        if best.ends is None:
            return CoverState(True, None, None, f"In cover without an end by “{best.name}”.{how}")
        left = (best.ends - day).days
        days = "today is the last day" if left == 0 else f"{left} day{'s' * (left != 1)} left"
        return CoverState(
            True, best.ends, left, f"In cover by “{best.name}” until {best.ends.isoformat()}, {days}.{how}"
        )
    over = [c.ends for c in covers if c.ends is not None and c.ends < day]
    if over:
        last = max(over)
        return CoverState(False, last, 0, f"Out of cover since {last.isoformat()}: mending it is at one's own cost.")
    if covers:
        return CoverState(False, None, None, "Its cover has not begun yet.")
    return CoverState(False, None, None, "Nothing is known that covers it.")
