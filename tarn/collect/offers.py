"""Offers: which collectors a device was offered to, which ran, and what each brought."""

import time
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass
from typing import Any

UNUSED = "this sweep does not use it"
NO_CREDENTIAL = "no credential for it may be used here"


@dataclass(slots=True)
class Offer:
    """One collector and one device: whether it ran, and if not, why the device was not offered to it."""

    collector: str
    ran: bool
    why: str = ""
    took_ms: int = 0
    sections: int = 0


def closed(credentials: Sequence[Any], ports: Sequence[int], tried: Sequence[int]) -> str:
    """Return why a collector that needs a port has none here, or ""."""
    if not credentials:
        return NO_CREDENTIAL
    wanted = sorted({c.port for c in credentials})
    if all(p in tried and p not in ports for p in wanted):
        return f"port {', '.join(map(str, wanted))} does not answer"
    return ""


async def offer(
    offers: list[Offer], readings: list[Any], collector: str, why_not: str, work: Callable[[], Awaitable[bool]]
) -> bool:
    """Offer a device to a collector and note what came of it; returns what the collector does."""
    if why_not:
        offers.append(Offer(collector, False, why_not))
        return False
    before, began = len(readings), time.perf_counter()
    made = Offer(collector, True)
    offers.append(made)
    try:
        return await work()
    finally:
        made.took_ms = int((time.perf_counter() - began) * 1000)
        made.sections = len({r.section for r in readings[before:]})
