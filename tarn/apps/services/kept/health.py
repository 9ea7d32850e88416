"""How services stand: what is wrong with their members, and what nothing stands in for."""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE
from tarn.apps.people.scope import scope, visible
from tarn.apps.services.kept.members import SERVICES, Members, all_members
from tarn.apps.services.kept.results import SignOut
from tarn.apps.services.models import Service
from tarn.apps.services.running import RECOGNISERS
from tarn.apps.services.standing.impact import seen, seen_full
from tarn.apps.services.standing.picture import numbered
from tarn.core.filters.tree import quote
from tarn.core.standing.edge import Edge
from tarn.core.standing.falling import Mend, Single, mends, singles
from tarn.core.standing.graph import Graph
from tarn.core.standing.services import Watching


@dataclass(frozen=True)
class _Sign:
    """Something that may be wrong with a device, as a filter says it: what of one, and what of several."""

    key: str
    grade: Literal["bad", "warn"]
    one: str
    many: str
    filter: str


SIGNS = (
    _Sign("over", "bad", "has a certificate that is over", "have certificates that are over",
          "certificates[ends < now]"),
    _Sign("full", "bad", "has a file system nearly full", "have file systems nearly full", "filesystems[full >= 90]"),
    _Sign("late", "bad", "is open to something past its day", "are open to something past its day",
          "vulnerability[late = yes]"),
    _Sign("ends", "warn", "has a certificate that ends within 30 days", "have certificates that end within 30 days",
          "certificates[ends >= now and ends < now + 30d]"),
    _Sign("unsupported", "warn", "runs what is no longer supported", "run what is no longer supported",
          "support[ends < today]"),
    _Sign("unseen", "warn", "was not seen for a week", "were not seen for a week", "last_seen < now - 7d"),
)  # fmt: skip


def asking_for_members(service: Service) -> str:
    """Return the filter for the members of a service."""
    return f"serves[name = {quote(service.name)}]"


@dataclass(frozen=True)
class Standing:
    """How all services one may see stand at a moment, by the graph of devices, and by the full one that tells their
    programs apart; what nothing stands in for, and who has which sign, is found once it is asked for."""

    at: int | None
    graph: Graph
    full: Graph
    services: Mapping[int, Service]
    members: Mapping[int, Members]
    watching: Watching

    @cached_property
    def singles(self) -> list[Single]:
        """The single points, the worst first."""

        def points() -> list[Single]:
            return singles(self.full, most=10_000, services=self.watching)

        # Whoever sees part of the estate alone has single points of their own.
        return points() if scope() is not None else _singles.get(self.at, points)

    def mends_of(self, asset: int) -> list[Mend]:
        """Return what one more of something would mend of a single point, what saves most first."""

        def found() -> list[Mend]:
            return mends(self.full, asset, self.watching)

        return found() if scope() is not None else _mends.get((self.at, asset), found)

    def is_short(self, service: int) -> bool:
        """Whether a part of a service has fewer members than it needs."""
        return any(p.spare < 0 for p in self.members[service].as_parts)

    @cached_property
    def signs(self) -> Mapping[str, frozenset[int]]:
        """By sign the devices that have it."""
        return {s.key: frozenset(ids(question(s.filter, self.at))) for s in SIGNS} if self.services else {}

    @cached_property
    def quiet(self) -> tuple[Edge, ...]:
        """The talk that has gone quiet."""
        return tuple(self.graph.edges.gone_quiet)


def standing(at: int | None) -> Standing:
    """Return how services stand, as of a moment."""
    (there, mine), whole, every = seen(at), seen_full(at), all_members(at)
    services = {s.pk: s for s in visible(Service).select_related("organisation") if s.pk in every}
    held = {number: _seen(every[number], mine) for number in services}
    watching = Watching({number: m.as_parts for number, m in held.items()}, whole.hosts)
    return Standing(at, there, whole, services, held, watching)


_GROUNDS = (EVIDENCE, DEFINITIONS, SERVICES, RECOGNISERS)
_singles: Remembered[list[Single]] = Remembered("single points", *_GROUNDS, most=4)
_mends: Remembered[list[Mend]] = Remembered("what mends single points", *_GROUNDS, most=300)


def _seen(held: Members, mine: Collection[int]) -> Members:
    parts = {name: {a: why for a, why in of.items() if a in mine} for name, of in held.parts.items()}
    return Members(parts, held.needs, held.trouble)


def signs_of(number: int, standing: Standing, known: Mapping[int, dict[str, Any]]) -> list[SignOut]:
    """Return what is wrong with a service, the worst first. `known`: name and number of assets, its members' and of
    whatever it stands on."""
    service, held = standing.services[number], standing.members[number]
    mine, whole = held.all, asking_for_members(service)
    out: list[SignOut] = [_said("trouble", "bad", t, 0, None) for t in held.trouble]
    for part in held.as_parts:
        at_part = f"serves[name = {quote(service.name)} and part = {quote(part.name)}]"
        have = len(part.members)
        if not part.members:
            out.append(_said("empty", "warn", f"{part.name}: no device is known to be of it", 0, None))
        elif part.spare < 0:
            out.append(_said("short", "bad", f"{part.name}: it needs {part.needs} and has {have}", have, at_part))
        elif part.spare == 0:
            names = ", ".join(sorted(known[a]["name"] for a in part.members if a in known)[:3])
            alone = f"{names} alone" if have == 1 else f"all {have} of {names} …"
            out.append(_said("weak", "warn", f"{part.name}: it needs {alone}", have, at_part))
    for sign in SIGNS:
        if count := len(hit := mine & standing.signs.get(sign.key, frozenset())):
            name = next((known[a]["name"] for a in hit if a in known), "one")
            text = f"{name} {sign.one}" if count == 1 else f"{count} members {sign.many}"
            out.append(_said(sign.key, sign.grade, text, count, f"{whole} and {sign.filter}"))
    beneath = [s.asset for s in standing.singles if number in s.services and s.asset not in mine and s.asset in known]
    if beneath:
        names = ", ".join(known[a]["name"] for a in beneath[:3])
        text = f"it stops with {names}" + (f" and {len(beneath) - 3} more" if len(beneath) > 3 else "")
        out.append(_said("single", "warn", f"{text}, which it stands on", len(beneath), numbered(beneath, known)))
    callers = quiet_of(mine, standing.quiet)
    if callers:
        first = callers[0]
        text = f"{_name(first.stands, known)} has gone quiet towards {_name(first.on, known)} over {first.over}"
        more = {e.stands for e in callers if e.stands in known}
        text += f", and {len(callers) - 1} more" if len(callers) > 1 else ""
        out.append(_said("quiet", "warn", text, len(more), numbered(more, known) if more else None))
    return sorted(out, key=lambda s: s["grade"] != "bad")


def quiet_of(mine: Collection[int], quiet: Iterable[Edge]) -> list[Edge]:
    """Return the talk of members with others that was heard lately and is not heard now, the latest first."""
    return sorted((e for e in quiet if e.stands in mine or e.on in mine), key=lambda e: -e.heard)


def _name(asset: int, known: Mapping[int, dict[str, Any]]) -> str:
    return str(known[asset]["name"]) if asset in known else "somebody"


def _said(key: str, grade: Literal["bad", "warn"], text: str, devices: int, filter: str | None) -> SignOut:
    return {"key": key, "grade": grade, "text": text, "devices": devices, "filter": filter}
