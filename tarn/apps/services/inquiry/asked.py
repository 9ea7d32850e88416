"""An inquiry put together: devices side by side under one clock, and the few facts that are out of the ordinary."""

import time
from collections import defaultdict
from collections.abc import Mapping, Sequence
from typing import Any

from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.register.history import history
from tarn.apps.estate.register.results import ChangeOut
from tarn.apps.exposure.used import used_on
from tarn.apps.services.inquiry.devices import Device, bars, certificates, devices
from tarn.apps.services.inquiry.facts import CLOCK, Sight, facts_of, loses, tells, words_of
from tarn.apps.services.inquiry.finding import found
from tarn.apps.services.inquiry.results import (
    InquiryChange,
    InquiryColumn,
    InquiryEvent,
    InquiryGrade,
    InquiryHurt,
    InquiryOut,
    InquiryPort,
    InquiryTalk,
    InquiryTell,
)
from tarn.apps.services.kept.health import Standing, standing
from tarn.apps.services.standing.edges import behind
from tarn.apps.services.standing.impact import end, seen
from tarn.apps.services.standing.picture import MOST_NAMED, counted
from tarn.apps.services.standing.plates import people_of, plates
from tarn.core.inquiring import Fact, telling
from tarn.core.standing.edge import Edge
from tarn.core.standing.falling import falls
from tarn.core.standing.graph import Graph, related

MOST_TELLING, MOST_LINES, MOST_TALK = 5, 12, 40


def inquire(words: Sequence[str], at: int | None) -> InquiryOut:
    """Return the inquiry of what words stand for, as of a moment."""
    now = at if at is not None else int(time.time())
    there, mine = seen(at)
    told, assets = found(words, at, mine)
    through = frozenset(behind(at).within(mine).touching(assets))
    edges = {a: _told_of(there, a, [e for e in through if a in (e.stands, e.on)]) for a in assets}
    near = {a for of in edges.values() for e in of for a in (e.stands, e.on)}
    known = plates({*assets, *near}, at)
    lines = {a: history(a, now - CLOCK, now) for a in assets if a in known}
    sight = Sight(at, now, there, standing(at), devices(assets, at, now), known, lines, edges, through)
    facts = [f for a in lines for f in facts_of(a, sight)]
    beside = [a for asset in assets for e in there.on.get(asset) if (a := e.on) not in assets and a in known]
    return {
        "number": None,
        "since": iso(now - CLOCK),
        "until": iso(now),
        "words": told,
        "columns": [_column(a, sight) for a in lines],
        "telling": [
            {
                "sort": t.first.sort,
                "text": _several(t.facts, known),
                "assets": [f.asset for f in t.facts],
                "weight": round(t.weight),
                "why": t.why,
            }
            for t in telling(facts, now, MOST_TELLING)
        ],
        "beside": [end(a, known) for a in dict.fromkeys(beside)][:8],
        "notes": [],
    }


def _several(facts: Sequence[Fact], known: Mapping[int, dict[str, Any]]) -> str:
    first = facts[0]
    if len({f.asset for f in facts}) == 1 or first.same in ("", first.text):
        return first.text
    names = ", ".join(sorted(str(known[f.asset]["name"]) for f in facts if f.asset in known))
    return f"{names}: {first.same}"


def _told_of(there: Graph, asset: int, through: Sequence[Edge]) -> list[Edge]:
    """Return the edges of a device that its column tells of: of a hub with thousands of callers, those that have gone
    quiet and the latest of the others; the talk in that order."""
    every = [*there.on.get(asset), *there.under.get(asset), *through]
    talk = [e for e in every if e.kind == "talks to"]
    latest = sorted(talk, key=lambda e: (not e.quiet, e.on == asset, -e.heard, e.over))[: MOST_TALK * 5]
    return [*(e for e in there.on.get(asset) if e.kind != "talks to"), *latest]


