"""Grades of findings: the tree's answers that follow from the vulnerability, and those that follow from the device."""

from dataclasses import dataclass
from ipaddress import ip_address
from typing import Any

import numpy as np

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE
from tarn.apps.exposure.advisories import Known
from tarn.core.exposure.grade import GRADES, SHIPPED, Graded, due, graded, of_vulnerability, read_tree

TREE = read_tree(SHIPPED)
DAY = 86_400


@dataclass(frozen=True)
class Devices:
    """What of devices a grade asks for: whether they can be reached from outside, by asset number."""

    outside: Any


_devices: Remembered[Devices] = Remembered("devices reached from outside", EVIDENCE, most=4)


def devices(at: int | None) -> Devices:
    """Return what was so of devices at a moment."""
    return _devices.get(at, lambda: _read(at))


def _read(at: int | None) -> Devices:
    db, then = raw_connection(), holds("s", at)
    (most,) = db.execute("SELECT coalesce(max(id), 0) FROM estate_asset").fetchone()
    outside = np.zeros(most + 1, dtype=bool)
    for asset, address in db.execute(
        f"SELECT s.asset_id, s.address FROM estate_assetspan s WHERE s.address IS NOT NULL AND {then.text}", then.values
    ):
        outside[asset] = from_outside(address)
    return Devices(outside)


def from_outside(address: str) -> bool:
    """Whether an address is one the whole internet can route to (RFC 6890)."""
    try:
        return ip_address(address).is_global
    except ValueError:
        return False


def grade_of(known: Known, outside: bool) -> Graded:
    """Return the grade of a vulnerability on a device, with its steps."""
    answers = of_vulnerability(known.used is not None, known.chance, known.score.vector if known.score else "")
    inside = ("inside", "its address leads nowhere from the internet")
    answers["reach"] = ("outside", "its address can be reached from the internet") if outside else inside
    answers["importance"] = ("usual", "nobody has said that much hangs on it")
    return graded(TREE, answers)


def promised(grade: Any, since: Any) -> Any:
    """Return by finding when its promised days are over, of grades as places in GRADES; 0 where none are promised."""
    days = np.array([due(g) or 0 for g in GRADES], dtype=np.int64)[grade]
    return np.where(days > 0, since.astype(np.int64) + days * DAY, 0)


def late(grade: Any, since: Any, at: int) -> Any:
    """Return by finding whether its promised days were over before a moment."""
    over = promised(grade, since)
    return (over > 0) & (over < at)


def grades(rows: Any, known: dict[int, Known], at: int | None) -> Any:
    """Return the grade of each finding, as its place in GRADES."""
    outside = devices(at).outside[rows["asset"]]
    out = np.empty(len(rows), dtype=np.int8)
    numbers, where = np.unique(rows["vulnerability"], return_inverse=True)
    for there in (False, True):
        by_number = np.array([GRADES.index(grade_of(known[n], there).grade) for n in numbers.tolist()], dtype=np.int8)
        if len(by_number):
            out[outside == there] = by_number[where][outside == there]
    return out
