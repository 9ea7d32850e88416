"""Services told: the list, one service's page, and what its rules would make of it."""

from collections.abc import Iterable, Mapping
from typing import Any

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.scope import visible
from tarn.apps.services.inputs import ServiceIn
from tarn.apps.services.kept.change import checked
from tarn.apps.services.kept.health import Standing, asking_for_members, quiet_of, signs_of, standing
from tarn.apps.services.kept.members import Members, reckoned
from tarn.apps.services.kept.results import (
    MemberChange,
    MemberOut,
    RehearsedMember,
    ServiceBrief,
    ServiceEntry,
    ServiceOut,
    ServicePartOut,
    ServiceRehearsal,
)
from tarn.apps.services.kept.singles import told_singles
from tarn.apps.services.models import HandMember, MemberSpan, Service
from tarn.apps.services.standing.impact import end, seen, told_nodes
from tarn.apps.services.standing.picture import Drawn, picture_of, shown_of
from tarn.apps.services.standing.plates import plates
from tarn.core.filters.parse import FilterError
from tarn.core.filters.tree import quote
from tarn.core.standing.graph import related

LATEST = 50
"""Changes of members that a page tells of."""


def services(at: int | None) -> list[ServiceBrief]:
    """Return every service whoever asks may see, and how it stands; those that are worst off first."""
    stood = standing(at)
    known = _known(stood, stood.services, at)
    rows = [_brief(s, stood, known) for s in stood.services.values()]
    weight = {"bad": 100, "warn": 1}
    return sorted(rows, key=lambda r: (-sum(weight[s["grade"]] for s in r["signs"]), r["name"]))


def _known(stood: Standing, wanted: Iterable[int], at: int | None) -> dict[int, dict[str, Any]]:
    numbers = set(wanted)
    assets = {a for n in numbers for a in stood.members[n].all}
    talk = quiet_of(assets, stood.quiet)
    return plates(
        {
            *assets,
            *(s.asset for s in stood.singles if numbers & set(s.services)),
            *(a for e in talk for a in (e.stands, e.on)),
        },
        at,
    )


def _brief(service: Service, stood: Standing, known: Mapping[int, dict[str, Any]]) -> ServiceBrief:
    held = stood.members[service.pk]
    return {
        "id": service.pk,
        "name": service.name,
        "purpose": service.purpose,
        "owner": service.owner,
        "importance": service.importance,
        "promise": service.promise,
        "hours": service.hours,
        "organisation": service.organisation.name if service.organisation else None,
        "members": {"devices": len(held.all), "filter": asking_for_members(service) if held.all else None},
        "parts": [_part(service, part, held) for part in service.parts],
        "signs": signs_of(service.pk, stood, known),
    }


def _part(service: Service, said: Mapping[str, Any], held: Members) -> ServicePartOut:
    part = next(p for p in held.as_parts if p.name == said["name"])
    devices = len(part.members)
    return {
        "name": part.name,
        "needs": part.needs,
        "spare": part.spare,
        "rules": [{"filter": r["filter"], "why": r["why"]} for r in said["rules"]],
        "members": {
            "devices": devices,
            "filter": f"serves[name = {quote(service.name)} and part = {quote(part.name)}]" if devices else None,
        },
    }


def service(number: int, at: int | None) -> ServiceOut:
    """Return one service's page, as of a moment. Raises Service.DoesNotExist."""
    found = visible(Service).select_related("organisation").get(pk=number)
    stood = standing(at)
    there, _ = seen(at)
    held = stood.members[number]
    mine = held.all
    known = _known(stood, [number], at)
    known |= told_nodes(shown_of(stood.full, mine) - known.keys(), stood.full, at)
    stand_on_it = related(there, "depends on", mine) - mine
    return {
        **_brief(found, stood, known),
        "deputies": found.deputies,
        "places": found.places,
        "notes": found.notes,
        "version": found.version,
        "organisation_id": found.organisation_id,
        "entries": _entries(found, at, known),
        "rows": _members(found, held, known),
        "changes": _changes(found, at),
        "singles": told_singles([s for s in stood.singles if number in s.services and s.asset in known], stood),
        "picture": picture_of(stood.full, mine, known, [Drawn(number, found.name, "carries on", mine)]),
        "under": {
            "devices": len(stand_on_it),
            "filter": f"depends on [{asking_for_members(found)}] and not {asking_for_members(found)}"
            if stand_on_it
            else None,
        },
    }


