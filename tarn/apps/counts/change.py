"""Opening counts, settling what they say, and closing them with a protocol."""

import hashlib
import secrets
import time
from collections import Counter, defaultdict
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

from django.contrib.auth import get_user_model
from django.db import transaction

from tarn.apps.counts.inputs import CountIn, PlanIn, SettleIn
from tarn.apps.counts.models import Count, Expected, Met
from tarn.apps.counts.protocol import protocol_of
from tarn.apps.counts.reads.lines import CountedLine, lines_of
from tarn.apps.counts.reads.shown import plates
from tarn.apps.counts.results import PlanOut
from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.enter import enter
from tarn.apps.estate.register.identifiers import first_documents, numbers_of
from tarn.apps.lifecycle.actions.steps import take_step
from tarn.apps.lifecycle.inputs import StepSaid
from tarn.apps.lifecycle.reads.steps import book
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import require
from tarn.apps.people.scope import asking_for, visible
from tarn.core.counting import CountError, draw, sample_size
from tarn.core.filters.parse import FilterError
from tarn.core.sections import Identity, Placement
from tarn.core.sightings import compose, make_id, make_reading
from tarn.core.truth import STOCK_TAKING

MOST = 20_000
"""Devices a count may expect."""
LOST = "lost or stolen"


def _meant(data: PlanIn) -> tuple[list[int], dict[str, Any] | None]:
    """Return the devices a plan draws, and its sample. Raises Invalid."""
    try:
        found = sorted(ids(question(data.filter)))
    except FilterError as error:
        raise Invalid("filter", error.message) from None
    if len(found) > MOST and data.sample is None:
        raise Invalid("filter", f"{len(found):,} devices are too many for one count: at most {MOST:,}, or a sample.")
    if data.sample is None:
        return found, None
    try:
        size = sample_size(len(found), data.sample.confidence, data.sample.tolerance)
    except CountError as fault:
        raise Invalid(fault.field, str(fault)) from None
    seed, numbers = secrets.token_hex(8), numbers_of(found)
    of = {number: asset for asset, number in numbers.items()}
    drawn = [of[number] for number in draw(of, size, seed)]
    said = {"confidence": data.sample.confidence, "tolerance": data.sample.tolerance, "of": len(found), "seed": seed}
    return drawn, said


def plan(user: Any, data: PlanIn) -> PlanOut:
    """Return how many devices a count would expect, and where. Raises Invalid."""
    require(user, "decide")
    drawn, sample = _meant(data)
    places = Counter(p["place"] or "" for p in plates(drawn).values())
    return {
        "total": sample["of"] if sample else len(drawn),
        "drawn": len(drawn),
        "places": [{"place": place, "number": n} for place, n in sorted(places.items())],
    }


def open_count(user: Any, data: CountIn) -> Count:
    """Open a count: what it expects is kept as it is now. Raises Invalid."""
    require(user, "decide")
    name = " ".join(data.name.split())
    if not name:
        raise Invalid("name", "A count needs a name.")
    whose = owner(data.organisation)
    with asking_for(whose):
        drawn, sample = _meant(data)
    total = sample["of"] if sample else len(drawn)
    if data.expected is not None and data.expected != total:
        raise Invalid("expected", f"{data.expected} were shown and {total} answer by now. Look again.")
    if not drawn:
        raise Invalid("filter", "No device answers this: there would be nothing to count.")
    people = set(data.counters.values()) - {""}
    known = set(get_user_model().objects.filter(username__in=people).values_list("username", flat=True))
    if gone := next(iter(sorted(people - known)), None):
        raise Invalid("counters", f"Nobody here signs in as “{gone}”.")
    named = "A count of this name is there already."
    with once("name", named):
        count = Count.objects.create(
            name=name, filter=data.filter, counters={k: v for k, v in data.counters.items() if v}, sample=sample,
            made_by=user.username, made_at=int(time.time()), organisation=whose,
        )  # fmt: skip
        anchors, held = first_documents(drawn), plates(drawn)
        words = ("number", "name", "serial", "kind", "model", "place", "person")
        Expected.objects.bulk_create(
            [
                Expected(count=count, anchor=anchors[asset][0], **{w: held[asset][w] or "" for w in words})
                for asset in drawn
                if asset in anchors and asset in held
            ],
            batch_size=500,
        )
        record(user, "opened a count", str(count), detail={"devices": len(drawn), "filter": data.filter})
    return count


