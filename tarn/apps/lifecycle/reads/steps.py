"""Steps and hand-overs: the book in force, what assets went through, who holds what, and what is overdue."""

from collections import Counter
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from django.db.models import Q, QuerySet

from tarn.apps.estate.asking.ask import assets_in_sight, question
from tarn.apps.estate.asking.dial import day_of, iso, zone
from tarn.apps.estate.register.identifiers import assets_of, documents_of
from tarn.apps.estate.register.rows import rows_of
from tarn.apps.lifecycle.models import HandOver, StepBook, StepTaken
from tarn.apps.lifecycle.results import HandOverOut, StepTakenOut, ToAcknowledge
from tarn.apps.money.reads.ledger import ledger
from tarn.apps.people.reads import roster
from tarn.core.finance.money import from_minor
from tarn.core.lifecycle import SHIPPED, LifeStep, as_rows, read_book, steps_from


@dataclass(frozen=True)
class Book:
    """The steps in force; `own`: the company has made them its own."""

    steps: tuple[LifeStep, ...]
    own: bool
    version: int


def book() -> Book:
    """Return the steps in force."""
    step_book = StepBook.objects.first()
    rows = step_book.steps if step_book else []
    return Book(read_book(rows) if rows else SHIPPED, bool(rows), step_book.version if step_book else 0)


def book_rows() -> dict[str, Any]:
    """Return the book as it is shown and changed."""
    now = book()
    return {"steps": as_rows(now.steps), "own": now.own, "version": now.version}


def open_to(assets: list[int]) -> list[LifeStep] | None:
    """Return the steps that every one of some assets may take now; None where one of them is not in the register."""
    held = {r["id"]: r["state"] or "" for r in rows_of("asset", ["state"], question(""), "", [], among=assets)}
    return steps_from(book().steps, held.values()) if len(held) == len(set(assets)) else None


def asset_of_step(anchor: str) -> int | None:
    """Return the asset a step was taken with; None where there is none that whoever asks may see."""
    return assets_of([anchor]).get(anchor)


def open_hand_overs(assets: list[int] | None, at: int | None = None) -> list[HandOver]:
    """Return the hand-overs not yet returned; of some assets, or of all."""
    held: QuerySet[HandOver] = HandOver.objects.order_by("due", "given_at")
    if at is None:
        held = held.filter(returned_at=None)
    else:
        held = held.filter(Q(returned_at=None) | Q(returned_at__gt=at), given_at__lte=at)
    rows = list(held)
    mine, wanted = assets_of(hand_over.anchor for hand_over in rows), None if assets is None else set(assets)
    return [
        hand_over
        for hand_over in rows
        if hand_over.anchor in mine and (wanted is None or mine[hand_over.anchor] in wanted)
    ]


_PLATE = ["name", "number", "kind", "serial", "model"]


def hand_overs(at: int | None, assets: list[int] | None = None) -> list[HandOverOut]:
    """Return what is handed over as of a moment: what is overdue first, then what is due soonest.

    Of the assets asked for; where none are, of those of the branch whoever asks stands in.
    """
    held = open_hand_overs(assets, at)
    of = assets_of(hand_over.anchor for hand_over in held)
    here = assets_in_sight(at) if assets is None else None
    if here is not None:
        held = [one for one in held if of[one.anchor] in here]
    plates = _plates(set(of.values()), at)
    people, day = roster(at), day_of(at)
    out: list[HandOverOut] = []
    for hand_over in held:
        plate = plates.get(of[hand_over.anchor])
        if plate is None:
            continue
        known = people.get(hand_over.person)
        out.append(
            {
                "id": hand_over.pk,
                "asset": of[hand_over.anchor],
                "name": plate["name"],
                "number": plate["number"],
                "kind": plate["kind"],
                "serial": plate["serial"],
                "model": plate["model"],
                "person": hand_over.person,
                "department": hand_over.department,
                "place": hand_over.place,
                "receiver": hand_over.person or hand_over.department or hand_over.place,
                "lent": hand_over.lent,
                "given_at": iso(hand_over.given_at),
                "given_by": hand_over.given_by,
                "due": hand_over.due.isoformat() if hand_over.due else None,
                "overdue": (day - hand_over.due).days if hand_over.due and hand_over.due < day else 0,
                "acknowledged_at": iso(hand_over.acknowledged_at),
                "acknowledged_by": hand_over.acknowledged_by,
                "left": bool(known and known.left_at is not None),
            }
        )
    return sorted(
        out, key=lambda r: (not r["overdue"], not r["left"], r["due"] or "9999", r["receiver"], r["name"] or "")
    )