def _entries(found: Service, at: int | None, known: dict[int, dict[str, Any]]) -> list[ServiceEntry]:
    out: list[ServiceEntry] = []
    for entry in found.entries:
        host = quote(entry["host"])
        try:
            hit = list(ids(question(f"address = {host} or addresses[address = {host}]", at)))
        except FilterError:
            short = quote(entry["host"].split(".")[0])
            by_name = f"name = {host} or name = {short} or dns_names[name = {host}]"
            hit = list(ids(question(f"{by_name} or certificates[subject = {host}]", at)))
        known |= plates(set(hit) - known.keys(), at)
        devices = [end(a, known) for a in sorted(hit) if a in known]
        out.append({"host": entry["host"], "port": entry["port"], "devices": devices})
    return out


def _members(found: Service, held: Members, known: Mapping[int, dict[str, Any]]) -> list[MemberOut]:
    hands = {(h.part, h.asset_id): h for h in HandMember.objects.filter(service=found)}
    rows: list[MemberOut] = [
        {
            **end(asset, known),
            "part": part,
            "because": list(why),
            "hand": hands[part, asset].pk if (part, asset) in hands else None,
            "out": False,
        }
        for part, of in held.parts.items()
        for asset, why in of.items()
        if asset in known
    ]
    gone = [h for h in hands.values() if h.out]
    known = plates([h.asset_id for h in gone], None)
    rows += [
        {
            **end(h.asset_id, known),
            "part": h.part,
            "because": [f"{h.made_by}: {h.why}"],
            "hand": h.pk,
            "out": True,
        }
        for h in gone
        if h.asset_id in known
    ]
    return sorted(rows, key=lambda r: (r["part"], r["out"], r["name"]))


def _changes(found: Service, at: int | None) -> list[MemberChange]:
    spans = MemberSpan.objects.filter(service=found)
    told: list[tuple[int, bool, MemberSpan]] = [
        (s.valid_from, True, s) for s in spans.filter(initial=False).order_by("-valid_from")[:LATEST]
    ]
    told += [(s.valid_to or 0, False, s) for s in spans.exclude(valid_to=None).order_by("-valid_to")[:LATEST]]
    told = sorted((t for t in told if at is None or t[0] <= at), key=lambda t: (-t[0], t[2].pk))[:LATEST]
    known = plates({s.asset_id for _, _, s in told}, None)
    return [
        {**end(s.asset_id, known), "at": iso(when), "came": came, "part": s.part, "because": s.because}
        for when, came, s in told
        if s.asset_id in known
    ]


def rehearse(data: ServiceIn, number: int | None, at: int | None) -> ServiceRehearsal:
    """Return who would be of which part by rules that are not kept yet, as of a moment, and how that differs from the
    service as it is kept. Raises Invalid."""
    made = checked(data)
    before: frozenset[tuple[str, int]] = frozenset()
    if number is not None:
        kept = visible(Service).select_related("organisation").filter(pk=number).first() if 0 < number < 2**63 else None
        if kept is None:
            raise Invalid("number", f"There is no service {number}.")
        made.pk, made.organisation = kept.pk, kept.organisation
        was = reckoned(kept, at)
        before = frozenset((part, a) for part, of in was.parts.items() for a in of)
    would = reckoned(made, at)
    now = {(part, a) for part, of in would.parts.items() for a in of}
    _, mine = seen(at)
    known = plates({a for _, a in (*now, *before) if a in mine}, at)
    rows: list[RehearsedMember] = [
        {
            **end(a, known),
            "part": part,
            "because": list(would.parts[part][a]) if (part, a) in now else [],
            "change": ("stays" if (part, a) in before else "comes") if (part, a) in now else "goes",
        }
        for part, a in sorted({*now, *before})
        if a in known
    ]
    order = {"comes": 0, "goes": 1, "stays": 2}
    rows.sort(key=lambda r: (order[r["change"]], r["part"], r["name"]))
    return {
        "parts": [{"name": p.name, "devices": len(p.members), "needed": p.needed} for p in would.as_parts],
        "rows": rows[:500],
        "devices": len({a for _, a in now}),
        "trouble": list(would.trouble),
    }
