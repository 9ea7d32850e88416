"""Keeping services: made, changed, dropped; devices put in and taken out by hand."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.identifiers import by_word
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.services.inputs import HandMemberIn, PartIn, ServiceIn
from tarn.apps.services.kept.members import IN_A_CIRCLE, all_members, reckoned
from tarn.apps.services.models import HandMember, Service
from tarn.apps.services.standing.impact import seen
from tarn.core.filters.parse import FilterError
from tarn.core.kinds import IMPORTANCE
from tarn.core.text import fold

MOST_PARTS, MOST_RULES, MOST_ENTRIES = 20, 20, 50
_MOST_PROMISED = 366 * 24 * 60
_KEPT = (
    "name",
    "purpose",
    "owner",
    "deputies",
    "promise",
    "hours",
    "places",
    "importance",
    "notes",
    "entries",
    "parts",
)


def checked(data: ServiceIn) -> Service:
    """Return an unsaved service. Raises Invalid naming the part of it."""
    name = " ".join(data.name.split())
    if not name:
        raise Invalid("name", "A service needs a name: what people call it.")
    if data.importance not in IMPORTANCE:
        raise Invalid("importance", f"“{data.importance}” is no importance; one of: {', '.join(IMPORTANCE)}.")
    if data.promise is not None and not 0 < data.promise <= _MOST_PROMISED:
        raise Invalid("promise", "Back within a number of minutes, from 1 to a year's; none where nothing is promised.")
    for what, said, most in (("entries", data.entries, MOST_ENTRIES), ("parts", data.parts, MOST_PARTS)):
        if len(said) > most:
            raise Invalid(what, f"{len(said)} are too many: at most {most}.")
    entries = []
    for entry in data.entries:
        host = entry.host.strip()
        if not host or " " in host:
            raise Invalid("entries", f"“{entry.host}” is no address or name where a service is reached.")
        if entry.port is not None and not 1 <= entry.port <= 65_535:
            raise Invalid("entries", f"{host}: {entry.port} is no port: 1 to 65,535.")
        entries.append({"host": host[:253], "port": entry.port})
    return Service(
        name=name[:80],
        purpose=data.purpose.strip()[:300],
        owner=" ".join(data.owner.split())[:120],
        deputies=[" ".join(d.split())[:120] for d in data.deputies if d.strip()],
        promise=data.promise,
        hours=data.hours.strip()[:120],
        places=[" ".join(p.split())[:120] for p in data.places if p.strip()],
        importance=data.importance,
        notes=data.notes.strip(),
        entries=entries,
        parts=_parts(data.parts),
    )


def _parts(said: list[PartIn]) -> list[dict[str, Any]]:
    out: list[dict[str, Any]] = []
    for part in said:
        name = " ".join(part.name.split())[:80]
        if not name:
            raise Invalid("parts", "A part needs a name, such as Web or Database.")
        if name.casefold() in {p["name"].casefold() for p in out}:
            raise Invalid("parts", f"There are two parts called “{name}”.")
        if part.needs < 0:
            raise Invalid("parts", f"{name}: it needs a number of its members, or 0 for all of them.")
        if len(part.rules) > MOST_RULES:
            raise Invalid("parts", f"{name}: {len(part.rules)} rules are too many: at most {MOST_RULES}.")
        rules = []
        for rule in part.rules:
            text = rule.filter.strip()
            if not text:
                raise Invalid("parts", f"{name}: a rule without a filter would make every device a member.")
            try:
                question(text)
            except FilterError as error:
                raise Invalid("parts", f"{name}: {error.message}") from None
            rules.append({"filter": text, "why": rule.why.strip()[:200]})
        out.append({"name": name, "needs": part.needs, "rules": rules})
    return out


def keep(user: Any, data: ServiceIn, number: int | None = None) -> Service:
    """Make a service, or change the one of a number. Raises Invalid, Stale, Service.DoesNotExist."""
    require(user, "plan")
    made = checked(data)
    with once("name", f"There is a service called “{made.name}” already."):
        if number is None:
            made.made_by, made.made_at = user.username, int(time.time())
            made.organisation = owner(data.organisation)
            made.save()
            undo: dict[str, Any] = {"action": "drop a service", "number": made.pk}
            verb = "made a service"
        else:
            held = visible(Service).select_for_update().get(pk=number)
            require_version(held, data.version, f"The service “{held.name}”", said_of(held))
            undo = {"action": "put a service back", "number": held.pk, "as": said_of(held)}
            for name in _KEPT:
                setattr(held, name, getattr(made, name))
            held.version += 1
            held.save()
            made, verb = held, "changed a service"
        _no_circle(made)
        record(user, verb, made.name, undo=undo)
    return made


def _no_circle(service: Service) -> None:
    """Raise Invalid where services are made of each other: whichever of them is asked first, one meets itself."""
    for told in (reckoned(service, None), *all_members(None).values()):
        for trouble in told.trouble:
            if IN_A_CIRCLE in trouble:
                raise Invalid("parts", trouble)


def said_of(service: Service) -> dict[str, Any]:
    """Return what is kept of a service, as it was said."""
    return {name: getattr(service, name) for name in _KEPT} | {"version": service.version}


def drop(user: Any, number: int) -> None:
    """Drop a service. Raises Service.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = visible(Service).get(pk=number)
        hands = list(held.by_hand.values("asset_id", "part", "out", "why", "made_by", "made_at"))
        undo = {
            "action": "make a service again",
            "as": said_of(held),
            "hands": hands,
            "organisation": held.organisation_id,
            "made": [held.made_by, held.made_at],
        }
        record(user, "dropped a service", held.name, undo=undo)
        held.delete()


