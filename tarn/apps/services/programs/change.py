"""Making programs known: recognisers made, changed, dropped, exchanged as a file; groups left alone or parted."""

import time
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import context
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, Stale, once
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.apps.services.inputs import ProgramWordIn, RecogniserIn, RecognisersFile
from tarn.apps.services.models import ProgramWord, Recogniser
from tarn.apps.services.programs.shown import NoSuchProgram, groups
from tarn.apps.services.running import ever
from tarn.core.filters.parse import FilterError
from tarn.core.patterns import pattern
from tarn.core.programs.features import look
from tarn.core.programs.recognising import INSTANCES, RuleFault, fits, too_wide

FILE_KIND = "tarn.recognisers/1"
MOST_IN_FILE = 1_000
_KEPT = ("name", "rule", "version", "instance", "note", "general", "in_force")


def checked(data: RecogniserIn) -> Recogniser:
    """Return an unsaved recogniser. Raises Invalid naming the part."""
    name, rule = " ".join(data.name.split()), data.rule.strip()
    if not name:
        raise Invalid("name", "A recogniser needs a name: what people call the application.")
    if not rule:
        raise Invalid("rule", "A recogniser without a rule would fit everything.")
    if data.instance not in INSTANCES:
        raise Invalid("instance", f"“{data.instance}” is no instance; one of: {', '.join(INSTANCES)}.")
    read = data.version.strip()
    if read:
        try:
            groups_read = pattern(read).groups
        except ValueError as error:
            raise Invalid("version", f"The version is read by a pattern that cannot be: {error}.") from None
        if not groups_read:
            raise Invalid("version", r"The pattern needs a group in brackets that is the version: rota-(\d+[.\d]*).")
    try:
        holds = fits(rule, context(None))
    except FilterError as error:
        raise Invalid("rule", error.message) from None
    except RuleFault as error:
        raise Invalid(error.field, str(error)) from None
    if not data.general and (wide := too_wide(look(s).stem for s in ever() if holds(s))):
        raise Invalid("rule", wide)
    return Recogniser(
        name=name[:80],
        rule=rule,
        version=read[:300],
        instance=data.instance,
        note=data.note.strip()[:300],
        general=data.general,
        in_force=data.in_force,
    )


def keep(user: Any, data: RecogniserIn, number: int | None = None) -> Recogniser:
    """Make a recogniser, or change the one of a number. Raises Invalid, Stale, Recogniser.DoesNotExist."""
    require(user, "plan")
    made = checked(data)
    with once("name", f"There is a recogniser called “{made.name}” already."):
        if number is None:
            made.made_by, made.made_at = user.username, int(time.time())
            made.save()
            record(user, "made a program known", made.name, undo={"action": "drop a recogniser", "number": made.pk})
            return made
        held = Recogniser.objects.select_for_update().get(pk=number)
        if held.edition != data.edition:
            raise Stale(f"The recogniser “{held.name}”", said_of(held))
        undo = {"action": "put a recogniser back", "number": held.pk, "as": said_of(held)}
        for name in _KEPT:
            setattr(held, name, getattr(made, name))
        held.edition += 1
        held.save()
        record(user, "changed a recogniser", held.name, detail={"was": undo["as"]}, undo=undo)
    return held


def said_of(one: Recogniser) -> dict[str, Any]:
    """Return what is kept of a recogniser, as it was said."""
    return {name: getattr(one, name) for name in _KEPT}


def drop(user: Any, number: int) -> None:
    """Drop a recogniser: what it knew is unknown again. Raises Recogniser.DoesNotExist."""
    require(user, "plan")
    with transaction.atomic():
        held = Recogniser.objects.get(pk=number)
        undo = {"action": "make a recogniser again", "as": said_of(held), "made": [held.made_by, held.made_at]}
        record(user, "dropped a recogniser", held.name, undo=undo)
        held.delete()


@undoer("drop a recogniser", "plan")
def _undo_making(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    Recogniser.objects.filter(pk=inverse["number"]).delete()
    return None


@undoer("put a recogniser back", "plan")
def _undo_change(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    held = Recogniser.objects.filter(pk=inverse["number"]).first()
    if held is None:
        raise Invalid("recogniser", "The recogniser has been dropped since.")
    back = {"action": "put a recogniser back", "number": held.pk, "as": said_of(held)}
    for name in _KEPT:
        setattr(held, name, inverse["as"][name])
    held.edition += 1
    with once("name", f"There is another recogniser called “{held.name}” by now."):
        held.save()
    return back


@undoer("make a recogniser again", "plan")
def _undo_dropping(user: Any, inverse: dict[str, Any]) -> dict[str, Any] | None:
    by, at = inverse["made"]
    with once("name", f"There is another recogniser called “{inverse['as']['name']}” by now."):
        made = Recogniser.objects.create(**inverse["as"], made_by=by, made_at=at)
    return {"action": "drop a recogniser", "number": made.pk}


def say_of_program(user: Any, key: str, data: ProgramWordIn) -> None:
    """Leave a group of unknown programs alone, take its stem for several programs, or take such a word back.

    Raises NoSuchProgram, Invalid."""
    require(user, "plan")
    if data.word not in ("alone", "parted", "back"):
        raise Invalid("word", f"“{data.word}” is no word for a program: alone, parted, or back.")
    found = next((g for g in groups(None) if g.key == key), None)
    if found is None:
        raise NoSuchProgram(key)
    looks = found.middle.command[:500]
    with transaction.atomic():
        if data.word == "back":
            for word in ProgramWord.objects.filter(key__in=[found.key, found.stem]):
                record(user, "took back a word of a program", looks[:200], detail={"word": word.word})
                word.delete()
            return
        ProgramWord.objects.update_or_create(
            word=data.word,
            key=found.key if data.word == "alone" else found.stem,
            defaults={
                "looks": looks,
                "why": data.why.strip()[:300],
                "made_by": user.username,
                "made_at": int(time.time()),
            },
        )
        verb = "left a program alone" if data.word == "alone" else "said that programs are several"
        record(user, verb, looks[:200], detail={"why": data.why.strip()[:300]})


def as_file() -> dict[str, Any]:
    """Return the recognisers made here, as a file has them."""
    own = Recogniser.objects.filter(general=False)
    return {"kind": FILE_KIND, "recognisers": [said_of(r) for r in own]}


def take_file(user: Any, data: RecognisersFile) -> int:
    """Take in recognisers of a file: all or, where one of them cannot be, none; one of a name that is there is
    exchanged. Return how many. Raises Invalid naming the one."""
    require(user, "plan")
    if data.kind != FILE_KIND:
        raise Invalid("kind", f"“{data.kind[:60]}” is no file of recognisers: {FILE_KIND} is.")
    if len(data.recognisers) > MOST_IN_FILE:
        raise Invalid("recognisers", f"{len(data.recognisers):,} are too many: at most {MOST_IN_FILE:,}.")
    with transaction.atomic():
        for place, one in enumerate(data.recognisers, start=1):
            there = Recogniser.objects.filter(name=" ".join(one.name.split())).first()
            try:
                if there is None:
                    keep(user, one)
                else:
                    keep(user, one.model_copy(update={"edition": there.edition}), there.pk)
            except Invalid as error:
                raise Invalid("recognisers", f"Number {place}, “{one.name[:60]}”: {error}") from None
    return len(data.recognisers)
