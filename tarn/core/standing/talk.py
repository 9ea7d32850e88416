"""Talk as devices tell of it, resolved to who calls whom: over columns, so that a million tellings take moments."""

from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from tarn.core.standing.columns import KIND, TABLE, Flags, Numbers, Words, alike, in_order, marked
from tarn.core.standing.edge import HEARD_WITHIN

TOLD = np.dtype(
    [
        ("teller", np.int64),
        ("out", np.bool_),
        ("process", np.int32),
        ("peer", np.int32),
        ("port", np.int32),
        ("begins", np.int64),
        ("ends", np.int64),
    ]
)
"""What a device tells of a connection: whether it calls, its process and the address at the other end by their numbers
among words, the port that is called, and from when to when it was told; ENDLESS while it still is."""
ENDLESS = np.iinfo(np.int64).max
PAIRED = 80
"""How sure it is that who shares a virtual address answers for the other, in percent."""
_PORTS = 1 << 16
_MOST_NODES = 1 << 23

Row = tuple[int, str, str | None, str, int, int, int | None]
"""Teller, direction (`out` where it calls), process, peer, port, begins, ends."""


def tellings(rows: Iterable[Row], words: Words) -> npt.NDArray[Any]:
    """Return rows of what devices tell as a table of TOLD."""
    number = words.number
    return np.array(
        [
            (a, way == "out", number(process or ""), number(peer), port, begins, ENDLESS if ends is None else ends)
            for a, way, process, peer, port, begins, ends in rows
        ],
        TOLD,
    )  # fmt: skip


@dataclass(frozen=True)
class Known:
    """What tellings are resolved by, as of `now`: `owner` by number of an address the device that has it, 0 where none
    or several do; `read` by device the moment it was last read; `noise` by process and port; `ready` by number of a
    virtual address the devices that would hold it."""

    now: int
    owner: Numbers
    read: Mapping[int, int]
    noise: Callable[[str, int], bool]
    ready: Mapping[int, Collection[int]]


def talk(told: npt.NDArray[Any], known: Known, words: Words) -> npt.NDArray[Any]:
    """Return who calls whom, over which port, as rows of edges: each once, whichever end says so; both ends are surer
    than one. Where all that one end tells of it is noise, it is noise, by whatever name the other end knows it. Raises
    OverflowError for devices numbered beyond eight million."""
    other = known.owner[told["peer"]]
    resolved = (other > 0) & (other != told["teller"])
    told, other = told[resolved], other[resolved]
    if not len(told):
        return np.zeros(0, TABLE)
    caller, called = np.where(told["out"], told["teller"], other), np.where(told["out"], other, told["teller"])
    nodes = int(max(caller.max(), called.max())) + 1
    if nodes > _MOST_NODES:
        raise OverflowError(f"device {nodes - 1} is numbered too high to tell its talk")
    pair = (caller * nodes + called) * _PORTS + told["port"]
    order = in_order(pair)
    told, caller, called, pair = told[order], caller[order], called[order], pair[order]
    first = np.append(True, np.diff(pair) != 0)
    group = np.cumsum(first) - 1
    size = int(group[-1]) + 1
    own = ~_noise(told, known, words)
    by_caller, by_called = _any(told["out"], group, size), _any(~told["out"], group, size)
    own_caller, own_called = _any(told["out"] & own, group, size), _any(~told["out"] & own, group, size)
    kept = (own_caller == by_caller) & (own_called == by_called)
    begins = np.flatnonzero(first)
    ended = told["ends"] <= known.now
    heard = np.where(ended, told["ends"], np.maximum(told["begins"], _last_read(told["teller"], known.read)))
    out = np.zeros(size, TABLE)
    out["stands"], out["on"], out["kind"] = caller[begins], called[begins], KIND["talks to"]
    numbers = {p: words.number(str(p)) for p in np.unique(told["port"]).tolist()}
    out["over"] = [numbers[p] for p in told["port"][begins].tolist()]
    out["since"] = np.minimum.reduceat(np.where(own, told["begins"], ENDLESS), begins)
    out["heard"] = np.maximum.reduceat(np.where(own, heard, 0), begins)
    out["quiet"] = ~_any(own & ~ended, group, size)
    out["sure"] = np.where(own_caller & own_called, 100, 90)
    first_of, second_of = np.where(own_caller, out["stands"], 0), np.where(own_called, out["on"], 0)
    ordered = np.sort(np.stack([first_of, second_of], axis=1), axis=1)
    out["witness"] = np.where(ordered[:, :1] == 0, ordered[:, ::-1], ordered)
    out["process"] = _processes(told, group, own, own_caller, words)
    stand_by = _falling_back(out, told, group, kept, known.ready)
    return np.concatenate([out[kept], stand_by]) if len(stand_by) else out[kept]


