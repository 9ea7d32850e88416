"""The edges of what stands on what, resolved of spans as of a moment, and carried on by the devices that were read.

What is resolved is kept by how it came about: talk, which most edges are, row by row as devices told it; all else by
what it follows from, so that it is resolved again only where that is another.
"""

import json
import time
from collections.abc import Callable, Collection, Iterable, Mapping, Set
from dataclasses import dataclass, replace
from itertools import count
from typing import Any

import numpy as np
import numpy.typing as npt

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.evidence import earliest, stays, touched
from tarn.apps.services.models import Noise
from tarn.apps.services.standing.clusters import kept_by_clusters
from tarn.apps.services.standing.neighbours import ways_out
from tarn.apps.services.standing.pairs import stand_ins
from tarn.apps.services.standing.power import powered
from tarn.apps.services.standing.told import guests, links, mounts, moving, opened
from tarn.apps.services.standing.whose import addresses, last_read, names, plates_hashed
from tarn.core.standing.columns import KIND, Edges, Numbers, Words, alike, table_of
from tarn.core.standing.edge import HEARD_WITHIN, Edge
from tarn.core.standing.graph import Graph
from tarn.core.standing.talk import Known, Talk, talk, talk_again, tellings

_MOST_READ = 20_000
"""Devices read anew up to which edges are carried on; with more all are resolved as quickly."""
_ASSETS, _NAMES, _ADDRESSES = "assets", "names", "addresses"
_WATCHED: Mapping[str, str] = {
    "guests": "1",
    "forwarding": "1",
    "neighbours": "1",
    "interfaces": "1",
    "outlets": "1",
    "share_users": "1",
    "dns_names": "1",
    "cluster_parts": "1",
    "addresses": "1",
    "filesystems": "(x.device LIKE '%:/%' OR x.device LIKE '//%')",
    "field": "x.field = 'fed_by'",
}
"""By list of evidence that edges follow from, beside talk, the condition for the rows of it `x` that do."""


@dataclass(frozen=True)
class Whose:
    """What edges are resolved by, as of a moment: who has which address and name, when each was read, one number for
    each device's plate, and who stands in for whom."""

    now: int
    addresses: Mapping[str, int]
    names: Mapping[str, int]
    read: Mapping[int, int]
    plates: Mapping[int, int]
    ready: Mapping[str, frozenset[int]]


@dataclass(frozen=True)
class Step:
    """One time that edges were resolved again: its number, and the devices with an end in any that may be another; None
    where all were resolved."""

    number: int
    ends: frozenset[int] | None


_MOST_STEPS = 16


@dataclass(frozen=True)
class Resolved:
    """A graph and what it was resolved of. `behind`: talk of somebody behind a way out, whose address is translated
    there (NAT, RFC 3022): it comes from the way out's address, and the way out tells of none. `newest`: by list of
    evidence the last of its rows there was; `parts`: rows of edges by what they came of; `told`: talk as devices told
    it; `owner`: who has the address of that number among words; `gates`: the ways out; `version`: another number where
    any edge came or went, in this process; `steps`: what was resolved again of late, the last at the end."""

    graph: Graph
    behind: Edges
    newest: Mapping[str, int]
    whose: Whose
    parts: Mapping[str, npt.NDArray[Any]]
    told: npt.NDArray[Any]
    owner: Numbers
    gates: Numbers
    version: int
    steps: tuple[Step, ...]


_PARTS: Mapping[str, tuple[Callable[[int | None, Whose], Iterable[Edge]], frozenset[str]]] = {
    "guests": (lambda at, w: guests(at, w.read), frozenset({"guests", _ASSETS})),
    "moving": (lambda at, w: moving(at, w.read, w.names), frozenset({"guests", "cluster_parts", _ASSETS, _NAMES})),
    "links": (lambda at, w: links(at, w.read), frozenset({"forwarding", "neighbours", "interfaces", _ASSETS})),
    "power": (lambda at, w: powered(at, w.read, w.names), frozenset({"outlets", "field", _NAMES})),
    "mounts": (
        lambda at, w: mounts(at, w.read, w.names, w.addresses),
        frozenset({"filesystems", _NAMES, _ADDRESSES}),
    ),
    "opened": (
        lambda at, w: opened(at, w.read, w.names, w.addresses),
        frozenset({"share_users", _NAMES, _ADDRESSES}),
    ),
}
"""By what edges come of what resolves them, and what they follow from."""
TALK = "talk"


def resolve(at: int | None) -> Resolved:
    """Return the graph as of a moment, resolved of all there is."""
    newest, now, known = _newest(), _now(at), names(at)
    whose = Whose(now, addresses(at), known, last_read(at), plates_hashed(at), _ready(at, known))
    words = Words()
    parts = {part: table_of(make(at, whose), words) for part, (make, _) in _PARTS.items()}
    told = _told(now, words)
    owner = _owner(whose.addresses, words, np.zeros(0, np.int64))
    parts[TALK] = talk(told, _known(whose, owner, words), words)
    gates = np.array(sorted(ways_out(at)), np.int64)
    steps = (Step(next(_STEPS), None),)
    return Resolved(*_graph(parts, words, gates), newest, whose, parts, told, owner, gates, next(_VERSIONS), steps)


