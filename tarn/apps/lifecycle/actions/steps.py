"""Steps: one asset or many go from one state to another, what is handed over is kept, and all of it can be undone."""

import secrets
import time
from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.register.decide import MOST, checked_facts, said_after, say_of_each, unsay, withdraw
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.lifecycle.inputs import StepSaid
from tarn.apps.lifecycle.models import HandOver, StepBook, StepTaken
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.lifecycle.reads.steps import book, open_hand_overs
from tarn.apps.money.actions.amounts import read_amount
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, require_version
from tarn.apps.people.actions.tokens import digest
from tarn.apps.people.actions.undo import undoer
from tarn.apps.people.roles import require
from tarn.core.days import noon
from tarn.core.lifecycle import Given, LifeStep, StepError, as_rows, check_step, facts_of, read_book, step_named


@dataclass(frozen=True)
class Done:
    """What came of a step: the assets, the audit entry that undoes it, and by asset the secret that acknowledges."""

    assets: list[int]
    entry: int
    secrets: dict[int, str]


def take_step(user: Any, assets: list[int], name: str, said: StepSaid) -> Done:
    """Take a step with several assets, all or none.

    Raises Invalid naming what is missing, NothingDecided.
    """
    require(user, "decide")
    at, day = _moment_of(assets, said.day)
    if not 0 < len(assets) <= MOST:
        raise Invalid("step", f"Choose between 1 and {MOST:,} assets.")
    held = {r["id"]: r for r in rows_of("asset", ["name", "number", "state"], question(""), "", [], among=assets)}
    if gone := [a for a in assets if a not in held]:
        raise Invalid("step", f"{len(gone)} of these are not in the register. Nothing was done.")
    states: dict[str, list[str]] = defaultdict(list)
    for row in held.values():
        states[row["state"] or ""].append(row["name"] or row["number"])
    given = _given(said)
    try:
        step = step_named(book().steps, name)
        check_step(step, given, states, day)
    except StepError as wrong:
        raise Invalid(wrong.field, str(wrong)) from None
    facts = checked_facts(facts_of(step, given, None if given.due is None else noon(given.due)))
    back = [n for n in step.clears if n == "due_back"]
    with transaction.atomic():
        undo = [inverse for field in back for inverse in withdraw(assets, field)]
        told = {k: v for k, v in facts.items() if k not in back}
        spoken, documents = say_of_each(user, {a: dict(told) for a in assets}, at)
        keys = _kept(user, step, given, held, documents, at)
        closed = _returned(user, step, given, assets, set(documents.values()), at)
        named = ", ".join(sorted(n for some in states.values() for n in some)[:3]) + (" …" if len(assets) > 3 else "")
        inverse = {
            "action": "steps",
            "said": [spoken, *undo],
            "documents": [*documents.values()],
            "closed": closed,
        }
        detail = {
            "assets": len(assets),
            "to": step.to,
            **{n: v for n in StepSaid.model_fields if (v := getattr(said, n))},
        }
        entry = record(user, f"step: {step.name}", named, detail=_plain(detail), undo=inverse)
    return Done(assets, entry.pk, keys)


def _moment_of(assets: list[int], day: date | None) -> tuple[int, date]:
    """Return the moment of a step and its day: now, or noon of a day gone by. Raises Invalid."""
    if day is None or day == today():
        return int(time.time()), today()
    if day > today():
        raise Invalid("day", "This day is still to come.")
    if said_after(assets, "state", noon(day)):
        raise Invalid("day", "Their state was changed after this day; take the step as of today, or undo that first.")
    return noon(day), day


def _plain(detail: dict[str, Any]) -> dict[str, Any]:
    return {k: v.isoformat() if isinstance(v, date) else v for k, v in detail.items()}


def _given(said: StepSaid) -> Given:
    proceeds, costs = said.proceeds.strip(), said.costs.strip()
    return Given(
        person=said.person.strip(),
        place=said.place.strip(),
        department=said.department.strip(),
        condition=said.condition.strip(),
        method=said.method.strip(),
        erasure=said.erasure.strip(),
        why=said.why.strip(),
        due=said.due,
        proceeds=read_amount(proceeds, "", field="proceeds")[0] if proceeds else None,
        costs=read_amount(costs, "", field="costs")[0] if costs else 0,
    )


