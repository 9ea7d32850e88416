"""What a person decides of assets: standing, kind, place, holder … handed in through the door like all evidence."""

import time
import uuid
from datetime import UTC, datetime
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from tarn.apps.estate.custom.fields import fields, tags_of
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.dossier import document
from tarn.apps.estate.register.identifiers import numbers_of
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import checked_name
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.fields import FIELDS
from tarn.core.kinds import IMPORTANCE
from tarn.core.own import TAG_FIELD, TAGS, OwnError, read_own
from tarn.core.sections import OWN, Decision, Identity, SameAs
from tarn.core.sightings import Sighting, compose, make_reading
from tarn.core.text import fold, nearest

MOST = 5000
"""Assets one decision may cover."""


def _wrong(fault: Any) -> str:
    """Return in words why a value is none that evidence can hold."""
    match fault["type"]:
        case "string_too_long":
            return f"it has {len(fault['input']):,} characters, and {fault['ctx']['max_length']:,} fit"
        case "string_pattern_mismatch":
            return "it has a line break or a sign that is no text"
    return str(fault["msg"]).lower()


class NothingDecided(ValueError):
    """The assets named do not exist, or nothing is said of them."""


def _hand(user: Any, number: str, facts: dict[str, Any], now: datetime) -> Sighting:
    return spoken(("hand", user.username), number, facts, now)


def spoken(source: tuple[str, str], number: str, facts: dict[str, Any], now: datetime) -> Sighting:
    """Return the sighting by which a source says something of an asset; fields of the company's own as `own:NAME`."""
    own = {name[len(OWN) :]: value for name, value in facts.items() if name.startswith(OWN)}
    said = {name: value for name, value in facts.items() if not name.startswith(OWN)} | ({"own": own} if own else {})
    try:
        decision = Decision(**said)
    except ValidationError as error:
        first = error.errors()[0]
        field = str(first["loc"][-1]) if first["loc"] else "fields"
        raise Invalid(field, f"{field.replace('_', ' ').capitalize()} cannot be that: {_wrong(first)}.") from None
    readings = [
        make_reading("identity", Identity(tarn=number), source[0], complete=False),
        make_reading("decision", decision, source[0]),
    ]
    return compose(source, now, readings, id=uuid.uuid4().hex)


def _own_word(user: Any, assets: list[int], fields: list[str]) -> dict[int, dict[str, Any]]:
    """Return what this person's hand says now of these fields, by asset."""
    import json

    marks = ",".join(str(int(a)) for a in assets)
    names = ",".join("?" * len(fields))
    out: dict[int, dict[str, Any]] = {a: {} for a in assets}
    for asset, field, value in raw_connection().execute(
        "SELECT f.asset_id, f.field, f.value FROM estate_fieldspan f JOIN estate_source o ON o.id = f.source_id "
        f"WHERE f.valid_to IS NULL AND o.kind = 'hand' AND o.name = ? AND f.asset_id IN ({marks}) "
        f"AND f.field IN ({names})",
        (user.username, *fields),
    ):
        out[asset][field] = json.loads(value)
    return out


def _carry_out(user: Any, facts_by_asset: dict[int, dict[str, Any]], at: int | None = None) -> dict[str, Any]:
    """Hand decisions in; return the inverse."""
    return say_of_each(user, facts_by_asset, at)[0]


def said_after(assets: list[int], field: str, moment: int) -> list[int]:
    """Return those of some assets of whose field a hand has said something after a moment that stands."""
    marks = ",".join(str(int(a)) for a in assets)
    rows = raw_connection().execute(
        "SELECT DISTINCT f.asset_id FROM estate_fieldspan f JOIN estate_source o ON o.id = f.source_id "
        "WHERE f.valid_to IS NULL AND o.kind = 'hand' AND f.field = ? AND f.valid_from > ? "
        f"AND f.asset_id IN ({marks})",
        (field, moment),
    )
    return [a for (a,) in rows]


def say_of_each(
    user: Any, facts_by_asset: dict[int, dict[str, Any]], at: int | None = None
) -> tuple[dict[str, Any], dict[int, str]]:
    """Say something of assets as a part of another act, in its transaction; the act asks who may, and keeps the record.

    `at`: the moment from which it is so; none: now. Returns the inverse, for `unsay`, and by asset the document in
    which it is said. Raises NothingDecided.
    """
    numbers = numbers_of(list(facts_by_asset))
    if not numbers:
        raise NothingDecided("None of these assets exists.")
    fields = sorted({f for facts in facts_by_asset.values() for f in facts})
    if not fields:
        raise NothingDecided("Nothing is said of these assets.")
    before = _own_word(user, list(numbers), fields)
    now = datetime.fromtimestamp(at or int(time.time()), UTC)
    said = {a: _hand(user, numbers[a], facts_by_asset[a], now) for a in numbers}
    for _ in take_in(said.values()):
        pass
    inverse = {str(a): {f: before[a].get(f) for f in facts_by_asset[a]} for a in numbers}
    return {"action": "decide", "assets": inverse, "as": user.username}, {a: one.id for a, one in said.items()}


