"""History read from spans: what was installed, removed, and, paired, updated."""

from collections import defaultdict
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from tarn.core.versions import version_key

Verb = Literal["installed", "removed", "updated", "rolled back", "added", "changed", "renamed", "started", "signed in"]


@dataclass(frozen=True, slots=True)
class Edge:
    """A span's beginning or end: at `at`, `release` of `thing` began (True) or ended (False) on `asset`.

    `listed` is the name it went under, where that is another than the thing's.
    """

    asset: int
    thing: str
    release: str
    at: int
    begins: bool
    listed: str = ""


@dataclass(frozen=True, slots=True)
class Change:
    """One line of history. `before` and `after` are releases or values; None where there was none."""

    asset: int
    thing: str
    verb: Verb
    before: str | None
    after: str | None
    at: int


def pair(edges: list[Edge], readings: dict[int, list[int]] | None = None) -> list[Change]:
    """Turn the edges of installations into changes, the newest first.

    A release that ends and one of the same product that begins in the same reading, or in
    the next (`readings[asset]`: times of its readings, ascending), are one update; to a lower
    release, a roll-back; to the same release under another name, a renaming. Several of each
    are paired in order of version.
    """
    groups: dict[tuple[int, str], list[Edge]] = defaultdict(list)
    for edge in edges:
        groups[edge.asset, edge.thing].append(edge)
    out: list[Change] = []
    for (asset, thing), several in groups.items():
        times = (readings or {}).get(asset, [])
        following = dict(pairwise(times))
        ends = sorted((e for e in several if not e.begins), key=lambda e: (e.at, version_key(e.release)))
        begins = sorted((e for e in several if e.begins), key=lambda e: (e.at, version_key(e.release)))
        for end in ends:
            near = {end.at, following.get(end.at)}
            partner = next((b for b in begins if b.at in near or following.get(b.at) == end.at), None)
            if partner is None:
                out.append(Change(asset, thing, "removed", end.release, None, end.at))
                continue
            begins.remove(partner)
            at = max(end.at, partner.at)
            if partner.release == end.release:
                out.append(Change(asset, thing, "renamed", end.listed, partner.listed, at))
                continue
            back = version_key(partner.release) < version_key(end.release)
            verb: Verb = "rolled back" if back else "updated"
            out.append(Change(asset, thing, verb, end.release, partner.release, at))
        out += [Change(asset, thing, "installed", None, b.release, b.at) for b in begins]
    return sorted(out, key=lambda c: (-c.at, c.thing))
