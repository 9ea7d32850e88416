"""Whether licences cover a release that is to be brought to devices: the right to it, device by device."""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass, replace

from tarn.apps.estate.asking.dial import day_of
from tarn.apps.licences.reads.reckoning import reckoned
from tarn.apps.lifecycle.reads.support import release_days
from tarn.core.licensing.rights import may_cover


@dataclass(frozen=True, slots=True)
class UpgradeRights:
    """Of `of` devices with the product, how many no licence gives a right to the release, and why most often."""

    of: int
    without: int
    why: str


def rights_to(product: str, release: str, assets: Collection[int], at: int | None) -> UpgradeRights | None:
    """Return the rights to a release of a product on devices; None where no licence names the product.

    A release counts from the day it came out, or from today where that is not known.
    """
    whole = reckoned(at)
    number = next((n for n, name in whole.given.names.items() if name == product), None)
    licences = [one for one in whole.given.licences if number in one.products]
    if number is None or not licences:
        return None
    today, on = day_of(at), set(assets)
    came = release_days().of(product, release)
    uses = [
        replace(use, release=release, since=came or today, dated="released" if came else "installed")
        for use in whole.given.uses
        if use.product == number and use.device in on
    ]
    reasons: Counter[str] = Counter()
    without = 0
    for use in uses:
        rights = [may_cover(one, use, today) for one in licences]
        if not any(rights):
            without += 1
            reasons[rights[0].reason] += 1
    why = reasons.most_common(1)[0][0] if reasons else ""
    return UpgradeRights(len(uses), without, why)