def unsay(inverse: dict[str, Any]) -> dict[str, Any]:
    """Carry the inverse of something said out, in the name it was said in; return the inverse of that."""
    return _carry_out(_Operator(inverse["as"]), {int(a): facts for a, facts in inverse["assets"].items()})


def withdraw(assets: list[int], field: str) -> list[dict[str, Any]]:
    """Take back what any hand says of a field of assets, each in its own name; return the inverses."""
    marks = ",".join(str(int(a)) for a in assets)
    held: dict[str, dict[int, dict[str, Any]]] = {}
    for asset, who in raw_connection().execute(
        "SELECT f.asset_id, o.name FROM estate_fieldspan f JOIN estate_source o ON o.id = f.source_id "
        f"WHERE f.valid_to IS NULL AND o.kind = 'hand' AND f.field = ? AND f.asset_id IN ({marks})",
        (field,),
    ):
        held.setdefault(who, {})[asset] = {field: None}
    return [_carry_out(_Operator(who), facts) for who, facts in held.items()]


def _may_decide_of(user: Any, assets: list[int]) -> None:
    """Raise NotAllowed where a person decides nothing, NothingDecided where none or too many are chosen."""
    require(user, "decide")
    if not 0 < len(assets) <= MOST:
        raise NothingDecided(f"Choose between 1 and {MOST:,} assets.")


def _named(assets: list[int]) -> str:
    """Return assets as an entry of the trail names them: the first three, and how many more exist."""
    numbers = list(numbers_of(assets).values())
    return ", ".join(numbers[:3]) + (f" and {len(numbers) - 3} more" if len(numbers) > 3 else "")


def checked_facts(facts: dict[str, Any]) -> dict[str, Any]:
    """Return what is to be said with fields of the company's own read as their types say. Raises Invalid."""
    kinds = FIELDS["kind"].choices
    if facts.get("kind") and facts["kind"] not in kinds:
        near = " or ".join(nearest(facts["kind"], list(kinds)))
        raise Invalid("kind", f"“{facts['kind']}” is no kind." + (f" Did you mean {near}?" if near else ""))
    if (said := facts.get("importance")) and said not in IMPORTANCE:
        raise Invalid("importance", f"“{said}” is no importance; one of: {', '.join(IMPORTANCE)}.")
    known = {TAG_FIELD.name: TAG_FIELD, **{f.name: f for f in fields()}}
    out = dict(facts)
    for name, value in facts.items():
        if name.startswith(OWN):
            field = known.get(name[len(OWN) :])
            if field is None:
                raise Invalid(name, f"The company has no field of its own called “{name[len(OWN) :]}”.")
            try:
                out[name] = read_own(field, value)
            except OwnError as error:
                raise Invalid(error.field, str(error)) from None
    return out


def decide(user: Any, assets: list[int], facts: dict[str, Any], verb: str, at: int | None = None) -> int:
    """Decide the same of several assets; return the audit entry that can undo it. `at`: since when it is so; none: now.

    Raises NothingDecided, Invalid.
    """
    _may_decide_of(user, assets)
    if facts.get("organisation"):
        checked_name(facts["organisation"])
    facts = checked_facts(facts)
    with transaction.atomic():
        inverse = _carry_out(user, {a: dict(facts) for a in assets}, at)
        entry = record(user, verb, _named(assets), detail={"assets": len(inverse["assets"]), **facts}, undo=inverse)
    return int(entry.pk)


EMPTIABLE = ("kind", "person", "department", "place", "note", "importance", "rack", "fed_by")
"""Fields whose word can be taken back of many assets at once."""