@undoer("drop a service", "plan")
def _undo_making(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    visible(Service).filter(pk=inverse["number"]).delete()
    return None


@undoer("put a service back", "plan")
def _undo_change(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    held = visible(Service).filter(pk=inverse["number"]).first()
    if held is None:
        raise Invalid("service", "The service has been dropped since.")
    back = {"action": "put a service back", "number": held.pk, "as": said_of(held)}
    for name in _KEPT:
        setattr(held, name, inverse["as"][name])
    held.version += 1
    with once("name", f"There is another service called “{held.name}” by now."):
        held.save()
    return back


@undoer("make a service again", "plan")
def _undo_dropping(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    by, at = inverse["made"]
    with once("name", f"There is another service called “{inverse['as']['name']}” by now."):
        made = Service.objects.create(
            **{name: inverse["as"][name] for name in _KEPT},
            made_by=by,
            made_at=at,
            organisation_id=inverse["organisation"],
        )
        for hand in inverse["hands"]:
            HandMember.objects.create(service=made, **hand)
    return {"action": "drop a service", "number": made.pk}


def put_by_hand(user: Any, number: int, data: HandMemberIn) -> HandMember:
    """Put a device into a part of a service, or take it out, whatever its rules say. Raises Invalid."""
    require(user, "plan")
    held = visible(Service).get(pk=number)
    why, part = data.why.strip()[:300], " ".join(data.part.split())
    if part not in {p["name"] for p in held.parts}:
        raise Invalid("part", f"“{held.name}” has no part called “{part}”.")
    if not why:
        raise Invalid("why", "Say why: the rules say otherwise, and somebody will ask.")
    word = data.device.strip()
    found = by_word([word]).get(fold(word), set()) & seen(None)[1]
    if len(found) != 1:
        what = "no device that you may see" if not found else f"{len(found)} devices; write its number"
        raise Invalid("device", f"“{word[:60]}” is {what}.")
    (asset,) = found
    with transaction.atomic():
        made, _ = HandMember.objects.update_or_create(
            service=held,
            part=part,
            asset_id=asset,
            defaults={"out": data.out, "why": why, "made_by": user.username, "made_at": int(time.time())},
        )
        verb = "took a device out of a service" if data.out else "put a device into a service"
        record(user, verb, held.name, detail={"asset": asset, "part": part, "why": why})
    return made


def take_hand_back(user: Any, number: int, hand: int) -> None:
    """Have the rules alone say whether a device is of a part again. Raises HandMember.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        said = HandMember.objects.select_related("service").get(pk=hand, service__in=visible(Service).filter(pk=number))
        detail = {"asset": said.asset_id, "part": said.part}
        record(user, "left it to the rules again", said.service.name, detail=detail)
        said.delete()
