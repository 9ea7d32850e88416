"""What runs where, as of a moment or ever: the distinct looks of processes, and the devices that have them."""

import json
from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass

from tarn.apps.estate.asking.ask import context
from tarn.apps.estate.asking.places import Sql, holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import stays, touched
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE, counted
from tarn.apps.services.models import Recogniser
from tarn.core.filters.parse import FilterError
from tarn.core.programs import recognising
from tarn.core.programs.features import Seen, look


@dataclass(frozen=True, slots=True)
class Place:
    """Where a look is: the device, how many of them, since when they run, and since when it is known of the device."""

    asset: int
    count: int
    started: int | None
    since: int


Running = Mapping[Seen, tuple[Place, ...]]


@dataclass(frozen=True, slots=True)
class _Read:
    """What runs where, and by device which looks it has: by that it is carried on."""

    looks: Running
    of: Mapping[int, tuple[Seen, ...]]


_ROWS = (
    "SELECT p.command, p.name, p.account, p.listens, p.unit, p.asset_id, ifnull(p.count, 1), p.started, p.valid_from "
    "FROM estate_processesspan p"
)


def running(at: int | None) -> Running:
    """Return what runs where, as of a moment."""
    return _at(at).looks


def looks_of(asset: int) -> tuple[Seen, ...]:
    """Return the looks of what runs on a device now."""
    return _at(None).of.get(asset, ())


def _at(at: int | None) -> _Read:
    return _running.get(at, lambda: _read(holds("p", at)), lambda before, since: _carried_on(before, at, since))


def ever() -> Running:
    """Return whatever was ever seen to run, and where."""
    return _running.get("ever", lambda: _read(Sql("1")), lambda before, since: _again(before, Sql("1"), since)).looks


def _read(condition: Sql) -> _Read:
    """Return what runs where, of the rows of which a condition holds."""
    looks: dict[Seen, list[Place]] = defaultdict(list)
    of: dict[int, list[Seen]] = defaultdict(list)
    for command, name, account, listens, unit, asset, count, started, since in raw_connection().execute(
        f"{_ROWS} WHERE {condition.text}", condition.values
    ):
        seen = Seen(command, name or "", account or "", listens or "", unit or "")
        looks[seen].append(Place(asset, count, started, since))
        of[asset].append(seen)
    return _Read({s: tuple(places) for s, places in looks.items()}, {a: tuple(seen) for a, seen in of.items()})


def _carried_on(before: _Read, at: int | None, since: int) -> _Read | None:
    if at is None:
        return _again(before, holds("p", None), since)
    return before if stays(at, since) else None


def _again(before: _Read, condition: Sql, since: int) -> _Read | None:
    """Return what runs where, with the devices that were read after a sighting read anew; None where too many were."""
    devices = touched(since, _MOST_READ)
    if devices is None:
        return None
    left: dict[Seen, set[int]] = defaultdict(set)
    for asset in devices:
        for seen in before.of.get(asset, ()):
            left[seen].add(asset)
    looks, of = dict(before.looks), dict(before.of)
    for seen, assets in left.items():
        looks[seen] = tuple(p for p in looks[seen] if p.asset not in assets)
    among = "p.asset_id IN (SELECT value FROM json_each(?))"
    fresh = _read(Sql(f"{among} AND {condition.text}", [json.dumps(devices), *condition.values]))
    for asset in devices:
        of.pop(asset, None)
    for seen, places in fresh.looks.items():
        looks[seen] = (*looks.get(seen, ()), *places)
    return _Read({s: places for s, places in looks.items() if places}, {**of, **fresh.of})


_running: Remembered[_Read] = Remembered("what runs where", EVIDENCE, most=3)
_MOST_READ = 5_000
"""Devices read anew up to which what runs is carried on; with more all of it is read as quickly."""


RECOGNISERS = counted("recognisers")
"""Recognisers, and what people say of unknown programs."""


@dataclass(frozen=True)
class Known:
    """The recognisers in force, made ready, those that say which program it is first; by number in words what is wrong
    with one that cannot be asked any more."""

    ready: tuple[recognising.Recogniser, ...]
    wrong: Mapping[int, str]