def empty(user: Any, assets: list[int], fields: list[str]) -> tuple[int, int]:
    """Take back what any hand says of fields of assets; return of how many that was, and the entry that can undo it.

    What other sources say shows again. Raises NothingDecided, Invalid.
    """
    _may_decide_of(user, assets)
    if unknown := next((f for f in fields if f not in EMPTIABLE), None):
        raise Invalid("fields", f"“{unknown}” cannot be emptied of many; {', '.join(EMPTIABLE)} can.")
    with transaction.atomic():
        inverses = [one for field in fields for one in withdraw(assets, field)]
        said = sorted({int(a) for one in inverses for a in one["assets"]})
        if not said:
            raise NothingDecided("Nobody has said any of this of them: what is shown is read elsewhere.")
        undo = {"action": "emptied", "each": inverses}
        return len(said), int(record(user, "emptied", _named(said), detail={"fields": fields}, undo=undo).pk)


@undoer("emptied", needs="decide")
def _say_again(user: Any, undo: dict[str, Any]) -> dict[str, Any]:
    """Give back what was taken back, in the names it was said in."""
    return {"action": "emptied", "each": [unsay(one) for one in reversed(undo["each"])]}


def tag(user: Any, assets: list[int], add: list[str], remove: list[str]) -> int:
    """Give assets tags and take tags away; return the audit entry that can undo it. Raises NothingDecided, Invalid."""
    _may_decide_of(user, assets)
    more, less = (read_own(TAG_FIELD, ";".join(some)) or "" for some in (add, remove))
    if not more and not less:
        raise Invalid("add", "Say which tags are given or taken away.")
    gone = {fold(t) for t in str(less).split("; ")}
    facts: dict[int, dict[str, Any]] = {}
    for asset, held in tags_of(assets).items():
        kept = [t for t in held if fold(t) not in gone]
        known = {fold(t) for t in kept}
        kept += [t for t in str(more).split("; ") if t and fold(t) not in known]
        if kept != held:
            # An empty text and not nothing: what somebody else said of it before would stand again.
            facts[asset] = {TAGS: "; ".join(kept)}
    if not facts:
        raise NothingDecided("All of them are tagged so already.")
    with transaction.atomic():
        inverse = _carry_out(user, facts)
        named = ", ".join(list(numbers_of(list(facts)).values())[:3]) + (" …" if len(facts) > 3 else "")
        detail = {"assets": len(facts), "add": add, "remove": remove}
        return int(record(user, "tagged", named, detail=detail, undo=inverse).pk)


@undoer("decide", needs="decide")
def _undo(user: Any, undo: dict[str, Any]) -> dict[str, Any]:
    """Take a decision back in the name it was made in: nobody else's word would replace it."""
    return unsay(undo)


def rule(user: Any, sighting: str, asset: str | None) -> None:
    """Rule that an undecided sighting is of an asset, or (None) of a new one."""
    require(user, "decide")
    if document(sighting) is None:
        raise NothingDecided(f"Nothing was decided: no undecided sighting {sighting}.")
    now = datetime.fromtimestamp(int(time.time()), UTC)
    with transaction.atomic():
        reading = make_reading("same_as", SameAs(sighting=sighting, asset=asset), "hand")
        taken = next(iter(take_in([compose(("hand", user.username), now, [reading], id=uuid.uuid4().hex)])))
        if taken.reasons:
            raise NothingDecided(f"Nothing was decided: {taken.reasons[0]}.")
        record(user, "ruled on identity", sighting, detail={"asset": asset})


class _Operator:
    """Whoever sits at the command line of the server itself."""

    pk = None

    def __init__(self, username: str) -> None:
        self.username = username


def adopt_found(assets: list[int], who: str) -> int:
    """Adopt those of these assets that wait at intake, as the person at the command line; return how many."""
    marks = ",".join(str(int(a)) for a in assets)
    waiting = [
        a
        for (a,) in raw_connection().execute(
            "SELECT s.asset_id FROM estate_assetspan s JOIN estate_term t ON t.id = s.standing_id "
            f"WHERE s.valid_to IS NULL AND t.text = 'intake' AND s.asset_id IN ({marks})"
        )
    ]
    if waiting:
        user = _Operator(who)
        with transaction.atomic():
            inverse = _carry_out(user, {a: {"standing": "register"} for a in waiting})
            record(user, "adopted", f"{len(waiting)} assets", detail={"assets": len(waiting)}, undo=inverse)
    return len(waiting)


def decide_by_rule(assets: list[int], facts: dict[str, Any], rule: str) -> int:
    """Decide the same of assets as a rule says, in its name; return the audit entry that can undo it."""
    user = _Operator(f"rule “{rule}”")
    with transaction.atomic():
        inverse = _carry_out(user, {a: dict(facts) for a in assets})
        verb = "adopted" if facts.get("standing") == "register" else "set aside"
        return int(record(user, verb, f"{len(assets)} assets", detail={"rule": rule, **facts}, undo=inverse).pk)