_VERSIONS, _STEPS = count(1), count(1)


def carried_on(before: Resolved, at: int | None, since: int) -> Resolved | None:
    """Return the graph made of what it was before a sighting: what devices read since do not touch stays as it is.
    Returns None where too many were read, or evidence of the past has come that a past day is told by."""
    if at is not None:
        return before if stays(at, since) else None
    newest, devices = _newest(), touched(since, _MOST_READ)
    if devices is None:
        return None
    plates = plates_hashed(None, devices)
    fresh = _changed(before, devices, plates, earliest(since) or 0)
    whose = _whose(before.whose, devices, plates, fresh)
    words, same, ends = before.graph.edges.words, True, set[int]()
    parts: dict[str, npt.NDArray[Any]] = {}
    for part, (make, rests_on) in _PARTS.items():
        was, redone = before.parts[part], bool(rests_on & fresh)
        kept = table_of(make(at, whose), words) if redone else _heard_again(was, devices, whose.read)
        parts[part] = kept[~_silent(kept, whose.now)]
        same = same and (alike(was, parts[part]) if redone else len(was) == len(parts[part]))
        if redone or len(was) != len(parts[part]):
            ends |= _ends(was) | _ends(parts[part])
    spoken, owner = _talk_again(before, whose, devices, words)
    parts[TALK] = spoken.edges
    version = before.version if same and spoken.same else next(_VERSIONS)
    gates = np.array(sorted(ways_out(at)), np.int64) if _ASSETS in fresh else before.gates
    known = frozenset(ends | spoken.again) if np.array_equal(gates, before.gates) else None
    step = Step(next(_STEPS), known)
    steps = (*before.steps[-_MOST_STEPS:], step)
    return Resolved(*_graph(parts, words, gates), newest, whose, parts, spoken.told, owner, gates, version, steps)


def _ends(table: npt.NDArray[Any]) -> set[int]:
    return {*table["stands"].tolist(), *table["on"].tolist()}


def since_step(now: Resolved, number: int) -> frozenset[int] | None:
    """Return the devices with an end in any edge that may be another since a step; None where that is not known, or all
    may be."""
    if now.steps[0].number > number:
        return None
    met = [step.ends for step in now.steps if step.number > number]
    return None if None in met else frozenset().union(*(ends for ends in met if ends is not None))


def _now(at: int | None) -> int:
    return at if at is not None else int(time.time())


def _graph(parts: Mapping[str, npt.NDArray[Any]], words: Words, gates: Numbers) -> tuple[Graph, Edges]:
    """Return the graph, and what is no part of it: talk that came through a way out from behind it."""
    table = np.concatenate(list(parts.values()))
    of_others = (table["kind"] == KIND["talks to"]) & np.isin(table["stands"], gates)
    of_others &= (table["witness"] != table["stands"][:, None]).all(axis=1)
    return Graph(Edges(table[~of_others], words), {}, {}), Edges(table[of_others], words)


def _newest() -> dict[str, int]:
    """Return by list of evidence the last of its rows. It is asked before anything is read: what comes meanwhile is
    then newer."""
    db = raw_connection()
    return {part: db.execute(f"SELECT ifnull(max(id), 0) FROM estate_{part}span").fetchone()[0] for part in _WATCHED}


def _changed(before: Resolved, devices: Collection[int], plates: Mapping[int, int], first: int) -> set[str]:
    """Return the lists of evidence, beside talk, that tell otherwise of some devices than before: a row that is new, or
    one that ended no earlier than the first of the evidence that came. `plates`: of these devices, as they are now."""
    chosen, db, out = json.dumps(list(devices)), raw_connection(), set[str]()
    among = "x.asset_id IN (SELECT value FROM json_each(?))"
    for part, condition in _WATCHED.items():
        (new,) = db.execute(
            f"SELECT EXISTS(SELECT 1 FROM estate_{part}span x WHERE {among} AND x.valid_to IS NULL AND x.id > ? "
            f"AND {condition}) OR EXISTS(SELECT 1 FROM estate_{part}span x WHERE {among} AND x.valid_to >= ? "
            f"AND {condition})",
            [chosen, before.newest[part], chosen, first],
        ).fetchone()
        if new:
            out.add(part)
    if any(plates.get(a) != before.whose.plates.get(a) for a in devices):
        out |= {_ASSETS, _NAMES, _ADDRESSES}
    if "dns_names" in out:
        out.add(_NAMES)
    return out


