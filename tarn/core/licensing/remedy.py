"""The cheapest way to put every shortfall of a position right at once: what to give up, what to buy, what moves.

Buying is decided by the same integer program as the assignment, with more of each licence to be had at its price: so a
suite is bought where that is cheaper than its parts, and what a suite already owned could cover moves to it. What more
of a licence would not cover, for its release, its term or its department, may be covered by the licence bought anew.
"""

from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from tarn.core.licensing.assign import Assignment, assign
from tarn.core.licensing.cures import Idle
from tarn.core.licensing.parts import linked
from tarn.core.licensing.rights import Licence, Use, bought_anew, may_cover


@dataclass(frozen=True, slots=True)
class Buy:
    """So many units of a licence to buy, in whole packs, at a price each.

    `anew`: why more of the licence as it is would not do (too old a release, a term that is over …); empty: it does.
    """

    licence: Licence
    units: int
    cost: int
    anew: str = ""


@dataclass(frozen=True, slots=True)
class Move:
    """A use that another licence covers from then on; `broader`: it covers more products, so it is an exchange."""

    use: Use
    before: Licence
    after: Licence

    @property
    def broader(self) -> bool:
        """Whether a suite takes the place of a single product."""
        return self.after.breadth > self.before.breadth


@dataclass(frozen=True)
class Remedy:
    """What puts a position right: uses given up, units bought, uses that move, and what nothing covers even then.

    `unpriced`: licences that would cover some of what is left, or are over-used, were their price known.
    """

    freed: list[Idle]
    buys: list[Buy]
    moves: list[Move]
    left: list[Use]
    unpriced: list[Licence]

    @property
    def cost(self) -> int:
        """What is to be paid, in minor units."""
        return sum(b.cost for b in self.buys)


def remedy(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    held: Assignment,
    day: date,
    pins: Mapping[int, int],
    peaks: Mapping[int, int],
    idle: Sequence[Idle] = (),
    disputed: Collection[int] = (),
) -> Remedy:
    """Return the cheapest remedy; `idle` are uses that may be given up, and each that is spares a purchase; `disputed`
    ones are covered by what is bought anew alone.

    Each part of the position is put right by itself: trying what one idle use spares asks of its own part only.
    Raises MetricError, EntangledError, NotSolvedError.
    """
    by_product: dict[int, list[Use]] = defaultdict(list)
    for use in uses:
        by_product[use.product].append(use)
    lacking = {use.product for use in uses if use.key not in held.licence_of}
    whole = Remedy([], [], [], [], [])
    for products, some in linked(licences, by_product):
        over = any(licence.quantity is not None and held.used(licence.key) > licence.quantity for licence in some)
        if over or products & lacking:
            mine = [use for product in sorted(products) for use in by_product.get(product, ())]
            spare = [i for i in idle if i.use.product in products]
            told = _of_part(mine, some, held, day, pins, peaks, spare, {u.key for u in mine}.intersection(disputed))
            for name in ("freed", "buys", "moves", "left", "unpriced"):
                getattr(whole, name).extend(getattr(told, name))
    return whole


def _of_part(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    held: Assignment,
    day: date,
    pins: Mapping[int, int],
    peaks: Mapping[int, int],
    idle: Sequence[Idle],
    disputed: Collection[int],
) -> Remedy:
    """Return the cheapest remedy of one part."""
    mine = {use.key for use in uses}
    anew = _anew([u for u in held.uncovered if u.key in mine], licences, held, day, peaks)
    by_key = {licence.key: licence for licence in licences}
    licences = [*licences, *anew]
    prices = {
        licence.key: licence.price
        for licence in licences
        if licence.price and licence.quantity is not None and licence.metric != "site"
    }
    given_up = {i.use.key: i for i in idle}
    # What is idle is given up first, and taken back one by one where that saves nothing.
    freed = list(given_up)
    best = _bought(uses, licences, day, pins, peaks, prices, set(freed), disputed)
    for key in sorted(freed, key=lambda k: (k in held.licence_of, k)):
        fewer = set(freed) - {key}
        tried = _bought(uses, licences, day, pins, peaks, prices, fewer, disputed)
        if tried.cost == best.cost and len(tried.left) == len(best.left):
            freed, best = [k for k in freed if k != key], tried
    moves = [
        Move(use, by_key[before], by_key[after])
        for use in uses
        if (before := held.licence_of.get(use.key)) is not None
        and (after := best.held.licence_of.get(use.key)) in by_key
        and before != after
    ]
    wanting = {
        licence.key for use in best.left for licence in best.held.eligible.get(use.key, ()) if licence.key not in prices
    }
    wanting |= {
        licence.key
        for licence in licences
        if licence.key not in prices and licence.quantity is not None and best.held.used(licence.key) > licence.quantity
    }
    buys = [_named(buy, by_key, best.held, day) for buy in best.buys]
    return Remedy([given_up[k] for k in freed], buys, moves, best.left, [by_key[k] for k in sorted(wanting)])


def _anew(
    uncovered: Sequence[Use], licences: Sequence[Licence], held: Assignment, day: date, peaks: Mapping[int, int]
) -> list[Licence]:
    """Return the licences to be had anew that would cover what more of them as they are would not."""
    barred: dict[int, list[Use]] = defaultdict(list)
    for use in uncovered:
        barred[use.product].append(use)
    out = []
    for licence in licences:
        if not licence.price or licence.quantity is None or licence.metric == "site" or licence.key in peaks:
            continue
        new = bought_anew(licence, day)
        some = (use for product in licence.products for use in barred.get(product, ()))
        if any(may_cover(new, use, day) and licence not in held.eligible.get(use.key, ()) for use in some):
            out.append(new)
    return out


def _named(buy: Buy, by_key: Mapping[int, Licence], held: Assignment, day: date) -> Buy:
    """Return a purchase under the licence's own name, with why it has to be bought anew if it has."""
    if buy.licence.key in by_key:
        return buy
    own = by_key[~buy.licence.key]
    reasons = (may_cover(own, use, day).reason for b in held.bearers[buy.licence.key] for use in b.uses)
    return Buy(own, buy.units, buy.cost, next((r for r in reasons if r), ""))


@dataclass(frozen=True)
class _Bought:
    held: Assignment
    buys: list[Buy]
    left: list[Use]

    @property
    def cost(self) -> int:
        return sum(b.cost for b in self.buys)


def _bought(
    uses: Sequence[Use],
    licences: Sequence[Licence],
    day: date,
    pins: Mapping[int, int],
    peaks: Mapping[int, int],
    prices: Mapping[int, int],
    without: set[int],
    disputed: Collection[int],
) -> _Bought:
    kept = [u for u in uses if u.key not in without]
    assignment = assign(kept, licences, day, pins, peaks, prices, [k for k in disputed if k not in without])
    buys = []
    for licence in licences:
        over = assignment.used(licence.key) - (licence.quantity or 0)
        if licence.key in prices and over > 0:
            pack = max(1, licence.pack)
            units = -(-over // pack) * pack
            buys.append(Buy(licence, units, units * licence.price))
    return _Bought(assignment, buys, assignment.uncovered)


def by_licence(moves: Sequence[Move]) -> dict[tuple[int, int], list[Move]]:
    """Return moves by the licences they go from and to."""
    out: dict[tuple[int, int], list[Move]] = defaultdict(list)
    for move in moves:
        out[move.before.key, move.after.key].append(move)
    return dict(out)