def _column(asset: int, sight: Sight) -> InquiryColumn:
    there, stood, known, at, now = sight.graph, sight.stood, sight.known, sight.at, sight.now
    held, lines = sight.held[asset], sight.lines[asset]
    down, touched = falls(stood.full, [asset])
    under = related(there, "depends on", [asset])
    hurt: list[InquiryHurt] = [
        {"id": f.service, "name": stood.services[f.service].name, "fate": f.fate, "short": stood.is_short(f.service)}
        for f in stood.watching.fates(down.keys(), touched.keys())
    ]
    talk = [e for e in sight.told[asset] if e.kind == "talks to"]
    return {
        **end(asset, known),
        "state": held.state or None,
        "person": held.person or None,
        "department": held.department or None,
        "address": held.address or None,
        "os": held.os,
        "last_seen": iso(held.last_seen),
        "hurt": hurt,
        "under": counted(under, plates(under, at) if len(under) <= MOST_NAMED else {}),
        "people": people_of(under, at),
        "bars": bars(held, now),
        "ports": _ports(asset, sight),
        "certificates": certificates(held, now),
        "in_use": list(used_on(at).get(asset, ())),
        "events": _events(asset, held, lines, talk, known, now),
        "changed": _changes(lines, sight.alike),
        "on": [
            {"asset": e.on, "name": known[e.on]["name"], "kind": e.kind, "over": e.over, "since": iso(e.since)}
            for e in there.on.get(asset)
            if e.kind != "talks to" and e.on in known
        ],
        "talk": _talk(asset, talk, sight),
        "tell": _tell(held, stood, hurt),
        "tickets": held.tickets,
    }


def _ports(asset: int, sight: Sight) -> list[InquiryPort]:
    out: list[InquiryPort] = []
    for e in sight.graph.on.get(asset):
        if e.kind == "plugged into" and e.on in sight.known:
            lost, half = sight.amiss.get((e.on, e.over), (0, False))
            said = [loses(lost)] if lost else []
            said += ["half duplex"] if half else []
            name = sight.known[e.on]["name"]
            words = ", ".join(said) or "nothing is lost there"
            grade: InquiryGrade = "bad" if lost else "warn" if half else ""
            out.append({"switch": e.on, "name": name, "port": e.over, "words": words, "grade": grade})
    return out


def _talk(asset: int, talk: Sequence[Edge], sight: Sight) -> list[InquiryTalk]:
    out: list[InquiryTalk] = []
    known = sight.known
    for e in talk:
        other = e.on if e.stands == asset else e.stands
        if other in known and len(out) < MOST_TALK:
            out.append(
                {
                    "asset": other,
                    "name": f"behind {known[other]['name']}" if e in sight.through else known[other]["name"],
                    "direction": "out" if e.stands == asset else "in",
                    "over": e.over,
                    "process": e.process,
                    "last_heard": iso(e.heard),
                    "quiet": e.quiet,
                }
            )
    return out


def _events(
    asset: int,
    held: Device,
    lines: Sequence[ChangeOut],
    talk: Sequence[Edge],
    known: Mapping[int, dict[str, Any]],
    now: int,
) -> list[InquiryEvent]:
    out: list[InquiryEvent] = []

    def add(at: str, sort: str, text: str, grade: InquiryGrade = "") -> None:
        out.append({"at": at, "sort": sort, "text": text, "grade": grade})

    for line in lines:
        if tells(line):
            add(line["at"], "changed", words_of(line))
    for e in talk:
        other = e.on if e.stands == asset else e.stands
        if e.quiet and e.heard >= now - CLOCK and other in known:
            add(iso(e.heard), "quiet", f"last heard with {known[other]['name']} over {e.over}", "bad")
    for _, subject, ends in held.certificates:
        if now - CLOCK <= ends <= now:
            add(iso(ends), "certificate", f"the certificate of {subject} ended", "bad")
    if held.started is not None and held.started >= now - CLOCK:
        add(iso(held.started), "started", "started anew", "warn")
    for opened, text in held.opened:
        if now - CLOCK <= opened <= now:
            add(iso(opened), "ticket", text, "warn")
    return sorted(out, key=lambda e: e["at"])


def _changes(lines: Sequence[ChangeOut], alike: Mapping[str, int]) -> list[InquiryChange]:
    told = [c for c in lines if tells(c)][:MOST_LINES]
    return [{"at": c["at"], "text": words_of(c), "alike": alike[words_of(c)]} for c in told]


def _tell(held: Device, stood: Standing, hurt: Sequence[InquiryHurt]) -> list[InquiryTell]:
    whys: dict[str, list[str]] = defaultdict(list)
    for one in hurt:
        service = stood.services[one["id"]]
        if service.owner:
            whys[service.owner].append(f"owns {service.name}")
        for deputy in service.deputies:
            whys[deputy].append(f"stands in for {service.name}")
    if held.person:
        whys[held.person].append("has it")
    if held.department:
        whys[held.department].append("it belongs to them")
    return [{"name": name, "why": "; ".join(why)} for name, why in whys.items()]