def give_up(user: Any, number: int) -> Count:
    """Give a count up: nothing that was met in it becomes evidence. Raises Invalid, Count.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        count = _open(number)
        count.state, count.ended_at, count.ended_by = "given up", int(time.time()), user.username
        count.save()
        record(user, "gave up a count", str(count))
    return count


def _open(number: int) -> Count:
    count: Count = visible(Count).get(pk=number)
    if count.state != "open":
        raise Invalid("count", f"{count.number} is {count.state} already.")
    return count


def close(user: Any, number: int) -> Count:
    """Close a count: what was met becomes evidence of the moment it was met, what the count says is settled, and its
    protocol is signed and kept. Raises Invalid, Count.DoesNotExist."""
    require(user, "decide")
    with transaction.atomic():
        count = _open(number)
        lines = lines_of(count)
        count.state, count.ended_at, count.ended_by = "closed", int(time.time()), user.username
        count.protocol = protocol_of(count, lines)
        count.save()
        for line in lines:
            if line.expected is not None:
                line.expected.state = line.state
            elif line.met is not None:
                line.met.state = line.state
        Expected.objects.bulk_update([li.expected for li in lines if li.expected], ["state"], batch_size=500)
        Met.objects.bulk_update([li.met for li in lines if li.met and not li.expected], ["state"], batch_size=500)
        _say(count, lines)
        digest = hashlib.sha256(count.protocol).hexdigest()
        record(user, "closed a count", str(count), detail={"protocol": digest})
    return count


def _say(count: Count, lines: list[CountedLine]) -> None:
    """Hand in what was met as evidence: that the device was there, at that moment."""
    met = {line.asset: line.met for line in lines if line.met is not None and line.asset is not None}
    numbers = numbers_of(list(met))
    said = []
    for asset, one in met.items():
        if asset in numbers:
            readings = [make_reading("identity", Identity(tarn=numbers[asset]), "count", complete=False)]
            if one.place:
                readings.append(make_reading("placement", Placement(place=one.place), "count", complete=False))
            moment = datetime.fromtimestamp(one.at, UTC)
            said.append(compose((STOCK_TAKING, count.number), moment, readings, id=make_id("count", count.pk, one.key)))
    for _ in take_in(said):
        pass


def settle(user: Any, number: int, data: SettleIn) -> int:
    """Do something about lines of a count; return of how many. Raises Invalid, Count.DoesNotExist, NotAllowed."""
    require(user, "decide")
    count: Count = visible(Count).get(pk=number)
    if count.state == "given up":
        raise Invalid("count", f"{count.number} is given up: what it says counts for nothing.")
    expected, met = set(data.expected), set(data.met)
    lines = [
        line
        for line in lines_of(count)
        if (line.expected and line.expected.pk in expected) or (not line.expected and line.met and line.met.pk in met)
    ]
    if not lines or len(lines) != len(expected) + len(met):
        raise Invalid("expected", "Choose lines of this count, as they are shown now.")
    with transaction.atomic():
        words = _ACTS[data.act](user, count, lines, " ".join(data.words.split()))
        for line in lines:
            thing = line.expected or line.met
            assert thing is not None
            thing.settled = (words.get(line.asset or 0) or words[None])[:300]
            thing.save(update_fields=["settled"])
    return len(lines)


Words = dict[int | None, str]
"""What is noted of lines: by device, and of all others under None."""


def _assets(lines: list[CountedLine], *states: str) -> list[int]:
    """Return the devices of lines. Raises Invalid for lines this is not done about."""
    if wrong := next((line for line in lines if line.state not in states), None):
        raise Invalid("act", f"This is done about what is {' or '.join(states)}; one of these is {wrong.state}.")
    if gone := next((line for line in lines if line.asset is None), None):
        named = gone.expected.number if gone.expected else gone.met.code if gone.met else ""
        raise Invalid("act", f"“{named}” is no device that is to be seen here.")
    return [line.asset for line in lines if line.asset is not None]


def _move(user: Any, count: Count, lines: list[CountedLine], _words: str) -> Words:
    _assets(lines, "elsewhere", "not expected")
    by_place: dict[str, list[int]] = defaultdict(list)
    for line in lines:
        if line.met is None or not line.met.place:
            raise Invalid("act", "Of one of these nobody said where it was met.")
        by_place[line.met.place].append(line.asset or 0)
    for place, assets in by_place.items():
        decide(user, assets, {"place": place}, f"moved by {count.number}")
    return {a: f"moved to {place}" for place, assets in by_place.items() for a in assets} | {None: "moved"}


def _assign(user: Any, count: Count, lines: list[CountedLine], words: str) -> Words:
    if not words:
        raise Invalid("words", "Say to whom.")
    decide(user, _assets(lines, "found", "elsewhere", "not expected"), {"person": words}, f"assigned by {count.number}")
    return {None: f"assigned to {words}"}


def _lost(user: Any, count: Count, lines: list[CountedLine], words: str) -> Words:
    assets = _assets(lines, "missing")
    step = next((s for s in book().steps if s.to == LOST), None)
    if step is None:
        raise Invalid("act", f"The company’s steps have none that leads to “{LOST}”.")
    take_step(user, assets, step.name, StepSaid(why=words or f"not met in {count.number}"))
    return {None: "reported lost"}


def _missing(user: Any, count: Count, lines: list[CountedLine], _words: str) -> Words:
    decide(user, _assets(lines, "missing"), {"state": "missing"}, f"noted as missing by {count.number}")
    return {None: "noted as missing"}


def _adopt(user: Any, count: Count, lines: list[CountedLine], _words: str) -> Words:
    decide(user, _assets(lines, "not expected"), {"standing": "register"}, f"adopted by {count.number}")
    return {None: "in the register"}


def _enter(user: Any, count: Count, lines: list[CountedLine], words: str) -> Words:
    out: Words = {None: ""}
    for line in lines:
        if line.state != "unknown" or line.met is None:
            raise Invalid("act", "Only what is unknown is entered.")
        asset = enter(user, {"serial": line.met.code, "kind": words, "place": line.met.place})
        line.met.anchor, number = first_documents([asset])[asset]
        line.met.save(update_fields=["anchor"])
        out[None] = f"entered as {number}" if len(lines) == 1 else "entered"
    return out


def _explain(user: Any, count: Count, lines: list[CountedLine], words: str) -> Words:
    if not words:
        raise Invalid("words", "Say how it is.")
    record(user, "explained lines of", str(count), detail={"lines": len(lines), "words": words})
    return {None: words}


_ACTS: dict[str, Callable[[Any, Count, list[CountedLine], str], Words]] = {
    "move": _move,
    "assign": _assign,
    "lost": _lost,
    "missing": _missing,
    "adopt": _adopt,
    "enter": _enter,
    "explain": _explain,
}
