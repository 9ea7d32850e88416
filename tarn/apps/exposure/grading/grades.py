"""Grades of findings: the tree's answers that follow from the vulnerability, and those that follow from the device."""

from dataclasses import dataclass
from functools import lru_cache
from ipaddress import ip_address
from typing import Any

import numpy as np

from tarn.apps.discovery.networks.places import outside_ranges
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import EVIDENCE
from tarn.apps.exposure.finding.advisories import Known
from tarn.apps.exposure.grading.policy import policy
from tarn.apps.exposure.ground import CARRIED
from tarn.apps.people.scope import NOBODY, asking_as
from tarn.core.exposure.grade import GRADES, Graded, Tree, graded, of_vulnerability
from tarn.core.kinds import MUCH_BY_SERVICES, MUCH_SAID
from tarn.core.ranges import AddressRange, parse_ranges


@dataclass(frozen=True)
class Devices:
    """What of devices a grade asks for, by asset number: whether they can be reached from outside, and whether much
    hangs on them; `marked`: those whose network is marked so, their own address being none of the internet's;
    `carrying`: those on which much hangs by the services that stand on them alone."""

    outside: Any
    important: Any
    marked: frozenset[int]
    carrying: frozenset[int]


_devices: Remembered[Devices] = Remembered("devices reached from outside", EVIDENCE, CARRIED, most=4)


def devices(at: int | None) -> Devices:
    """Return what was so of devices at a moment."""
    marked = outside_ranges()
    return _devices.get((at, marked), lambda: _read(at, marked))


def _read(at: int | None, marked: tuple[str, ...]) -> Devices:
    db, then = raw_connection(), holds("s", at)
    (most,) = db.execute("SELECT coalesce(max(id), 0) FROM estate_asset").fetchone()
    outside, important = (np.zeros(most + 1, dtype=bool) for _ in range(2))
    ranges, by_network = parse_ranges(list(marked)), set()
    for asset, address in db.execute(
        f"SELECT s.asset_id, s.address FROM estate_assetspan s WHERE s.address IS NOT NULL AND {then.text}", then.values
    ):
        outside[asset] = from_outside(address)
        if not outside[asset] and ranges and _lies_in(address, ranges):
            outside[asset] = True
            by_network.add(asset)
    with asking_as(NOBODY):
        important[ids(question(MUCH_SAID, at, standing=None))] = True
        carrying = [a for a in ids(question(MUCH_BY_SERVICES, at, standing=None)) if not important[a]]
    important[carrying] = True
    return Devices(outside, important, frozenset(by_network), frozenset(carrying))


@lru_cache(100_000)
def from_outside(address: str) -> bool:
    """Whether an address is one the whole internet can route to (RFC 6890)."""
    try:
        return ip_address(address).is_global
    except ValueError:
        return False


def _lies_in(address: str, ranges: list[AddressRange]) -> bool:
    try:
        return any(ip_address(address) in r for r in ranges)
    except ValueError:
        return False


def grade_of(
    known: Known, outside: bool, important: bool, tree: Tree, *, marked: bool = False, carrying: bool = False
) -> Graded:
    """Return the grade of a vulnerability on a device, with its steps; of a rule of our own it is the rule's."""
    if known.own is not None:
        return Graded(known.own.grade, ())
    answers = of_vulnerability(known.used is not None, known.chance, known.score.vector if known.score else "")
    by = "its network is marked as reached from outside" if marked else "its address can be reached from the internet"
    inside = ("inside", "its address leads nowhere from the internet, and its network is not marked so")
    answers["reach"] = ("outside", by) if outside else inside
    usual = ("usual", "nobody has said that much hangs on it")
    why = "a service stands on it on which much hangs" if carrying else "somebody, or a fill rule, says so of it"
    answers["importance"] = ("high", why) if important else usual
    return graded(tree, answers)


def grades(rows: Any, known: dict[int, Known], at: int | None, tree: Tree | None = None) -> Any:
    """Return the grade of each finding, as its place in GRADES, by the tree that stood; another, where one is given."""
    told = devices(at)
    tree = tree or policy(at).tree
    outside, important = told.outside[rows["asset"]], told.important[rows["asset"]]
    out = np.empty(len(rows), dtype=np.int8)
    numbers, where = np.unique(rows["vulnerability"], return_inverse=True)
    for there in (False, True):
        for much in (False, True):
            mine = (outside == there) & (important == much)
            if not mine.any():
                continue
            by_number = [GRADES.index(grade_of(known[n], there, much, tree).grade) for n in numbers.tolist()]
            out[mine] = np.array(by_number, dtype=np.int8)[where[mine]]
    return out