def _whose(before: Whose, devices: Collection[int], plates: Mapping[int, int], fresh: Set[str]) -> Whose:
    """Return what edges are resolved by now."""
    known = names(None) if _NAMES in fresh else before.names
    return replace(
        before,
        now=_now(None),
        addresses=addresses(None) if _ADDRESSES in fresh else before.addresses,
        names=known,
        read=_instead(before.read, devices, last_read(None, devices)),
        plates=_instead(before.plates, devices, plates),
        ready=_ready(None, known) if {"interfaces", "cluster_parts", _ADDRESSES, _NAMES} & fresh else before.ready,
    )


def _instead(before: Mapping[int, int], devices: Collection[int], now: Mapping[int, int]) -> dict[int, int]:
    """Return what was told of each device, with what is told of some now in its stead."""
    gone = set(devices)
    return {a: told for a, told in before.items() if a not in gone} | dict(now)


def _heard_again(table: npt.NDArray[Any], devices: Collection[int], read: Mapping[int, int]) -> npt.NDArray[Any]:
    """Return edges of which nothing is another but that witnesses were read again, and said the same."""
    if not len(table):
        return table
    there = np.fromiter(devices, np.int64)
    when = np.array([read.get(a, 0) for a in there.tolist()], np.int64)
    order = np.argsort(there)
    there, when, out = there[order], when[order], table.copy()
    by_word = table["kind"] == KIND["powered by"]
    for n in (0, 1):
        witness = table["witness"][:, n]
        # What is said of a device is said, whenever it is read; what its source tells is told at each reading.
        rows = np.flatnonzero(np.isin(witness, there) & ~table["quiet"] & (~by_word | (witness == table["on"])))
        out["heard"][rows] = np.maximum(out["heard"][rows], when[np.searchsorted(there, witness[rows])])
    return out


def _silent(table: npt.NDArray[Any], now: int) -> npt.NDArray[np.bool_]:
    """Return which edges have been quiet for too long to count."""
    return table["quiet"] & (table["heard"] <= now - HEARD_WITHIN)


def _told(now: int, words: Words, devices: Collection[int] | None = None) -> npt.NDArray[Any]:
    """Return what all devices, or some, tell of their talk, as long as it counts."""
    among = "" if devices is None else "AND c.asset_id IN (SELECT value FROM json_each(?))"
    chosen = [] if devices is None else [json.dumps(list(devices))]
    rows: list[Any] = []
    # Open and closed spans have an index each.
    for part in ("c.valid_to IS NULL", "c.valid_to > ?"):
        values = [*([now - HEARD_WITHIN] if "?" in part else []), *chosen, now]
        rows += raw_connection().execute(
            "SELECT c.asset_id, c.direction, c.process, c.peer, c.port, c.valid_from, c.valid_to "
            f"FROM estate_connectionsspan c WHERE {part} {among} AND c.valid_from <= ?",
            values,
        )
    return tellings(rows, words)


def _ready(at: int | None, names: Mapping[str, int]) -> Mapping[str, frozenset[int]]:
    """Return by address who would hold it were its holder gone: by turns, or by their cluster."""
    return {**kept_by_clusters(at, names), **stand_ins(at)}


def _owner(addresses: Mapping[str, int], words: Words, known: Numbers) -> Numbers:
    """Return by number of a word the device whose address it is; `known`: of the first words, as it was."""
    more = [addresses.get(words[n], 0) for n in range(len(known), len(words))]
    return np.concatenate([known, np.array(more, np.int64)])


def _known(whose: Whose, owner: Numbers, words: Words) -> Known:
    said = [(n.process.casefold(), n.port) for n in Noise.objects.all()]

    def noise(process: str, port: int) -> bool:
        named = process.casefold()
        return any((not p or p == named) and (n is None or n == port) for p, n in said)

    ready = {words.number(address): of for address, of in whose.ready.items()}
    return Known(whose.now, owner, whose.read, noise, ready)


def _talk_again(before: Resolved, whose: Whose, devices: Collection[int], words: Words) -> tuple[Talk, Numbers]:
    """Return what is told of talk and the edges it is, and who has which address: resolved again where an end was read,
    or its address is another's now."""
    again, addresses_before = set(devices), before.whose.addresses
    if whose.addresses is not addresses_before:
        was, is_now = addresses_before, whose.addresses
        moved = {a for a in was.keys() | is_now.keys() if was.get(a) != is_now.get(a)}
        again |= {held[a] for held in (was, is_now) for a in moved if a in held}
    for held_by in (before.whose, whose):
        again |= {a for address, of in held_by.ready.items() for a in (held_by.addresses.get(address, 0), *of)}
    fresh = _told(whose.now, words, devices)
    known_of = before.owner if whose.addresses is addresses_before else before.owner[:0]
    owner = _owner(whose.addresses, words, known_of)
    talk_before = Talk(before.told, before.parts[TALK])
    return talk_again(talk_before, fresh, devices, again, _known(whose, owner, words), words), owner