def _kept(
    user: Any, step: LifeStep, given: Given, held: dict[int, dict[str, Any]], documents: dict[int, str], at: int
) -> dict[int, str]:
    """Keep what was said with a step; return by asset the secret with which whoever received it acknowledges that."""
    StepTaken.objects.bulk_create(
        StepTaken(
            anchor=document,
            step=step.name,
            begins=held[asset]["state"] or "",
            to=step.to,
            at=at,
            who=user.username,
            why=given.why[:500],
            method=given.method[:200],
            erasure=given.erasure[:500],
            proceeds=given.proceeds,
            costs=given.costs,
        )
        for asset, document in documents.items()
    )
    if step.hands != "gives":
        return {}
    keys = {asset: secrets.token_urlsafe(18) for asset in documents}
    HandOver.objects.bulk_create(
        HandOver(
            anchor=document,
            person=given.person,
            department=given.department,
            place=given.place,
            lent="due" in step.needs or given.due is not None,
            given_at=at,
            given_by=user.username,
            due=given.due,
            digest=digest(keys[asset]),
        )
        for asset, document in documents.items()
    )
    return keys


def _returned(user: Any, step: LifeStep, given: Given, assets: list[int], fresh: set[str], at: int) -> list[int]:
    """End the hand-overs of assets that a step takes back, or gives to others; return which were ended."""
    if not step.hands:
        return []
    ended = [hand_over for hand_over in open_hand_overs(assets) if hand_over.anchor not in fresh]
    HandOver.objects.filter(pk__in=[hand_over.pk for hand_over in ended]).update(
        returned_at=at, returned_to=user.username, condition=given.condition[:500]
    )
    return [hand_over.pk for hand_over in ended]


@undoer("steps", needs="decide")
def _undo(user: Any, inverse: dict[str, Any]) -> None:
    """Take a step back: what was said, what was kept of it, and the hand-overs it ended are as before."""
    for said in inverse["said"]:
        unsay(said)
    StepTaken.objects.filter(anchor__in=inverse["documents"]).delete()
    HandOver.objects.filter(anchor__in=inverse["documents"]).delete()
    HandOver.objects.filter(pk__in=inverse["closed"]).update(returned_at=None, returned_to="", condition="")


def change_book(user: Any, rows: list[dict[str, Any]], version: int) -> StepBook:
    """Make the steps the company's own; no rows at all bring what ships back. Raises Invalid, Stale."""
    require(user, "plan")
    try:
        steps = read_book(rows) if rows else ()
    except StepError as wrong:
        raise Invalid(wrong.field, str(wrong)) from None
    with transaction.atomic():
        step_book = StepBook.objects.first()
        require_version(step_book or StepBook(version=0), version, "The book of steps", {"version": version})
        before = step_book.steps if step_book else []
        step_book = step_book or StepBook(version=0)
        step_book.steps, step_book.version = as_rows(steps), step_book.version + 1
        step_book.save()
        record(user, "changed the steps", f"{len(steps)} steps", undo={"action": "step book", "steps": before})
    return step_book


@undoer("step book", needs="plan")
def _undo_book(user: Any, inverse: dict[str, Any]) -> dict[str, Any]:
    step_book = StepBook.objects.get()
    before = {"action": "step book", "steps": step_book.steps}
    step_book.steps, step_book.version = inverse["steps"], step_book.version + 1
    step_book.save()
    return before


def new_acknowledgement(user: Any, number: int) -> str:
    """Make a new secret for a hand-over not yet acknowledged; the former no longer holds. Raises Invalid."""
    require(user, "decide")
    hand_over = _open_one(number)
    key = secrets.token_urlsafe(18)
    with transaction.atomic():
        hand_over.digest = digest(key)
        hand_over.save(update_fields=["digest"])
        record(user, "asked for an acknowledgement of", hand_over.person or hand_over.department or hand_over.place)
    return key


def _open_one(number: int) -> HandOver:
    hand_over = next((one for one in open_hand_overs(None) if one.pk == number), None)
    if hand_over is None:
        raise HandOver.DoesNotExist
    if hand_over.acknowledged_at is not None:
        raise Invalid("number", f"{hand_over.acknowledged_by} has acknowledged it already.")
    return hand_over


def acknowledge(key: str, name: str) -> HandOver:
    """Acknowledge a hand-over in the receiver's name; who knows the secret may.

    Raises Invalid, HandOver.DoesNotExist.
    """
    with transaction.atomic():
        hand_over = HandOver.objects.exclude(digest="").get(digest=digest(key))
        if hand_over.acknowledged_at is not None or hand_over.returned_at is not None:
            raise Invalid("name", "This is acknowledged or returned already; nothing is left to do.")
        name = name.strip()[:300]
        if not name:
            raise Invalid("name", "Write your name.")
        hand_over.acknowledged_at, hand_over.acknowledged_by = int(time.time()), name
        hand_over.save(update_fields=["acknowledged_at", "acknowledged_by"])
        record(None, "acknowledged", f"hand-over {hand_over.pk} as {name}")
    return hand_over