def recognisers() -> Known:
    """Return the recognisers in force."""
    return _known.get("in force", _ready)


def _ready() -> Known:
    ready, wrong, asked = [], {}, context(None)
    for one in Recogniser.objects.filter(in_force=True):
        try:
            holds_of = recognising.fits(one.rule, asked)
        except (FilterError, recognising.RuleFault) as error:
            wrong[one.pk] = str(error)
            continue
        ready.append(recognising.Recogniser(one.pk, one.name, holds_of, one.version, one.instance, one.general))
    return Known(tuple(ready), wrong)


_known: Remembered[Known] = Remembered("recognisers", RECOGNISERS, DEFINITIONS, most=1)


def recognised(at: int | None) -> Mapping[Seen, recognising.Recogniser | None]:
    """Return which recogniser fits each look there is at a moment."""
    return _recognised.get(at, lambda: _looked_up(running(at)))


def _looked_up(looks: Collection[Seen]) -> Mapping[Seen, recognising.Recogniser | None]:
    known, ready = _fitting.get("in force", dict), recognisers().ready
    for seen in looks:
        if seen not in known:
            known[seen] = recognising.recognised(seen, ready)
    return {seen: known[seen] for seen in looks}


_fitting: Remembered[dict[Seen, recognising.Recogniser | None]] = Remembered(
    "recognised looks of programs", RECOGNISERS, DEFINITIONS, most=1
)
"""A look is recognised or not, wherever it runs: evidence only brings more of them."""


_recognised: Remembered[Mapping[Seen, recognising.Recogniser | None]] = Remembered(
    "recognised programs", EVIDENCE, RECOGNISERS, DEFINITIONS, most=3
)


def packaged(stems: frozenset[str], at: int | None) -> Mapping[str, frozenset[int]]:
    """Return by stem of a program the devices on which a package is installed that bears that name: `tixline` is
    explained by tixline-server, `corvidd` by corvid-protect."""
    return _packaged.get((stems, at), lambda: _by_package(stems, at))


def _by_package(stems: frozenset[str], at: int | None) -> Mapping[str, frozenset[int]]:
    names = {
        form: stem for stem in stems for form in (stem.casefold(), stem.casefold().removesuffix("d")) if len(form) > 2
    }
    db, wanted = raw_connection(), defaultdict[int, set[str]](set)
    for listing, name in db.execute("SELECT id, name_fold FROM estate_listing"):
        for word in {name, *name.replace("_", "-").replace(" ", "-").split("-")}:
            if word in names:
                wanted[listing].add(names[word])
    out: dict[str, set[int]] = defaultdict(set)
    then = holds("i", at)
    for listing, found in wanted.items():
        for (asset,) in db.execute(
            f"SELECT DISTINCT i.asset_id FROM estate_installspan i WHERE i.listing_id = ? AND {then.text}",
            [listing, *then.values],
        ):
            for stem in found:
                out[stem].add(asset)
    return {stem: frozenset(assets) for stem, assets in out.items()}


_packaged: Remembered[Mapping[str, frozenset[int]]] = Remembered("programs by package", EVIDENCE, most=4)


def unknown(at: int | None) -> Running:
    """Return what runs and nothing explains: not the system's own, of no package that bears its name on that device,
    and known by no recogniser that says which program it is."""
    return _unknown.get(at, lambda: _unexplained(at))


def _unexplained(at: int | None) -> Running:
    by = recognised(at)
    left = {
        s: places
        for s, places in running(at).items()
        if not look(s).of_system and ((hit := by.get(s)) is None or hit.general)
    }
    explained = packaged(frozenset(look(s).program for s in left if not look(s).runs), at)
    out: dict[Seen, tuple[Place, ...]] = {}
    for seen, places in left.items():
        here = explained.get(look(seen).program, frozenset()) if not look(seen).runs else frozenset()
        if kept := tuple(p for p in places if p.asset not in here):
            out[seen] = kept
    return out


_unknown: Remembered[Running] = Remembered("unknown programs", EVIDENCE, RECOGNISERS, DEFINITIONS, most=3)
