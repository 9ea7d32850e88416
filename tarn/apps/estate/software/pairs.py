"""What is installed where, as arrays: counted over any selection by a look-up and a bin count, no statement."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from tarn.apps.estate.software.catalogue import catalogue


def _places(asset: Any, devices: Any) -> Any:
    """Return where the pairs of some devices stand among pairs ordered by asset."""
    begins, ends = np.searchsorted(asset, devices, "left"), np.searchsorted(asset, devices, "right")
    long = ends - begins
    before = np.repeat(begins - np.concatenate(([0], np.cumsum(long)[:-1])), long) if len(devices) else begins
    return before + np.arange(int(long.sum()))


def distinct(numbers: Any) -> Any:
    """Return distinct whole numbers, ascending. By sorting: NumPy's own way by hashing takes far longer on millions."""
    return ascending(np.sort(numbers))


def ascending(ordered: Any) -> Any:
    """Return distinct whole numbers of those that are ordered already."""
    return ordered[np.concatenate(([True], ordered[1:] != ordered[:-1]))] if len(ordered) else ordered


@dataclass(frozen=True)
class Pairs:
    """Distinct pairs of asset and release, ordered by both; `product` and `listing` (listed name) beside each.

    `counted`: what was counted over all of them before, by roles: pairs of asset and product, and devices by product.
    """

    asset: Any
    release: Any
    listing: Any
    product: Any
    counted_before: dict[tuple[str, ...], tuple[Any, Any, Any]] = field(default_factory=dict)

    @cached_property
    def devices(self) -> Any:
        """The assets that have any software, ascending."""
        return ascending(self.asset)

    def by_product(self, roles: tuple[str, ...]) -> tuple[Any, Any, Any]:
        """Return distinct pairs of asset and product over entries of these roles (and release, where none is named),
        with the devices of each; worked out once.
        """
        found = self.counted_before.get(roles)
        if found is None:
            asset, what = self.asset, self.release
            if roles:
                fits = catalogue().of_roles(roles)[self.release]
                pairs = distinct(self.asset[fits].astype(np.int64) << 32 | self.product[fits])
                asset, what = (pairs >> 32).astype(np.int32), (pairs & 0xFFFFFFFF).astype(np.int32)
            found = self.counted_before[roles] = asset, what, np.bincount(what)
        return found

    def counted(self, roles: tuple[str, ...], wanted: Any) -> Any:
        """Return on how many wanted assets each product (or release) is.

        Pairs of one asset stand together, so only those of the lesser part are looked at, the wanted or the others.
        """
        asset, what, whole = self.by_product(roles)
        taken = wanted[self.devices]
        if 2 * np.count_nonzero(taken) <= len(taken):
            return np.bincount(what[_places(asset, self.devices[taken])])
        found = whole.copy()
        less = np.bincount(what[_places(asset, self.devices[~taken])])
        found[: len(less)] -= less
        return found


@dataclass(frozen=True)
class Installs:
    """What held: a body of pairs that many processes share, and what was read anew of some assets since.

    `gone`: the assets that were read anew, ascending; what the body has of them no longer counts.
    """

    body: Pairs
    gone: Any
    fresh: Pairs
    sighting: int = 0
    """The last sighting the body knows of, where it lies on disk; else nothing."""
    _wanted: dict[tuple[object, ...], Any] = field(default_factory=dict)

    @cached_property
    def devices(self) -> Any:
        """The assets that have any software, ascending."""
        if not len(self.gone):
            return self.body.devices
        return np.union1d(np.setdiff1d(self.body.devices, self.gone, assume_unique=True), self.fresh.devices)

    @cached_property
    def most(self) -> int:
        """One more than the highest number of an asset that has or had any software."""
        return 1 + max(
            (int(part[-1]) for part in (self.body.asset, self.gone, self.fresh.asset) if len(part)), default=0
        )

    def parts(self, wanted: Any) -> Iterator[tuple[Pairs, Any]]:
        """Yield the parts it is of, each with which of its assets are wanted. No asset counts in two."""
        if not len(self.gone):
            yield self.body, wanted
            return
        still = wanted.copy()
        still[self.gone] = False
        yield self.body, still
        yield self.fresh, wanted

    def counted(self, roles: tuple[str, ...], wanted: Any, most: int) -> Any:
        """Return on how many wanted assets each product (of entries of these roles; release where none is named) is.

        `wanted`: by asset number whether it counts.
        """
        out = np.zeros(most, dtype=np.int64)
        for part, mine in self.parts(wanted):
            found = part.counted(roles, mine)[:most]
            out[: len(found)] += found
        return out

    def devices_by(self, by: str, wanted: Any, product: int | None = None) -> dict[int, int]:
        """Return the number of wanted devices by release or listing, of one product where it is given."""
        found: dict[int, int] = {}
        for part, mine in self.parts(wanted):
            mask = mine[part.asset] if product is None else (part.product == product) & mine[part.asset]
            counts = np.bincount(
                distinct(part.asset[mask].astype(np.int64) << 32 | getattr(part, by)[mask]) & 0xFFFFFFFF
            )
            for number in np.flatnonzero(counts).tolist():
                found[number] = found.get(number, 0) + int(counts[number])
        return found

    def devices_of(self, wanted: Any, product: int) -> int:
        """Return on how many wanted devices a product is."""
        parts = self.parts(wanted)
        return sum(len(distinct(part.asset[(part.product == product) & mine[part.asset]])) for part, mine in parts)
