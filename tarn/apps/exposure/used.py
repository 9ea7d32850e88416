"""What attackers use: by device the names of what it is open to and is not accepted, of those known to be used."""

from collections import defaultdict
from collections.abc import Mapping

import numpy as np

from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE, LISTED
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.grading import accepted
from tarn.apps.exposure.ground import ADVISORIES, OWN
from tarn.apps.exposure.shown import touching

_used: Remembered[Mapping[int, tuple[str, ...]]] = Remembered(
    "what attackers use", EVIDENCE, LISTED, ADVISORIES, OWN, most=3
)


def used_on(at: int | None) -> Mapping[int, tuple[str, ...]]:
    """Return by asset the names of vulnerabilities in use that it is open to, as of a moment."""
    return _used.get(at, lambda: _read(at))


def _read(at: int | None) -> Mapping[int, tuple[str, ...]]:
    rows = findings().at(at)
    rows = rows[~accepted.mask(rows, at)]
    known = touching(at)
    used = {n: k.name for n, k in known.items() if k.used is not None}
    rows = rows[np.isin(rows["vulnerability"], np.array(sorted(used), dtype=rows["vulnerability"].dtype))]
    out: dict[int, set[str]] = defaultdict(set)
    for asset, number in zip(rows["asset"].tolist(), rows["vulnerability"].tolist(), strict=True):
        out[asset].add(used[number])
    return {asset: tuple(sorted(names)) for asset, names in out.items()}