class Talk(NamedTuple):
    """What devices tell of talk, as TOLD has it, and the edges that is; `same`: they are those of the time before, but
    for what is told of those with an end among `again`."""

    told: npt.NDArray[Any]
    edges: npt.NDArray[Any]
    same: bool = True
    again: frozenset[int] = frozenset()


def talk_again(
    before: Talk,
    fresh: npt.NDArray[Any],
    devices: Collection[int],
    again: Collection[int],
    known: Known,
    words: Words,
) -> Talk:
    """Return talk after some devices told it anew (`fresh`): resolved again is what has an end among `again`, which
    holds these devices, and that of which something counts no more (HEARD_WITHIN); the rest stays as it is."""
    read = marked(devices, before.told["teller"])
    told = np.concatenate([before.told[~read[before.told["teller"]]], fresh])
    over = told["ends"] <= known.now - HEARD_WITHIN
    if over.any():
        again = {*again, *told["teller"][over].tolist()}
        told = told[~over]
    other, edges = known.owner[told["peer"]], before.edges
    redone = marked(again, edges["stands"], edges["on"], told["teller"], other)
    new = talk(told[redone[told["teller"]] | redone[other]], known, words)
    gone = (edges["kind"] == KIND["falls back on"]) | redone[edges["stands"]] | redone[edges["on"]]
    return Talk(told, np.concatenate([edges[~gone], new]), alike(edges[gone], new), frozenset(again))


def _any(rows: Flags, group: Numbers, size: int) -> Flags:
    """Return by group whether any of its rows is so."""
    out = np.zeros(size, np.bool_)
    out[group[rows]] = True
    return out


def _noise(told: npt.NDArray[Any], known: Known, words: Words) -> Flags:
    """Return which tellings are noise: asked once for each process and port there is."""
    same = told["process"].astype(np.int64) * _PORTS + told["port"]
    met, which = np.unique(same, return_inverse=True)
    return np.array([known.noise(words[n // _PORTS], n % _PORTS) for n in met.tolist()], np.bool_)[which]


def _last_read(tellers: Numbers, read: Mapping[int, int]) -> Numbers:
    met, which = np.unique(tellers, return_inverse=True)
    return np.array([read.get(a, 0) for a in met.tolist()], np.int64)[which]


def _processes(
    told: npt.NDArray[Any], group: Numbers, own: Flags, by_caller: Flags, words: Words
) -> npt.NDArray[np.int32]:
    """Return by group what calls: all the processes the caller tells, else the first of those the other end tells."""
    named = own & (told["process"] > 0)
    callers_own = named & told["out"]
    told_by_caller = _any(callers_own, group, len(by_caller))
    wanted = np.flatnonzero(np.where(told_by_caller[group], callers_own, named))
    met = np.unique(group[wanted] * len(words) + told["process"][wanted])
    where, process = np.divmod(met, max(len(words), 1))
    out = np.zeros(len(by_caller), np.int32)
    out[where] = process
    several: dict[int, list[str]] = defaultdict(list)
    many = np.bincount(where, minlength=len(by_caller)) > 1
    for place, number in zip(where[many[where]].tolist(), process[many[where]].tolist(), strict=True):
        several[place].append(words[number])
    for place, texts in several.items():
        out[place] = words.number(", ".join(sorted(texts)) if told_by_caller[place] else min(texts))
    return out


def _falling_back(
    edges: npt.NDArray[Any],
    told: npt.NDArray[Any],
    group: Numbers,
    kept: Flags,
    ready: Mapping[int, Collection[int]],
) -> npt.NDArray[Any]:
    """Return who would be called instead, were the holder of a virtual address gone, as rows of edges."""
    if not ready:
        return edges[:0]
    rows = np.flatnonzero(told["out"] & np.isin(told["peer"], list(ready)) & kept[group])
    instead = {
        (place, other)
        for place, peer in zip(group[rows].tolist(), told["peer"][rows].tolist(), strict=True)
        for other in ready[peer]
        if other not in (edges["stands"][place], edges["on"][place])
    }
    met = sorted(instead)
    out = edges[[place for place, _ in met]]
    out["on"], out["kind"], out["sure"] = [other for _, other in met], KIND["falls back on"], PAIRED
    return out
