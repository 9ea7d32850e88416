"""What is so of a device in an inquiry that may be out of the ordinary, and how ordinary it is in the whole estate."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.register.results import ChangeOut
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE
from tarn.apps.exposure.used import used_on
from tarn.apps.services.inquiry.devices import NEARLY, SOON, Device
from tarn.apps.services.kept.health import Standing
from tarn.apps.services.standing.edges import graph
from tarn.apps.services.standing.plates import plates
from tarn.core.inquiring import DAY, Fact
from tarn.core.standing.edge import Edge
from tarn.core.standing.graph import Graph, followed

CLOCK = 14 * DAY
"""How far back the one clock of an inquiry goes."""
_SAYS_LITTLE = frozenset(("signins", "connections", "processes", "share_users", "forwarding", "arp"))
"""Lists whose change is no event: they are never the same twice, or told elsewhere in an inquiry."""


LOSING = 100
"""So many frames lost in a million are worth a word."""


def fed_by(graph: Graph, asset: int) -> set[int]:
    """Return all that a device's power comes from, over any number of steps."""
    return followed([asset], lambda a: (e.on for e in graph.on.get(a) if e.kind == "powered by"))


def loses(lost: int) -> str:
    """Return in words what a port loses."""
    return f"loses {lost:,} in a million frames"


def tells(change: ChangeOut) -> bool:
    """Whether a change is an event."""
    return change["section"] not in _SAYS_LITTLE


def words_of(change: ChangeOut) -> str:
    """Return a change in words."""
    step = " to ".join(filter(None, (change["before"], change["after"])))
    return " ".join(filter(None, (change["thing"], change["verb"], step)))


@dataclass(frozen=True)
class Sight:
    """All that an inquiry is told from: the graph, how services stand, the devices and their plates, what changed on
    each lately, and of how many of them each change is so; `told`: the edges a column tells of; `through`: those of
    somebody behind a way out. `at`: the moment asked of, none for now."""

    at: int | None
    now: int
    graph: Graph
    stood: Standing
    held: Mapping[int, Device]
    known: Mapping[int, dict[str, Any]]
    lines: Mapping[int, Sequence[ChangeOut]]
    told: Mapping[int, Sequence[Edge]]
    through: frozenset[Edge]

    @cached_property
    def amiss(self) -> Mapping[tuple[int, str], tuple[int, bool]]:
        """By switch and port how many frames in a million are lost, none where that is not worth a word, and whether
        it runs at half duplex; those of which neither is so are left out."""
        then = holds("p", self.at)
        rows = raw_connection().execute(
            "SELECT p.asset_id, p.name, iif(p.errors >= ?1, p.errors, 0), p.duplex = 'half' "
            "FROM estate_switch_portsspan p "
            f"WHERE (p.errors >= ?1 OR p.duplex = 'half') AND {then.text}",
            [LOSING, *then.values],
        )
        return {(switch, port): (lost, bool(half)) for switch, port, lost, half in rows}

    @cached_property
    def on_battery(self) -> frozenset[int]:
        """The power supplies that run on their battery."""
        return frozenset(ids(question("feeding_from = battery", self.at, standing=None)))

    def name_of(self, asset: int) -> str:
        """Return what a device is called, one of those asked about or not."""
        return str((self.known.get(asset) or plates([asset], self.at).get(asset, {})).get("name", "a device"))

    @cached_property
    def alike(self) -> Counter[str]:
        """By change in words, of how many of the devices it is so."""
        return Counter(text for of in self.lines.values() for text in {words_of(c) for c in of if tells(c)})


