"""A whole position reckoned: part by part, so that what did not change since the last reckoning is carried on.

Licences that share no product, not even through others, have nothing to do with each other: each such part is assigned
and balanced by itself, and new evidence is reckoned only in the parts whose uses it changes.
"""

from collections import defaultdict
from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from datetime import date

from tarn.core.licensing.assign import Assignment, assign
from tarn.core.licensing.parts import linked
from tarn.core.licensing.position import Balance, LeftOut, balances
from tarn.core.licensing.rights import Licence, Use


@dataclass(frozen=True)
class Basis:
    """What a position of a day follows from. `names`: of products by number; `devices`: of devices by number."""

    day: date
    licences: list[Licence]
    uses: list[Use]
    pins: dict[int, int] = field(default_factory=dict)
    peaks: dict[int, int] = field(default_factory=dict)
    disputed: list[int] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)
    names: dict[int, str] = field(default_factory=dict)
    devices: dict[int, str] = field(default_factory=dict)


@dataclass(frozen=True)
class Part:
    """The position of licences that share products, and of what nothing licenses."""

    held: Assignment
    balances: list[Balance]


@dataclass(frozen=True)
class Position:
    """The assignment and the balances of a basis; `parts` by the products of each, to carry the next one on from."""

    held: Assignment
    balances: list[Balance]
    parts: dict[frozenset[int], Part] = field(repr=False)


def reckon(
    basis: Basis, before: Mapping[frozenset[int], Part] | None = None, changed: Collection[int] = ()
) -> Position:
    """Return the position of a basis; to disputed uses nothing is offered, and they count.

    `before`: parts of a position that differs by the uses of the `changed` products alone: the others are taken as
    they are. Raises MetricError, EntangledError, NotSolvedError.
    """
    disputed, stale = set(basis.disputed), set(changed)
    by_product: dict[int, list[Use]] = defaultdict(list)
    for use in basis.uses:
        by_product[use.product].append(use)
    parts: dict[frozenset[int], Part] = {}
    for products, licences in linked(basis.licences, by_product):
        kept = None if before is None or products & stale else before.get(products)
        parts[products] = kept or _part(basis, products, licences, by_product, disputed)
    told = sorted((b for p in parts.values() for b in p.balances), key=lambda b: (sorted(b.products), b.metric))
    return Position(_together(p.held for p in parts.values()), told, parts)


def _part(
    basis: Basis,
    products: frozenset[int],
    licences: list[Licence],
    by_product: Mapping[int, list[Use]],
    disputed: set[int],
) -> Part:
    uses = [u for p in sorted(products) for u in by_product.get(p, ())]
    mine = [u.key for u in uses if u.key in disputed]
    assignment = assign(uses, licences, basis.day, basis.pins, basis.peaks, disputed=mine)
    aside = [
        LeftOut(left.reason, {p: d for p, d in left.by_product.items() if p in products}) for left in basis.left_out
    ]
    return Part(
        assignment, balances(uses, licences, assignment, basis.day, aside, basis.devices, basis.pins, basis.peaks)
    )


def _together(parts: Iterable[Assignment]) -> Assignment:
    out = Assignment({}, {}, {}, [], {})
    for assignment in parts:
        out.licence_of.update(assignment.licence_of)
        out.right_of.update(assignment.right_of)
        out.bearers.update(assignment.bearers)
        out.uncovered.extend(assignment.uncovered)
        out.eligible.update(assignment.eligible)
    return out
