"""Watches: whether an answer is worth writing about, and when it may be sent."""

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo


@dataclass(frozen=True, slots=True)
class Answers:
    """What a watch weighs: keys of the rows that are here, new since last time and gone; `was` and `share`: their share
    of all devices, in percent, when it last wrote and now."""

    here: Sequence[str]
    new: Sequence[str]
    gone: Sequence[str]
    was: float | None = None
    share: float | None = None


@dataclass(frozen=True, slots=True)
class Condition:
    """When a watch writes. `sentence`: as it is said and offered; `number`: what its number is of, empty where it takes
    none; `of_devices`: only rows that are devices' can be weighed by it."""

    key: str
    sentence: str
    fires: Callable[[Answers, int], bool]
    number: str = ""
    of_devices: bool = False


def _moved(seen: Answers, number: int) -> bool:
    return seen.was is not None and seen.share is not None and abs(seen.share - seen.was) >= max(number, 1)


_CONDITIONS = (
    Condition("any", "there are any rows", lambda seen, _: bool(seen.here)),
    Condition("new", "there are rows that were not there last time", lambda seen, _: bool(seen.new)),
    Condition("gone", "rows of last time are gone", lambda seen, _: bool(seen.gone)),
    Condition("changed", "rows came or went since last time", lambda seen, _: bool(seen.new or seen.gone)),
    Condition("over", "there are more rows than", lambda seen, number: len(seen.here) > number, "Rows"),
    Condition("under", "there are fewer rows than", lambda seen, number: len(seen.here) < number, "Rows"),
    Condition(
        "share",
        "their share of all devices has moved by percentage points, at least",
        _moved,
        "Points",
        of_devices=True,
    ),
)
CONDITIONS = {c.key: c for c in _CONDITIONS}
"""By key, in the order they are offered."""


def told_condition(key: str, number: int) -> str:
    """Return a condition in words, with its number where it takes one."""
    condition = CONDITIONS[key]
    return f"{condition.sentence} {number:,}" if condition.number else condition.sentence


class WatchError(ValueError):
    """A watch that cannot be; `field` says what is wrong with it."""

    def __init__(self, field: str, message: str) -> None:
        self.field = field
        super().__init__(message)


@dataclass(frozen=True, slots=True)
class Finding:
    """What an answer comes to: whether to write, the keys that are new since last time, and those that are gone."""

    fires: bool
    new: list[str]
    gone: list[str]


def weigh(
    condition: str,
    number: int,
    before: Sequence[str] | None,
    now: Sequence[str],
    shares: tuple[float | None, float | None] = (None, None),
) -> Finding:
    """Weigh an answer against the last. `before` is None the first time: then nothing is new and nothing gone.

    Rows are told apart by their keys; of two with one key one counts. `shares`: of all devices, in percent, when the
    watch last wrote of it and now; a slow drift adds up until it is written of.
    """
    was, share = shares
    held, here = set(before if before is not None else now), set(now)
    new = [k for k in dict.fromkeys(now) if k not in held]
    gone = [k for k in dict.fromkeys(before or ()) if k not in here]
    seen = Answers(sorted(here), new, gone, was, share)
    return Finding(CONDITIONS[condition].fires(seen, number), new, gone)


_QUIET = re.compile(r"^\s*(\d{1,2})\s*[-–]\s*(\d{1,2})\s*$")


def quiet_hours(text: str) -> tuple[int, int] | None:
    """Return quiet hours such as “22-6” as hours from and to; None where there are none. Raises WatchError."""
    if not text.strip():
        return None
    match = _QUIET.match(text)
    if not match or int(match[1]) > 23 or int(match[2]) > 23 or match[1] == match[2]:
        raise WatchError("quiet", f"“{text}” are no quiet hours; write them as 22-6.")
    return int(match[1]), int(match[2])


def sendable(at: int, quiet: tuple[int, int] | None, zone: str) -> int:
    """Return the first moment from `at` on (seconds since 1970) that is not in quiet hours, in the time of `zone`."""
    if quiet is None:
        return at
    begins, ends = quiet
    local = datetime.fromtimestamp(at, ZoneInfo(zone))
    inside = begins <= local.hour < ends if begins < ends else local.hour >= begins or local.hour < ends
    if not inside:
        return at
    end = local.replace(hour=ends, minute=0, second=0, microsecond=0)
    if end <= local:
        end += timedelta(days=1)
    return int(end.timestamp())


GATHERED = 7
"""The hour of the day at which letters that are gathered go out, in the company's time."""


def gathered_at(at: int, zone: str) -> int:
    """Return the first moment from `at` on at which gathered letters go out."""
    local = datetime.fromtimestamp(at, ZoneInfo(zone))
    due = local.replace(hour=GATHERED, minute=0, second=0, microsecond=0)
    return int((due if due >= local else due + timedelta(days=1)).timestamp())


RETRIES = (60, 300, 1_800, 7_200, 21_600)
"""Seconds to wait after the first, second … failure; after the last the letter is given up and shown as failed."""


def next_try(tries: int, now: int) -> int | None:
    """Return when to try again after so many failures, or None where it is given up."""
    return now + RETRIES[tries - 1] if tries <= len(RETRIES) else None