def facts_of(asset: int, sight: Sight) -> list[Fact]:
    """Return what is so of a device that may be out of the ordinary."""
    there, stood, known, now = sight.graph, sight.stood, sight.known, sight.now
    name, held, share = known[asset]["name"], sight.held[asset], _shares(sight.at, now)
    out: list[Fact] = []

    def fact(sort: str, text: str, since: int | None = None, *, same: str = "") -> None:
        out.append(Fact(sort, asset, text, since, share.get(sort, 0.0), same))

    def quiet(e: Edge) -> None:
        text = f"{known[e.stands]['name']} is not heard talking to {known[e.on]['name']}:{e.over} any more"
        fact("quiet", text, e.heard, same=text)  # the same of both its ends

    for e in there.on.get(asset):
        if e.kind == "talks to" and e.quiet and e.on in known:
            quiet(e)
        if (
            e.kind not in ("talks to", "falls back on")
            and e.on in known
            and e.since >= max(now - CLOCK, held.first_seen + DAY)
        ):
            fact("moved", f"{name} is {e.kind} {known[e.on]['name']} {e.over}".rstrip(), e.since)
        lost, _ = sight.amiss.get((e.on, e.over), (0, False)) if e.kind == "plugged into" else (0, False)
        if lost and e.on in known:
            fact("losing frames", f"{known[e.on]['name']} {e.over}, where {name} is, {loses(lost)}")
    for source in sorted(fed_by(there, asset) & sight.on_battery):
        fact("on battery", f"{sight.name_of(source)}, which feeds {name}, runs on its battery", same=str(source))
    for e in there.under.get(asset):
        if e.kind == "talks to" and e.quiet and e.stands in known:
            quiet(e)
    for port, subject, ends in held.certificates:
        if ends <= now:
            fact("certificate over", f"the certificate of {name}:{port} is over ({subject})", ends)
        elif ends - now <= SOON:
            fact("certificate ends", f"the certificate of {name}:{port} ends in {(ends - now) // DAY} days")
    for mount, (full, since, fills) in held.disks.items():
        if full >= NEARLY:
            fact("full", f"{mount} of {name} has {100 - full} % left", since)
        elif fills.full_at is not None and fills.full_at - now <= SOON:
            fact(
                "filling", f"{mount} of {name} will be full in {(fills.full_at - now) // DAY} days at its present rate"
            )
    if (last := held.last_seen) and now - last > 2 * DAY:
        fact("silent", f"{name} was not seen for {(now - last) // DAY} days", last)
    if held.started is not None and now - held.started <= 3 * DAY:
        fact("restarted", f"{name} was started anew", held.started)
    if used := used_on(sight.at).get(asset):
        fact("in use", f"{name} is open to {', '.join(used[:3])}, which attackers use")
    for opened, text in held.opened:
        fact("ticket", f"{name}: ticket {text}", opened)
    for number, service in stood.services.items():
        if asset in stood.members[number].all and stood.is_short(number):
            fact("service stopped", f"{service.name} has fewer devices than it needs", same=service.name)
    for line in sight.lines[asset]:
        if tells(line) and line["section"] != "filesystems":
            words = words_of(line)
            several = sight.alike[words] > 1
            since = int(datetime.fromisoformat(line["at"]).timestamp())
            fact("changed alike" if several else "changed", f"{name}: {words}", since, same=words if several else "")
    return out


def _shares(at: int | None, now: int) -> Mapping[str, float]:
    """Return by sort of fact of what share of all devices it is so."""
    return _how_many.get((at, now // 600 if at is None else 0), lambda: _counted(at))


def _counted(at: int | None) -> Mapping[str, float]:
    whole = set(ids(question("", at))) or {0}
    out = {
        sort: len(set(ids(question(text, at)))) / len(whole)
        for sort, text in (
            ("full", f"filesystems[full >= {NEARLY}]"),
            ("certificate over", "certificates[ends < now]"),
            ("certificate ends", "certificates[ends >= now and ends < now + 14d]"),
            ("silent", "last_seen < now - 2d"),
            ("restarted", "no processes[started < now - 3d] and processes[started >= now - 3d]"),
            ("ticket", "tickets[open = yes]"),
        )
    }
    out["in use"] = len(used_on(at).keys() & whole) / len(whole)
    quiet = {a for e in graph(at).edges.gone_quiet for a in (e.stands, e.on)}
    out["quiet"] = len(quiet & whole) / len(whole)
    return out


_how_many: Remembered[Mapping[str, float]] = Remembered("how ordinary facts are", EVIDENCE, DEFINITIONS, most=4)
