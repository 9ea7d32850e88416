"""What people say of stock-takings."""

from typing import Literal

from ninja import Field, Schema

MOST_AT_ONCE = 500


class SampleIn(Schema):
    """How sure one wants to be, and what share may be missing."""

    confidence: float = Field(default=0.95, allow_inf_nan=False)
    tolerance: float = Field(default=0.05, allow_inf_nan=False)


class PlanIn(Schema):
    """Which devices are to be counted: those that answer a filter; `sample`: not all of them."""

    filter: str = Field(default="", max_length=4_000)
    sample: SampleIn | None = None


class CountIn(PlanIn):
    """A stock-taking to be opened; `counters`: who counts a place; `expected`: how many devices were shown."""

    name: str = Field(max_length=200)
    counters: dict[str, str] = Field(default_factory=dict)
    organisation: int | None = None
    expected: int | None = None


class MetIn(Schema):
    """Something met. `key`: made where it was noted; `code`: what was scanned or typed, or a device's number that was
    ticked; `at`: by the clock of whoever notes it, seconds since 1970."""

    key: str = Field(min_length=8, max_length=40)
    how: Literal["scan", "typed", "tick"] = "scan"
    code: str = Field(max_length=2_000)
    place: str = Field(default="", max_length=300)
    at: int | None = Field(default=None, ge=0, lt=2**40)
    note: str = Field(default="", max_length=1_000)


class SeveralMetIn(Schema):
    """What was met, several at once; `sent_at`: what the clock showed when this was sent."""

    met: list[MetIn] = Field(max_length=MOST_AT_ONCE)
    sent_at: int | None = Field(default=None, ge=0, lt=2**40)


Act = Literal["move", "assign", "missing", "lost", "adopt", "enter", "explain"]


class SettleIn(Schema):
    """What is done about lines of a count: of devices expected, or of what was met, by their numbers. `move`: to where
    they were met; `assign`: to a person; `missing`: noted as such; `lost`: reported lost; `adopt`: into the register;
    `enter`: a device that was not known, of a kind, by its serial number; `explain`: in words."""

    act: Act
    expected: list[int] = Field(default_factory=list, max_length=5_000)
    met: list[int] = Field(default_factory=list, max_length=5_000)
    words: str = Field(default="", max_length=280)
