"""Cures: how the shortfall of one balance is put right, the cheapest way first, with the steps to take.

A remedy (`remedy.py`) puts all of them right at once, and may do otherwise with one than it would by itself.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tarn.core.licensing.metrics import metric_of
from tarn.core.licensing.position import Balance
from tarn.core.licensing.rights import Use


@dataclass(frozen=True, slots=True)
class Idle:
    """A use that could be given up, and why: it was not used for long, its holder has left, the device is in stock."""

    use: Use
    why: str


@dataclass(frozen=True, slots=True)
class Cure:
    """One way to put a shortfall right: what to give up, what to buy, and the money."""

    free: tuple[Idle, ...]
    units_freed: int
    buy: int
    cost: int | None

    @property
    def decides(self) -> bool:
        """Whether somebody has to agree first: software is taken off devices."""
        return bool(self.free)


def cures(balance: Balance, idle: Sequence[Idle]) -> list[Cure]:
    """Return the ways to cure a shortfall, the cheapest first; of equal cost the one that takes least away.

    A bearer is freed whole or not at all. All numbers of freed bearers are gone through, each with the largest freed
    first, so what is bought is the least for each number; units come in packs.
    """
    if not balance.short:
        return []
    model = balance.terms
    known = metric_of(model)
    by_bearer: dict[object, list[Idle]] = {}
    for one in idle:
        by_bearer.setdefault(known.bearer(model, one.use), []).append(one)
    freed = sorted(
        ((known.units(model, [i.use for i in some])[0], some) for some in by_bearer.values()),
        key=lambda f: (-f[0], f[1][0].use.key),
    )
    reach = balance.short - balance.short_for_right
    out: list[Cure] = []
    units, gone = 0, []
    for number in range(len(freed) + 1):
        if number:
            units += freed[number - 1][0]
            gone += freed[number - 1][1]
        missing = balance.short_for_right + max(0, reach - units)
        buy = -(-missing // balance.pack) * balance.pack
        cost = buy * balance.price if balance.price or not buy else None
        out.append(Cure(tuple(gone), units, buy, cost))
        if units >= reach:
            break
    best = min(out, key=lambda c: (c.cost is None, c.cost or 0, len(c.free)))
    plain = out[0]
    return [best] if best is plain else [best, plain]