def _plates(assets: set[int], at: int | None) -> dict[int, dict[str, Any]]:
    asked = question("", at, standing=None)
    return {r["id"]: r for r in rows_of("asset", _PLATE, asked, "", [], among=sorted(assets))}


def returns(since: date, until: date) -> list[tuple[date, str, str]]:
    """Return what is to come back between two days, both inclusive: the day, the device, who has it."""
    rows = hand_overs(None)
    days = [(date.fromisoformat(r["due"]), r["name"] or r["number"] or "", r["receiver"]) for r in rows if r["due"]]
    return [one for one in days if since <= one[0] <= until]


def history(asset: int, at: int | None) -> list[StepTakenOut]:
    """Return the steps an asset took up to a moment, the latest first. Who may see it is asked before."""
    documents = documents_of(asset)
    taken = StepTaken.objects.filter(anchor__in=documents)
    over = {hand_over.anchor: hand_over for hand_over in HandOver.objects.filter(anchor__in=documents)}
    if at is not None:
        taken = taken.filter(at__lte=at)
    own = ledger().currency
    out: list[StepTakenOut] = []
    for step_taken in taken.order_by("-at", "-pk"):
        hand = over.get(step_taken.anchor)
        back = hand.returned_at if hand and (at is None or (hand.returned_at or 0) <= at) else None
        out.append(
            {
                "anchor": step_taken.anchor,
                "step": step_taken.step,
                "begins": step_taken.begins,
                "to": step_taken.to,
                "at": iso(step_taken.at),
                "who": step_taken.who,
                "why": step_taken.why,
                "method": step_taken.method,
                "erasure": step_taken.erasure,
                "proceeds": None if step_taken.proceeds is None else str(from_minor(step_taken.proceeds, own)),
                "costs": str(from_minor(step_taken.costs, own)) if step_taken.costs else None,
                "currency": own,
                "receiver": (hand.person or hand.department or hand.place) if hand else "",
                "due": hand.due.isoformat() if hand and hand.due else None,
                "acknowledged_at": iso(hand.acknowledged_at) if hand else None,
                "returned_at": iso(back),
                "condition": hand.condition if hand else "",
            }
        )
    return out


def to_acknowledge(held: HandOver) -> ToAcknowledge:
    """Return what whoever received something is shown before they acknowledge it."""
    (asset,) = assets_of([held.anchor]).values()
    plate = _plates({asset}, None)[asset]
    return {
        "name": plate["name"] or "",
        "number": plate["number"] or "",
        "kind": plate["kind"] or "",
        "serial": plate["serial"] or "",
        "model": plate["model"] or "",
        "receiver": held.person or held.department or held.place,
        "given_by": held.given_by,
        "given_on": datetime.fromtimestamp(held.given_at, zone()).date().isoformat(),
        "due": held.due.isoformat() if held.due else None,
        "done": held.acknowledged_at is not None or held.returned_at is not None,
        "acknowledged_by": held.acknowledged_by,
    }


@dataclass(frozen=True, slots=True)
class Parted:
    """When an asset was disposed of, what was got for it and what that cost, in minor units of the company's
    currency."""

    at: int
    proceeds: int
    costs: int


def disposals(at: int | None) -> dict[int, Parted]:
    """Return by asset when and for what it was last disposed of, up to a moment."""
    taken = StepTaken.objects.filter(to="disposed").order_by("at")
    if at is not None:
        taken = taken.filter(at__lte=at)
    rows = list(taken)
    of = assets_of(step_taken.anchor for step_taken in rows)
    return {
        of[step_taken.anchor]: Parted(step_taken.at, step_taken.proceeds or 0, step_taken.costs)
        for step_taken in rows
        if step_taken.anchor in of
    }


def repairs(at: int | None) -> dict[int, int]:
    """Return by asset how often it was sent to repair up to a moment."""
    taken = StepTaken.objects.filter(to="in repair")
    if at is not None:
        taken = taken.filter(at__lte=at)
    anchors = list(taken.values_list("anchor", flat=True))
    return dict(Counter(assets_of(anchors).values()))


def steps_version() -> tuple[int, int]:
    """Return what changes whenever a step is taken or undone."""
    newest = StepTaken.objects.order_by("-pk").values_list("pk", flat=True).first()
    return newest or 0, StepTaken.objects.count()
