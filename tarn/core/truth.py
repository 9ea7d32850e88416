"""Which of several witnesses is believed about one field, and why."""

from dataclasses import dataclass
from typing import Any

PIN, RULE, READ, RECORD, COUNTED, FILE, GUESS = range(7)

STOCK_TAKING = "stock-taking"

RANKS: dict[str, int] = {
    "sweep": READ,
    "reporter": READ,
    "outpost": READ,
    "directory": RECORD,
    "virtual host": RECORD,
    "cloud account": RECORD,
    "device management": RECORD,
    "inventory": RECORD,
    "warranty service": RECORD,
    "service desk": RECORD,
    STOCK_TAKING: COUNTED,
    "name zone": FILE,
    "file": FILE,
    "hand": PIN,
    "rule": RULE,
}
"""The kinds of source evidence may come from, each with its rank; the lower is believed first."""


SPOKEN = ("hand", "rule")
"""Sources that say what is to hold of a device and have not seen it."""

_REASONS = {
    PIN: "A person's decision outranks everything else.",
    RULE: "A fill rule of the company outranks what is read, and yields to a person's word.",
    READ: "What is read from the machine outranks records and files about it.",
    RECORD: "A system of record outranks a file.",
    COUNTED: "Somebody met it there in a stock-taking, and nothing that reads it says otherwise.",
    FILE: "No better witness than a file speaks of it.",
    GUESS: "Nobody states it; it was worked out from the evidence.",
}


@dataclass(frozen=True, slots=True)
class Claim:
    """One source's word on one field: `since` when it says so, `confirmed` when last it did."""

    source: int
    source_kind: str
    section: str
    value: Any
    since: int
    confirmed: int

    @property
    def rank(self) -> int:
        """Rank by kind of source; what was worked out from a sighting comes last."""
        return GUESS if self.section == "recognition" else RANKS[self.source_kind]


def order(claims: list[Claim]) -> list[Claim]:
    """Return the claims, the one to believe first: by rank, then the fresher, then the newer source."""
    return sorted(claims, key=lambda c: (c.rank, -c.confirmed, -c.source, c.section))


def because(claims: list[Claim]) -> str:
    """Say in a sentence why the first of `order(claims)` is believed."""
    ranked = order(claims)
    winner = ranked[0]
    others = [c for c in ranked[1:] if c.value != winner.value]
    if not others:
        return "Only one source speaks of it." if len(ranked) == 1 else "All sources that speak of it agree."
    if others[0].rank == winner.rank:
        return "Sources of equal rank disagree; the one confirmed last is believed."
    return _REASONS[winner.rank]
